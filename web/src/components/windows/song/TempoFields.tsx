import { useEffect, useState } from "react";
import { FileTrigger } from "react-aria-components";
import type { TempoChange } from "../../../document/music/tempo_map";
import type { Marker, MidiTempoOut, TempoOut } from "../../../document/schema";
import { store } from "../../../document/track/store";
import { FEWEST_TAPS, tapsSincePause, tempoOfTaps } from "../../../document/music/tapping";
import { loadTempo, readMidi, roundedTempo } from "../../../commands/song/offers";
import { transport } from "../../../listening/playing";
import { useEditor } from "../../../session/useStore";
import { Button, Field, Quiet } from "../../ui/controls";
import { Picker } from "../../ui/Picker";
import { Listening } from "./Listening";
import { Markers } from "./Markers";
import { TempoChanges } from "./TempoChanges";

export interface TempoValues {
  tempo: string;
  beats_per_bar: string;
  beat_unit: string;
  bar_one_s: string;
  tempo_changes: TempoChange[];
  markers: Marker[];
}

type Put = (change: Partial<TempoValues>) => void;

/** Tempo, meter and bar 1 of a song: typed, heard, tapped, or from a MIDI file. */
export function TempoFields(props: { values: TempoValues; put: Put; onKeys: (found: MidiTempoOut) => void }) {
  const { values, put } = props;
  const number = (name: Exclude<keyof TempoValues, "tempo_changes" | "markers">, label: string) => (
    <Field
      id={`song-${name}`}
      inputMode="decimal"
      value={values[name]}
      aria-label={label}
      onChange={(event) => put({ [name]: event.target.value })}
    />
  );
  return (
    <>
      <label htmlFor="song-tempo">Tempo (bpm)</label>
      <span className="pair">
        {number("tempo", "Tempo in beats a minute")}
        <Tap put={put} />
        <FromMidi put={put} onKeys={props.onKeys} />
      </span>
      <Heard put={put} />
      <span>Meter</span>
      <span className="pair">
        {number("beats_per_bar", "Beats in a bar")} /
        <Picker
          label="Beat unit"
          options={["1", "2", "4", "8", "16"].map((unit) => [unit, unit])}
          value={values.beat_unit}
          onChange={(beat_unit) => put({ beat_unit })}
        />
      </span>
      <label htmlFor="song-bar_one_s">Bar 1 starts at (s)</label>
      {number("bar_one_s", "Start of bar 1 in seconds")}
      <TempoChanges
        changes={values.tempo_changes}
        first={{
          bar: 1,
          tempo: Number(values.tempo),
          beats_per_bar: Number(values.beats_per_bar),
          beat_unit: Number(values.beat_unit),
        }}
        onChange={(tempo_changes) => put({ tempo_changes })}
      />
      <Markers markers={values.markers} onChange={(markers) => put({ markers })} />
    </>
  );
}

function Heard({ put }: { put: Put }) {
  const songId = useEditor((s) => s.song?.id);
  const heard = useEditor((s) => s.tempos);
  useEffect(() => {
    if (songId && store.getState().tempos === null) void loadTempo(songId);
  }, [songId]);
  const take = (tempo: TempoOut): void =>
    put({
      tempo: String(roundedTempo(tempo.bpm)),
      beats_per_bar: String(tempo.beats_per_bar),
      beat_unit: "4",
      bar_one_s: tempo.bar_one_s.toFixed(3),
    });
  return (
    <>
      <Quiet>Sounds like</Quiet>
      <span className="offers">
        {heard?.tempos.map((tempo) => (
          <Button key={tempo.bpm} onPress={() => take(tempo)}>
            {`${tempo.bpm.toFixed(1)} bpm`}
          </Button>
        ))}
        {heard && (
          <Quiet>
            {heard.heard_in ? `${heard.heard_in}, ${Math.round(100 * heard.confidence)} % sure` : "no tempo stands out"}
          </Quiet>
        )}
        {!heard && songId && <Listening what="tempo" again={() => void loadTempo(songId)} />}
      </span>
    </>
  );
}

function Tap({ put }: { put: Put }) {
  const [taps, setTaps] = useState<number[]>([]);
  const tap = (): void => {
    const playing = store.getState().playing; // then the first tap is bar 1, and the clock is the song's
    const now = playing ? transport.position : performance.now() / 1000;
    const all = tapsSincePause(now < (taps.at(-1) ?? now) ? [now] : [...taps, now]);
    setTaps(all);
    const found = tempoOfTaps(all);
    if (!found) return;
    put({
      tempo: String(Math.round(10 * found.bpm) / 10),
      ...(playing ? { bar_one_s: found.first_s.toFixed(3) } : {}),
    });
  };
  const left = FEWEST_TAPS - taps.length;
  return (
    <Button onPressStart={tap} aria-label="Tap the beat">
      {taps.length > 0 && left > 0 ? `Tap: ${left} more` : "Tap"}
    </Button>
  );
}

function FromMidi({ put, onKeys }: { put: Put; onKeys: (found: MidiTempoOut) => void }) {
  const [told, setTold] = useState("");
  const read = async (file: File): Promise<void> => {
    const found = await readMidi(file);
    if (!found) return;
    put({
      tempo: String(found.tempo),
      beats_per_bar: String(found.beats_per_bar),
      beat_unit: String(found.beat_unit),
      bar_one_s: String(found.bar_one_s),
      tempo_changes: found.changes,
      ...(found.markers.length > 0 ? { markers: found.markers } : {}),
    });
    if (found.key_title) onKeys(found);
    const times = (n: number): string => (n === 1 ? "once" : `${n} times`);
    const { changes, key_changes } = found;
    const key = found.key_title
      ? `Key in the file: ${found.key_title}${key_changes.length > 0 ? `, changing ${times(key_changes.length)}` : ""}. `
      : "";
    setTold(key + (changes.length > 0 ? `The tempo or meter changes ${times(changes.length)} later.` : ""));
  };
  return (
    <>
      <FileTrigger
        acceptedFileTypes={[".mid", ".midi", "audio/midi"]}
        onSelect={(files) => files?.[0] && void read(files[0])}
      >
        <Button>From a MIDI file…</Button>
      </FileTrigger>
      {told && <Quiet>{told}</Quiet>}
    </>
  );
}
