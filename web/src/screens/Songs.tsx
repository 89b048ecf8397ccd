import { type DragEvent, useEffect, useState } from "react";
import { FileTrigger } from "react-aria-components";
import styled from "styled-components";
import { Button, Field, MainButton, Panel, PlainButton, Quiet } from "../components/ui/controls";
import { ProgressLine } from "../components/ui/ProgressLine";
import { Picker } from "../components/ui/Picker";
import { secondsText } from "../document/time_text";
import type { SongOut, TaskOut } from "../document/schema";
import { goTo } from "../hooks/address";
import {
  bringIn,
  bringInAsSong,
  cancelTask,
  createSong,
  forgetTask,
  loadSongs,
  removeSong,
  settleCutOff,
} from "../hooks/songs";
import { useEditor } from "../hooks/useStore";
import { setNight } from "../hooks/view";

const Layout = styled.main`
  max-width: 980px;
  margin: 0 auto;
  padding: 28px 20px 80px;
  min-height: 100%;
  display: grid;
  align-content: start;
  gap: 16px;
  & h1 {
    font-size: 28px;
    font-weight: 650;
    margin: 0;
  }
  & .top {
    display: flex;
    justify-content: space-between;
    align-items: center;
  }
  & form {
    display: flex;
    gap: 8px;
    & input {
      max-width: 340px;
    }
  }
`;

const Card = styled(Panel)<{ $over: boolean }>`
  padding: 14px 16px;
  gap: 8px;
  outline: ${(p) => (p.$over ? "2px dashed var(--select)" : "none")};
  & header {
    display: flex;
    gap: 10px;
    align-items: center;
    & h2 {
      margin: 0;
      font-size: 18px;
      flex: 1;
    }
  }
  & table {
    border-collapse: collapse;
    width: 100%;
    & th {
      text-align: left;
      color: var(--muted);
      font-weight: 500;
    }
    & td,
    & th {
      padding: 3px 10px 3px 0;
    }
    & .open {
      text-decoration: underline;
      text-decoration-color: var(--edge-strong);
      text-underline-offset: 3px;
    }
  }
  & .task {
    display: flex;
    align-items: center;
    gap: 10px;
    &[data-failed] {
      color: var(--flag);
    }
  }
`;

const MANY_SONGS = 4;
const ROLES = ["lead", "double", "harmony", "backing"];
const ACCEPT = [".wav", ".wave", ".aif", ".aiff", ".flac", ".ogg", ".oga", ".mp3", "audio/*"];

function useRefreshing(songs: SongOut[] | null): void {
  const working = songs?.some((song) => song.tasks.some((t) => t.state !== "failed" && t.kind === "import")) ?? false;
  useEffect(() => {
    if (!working) return;
    const timer = window.setInterval(() => void loadSongs(), 400);
    return () => window.clearInterval(timer);
  }, [working]);
}

export function Songs() {
  const songs = useEditor((s) => s.songs);
  const night = useEditor((s) => s.night);
  const [title, setTitle] = useState("");
  const [search, setSearch] = useState("");
  const found = (songs ?? []).filter((song) => isCalled(song, search));
  useEffect(() => void loadSongs(), []);
  useRefreshing(songs);
  const dropAnywhere = (event: DragEvent): void => {
    event.preventDefault();
    const files = [...event.dataTransfer.files];
    if (files.length > 0) void bringInAsSong(files);
  };
  return (
    <Layout onDragOver={(event) => event.preventDefault()} onDrop={dropAnywhere}>
      <div className="top">
        <h1>Glass Thread</h1>
        <Button onPress={() => setNight(!night)} aria-pressed={night}>
          {night ? "☾ Night" : "☼ Daylight"}
        </Button>
      </div>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void createSong(title || "Untitled").then(() => setTitle(""));
        }}
      >
        <Field
          aria-label="Title of the new song"
          placeholder="Title of a new song"
          value={title}
          onChange={(e) => setTitle(e.target.value)}
        />
        <MainButton type="submit">New song</MainButton>
      </form>
      {songs?.length === 0 && <Beginning />}
      {songs && songs.length > MANY_SONGS && (
        <Field
          type="search"
          aria-label="Search songs and tracks"
          placeholder="Search songs and tracks"
          value={search}
          onChange={(e) => setSearch(e.target.value)}
        />
      )}
      {found.map((song) => (
        <SongCard key={song.id} song={song} />
      ))}
      {songs && songs.length > 0 && found.length === 0 && <Quiet>{`No song or track is called “${search}”.`}</Quiet>}
    </Layout>
  );
}

