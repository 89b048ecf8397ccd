import { useState } from "react";
import type { NoteOut } from "../../../document/track/model";
import { derive, type Harmony } from "../../../commands/voices/deriving";
import type { Given } from "../../../commands/voices/melody";
import { chordRows } from "../../../commands/voices/chords";
import { useNotesOf } from "../../../commands/notes/reach";
import { store } from "../../../document/track/store";
import { useEditor } from "../../../session/useStore";
import { showWindow } from "../../../session/view";
import { Button, MainButton, Quiet, Segments } from "../../ui/controls";
import { CheckBox } from "../../ui/CheckBox";
import { Picker } from "../../ui/Picker";
import { ValueRow } from "../../ui/ValueRow";
import { AirLine } from "./DoubleWindow";
import { StrainOf } from "./StrainOf";
import { MelodySource, NotMatched } from "./MelodySource";
import { HearIt, Line, ReachChoice, useTriedVoices } from "../PassParts";
import { SideWindow } from "../SideWindow";

const INTERVALS: readonly (readonly [string, string])[] = [
  ["steps 2", "a third above"],
  ["steps -2", "a third below"],
  ["steps 3", "a fourth above"],
  ["steps -3", "a fourth below"],
  ["steps 4", "a fifth above"],
  ["steps 5", "a sixth above"],
  ["steps -5", "a sixth below"],
  ["semitones 12", "an octave above"],
  ["semitones -12", "an octave below"],
  ["semitones 7", "a pure fifth of 7 semitones above"],
];

/** What the second line sings: an interval, or a melody that is given. */
function LineChoice(props: {
  notes: readonly NoteOut[];
  /** null on a melody */
  interval: string | null;
  given: Given | null;
  byChord: boolean;
  onByChord: (byChord: boolean) => void;
  onInterval: (interval: string) => void;
  onLine: (line: "interval" | "melody") => void;
  onGiven: (given: Given | null) => void;
}) {
  const { notes, interval, given } = props;
  const known = useEditor((s) => s.chords.length > 0);
  return (
    <>
      <Line>
        <Segments
          label="Line"
          options={[
            ["interval", "By interval"],
            ["melody", "On a melody"],
          ]}
          value={interval === null ? "melody" : "interval"}
          onChange={props.onLine}
        />
        {interval !== null && (
          <Picker label="Interval" options={INTERVALS} value={interval} onChange={props.onInterval} />
        )}
      </Line>
      {interval !== null && known && (
        <CheckBox checked={props.byChord} onChange={props.onByChord}>
          By the chord: keeps to its notes
        </CheckBox>
      )}
      {interval === null && <MelodySource notes={notes} onChange={props.onGiven} />}
      {interval === null && <NotMatched given={given} notes={notes} words="Not in both, and left out" />}
    </>
  );
}

/** The chords that a line keeps to. */
function keptTo(): Pick<Harmony, "chords"> {
  return { chords: chordRows(store.getState().chords) };
}

/** The operation that makes a line of an interval or a given melody, of some notes or of all. */
function harmonyOf(
  line: string | Given | null,
  note_ids: string[] | null,
  values: Pick<Harmony, "lean" | "human" | "seed" | "air" | "chords">,
): Harmony {
  const [kind, size] = typeof line === "string" ? (line.split(" ") as [string, string]) : ["", "0"];
  return {
    type: "harmony",
    steps: kind === "steps" ? Number(size) : 0,
    semitones: kind === "semitones" ? Number(size) : 0,
    ...(typeof line === "string" ? {} : line),
    ...(note_ids && { note_ids }),
    ...values,
  };
}

/** A second line from the same voice, as a track of its own. */
export function HarmonyWindow() {
  const chromatic = useEditor((s) => s.song?.scale === "chromatic");
  const [interval, setInterval] = useState(chromatic ? "semitones -12" : "steps 2");
  const [lean, setLean] = useState(12);
  const [human, setHuman] = useState(60);
  const [seed, setSeed] = useState(1);
  const [air, setAir] = useState<NonNullable<Harmony["air"]>>("lowered");
  const [line, setLine] = useState<"interval" | "melody">("interval");
  const [given, setGiven] = useState<Given | null>(null);
  const [byChord, setByChord] = useState(false);
  const some = useEditor((s) => s.selection.size > 0);
  const { reach, setReach, notes } = useNotesOf("track");
  const waits = notes.length === 0 || (line === "melody" && !given);
  const operation = harmonyOf(
    line === "melody" ? given : interval,
    reach === "track" ? null : notes.map((note) => note.id),
    { lean: lean / 100, human: human / 100, seed, air, ...(byChord && line === "interval" ? keptTo() : {}) },
  );
  const tried = useTriedVoices(waits ? null : operation, 1);
  const named = new Set(notes.map((note) => note.id));
  const changed = tried?.notes.filter((note) => named.has(note.id)) ?? [];
  return (
    <SideWindow title="Harmony" onClose={() => showWindow(null)}>
      <Quiet>
        A second line from this version, heard with it before it is made as a track of its own. Its formants lean along
        with the interval by a share.
      </Quiet>
      <LineChoice
        notes={notes}
        interval={line === "interval" ? interval : null}
        given={given}
        byChord={byChord}
        onByChord={setByChord}
        onInterval={setInterval}
        onLine={setLine}
        onGiven={setGiven}
      />
      <ReachChoice selection={some} value={reach} onChange={setReach} />
      {line === "interval" && chromatic && interval.startsWith("steps") && (
        <p role="status">The song has no key, so a step is a semitone. Choose its key first.</p>
      )}
      <ValueRow label="Lean" unit="%" value={lean} min={0} max={100} step={1} onCommit={setLean} />
      <ValueRow label="Human" unit="%" value={human} min={0} max={100} step={1} onCommit={setHuman} />
      <ValueRow label="Seed" unit="" value={seed} min={0} max={9999} step={1} onCommit={setSeed} />
      <AirLine air={air} setAir={setAir} />
      {tried && <StrainOf notes={changed} />}
      <Line>
        <MainButton isDisabled={waits} onPress={() => void derive(operation).then((done) => done && showWindow(null))}>
          Make it
        </MainButton>
        <HearIt />
        <Button onPress={() => showWindow(null)}>Leave</Button>
      </Line>
    </SideWindow>
  );
}
