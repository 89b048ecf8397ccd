import { memo, useState } from "react";
import { flagText } from "../../document/track/flags";
import type { NoteOut } from "../../document/track/model";
import { noteLabel, signed } from "../../document/music/pitch_names";
import {
  ADDED_ROWS,
  FURTHER_ROWS,
  NOTE_ROWS,
  shared,
  sharedValue,
  VALUES,
  type ValueName,
  valueText,
} from "../../document/track/values";
import { changeValueBy, editSelection, setValue } from "../../commands/notes/editing";
import { flagAgain, meanSo } from "../../commands/notes/flags";
import {
  centreAtPointer,
  copySelection,
  joinSelection,
  pasteGestures,
  softenJoins,
  toggleLeave,
  tuneSelection,
} from "../../commands/notes/shaping";
import { silenceSelection, stretchIn, stretchOverSelection } from "../../commands/notes/level_stretches";
import { beginSplit } from "../../commands/notes/splitting";
import { useSung } from "../../hooks/useSyllables";
import { useEditor } from "../../session/useStore";
import { showWindow } from "../../session/view";
import { type Action, ActionMenu } from "../ui/ActionMenu";
import { AirValues } from "./AirInspector";
import { Candidates } from "./Candidates";
import { LevelStretchValues } from "./LevelStretchValues";
import { Body, Buttons, Facts, Fold, Head, TargetRow } from "./inspector_parts";
import { OwnSettings } from "./OwnSettings";
import { Steps } from "./Steps";
import { TimeValues } from "./TimeValues";
import { Button, MainButton, Panel, PlainButton, Quiet, Segments, Title } from "../ui/controls";
import { TypedField } from "../ui/TypedField";
import { OnTheChord } from "./OnTheChord";
import { SungHere } from "./SungHere";
import { ValueRow } from "../ui/ValueRow";

const ROUNDINGS = [
  ["scale", "Scale"],
  ["semitone", "Semitone"],
  ["free", "Free"],
] as const;

const ASPECTS = [
  ["all", "Everything"],
  ["centre", "Centre"],
  ["within", "To within"],
  ["movement", "Movement"],
  ["drift", "Drift"],
  ["lean", "Lean"],
  ["vibrato", "Vibrato"],
  ["scoop", "Scoop"],
  ["fall", "Fall"],
  ["glide", "Glide"],
  ["hand_curve", "Hand curve"],
  ["formant", "Formant"],
  ["level", "Level"],
  ["timing", "Timing"],
  ["start", "Start"],
  ["length", "Length"],
] as const;
const PUT_BACK = ASPECTS.map(([aspect, text]): Action => [
  text,
  () => void editSelection({ type: "put_back", aspect }),
]);
const MORE: Action[] = [
  ["Join (J)", joinSelection],
  ["Straighten towards the in end", () => void editSelection({ type: "straighten", side: "in" })],
  ["Straighten towards the out end", () => void editSelection({ type: "straighten", side: "out" })],
  ["Soften the joins (Shift+J)", softenJoins],
  ["Leave as sung (Shift+T)", toggleLeave],
  ["Silence (Delete)", silenceSelection],
  ["Level stretch over it…", stretchOverSelection],
  ["Split what holds two pitches…", () => showWindow("two_pitches")],
  ["Centre here (C)", centreAtPointer],
  ["Read an octave higher", () => void editSelection({ type: "move_octave", octaves: 1 })],
  ["Read an octave lower", () => void editSelection({ type: "move_octave", octaves: -1 })],
  ["Borrow the word… (B)", () => showWindow("borrow")],
  ["Read again…", () => showWindow("read_again")],
  ["This is spoken", () => void editSelection({ type: "mark_spoken" })],
  ["This is sung", () => void editSelection({ type: "mark_spoken", spoken: false })],
  ["This is air, no note", () => void editSelection({ type: "make_air" })],
  ["Copy gestures (Ctrl+C)", copySelection],
  ["Put copied gestures here (Ctrl+V)", () => pasteGestures(true)],
  ["Put them here without their targets", () => pasteGestures(false)],
  ["Put them here with their timing", () => pasteGestures(true, true)],
  ["Phrases like this one…", () => showWindow("alike")],
];

