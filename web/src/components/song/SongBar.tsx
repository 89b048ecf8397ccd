import { useState } from "react";
import styled from "styled-components";
import { songKey, songTuning } from "../../document/track/song_words";
import { vocalsOf } from "../../document/track/vocals";
import { goTo } from "../../session/address";
import { canRedoWords, canUndoWords } from "../../commands/lyrics/syllables";
import { redoHere, showPanel, undoHere } from "../../commands/panels";
import { useEditor } from "../../session/useStore";
import { switchTo } from "../../commands/versions/versions";
import { setNight, showHelp, showWindow } from "../../session/view";
import { Picker } from "../ui/Picker";
import { PrintWindow } from "../print/PrintWindow";
import { SongWindow } from "../windows/song/SongWindow";
import { Button, MainButton, Segments } from "../ui/controls";

const Bar = styled.header`
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 4px 10px;
  background: var(--panel);
  border: 1px solid var(--edge);
  border-radius: 10px;
  min-width: 0;
  & h1 {
    flex: 0 1 auto;
    min-width: 84px;
    font-size: 15px;
    line-height: 1.1;
    margin: 0;
    display: -webkit-box;
    -webkit-box-orient: vertical;
    -webkit-line-clamp: 2;
    overflow: hidden;
    text-wrap: balance;
  }
  & .facts {
    flex: 0 1 auto;
    min-width: 90px;
    max-height: 30px;
    padding-block: 0;
    font-size: 12.5px;
    line-height: 1.1;
    white-space: normal;
    text-align: left;
    text-wrap: balance;
    overflow: hidden;
  }
  @media (max-width: 1150px) {
    gap: 5px;
    & .words,
    & .tuning {
      display: none;
    }
  }
  & .room {
    flex: 1;
  }
  & button {
    padding-inline: 8px;
  }
  & button:not(.facts) {
    padding-block: 2px;
    flex: none;
  }
`;

function VersionPicker() {
  const open = useEditor((s) => s.content?.version.id);
  const versions = useEditor((s) => s.versions);
  if (!open) return null;
  return (
    <>
      <Picker
        label="Version"
        options={versions.map((version) => [version.id, version.name])}
        value={open}
        onChange={(version) => void switchTo(version)}
      />
      <Button onPress={() => showWindow("versions")}>Versions…</Button>
    </>
  );
}

/** What was done last is taken back, and done again. */
function UndoRedo() {
  const panel = useEditor((s) => s.panel);
  const open = useEditor((s) => (s.panel === "comp" ? s.comp : s.content)?.version);
  const saidWords = useEditor((s) => canUndoWords(s) && s.panel !== "comp");
  const undoneWords = useEditor((s) => canRedoWords(s) && s.panel !== "comp");
  return (
    <>
      <Button
        onPress={() => void undoHere()}
        isDisabled={panel !== "stack" && !saidWords && !open?.can_undo}
        aria-label="Undo"
      >
        ↶ <span className="words">Undo</span>
      </Button>
      <Button
        onPress={() => void redoHere()}
        isDisabled={panel !== "stack" && !undoneWords && !open?.can_redo}
        aria-label="Redo"
      >
        ↷ <span className="words">Redo</span>
      </Button>
    </>
  );
}

export function SongBar() {
  const song = useEditor((s) => s.song);
  const trackId = useEditor((s) => s.trackId);
  const panel = useEditor((s) => s.panel);
  const night = useEditor((s) => s.night);
  const [settings, setSettings] = useState(false);
  const [printing, setPrinting] = useState(false);
  if (!song) return null;
  const name = song.key_chosen ? songKey(song) : "no key yet";
  const bars = `${song.tempo} bpm · ${song.beats_per_bar}/${song.beat_unit}`;
  const tempo = song.tempo_chosen ? bars : "no tempo yet";
  const facts = [name, songTuning(song), tempo].join(" · ");
  const unbroken = (part: string): string => part.replaceAll(" ", "\u00a0");
  return (
    <Bar>
      <Button onPress={() => goTo("/")}>‹ Songs</Button>
      <h1 title={song.title}>{song.title}</h1>
      <Picker
        label="Track"
        options={vocalsOf(song).map((track) => [track.id, track.name])}
        value={trackId}
        onChange={(id) => goTo(`/song/${song.id}/track/${id}`)}
      />
      {panel !== "stack" && <VersionPicker />}
      <Button className="facts" onPress={() => setSettings(true)} aria-label={`Key, tempo and tuning: ${facts}`}>
        {name}
        <span className="tuning"> · {unbroken(songTuning(song))}</span> · {unbroken(tempo)}
      </Button>
      <span className="room" />
      <Segments
        label="View"
        options={[
          ["sheet", "Sheet"],
          ["table", "Notes"],
          ["comp", "Comp"],
          ["stack", "Stack"],
          ["report", "Report"],
        ]}
        value={panel}
        onChange={showPanel}
      />
      <UndoRedo />
      <Button onPress={() => setNight(!night)} aria-pressed={night} aria-label="Night theme">
        {night ? "☾" : "☼"}
      </Button>
      <Button onPress={() => showHelp(true)} aria-label="Keys">
        ?
      </Button>
      <MainButton onPress={() => setPrinting(true)}>Print…</MainButton>
      {settings && <SongWindow onClose={() => setSettings(false)} />}
      {printing && <PrintWindow onClose={() => setPrinting(false)} />}
    </Bar>
  );
}
