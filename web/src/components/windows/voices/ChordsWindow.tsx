import { useState } from "react";
import { FileTrigger } from "react-aria-components";
import styled from "styled-components";
import {
  chordsFromMidi,
  clearAllTyped,
  clearTyped,
  partsOf,
  typeBars,
  typeOver,
} from "../../../commands/voices/chords";
import type { ChordOut } from "../../../document/schema";
import { barText } from "../../../document/time/time_text";
import { remember } from "../../../session/remembered";
import { useEditor } from "../../../session/useStore";
import { centreViewOn, showWindow } from "../../../session/view";
import { CheckBox } from "../../ui/CheckBox";
import { Button, Field, PlainButton, Quiet } from "../../ui/controls";
import { TypedField } from "../../ui/TypedField";
import { Line } from "../PassParts";
import { SideWindow } from "../SideWindow";

const Rows = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 300px;
  overflow: auto;
  font-variant-numeric: tabular-nums;
  & li {
    display: grid;
    grid-template-columns: 44px 1fr 62px;
    gap: 6px;
    align-items: center;
    padding: 2px 0;
  }
`;

/** One chord: where it begins, what it is, typed over in place, and how sure it is. */
function ChordRow({ chord, place }: { chord: ChordOut; place: string }) {
  return (
    <li>
      <PlainButton aria-label={`Go to bar ${place}`} onPress={() => centreViewOn(chord.start_s)}>
        {place}
      </PlainButton>
      <TypedField
        label={`Chord at bar ${place}`}
        text={chord.title}
        onCommit={(typed) => partsOf(typed).length > 0 && typeOver(chord, typed)}
      />
      {chord.typed ? (
        <PlainButton aria-label={`Clear what was typed at bar ${place}`} onPress={() => clearTyped(chord)}>
          <u>clear</u>
        </PlainButton>
      ) : (
        <Quiet>{`${Math.round(100 * chord.confidence)} % sure`}</Quiet>
      )}
    </li>
  );
}

/** Chords from a bar on, one a bar. */
function TypeBars() {
  const [from, setFrom] = useState("1");
  const [typed, setTyped] = useState("");
  const bar = Number(from);
  const ready = Number.isInteger(bar) && bar >= 1 && partsOf(typed).length > 0;
  const take = async (): Promise<void> => {
    if (ready && (await typeBars(bar, typed))) setTyped("");
  };
  return (
    <>
      <Line>
        <span>One a bar from bar</span>
        <Field aria-label="From bar" value={from} onChange={(event) => setFrom(event.target.value)} />
        <Button isDisabled={!ready} onPress={() => void take()}>
          Type over
        </Button>
      </Line>
      <Field
        aria-label="Chords, one a bar"
        placeholder="Dm | Bb | F | C7"
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        onKeyDown={(event) => event.key === "Enter" && void take()}
      />
    </>
  );
}

/** The chords of the song: heard in the backing, typed over, from a MIDI file. */
export function ChordsWindow() {
  const chords = useEditor((s) => s.chords);
  const song = useEditor((s) => s.song);
  const shown = useEditor((s) => s.showsChords);
  if (!song) return null;
  const typed = song.chords.length;
  return (
    <SideWindow title="Chords" onClose={() => showWindow(null)}>
      <Quiet>
        As heard in the backing. Type over one to correct it; “Dm | G7” puts two in its place, and N is none.
      </Quiet>
      {chords.length === 0 ? (
        <p role="status">No chords are heard: the song has no backing yet. They can be typed.</p>
      ) : (
        <Rows aria-label="Chords">
          {chords.map((chord) => (
            <ChordRow key={`${chord.start_s} ${chord.title}`} chord={chord} place={barText(chord.start_s, song)} />
          ))}
        </Rows>
      )}
      <TypeBars />
      <Line>
        <FileTrigger
          acceptedFileTypes={[".mid", ".midi"]}
          onSelect={(files) => {
            const [file] = files ?? [];
            if (file) void chordsFromMidi(file);
          }}
        >
          <Button>From a MIDI file…</Button>
        </FileTrigger>
        <Button isDisabled={typed === 0} onPress={clearAllTyped}>
          {typed > 0 ? `Clear all ${typed} typed` : "Clear what was typed"}
        </Button>
      </Line>
      <CheckBox checked={shown} onChange={(showsChords) => remember({ showsChords })}>
        Under the ruler
      </CheckBox>
    </SideWindow>
  );
}
