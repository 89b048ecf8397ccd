import { type DragEvent, useState } from "react";
import { FileTrigger } from "react-aria-components";
import styled from "styled-components";
import type { SongOut } from "../../document/schema";
import { isVocal } from "../../document/track/vocals";
import { goTo } from "../../session/address";
import { bringIn, packSong, removeSong } from "../../commands/song/songs";
import { Button, MainButton, Panel, Quiet } from "../ui/controls";
import { Picker } from "../ui/Picker";
import { Imports } from "./Imports";
import { TrackTable } from "./TrackTable";

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
`;

const BY_NAME = "as its name says";
const ROLES = ["lead", "double", "harmony", "backing"];
const ACCEPT = [".wav", ".wave", ".aif", ".aiff", ".flac", ".ogg", ".oga", ".mp3", "audio/*"];

/** One song with its tracks; files can be dropped on it. */
export function SongCard({ song }: { song: SongOut }) {
  const [over, setOver] = useState(false);
  const [role, setRole] = useState(BY_NAME);
  const ready = song.tracks.some(isVocal);
  const take = (files: File[]): void => void bringIn(song.id, files, role === BY_NAME ? null : role);
  const drop = (event: DragEvent): void => {
    event.preventDefault();
    event.stopPropagation();
    setOver(false);
    take([...event.dataTransfer.files]);
  };
  return (
    <Card
      $over={over}
      aria-label={song.title}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(event.dataTransfer.types.includes("Files"));
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
    >
      <header>
        <h2>{song.title}</h2>
        <Picker
          label="Bring in as"
          options={[[BY_NAME, BY_NAME], ...ROLES.map((name) => [name, `as ${name}`] as const)]}
          value={role}
          onChange={setRole}
        />
        <FileTrigger allowsMultiple acceptedFileTypes={ACCEPT} onSelect={(files) => take([...(files ?? [])])}>
          <Button>Bring in…</Button>
        </FileTrigger>
        <Button isDisabled={!song.tracks.length} onPress={() => void packSong(song.id, song.title)}>
          Pack
        </Button>
        <Remove songId={song.id} />
        <MainButton isDisabled={!ready} onPress={() => goTo(`/song/${song.id}`)}>
          Open
        </MainButton>
      </header>
      {song.tracks.length === 0 && (
        <Quiet>Drop audio files here, or choose them: WAV, AIFF, FLAC, Ogg or MP3, mono or stereo.</Quiet>
      )}
      {song.tracks.length > 0 && <TrackTable song={song} onFiles={take} />}
      <Imports song={song} />
    </Card>
  );
}

function Remove({ songId }: { songId: string }) {
  const [sure, setSure] = useState(false);
  if (!sure) return <Button onPress={() => setSure(true)}>Remove…</Button>;
  return (
    <>
      <Button onPress={() => void removeSong(songId)}>Remove the song</Button>
      <Button onPress={() => setSure(false)}>Keep</Button>
    </>
  );
}
