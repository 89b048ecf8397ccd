import type { NoteOut } from "../../document/track/model";
import { sourceToSong } from "../../document/time/times";
import { beatText, readMoment, secondsText } from "../../document/time/time_text";
import { readTyped, shared } from "../../document/track/values";
import { editSelection } from "../../commands/notes/editing";
import { startAt } from "../../commands/notes/timing";
import { useEditor } from "../../session/useStore";
import { TypedField } from "../ui/TypedField";
import { Quiet } from "../ui/controls";
import { TargetRow } from "./inspector_parts";

const sungMs = (note: NoteOut): number => 1000 * (note.end_s - note.start_s);
const lengthMs = (note: NoteOut): number => sungMs(note) + note.gesture.end_shift_ms - note.gesture.start_shift_ms;

const sharedText = (notes: NoteOut[], read: (note: NoteOut) => string): string => shared(notes, read) ?? "mixed";

const ms = (value: number): string => `${String(Math.round(value * 10) / 10).replace("-", "−")} ms`;

/** What was typed as a number for the server; false when it is none. */
function put(typed: string, ask: (value: number, relative: boolean) => Promise<boolean>): boolean | Promise<boolean> {
  const read = readTyped(typed);
  return read ? ask(read.value, read.relative) : false;
}

/** When the chosen notes start and how long they last, as fields that take typed numbers. */
export function TimeValues({ notes }: { notes: NoteOut[] }) {
  const song = useEditor((s) => s.song);
  const times = useEditor((s) => s.view.times);
  if (!song || notes.length === 0) return null;
  const start_s = sourceToSong(notes[0]!.start_s, times);
  const meter = song.tempo_chosen ? song : null;
  const place = meter ? beatText(start_s, meter) : secondsText(start_s, 3);
  const begin = (typed: string): boolean | Promise<boolean> => {
    const moment = readMoment(typed, meter);
    return moment === null ? false : startAt(moment);
  };
  const row = (label: string, text: string, commit: (typed: string) => boolean | Promise<boolean>) => (
    <TargetRow>
      <span>{label}</span>
      <TypedField label={label} text={text} onCommit={commit} />
    </TargetRow>
  );
  return (
    <>
      {row(notes.length > 1 ? "First starts" : "Starts", place, begin)}
      <Quiet>
        {meter ? `${secondsText(start_s, 3)}. Bar and beat, or seconds: 1:04.25` : "Minutes and seconds, or 64.25 s"}
      </Quiet>
      {row(
        "Later by",
        sharedText(notes, (note) => ms(note.gesture.start_shift_ms)),
        (typed) =>
          put(typed, (value, relative) =>
            editSelection(
              relative ? { type: "slip", by_ms: value } : { type: "set_time", values: { start_shift_ms: value } },
            ),
          ),
      )}
      {row(
        "Length",
        sharedText(notes, (note) => ms(lengthMs(note))),
        (typed) => put(typed, (value) => editSelection({ type: "set_time", values: { length_ms: value } })),
      )}
      {row(
        "As sung",
        sharedText(notes, (note) => `${Math.round((100 * lengthMs(note)) / sungMs(note))} %`),
        (typed) => put(typed, (value) => editSelection({ type: "set_time", values: { length: value / 100 } })),
      )}
    </>
  );
}
