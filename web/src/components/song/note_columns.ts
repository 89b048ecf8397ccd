/** The columns of the notes table: what each shows of a note, and what it is sorted by. */

import { useMemo } from "react";
import { flagsText, hurtOf } from "../../document/track/flags";
import { centsOff, type Ghost, type NoteOut } from "../../document/track/model";
import { noteLabel, signed } from "../../document/music/pitch_names";
import type { SongOut } from "../../document/schema";
import { barText } from "../../document/time/time_text";
import { sourceToSong, type TrackTimes } from "../../document/time/times";
import type { SungOn } from "../../document/lyrics/lyrics";
import { useSung } from "../../hooks/useSyllables";
import { useEditor } from "../../session/useStore";

export interface NoteColumn {
  name: string;
  width: number;
  /** takes what room is left */
  grows?: true;
  /** what rows are sorted by */
  value: (note: NoteOut) => number;
  text: (note: NoteOut) => string;
  number?: true;
  /** whether the cell is set in the colour of flags */
  warns?: (note: NoteOut) => boolean;
}

function number(name: string, width: number, value: NoteColumn["value"], text: NoteColumn["text"]): NoteColumn {
  return { name, width, value, text, number: true };
}

/** Where a note is, what it is to be, and what is asked of it. */
function askedColumns(song: SongOut, times: TrackTimes, sung: ReadonlyMap<string, SungOn>): NoteColumn[] {
  const pitch = (note: NoteOut, midi: number): string => noteLabel(song, note, midi, times);
  return [
    {
      name: "Start",
      width: 96,
      value: (n) => n.start_s,
      text: (n) => `${barText(sourceToSong(n.start_s, times), song)}  (${sourceToSong(n.start_s, times).toFixed(2)} s)`,
    },
    { name: "Word", width: 54, value: (n) => n.start_s, text: (n) => sung.get(n.id)?.text ?? "" },
    { name: "Target", width: 50, value: (n) => n.target_midi, text: (n) => pitch(n, n.target_midi) },
    { name: "As sung", width: 70, value: (n) => n.centre_midi, text: (n) => pitch(n, n.centre_midi) },
    number(
      "Off (ct)",
      44,
      (n) => Math.abs(centsOff(n)),
      (n) => signed(centsOff(n)),
    ),
    number(
      "Pull",
      48,
      (n) => n.gesture.pull,
      (n) => `${Math.round(100 * n.gesture.pull)} %`,
    ),
    number(
      "Movement",
      78,
      (n) => n.gesture.movement,
      (n) => `${Math.round(100 * n.gesture.movement)} %`,
    ),
  ];
}

/** What a note is like once that is done. */
function heardColumns(): NoteColumn[] {
  const tunedOff = (note: NoteOut): number => 100 * (note.tuned_midi - note.target_midi);
  const level = (note: NoteOut): number => note.level_db + note.gesture.level_db;
  return [
    number(
      "Tuned off (ct)",
      52,
      (n) => Math.abs(tunedOff(n)),
      (n) => signed(tunedOff(n)),
    ),
    number(
      "Drift (ct/s)",
      46,
      (n) => Math.abs(n.drift_cents_per_s),
      (n) => signed(n.drift_cents_per_s),
    ),
    number(
      "Vibrato (ct)",
      52,
      (n) => n.vibrato?.extent_cents ?? 0,
      (n) => (n.vibrato ? `±${n.vibrato.extent_cents.toFixed(0)}` : "–"),
    ),
    number("Level (dB)", 48, level, (n) => signed(level(n), 1)),
  ];
}

/** What is said of a note, the worst first. */
function judgedColumns(limit: number): NoteColumn[] {
  return [
    {
      ...number(
        "Strain",
        48,
        (n) => n.strain,
        (n) => String(Math.round(n.strain)),
      ),
      warns: (n) => n.strain > limit,
    },
    number(
      "Kept",
      50,
      (n) => n.kept,
      (n) => `${Math.round(n.kept)} %`,
    ),
    {
      name: "Flags",
      grows: true,
      width: 170,
      value: (n) => hurtOf(n),
      text: (n) => [n.leave_as_sung ? "left as sung" : "", flagsText(n)].filter(Boolean).join(" · "),
      warns: (n) => n.flags.length > 0,
    },
  ];
}

/** Cents by which a note lies higher here than in the ghost; null when the ghost has no such note. */
function fromGhost(note: NoteOut, ghost: Ghost): number | null {
  const there = ghost.notes.get(note.id);
  return there === undefined ? null : 100 * (note.tuned_midi - there);
}

const BEFORE_GHOST = 6;

/** The columns, with how far each note lies from the version shown as a ghost while there is one. */
export function useNoteColumns(): NoteColumn[] {
  const song = useEditor((s) => s.song);
  const limit = useEditor((s) => s.strainLimit);
  const ghost = useEditor((s) => s.ghost);
  const name = useEditor((s) => s.versions.find((version) => version.id === ghost?.versionId)?.name);
  const times = useEditor((s) => s.view.times);
  const sung = useSung();
  return useMemo(() => {
    if (!song) return [];
    const columns = [...askedColumns(song, times, sung), ...heardColumns(), ...judgedColumns(limit)];
    if (!ghost) return columns;
    const text = (note: NoteOut): string => {
      const cents = fromGhost(note, ghost);
      return cents === null ? "–" : signed(cents);
    };
    const value = (note: NoteOut): number => fromGhost(note, ghost) ?? 0;
    const column = number(`From ${name ?? "ghost"} (ct)`, 84, value, text);
    return [...columns.slice(0, BEFORE_GHOST), column, ...columns.slice(BEFORE_GHOST)];
  }, [song, limit, ghost, name, times, sung]);
}