/** Whether a song or one of its tracks has a name that holds what is searched. */
function isCalled(song: SongOut, search: string): boolean {
  const wanted = search.trim().toLowerCase();
  return [song.title, ...song.tracks.map((track) => track.name)].some((name) => name.toLowerCase().includes(wanted));
}

function Beginning() {
  return (
    <ol aria-label="How to begin">
      <li>Drop a recorded voice anywhere on this page, or make a song and bring one in.</li>
      <li>Open it; notes, breaths and sibilants are there. Press N for the first flag, T to tune.</li>
      <li>Print: what you did not touch stays as it was recorded, bit for bit.</li>
    </ol>
  );
}

function SongCard({ song }: { song: SongOut }) {
  const [over, setOver] = useState(false);
  const [role, setRole] = useState("lead");
  const [sure, setSure] = useState(false);
  const cutOff = useEditor((s) => s.cutOff);
  const ready = song.tracks.some((track) => track.ready && track.role !== "backing");
  const drop = (event: DragEvent): void => {
    event.preventDefault();
    event.stopPropagation();
    setOver(false);
    void bringIn(song.id, [...event.dataTransfer.files], role);
  };
  return (
    <Card
      $over={over}
      aria-label={song.title}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
    >
      <header>
        <h2>{song.title}</h2>
        <Picker
          label="Bring in as"
          options={ROLES.map((name) => [name, `as ${name}`])}
          value={role}
          onChange={setRole}
        />
        <FileTrigger
          allowsMultiple
          acceptedFileTypes={ACCEPT}
          onSelect={(files) => void bringIn(song.id, [...(files ?? [])], role)}
        >
          <Button>Bring in…</Button>
        </FileTrigger>
        {sure ? (
          <>
            <Button onPress={() => void removeSong(song.id)}>Remove for good</Button>
            <Button onPress={() => setSure(false)}>Keep</Button>
          </>
        ) : (
          <Button onPress={() => setSure(true)}>Remove…</Button>
        )}
        <MainButton isDisabled={!ready} onPress={() => goTo(`/song/${song.id}`)}>
          Open
        </MainButton>
      </header>
      {song.tracks.length === 0 && (
        <Quiet>Drop audio files here, or choose them: WAV, AIFF, FLAC, Ogg or MP3, mono or stereo.</Quiet>
      )}
      {song.tracks.length > 0 && (
        <table>
          <thead>
            <tr>
              <th>Track</th>
              <th>Role</th>
              <th>Length</th>
              <th>Rate</th>
              <th>Notes found</th>
            </tr>
          </thead>
          <tbody>
            {song.tracks.map((track) => (
              <tr key={track.id}>
                <td>
                  {track.ready && track.role !== "backing" ? (
                    <PlainButton className="open" onPress={() => goTo(`/song/${song.id}/track/${track.id}`)}>
                      {track.name}
                    </PlainButton>
                  ) : (
                    track.name
                  )}
                </td>
                <td>{track.role}</td>
                <td>{secondsText(track.duration_s, 1)}</td>
                <td>{`${track.sample_rate / 1000} kHz ${track.channels === 2 ? "stereo" : "mono"}`}</td>
                <td>{track.role === "backing" ? "–" : track.ready ? track.notes_found : "…"}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {song.tasks
        .filter((task) => task.kind === "import")
        .map((task) => (
          <ImportTask key={task.id} task={task} />
        ))}
      {cutOff
        .filter((one) => one.songId === song.id)
        .map((one) => (
          <div key={`${one.file.name} ${one.file.lastModified}`} className="task" data-failed="" role="alert">
            <span>{`${one.file.name} is cut off: it promises more sound than it holds.`}</span>
            <Button onPress={() => void settleCutOff(one, true)}>Bring in as far as it goes</Button>
            <Button onPress={() => void settleCutOff(one, false)}>Leave it</Button>
          </div>
        ))}
    </Card>
  );
}

function ImportTask({ task }: { task: TaskOut }) {
  const name = task.wanted.file ?? "";
  if (task.state === "failed") {
    return (
      <div className="task" data-failed="" role="alert">
        <span>{`${name}: ${task.message}`}</span>
        <Button onPress={() => void forgetTask(task)}>Understood</Button>
      </div>
    );
  }
  return (
    <div className="task">
      <span>{`${name}: ${task.stage}`}</span>
      <ProgressLine label={`Progress of ${name}`} share={task.share} />
      <Button onPress={() => void cancelTask(task)}>Cancel</Button>
    </div>
  );
}
