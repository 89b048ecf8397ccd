import { useEffect, useState } from "react";
import { FileTrigger } from "react-aria-components";
import styled from "styled-components";
import { Removed } from "../components/songs/Removed";
import { SignedIn } from "../components/songs/SignedIn";
import { SongCard } from "../components/songs/SongCard";
import { Button, Field, MainButton, Quiet } from "../components/ui/controls";
import { Picker } from "../components/ui/Picker";
import type { SongOut } from "../document/schema";
import { isCalled, ordered, SONG_ORDERS, type SongOrder } from "../document/track/song_order";
import { ARCHIVE, bringInAsSong, createSong, loadSongs, unpackSongs } from "../commands/song/songs";
import { useEditor } from "../session/useStore";
import { setNight, setSongOrder } from "../session/view";

const Layout = styled.main`
  max-width: 1080px;
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
  & form,
  & .many {
    display: flex;
    align-items: center;
    gap: 8px;
    & input {
      max-width: 340px;
    }
  }
`;

const MANY_SONGS = 4;

function useRefreshing(songs: SongOut[] | null): void {
  const working = songs?.some((song) => song.tasks.some((t) => t.state !== "failed" && t.kind === "import")) ?? false;
  useEffect(() => {
    if (!working) return;
    const timer = window.setInterval(() => void loadSongs(), 400);
    return () => window.clearInterval(timer);
  }, [working]);
}

/** Files that are dropped beside every song make a song of their own, wherever on the page that is. */
function useDropAnywhere(): void {
  useEffect(() => {
    const over = (event: DragEvent): void => event.preventDefault();
    const drop = (event: DragEvent): void => {
      event.preventDefault();
      const files = [...(event.dataTransfer?.files ?? [])];
      if (files.length > 0) void bringInAsSong(files);
    };
    window.addEventListener("dragover", over);
    window.addEventListener("drop", drop);
    return () => {
      window.removeEventListener("dragover", over);
      window.removeEventListener("drop", drop);
    };
  }, []);
}

export function Songs() {
  const songs = useEditor((s) => s.songs);
  const night = useEditor((s) => s.night);
  const order = useEditor((s) => s.songOrder);
  const progress = useEditor((s) => s.progress);
  const [search, setSearch] = useState("");
  const found = ordered(songs ?? [], order, progress).filter((song) => isCalled(song, search));
  useEffect(() => void loadSongs(), []);
  useRefreshing(songs);
  useDropAnywhere();
  return (
    <Layout>
      <div className="top">
        <h1>Glass Thread</h1>
        <span className="many">
          <SignedIn />
          <Button onPress={() => setNight(!night)} aria-pressed={night}>
            {night ? "☾ Night" : "☼ Daylight"}
          </Button>
        </span>
      </div>
      <NewSong />
      {songs?.length === 0 && <Beginning />}
      {songs && songs.length > MANY_SONGS && (
        <div className="many">
          <Field
            type="search"
            aria-label="Search songs and tracks"
            placeholder="Search songs and tracks"
            value={search}
            onChange={(e) => setSearch(e.target.value)}
          />
          <Picker
            label="Order of the songs"
            options={SONG_ORDERS.map((name) => [name, name])}
            value={order}
            onChange={(name) => setSongOrder(name as SongOrder)}
          />
        </div>
      )}
      {found.map((song) => (
        <SongCard key={song.id} song={song} />
      ))}
      {search === "" && <Removed />}
      {songs && songs.length > 0 && found.length === 0 && <Quiet>{`No song or track is called “${search}”.`}</Quiet>}
    </Layout>
  );
}

function NewSong() {
  const [title, setTitle] = useState("");
  return (
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
      <FileTrigger
        allowsMultiple
        acceptedFileTypes={[ARCHIVE]}
        onSelect={(files) => void unpackSongs([...(files ?? [])])}
      >
        <Button>Unpack a song…</Button>
      </FileTrigger>
    </form>
  );
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
