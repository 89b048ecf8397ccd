import { useEffect, useState } from "react";
import { FileTrigger } from "react-aria-components";
import type { NoteOut } from "../../../document/track/model";
import { barText } from "../../../document/time/time_text";
import { sourceToSong } from "../../../document/time/times";
import { revealNote } from "../../../commands/notes/editing";
import {
  clearMelodyLine,
  drawMelody,
  drawnMelody,
  type Given,
  matchMelody,
  readMelody,
  typedMelody,
} from "../../../commands/voices/melody";
import { useAsked } from "../../../session/useAsked";
import { useEditor } from "../../../session/useStore";
import { Button, Field, PlainButton, Quiet, Segments } from "../../ui/controls";
import { Picker } from "../../ui/Picker";
import { Found, Line } from "../PassParts";

type From = "midi" | "typed" | "drawn";
const WAYS: readonly (readonly [Given["match"], string])[] = [
  ["time", "where each is in time"],
  ["order", "first to first, in order"],
  ["following", "following the line, at any tempo"],
];
const TYPING_MS = 400;

/** A melody for some notes: from a MIDI file, typed as names, or drawn on the sheet. */
export function MelodySource(props: { notes: readonly NoteOut[]; onChange: (given: Given | null) => void }) {
  const { notes, onChange } = props;
  const onSheet = useEditor((s) => s.panel === "sheet");
  const [from, setFrom] = useState<From>("midi");
  return (
    <>
      <Segments<From>
        label="Where the melody comes from"
        options={[["midi", "MIDI file"], ["typed", "Typed"], ...(onSheet ? ([["drawn", "Drawn"]] as const) : [])]}
        value={from}
        onChange={(next) => {
          onChange(null);
          setFrom(next);
        }}
      />
      {from === "midi" && <FromMidi onChange={onChange} />}
      {from === "typed" && <Typed notes={notes} onChange={onChange} />}
      {from === "drawn" && <Drawn notes={notes} onChange={onChange} />}
    </>
  );
}

function FromMidi({ onChange }: { onChange: (given: Given | null) => void }) {
  const [file, setFile] = useState("");
  const [melody, setMelody] = useState<Given["melody"] | null>(null);
  const [match, setMatch] = useState<Given["match"]>("time");
  return (
    <>
      <FileTrigger
        acceptedFileTypes={[".mid", ".midi", "audio/midi"]}
        onSelect={(files) => {
          const picked = files?.[0];
          if (!picked) return;
          void readMelody(picked).then((read) => {
            setMelody(read);
            setFile(read ? picked.name : "");
            onChange(read && { melody: read, match });
          });
        }}
      >
        <Button>{file === "" ? "Choose a MIDI file…" : file}</Button>
      </FileTrigger>
      <Line>
        <span>Notes find theirs</span>
        <Picker
          label="How notes find theirs"
          options={WAYS}
          value={match}
          onChange={(next) => {
            const way = WAYS.find(([name]) => name === next)?.[0] ?? "time";
            setMatch(way);
            onChange(melody && { melody, match: way });
          }}
        />
      </Line>
      {match === "time" && <Quiet>The file begins at bar 1.</Quiet>}
    </>
  );
}

function Typed({ notes, onChange }: { notes: readonly NoteOut[]; onChange: (given: Given | null) => void }) {
  const [text, setText] = useState("");
  const ids = notes.map((note) => note.id).join(" ");
  useAsked(`${ids}\n${text}`, TYPING_MS, () => typedMelody(text, notes), onChange);
  return (
    <>
      <Field
        aria-label="Notes of the melody"
        placeholder="E4 F#4 G4 – A4"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <Quiet>{`One name for each of the ${notes.length} notes; – leaves one out.`}</Quiet>
    </>
  );
}

function Drawn({ notes, onChange }: { notes: readonly NoteOut[]; onChange: (given: Given | null) => void }) {
  const lines = useEditor((s) => s.melodyLines);
  const ids = notes.map((note) => note.id).join(" ");
  useEffect(() => drawMelody(), []);
  useEffect(() => {
    onChange(drawnMelody(notes, lines));
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the same notes are another list after every edit
  }, [lines, ids]);
  return (
    <Line>
      <Quiet>Draw over the notes on the sheet; each takes the nearest pitch of the key.</Quiet>
      <Button isDisabled={lines.length === 0} onPress={clearMelodyLine}>
        Draw anew
      </Button>
    </Line>
  );
}

/** What of a melody and of the notes did not find each other. */
export function NotMatched(props: { given: Given | null; notes: readonly NoteOut[]; words: string }) {
  const { given, notes } = props;
  const song = useEditor((s) => s.song);
  const times = useEditor((s) => s.view.times);
  const step = useEditor((s) => s.content?.step_id);
  const [found, setFound] = useState<{ alone: string[]; melody_alone: number[] } | null>(null);
  const ids = notes.map((note) => note.id).join(" ");
  useEffect(() => {
    let over = false;
    if (given) void matchMelody(given, ids.split(" ")).then((match) => !over && setFound(match));
    return () => {
      over = true;
      setFound(null);
    };
  }, [given, ids, step]);
  if (!song || !found || found.alone.length + found.melody_alone.length === 0) return null;
  const alone = notes.filter((note) => found.alone.includes(note.id));
  return (
    <>
      <Quiet>{props.words}</Quiet>
      <Found aria-label="Not in both">
        {alone.map((note) => (
          <li key={note.id}>
            <PlainButton onPress={() => revealNote(note.id, note.start_s, note.end_s)}>
              {`sung at ${barText(sourceToSong(note.start_s, times), song)}`}
            </PlainButton>
          </li>
        ))}
        {found.melody_alone.length > 0 && (
          <li>
            {`in the melody: ${found.melody_alone.length === 1 ? "its note" : "its notes"} ${found.melody_alone
              .slice(0, 12)
              .map((place) => place + 1)
              .join(", ")}${found.melody_alone.length > 12 ? "…" : ""}`}
          </li>
        )}
      </Found>
    </>
  );
}
