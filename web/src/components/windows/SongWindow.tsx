import { type SyntheticEvent, useEffect, useState } from "react";
import styled from "styled-components";
import { className, keyName } from "../../document/pitch_names";
import type { KeyOut, Marker, SongChangeIn } from "../../document/schema";
import { store } from "../../document/store";
import { loadKeys } from "../../hooks/offers";
import { changeSong, putKeyBack, useKeyChange } from "../../hooks/songs";
import { useEditor } from "../../hooks/useStore";
import { CheckBox } from "../ui/CheckBox";
import { Button, Field, MainButton, Quiet } from "../ui/controls";
import { Window } from "../ui/Window";
import { Picker } from "../ui/Picker";
import { TempoFields } from "./TempoFields";

const SCALES = [
  "major",
  "natural minor",
  "harmonic minor",
  "melodic minor",
  "dorian",
  "phrygian",
  "lydian",
  "mixolydian",
  "locrian",
  "major pentatonic",
  "minor pentatonic",
  "chromatic",
  "custom",
];

const Grid = styled.form`
  display: grid;
  grid-template-columns: 130px 1fr;
  gap: 8px 12px;
  align-items: center;
  & .offers {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 6px;
  }
  & .classes {
    display: grid;
    grid-template-columns: repeat(12, auto);
    gap: 2px;
    & label {
      display: grid;
      justify-items: center;
      font-size: 12px;
    }
  }
  & .told {
    grid-column: 1 / 3;
    max-width: 660px;
  }
  & .end {
    grid-column: 1 / 3;
    display: flex;
    justify-content: flex-end;
    gap: 8px;
    padding-top: 8px;
  }
  & .pair {
    display: flex;
    gap: 6px;
    align-items: center;
  }
`;

/** Whether a tonic is written with a flat: as keys are usually named. */
function isFlat(tonic: number, scale: string): boolean {
  const [minor, major] = [
    [3, 10],
    [3, 8, 10],
  ];
  return [1, 3, 8, 10].includes(tonic) && scale !== "major" ? minor.includes(tonic) : major.includes(tonic);
}

export function SongWindow({ onClose }: { onClose: () => void }) {
  const song = useEditor((s) => s.song)!;
  const sounds = useEditor((s) => s.keys);
  const trackId = useEditor((s) => s.trackId);
  useEffect(() => {
    if (trackId && store.getState().keys === null) void loadKeys(trackId);
  }, [trackId]);
  const [values, setValues] = useState({
    title: song.title,
    tonic: song.tonic,
    scale: song.scale,
    classes: song.classes,
    reference_hz: String(song.reference_hz),
    tempo: String(song.tempo),
    beats_per_bar: String(song.beats_per_bar),
    beat_unit: String(song.beat_unit),
    bar_one_s: String(song.bar_one_s),
    tempo_changes: song.tempo_changes,
    markers: song.markers.map(({ bar, beat, text }): Marker => ({ bar, beat, text })),
  });
  const put = (change: Partial<typeof values>): void => setValues((old) => ({ ...old, ...change }));
  const meaning = useKeyChange({
    tonic: values.tonic,
    scale: values.scale,
    classes: values.scale === "custom" ? values.classes : [],
    reference_hz: Number(values.reference_hz),
  });
  const take = (key: KeyOut): void => put({ tonic: key.tonic, scale: key.scale });
  const submit = async (event: SyntheticEvent): Promise<void> => {
    event.preventDefault();
    const change: SongChangeIn = {
      title: values.title,
      reference_hz: Number(values.reference_hz),
    };
    const bars = {
      tempo: Number(values.tempo),
      beats_per_bar: Number(values.beats_per_bar),
      beat_unit: Number(values.beat_unit),
      bar_one_s: Number(values.bar_one_s.replace("−", "-")),
    };
    if (JSON.stringify(values.tempo_changes) !== JSON.stringify(song.tempo_changes))
      Object.assign(change, { ...bars, tempo_changes: values.tempo_changes });
    const known = song.markers.map(({ bar, beat, text }): Marker => ({ bar, beat, text }));
    if (JSON.stringify(values.markers) !== JSON.stringify(known)) change.markers = values.markers;
    if (Object.entries(bars).some(([name, value]) => value !== song[name as keyof typeof bars])) {
      Object.assign(change, bars); // a tempo that was not touched stays one that nobody chose
    }
    const moved = values.tonic !== song.tonic || values.scale !== song.scale || values.scale === "custom";
    if (moved || !song.key_chosen) {
      Object.assign(change, { tonic: values.tonic, scale: values.scale, classes: values.classes });
    }
    if (await changeSong(change)) onClose();
  };
  return (
    <Window title="Key, tempo and tuning" open onClose={onClose}>
      <Grid onSubmit={(event) => void submit(event)}>
        <label htmlFor="song-title">Title</label>
        <Field id="song-title" value={values.title} onChange={(event) => put({ title: event.target.value })} />
        <span>Key</span>
        <span className="pair">
          <Picker
            label="Tonic"
            options={Array.from({ length: 12 }, (_, i) => [String(i), className(i, isFlat(i, values.scale))])}
            value={String(values.tonic)}
            onChange={(tonic) => put({ tonic: Number(tonic) })}
          />
          <Picker
            label="Scale"
            options={SCALES.map((scale) => [scale, scale === "custom" ? "notes of your own" : scale])}
            value={values.scale}
            onChange={(scale) => put({ scale })}
          />
        </span>
        {values.scale === "custom" && (
          <>
            <span>Notes</span>
            <span className="classes">
              {Array.from({ length: 12 }, (_, i) => (
                <CheckBox
                  key={i}
                  checked={values.classes.includes(i)}
                  onChange={(on) =>
                    put({
                      classes: on ? [...values.classes, i] : values.classes.filter((c) => c !== i),
                    })
                  }
                >
                  {className(i, false)}
                </CheckBox>
              ))}
            </span>
          </>
        )}
        {sounds && sounds.keys.length > 0 && (
          <>
            <Quiet>Sounds like</Quiet>
            <span className="offers">
              {sounds.keys.slice(0, 4).map((key) => (
                <Button key={keyName(key)} onPress={() => take(key)}>
                  {`${keyName(key)} ${Math.round(100 * key.confidence)} %`}
                </Button>
              ))}
            </span>
          </>
        )}
        <label htmlFor="song-reference_hz">Reference A4 (Hz)</label>
        <span className="pair">
          <Field
            id="song-reference_hz"
            inputMode="decimal"
            value={values.reference_hz}
            aria-label="Reference A4 in Hz"
            onChange={(event) => put({ reference_hz: event.target.value })}
          />
          {sounds && <Quiet style={{ whiteSpace: "nowrap" }}>{`sung at ${sounds.reference_hz.toFixed(1)}`}</Quiet>}
        </span>
        <TempoFields values={values} put={put} />
        {meaning && <Quiet className="told">{meaning}</Quiet>}
        <span className="end">
          {song.earlier_key && (
            <Button onPress={() => void putKeyBack().then((done) => done && onClose())}>
              {`Put the key back: ${keyName(song.earlier_key)}`}
            </Button>
          )}
          <Button onPress={onClose}>Cancel</Button>
          <MainButton type="submit">Save</MainButton>
        </span>
      </Grid>
    </Window>
  );
}