export function Inspector() {
  const selection = useEditor((s) => s.selection);
  const content = useEditor((s) => s.content);
  const [tab, setTab] = useState<"note" | "steps">("note");
  const airSelection = useEditor((s) => s.airSelection);
  const stretch = useEditor(stretchIn);
  const notes = content?.notes.filter((note) => selection.has(note.id)) ?? [];
  const air = content?.air.filter((event) => airSelection.has(event.id)) ?? [];
  return (
    <Panel aria-label="Inspector">
      <Title as="div">
        <Segments
          label="Inspector shows"
          options={[
            ["note", air.length > 0 ? "Air" : stretch ? "Level" : "Note"],
            ["steps", "Steps"],
          ]}
          value={tab}
          onChange={setTab}
        />
      </Title>
      {tab === "steps" ? (
        <Steps />
      ) : air.length > 0 ? (
        <AirValues air={air} />
      ) : stretch ? (
        <LevelStretchValues stretch={stretch} />
      ) : (
        <NoteValues notes={notes} />
      )}
    </Panel>
  );
}

function setOn(name: "target" | "rounding", value: string): Promise<boolean> {
  return editSelection({ type: "set", values: { [name]: value } });
}

function setRounding(value: string): void {
  void setOn("rounding", value);
}

/** One value of the chosen notes; drawn anew only when it changes, as an edit changes few of them. */
const NoteValueRow = memo(function NoteValueRow({ name, value }: { name: ValueName; value: number | null }) {
  const spec = VALUES[name];
  return (
    <ValueRow
      label={spec.label}
      unit={spec.unit}
      value={value}
      min={spec.min}
      max={spec.max}
      step={spec.step}
      text={(shown) => valueText(shown, spec)}
      onCommit={(next) => void setValue(spec, next)}
      onChangeBy={(amount) => void changeValueBy(spec, amount)}
    />
  );
});

function RoundingRow({ notes }: { notes: NoteOut[] }) {
  return (
    <TargetRow>
      <span>Rounding</span>
      <Segments
        label="Rounding"
        options={ROUNDINGS}
        value={shared(notes, (note) => note.gesture.rounding) as "scale" | "semitone" | "free" | null}
        onChange={setRounding}
      />
    </TargetRow>
  );
}

function NoteValues({ notes }: { notes: NoteOut[] }) {
  const song = useEditor((s) => s.song);
  const tool = useEditor((s) => s.tool);
  const times = useEditor((s) => s.view.times);
  const own = useEditor((s) => s.ownStrength);
  const word = useSung().get(notes[0]?.id ?? "")?.word;
  const quoted = word ? `“${word}” ` : "";
  if (!song) return null;
  if (notes.length === 0) return <NoNotes />;
  const first = notes[0]!;
  const target = shared(notes, (note) => note.target_midi);
  const valueRow = (name: ValueName) => (
    <NoteValueRow key={name} name={name} value={sharedValue(notes, VALUES[name])} />
  );
  return (
    <Body>
      <Head>
        <strong>
          {notes.length > 1 ? `${notes.length} notes` : `${quoted}${noteLabel(song, first, first.tuned_midi, times)}`}
        </strong>
        {notes.length === 1 && <Quiet>{`as sung ${noteLabel(song, first, first.centre_midi, times)}`}</Quiet>}
      </Head>
      <TargetRow>
        <span>Target</span>
        <TypedField
          label="Target"
          text={target === null ? "mixed" : noteLabel(song, first, target, times)}
          onCommit={(typed) => setOn("target", typed)}
        />
      </TargetRow>
      <RoundingRow notes={notes} />
      {NOTE_ROWS.map(valueRow)}
      {notes.length === 1 && <SungHere note={first} />}
      <Fold>
        <summary>Lean and formant</summary>
        {FURTHER_ROWS.map(valueRow)}
      </Fold>
      {notes.length === 1 && <CandidatesFold note={first} />}
      <Fold>
        <summary>Added vibrato</summary>
        {ADDED_ROWS.map(valueRow)}
      </Fold>
      <Fold open={tool === "time"}>
        <summary>Time</summary>
        <TimeValues notes={notes} />
      </Fold>
      <Buttons>
        <MainButton onPress={tuneSelection}>
          {own === 1 ? "Tune (T)" : `Tune ${Math.round(100 * own)} % (T)`}
        </MainButton>
        <Button onPress={() => void beginSplit()}>Split (X)</Button>
        <ActionMenu label="Put back as sung" text="Put back…" actions={PUT_BACK} />
        <ActionMenu label="More for the selection" text="More…" actions={MORE} />
      </Buttons>
      {notes.length === 1 && <NoteFacts note={notes[0]!} />}
      <OwnSettings />
    </Body>
  );
}

