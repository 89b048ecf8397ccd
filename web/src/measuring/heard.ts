/** For measuring from outside: what would be heard, through the page's own layers and ramps, and what is shown where. */

import type { AirOut, GapOut, Listening, NoteOut, SongOut } from "../document/track/model";
import type { CompOut } from "../document/schema";
import { store, trackOf } from "../document/track/store";
import { layRows } from "../geometry/comp_rows";
import { handlesOf } from "../geometry/handles";
import { wordLabels } from "../geometry/syllables";
import { type Lanes, layLanes, midiToY, songToX, timeToX } from "../geometry/viewport";
import { settled } from "../session/changes";
import { sungNow } from "../commands/lyrics/syllables";
import { selectedNotes } from "../commands/notes/editing";
import { partsNow, sourceOf, stop, transport } from "../listening/playing";
import { setNight } from "../session/view";

/** What shows the page and takes it away. */
interface Stage {
  leave: () => void;
  enter: () => void;
}

/** 32-bit floats, lowest byte first, in base64: as numbers each, samples would take seconds on their way. */
type Packed = string;

function packed(samples: Float32Array): Packed {
  const bytes = new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength);
  let text = "";
  for (let at = 0; at < bytes.length; at += 0x8000) text += String.fromCharCode(...bytes.subarray(at, at + 0x8000));
  return btoa(text);
}

declare global {
  interface Window {
    glassThread?: {
      heard: (
        kind: Listening,
        from_s: number,
        to_s: number,
        change?: { kind: Listening; at_s: number },
      ) => Promise<Packed>;
      /** all that would be heard together now, in one channel */
      together: (from_s: number, to_s: number) => Promise<Packed>;
      /** ids of the tracks that sound now */
      sounding: () => string[];
      /** seconds of the song at which the sound is now; null while nothing sounds */
      sounds: () => number | null;
      /** factors that the open track is played with */
      gains: () => number[];
      /** take away all that is shown, known and kept */
      leave: () => void;
      /** show the page as on a first visit to a place in it */
      enter: (place: string) => void;
      night: (on: boolean) => void;
      /** resolves when no edit is under way */
      settled: () => Promise<unknown>;
      notes: () => NoteOut[];
      count: () => number;
      selected: () => NoteOut[];
      air: () => AirOut[];
      gaps: () => GapOut[];
      /** pixels of a time at the middle of the air or level lane */
      lane: (which: "air" | "level", time_s: number) => [number, number];
      /** pixels on the sheet of a time and pitch, and of a handle of the selected note */
      place: (time_s: number, midi: number) => [number, number];
      handle: (kind: string) => [number, number] | null;
      /** the word under a note: its text, and the pixels where it begins */
      word: (noteId: string) => { text: string; x: number; y: number } | null;
      comp: () => CompOut | null;
      song: () => SongOut | null;
      /** bring a stretch of the song into sight */
      show: (from_s: number, to_s: number) => void;
      /** pixels of a time in a row of the comp view, −1 for what sounds */
      row: (place: number, song_s: number) => [number, number];
    };
  }
}

function lanesNow(): Lanes {
  const canvas = document.querySelector("canvas[role=application]");
  return layLanes(canvas?.clientWidth ?? 0, canvas?.clientHeight ?? 0, store.getState().laneSizes);
}

type Asked = NonNullable<Window["glassThread"]>;

function notesNow(): NoteOut[] {
  return store.getState().content?.notes ?? [];
}

/** What sounds, and would. */
const SOUNDS: Pick<Asked, "heard" | "together" | "sounding" | "sounds" | "gains"> = {
  async heard(kind, from_s, to_s, change) {
    const state = store.getState();
    const track = trackOf(state);
    const part = (listening: Listening) => sourceOf(state, listening);
    const later = change && { source: part(change.kind), at_s: change.at_s };
    if (!track) return "";
    return packed(await transport.heard([{ track, source: part(kind), gain: 1 }], from_s, to_s, later));
  },
  async together(from_s, to_s) {
    return packed(await transport.heard(partsNow(), from_s, to_s));
  },
  sounding: () => transport.sounding,
  sounds: () => (transport.playing ? transport.position : null),
  gains: () =>
    partsNow()
      .slice(0, 1)
      .map((part) => part.gain),
};

/** Where things are on the sheet. */
const PLACES: Pick<Asked, "lane" | "place" | "row" | "handle" | "word" | "show"> = {
  lane: (which, time_s) => {
    const lane = lanesNow()[which];
    return [timeToX(time_s, store.getState().view, lanesNow()), lane.top + lane.height * 0.6];
  },
  place: (time_s, midi) => {
    const { view } = store.getState();
    return [timeToX(time_s, view, lanesNow()), midiToY(midi, view, lanesNow())];
  },
  row: (place, song_s) => {
    const { view, compRows } = store.getState();
    const lanes = lanesNow();
    const { top, height } = layRows(lanes.height, compRows.length).rows[place + 1]!;
    return [songToX(song_s, view, lanes), top + height / 2];
  },
  handle: (kind) => {
    const note = selectedNotes()[0];
    if (!note) return null;
    const found = handlesOf(note, notesNow(), store.getState().view, lanesNow()).find((h) => h.kind === kind);
    return found ? [found.x, found.y] : null;
  },
  word: (noteId) => {
    const { curves, view, strainLimit, selection } = store.getState();
    if (!curves) return null;
    const worded = { notes: notesNow(), curves, view, strainLimit, selection, sung: sungNow() };
    return wordLabels(worded, lanesNow()).find((label) => label.noteId === noteId) ?? null;
  },
  show: (start_s, end_s) => store.setState({ view: { ...store.getState().view, start_s, end_s } }),
};

export function exposeHeard(stage: Stage): void {
  window.glassThread = {
    ...SOUNDS,
    ...PLACES,
    leave: () => {
      stop();
      stage.leave();
      store.setState(store.getInitialState(), true);
      localStorage.clear();
    },
    enter: (place) => {
      history.replaceState(null, "", place || "/");
      stage.enter();
    },
    night: setNight,
    settled,
    notes: notesNow,
    count: () => notesNow().length,
    selected: selectedNotes,
    air: () => store.getState().content?.air ?? [],
    gaps: () => store.getState().content?.gaps ?? [],
    comp: () => store.getState().comp,
    song: () => store.getState().song,
  };
}