/** Asked for only once it is opened. */
function CandidatesFold({ note }: { note: NoteOut }) {
  const [open, setOpen] = useState(false);
  return (
    <Fold open={open} onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary>Two candidates</summary>
      {open && <Candidates note={note} />}
    </Fold>
  );
}

function NoNotes() {
  const notes = useEditor((s) => s.content?.notes) ?? [];
  const glazes = useEditor((s) => s.content?.glazes.length ?? 0);
  const limit = useEditor((s) => s.strainLimit);
  const count = (wanted: (note: NoteOut) => boolean) => notes.filter(wanted).length;
  return (
    <Body>
      <Head>
        <strong>No note</strong>
      </Head>
      <Quiet>Click a note, drag over several, or press → for the next one and N for the next flag.</Quiet>
      <Facts>
        <dt>Notes in this track</dt>
        <dd>{notes.length}</dd>
        <dt>With flags</dt>
        <dd>{count((note) => note.flags.length > 0)}</dd>
        <dt>Changed</dt>
        <dd>{count((note) => note.edited)}</dd>
        <dt>Strained</dt>
        <dd>{count((note) => note.strain > limit)}</dd>
        {glazes > 0 && (
          <>
            <dt>Glazes</dt>
            <dd>{glazes}</dd>
          </>
        )}
      </Facts>
      <OwnSettings />
    </Body>
  );
}

function NoteFacts({ note }: { note: NoteOut }) {
  const limit = useEditor((s) => s.strainLimit);
  const advised = note.strain > limit || Math.abs(note.tuned_midi - note.centre_midi) > 2;
  return (
    <Facts>
      {advised && note.advice && <dd className="flag">{note.advice}</dd>}
      {note.flags.map((flag) => (
        <dd className="flag" key={flag.kind}>
          {`⚑ ${flagText(flag)} `}
          <PlainButton className="meant" onPress={() => meanSo(note, flag.kind)}>
            meant so
          </PlainButton>
        </dd>
      ))}
      {note.leave_as_sung && (
        <dd className="flag quiet">
          {"Left as sung: passes, glazes and followers leave it alone. "}
          <PlainButton className="meant" onPress={toggleLeave}>
            let them act
          </PlainButton>
        </dd>
      )}
      {note.spoken && <dd className="flag quiet">Spoken: passes leave it alone, and it has no flags.</dd>}
      {note.meant.length > 0 && (
        <dd className="flag quiet">
          {`Meant so: ${note.meant.join(", ")} `}
          <PlainButton className="meant" onPress={() => flagAgain(note)}>
            flag again
          </PlainButton>
        </dd>
      )}
      <dt>As sung, from target</dt>
      <dd>{`${signed(100 * (note.centre_midi - note.target_midi))} ct`}</dd>
      <dt>Tuned, from target</dt>
      <dd>{`${signed(100 * (note.tuned_midi - note.target_midi))} ct`}</dd>
      <OnTheChord note={note} />
      <dt>Strain</dt>
      <dd className={note.strain > limit ? "strained" : undefined}>{`${Math.round(note.strain)} of 100`}</dd>
      <dt>Kept</dt>
      <dd>{`${Math.round(note.kept)} %`}</dd>
      <dt>Drift</dt>
      <dd>{`${signed(note.drift_cents_per_s)} ct/s`}</dd>
      <dt>Vibrato</dt>
      <dd>
        {note.vibrato ? `${note.vibrato.rate_hz.toFixed(1)} Hz, ±${note.vibrato.extent_cents.toFixed(0)} ct` : "none"}
      </dd>
      <dt>Length</dt>
      <dd>{`${(note.end_s - note.start_s).toFixed(2)} s`}</dd>
      <dt>Level</dt>
      <dd>{`${signed(note.level_db, 1)} dBFS`}</dd>
    </Facts>
  );
}
