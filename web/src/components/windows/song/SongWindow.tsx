import { type SyntheticEvent, useEffect, useState } from "react";
import styled from "styled-components";
import type {
  KeyAt,
  KeyOut,
  KeysIn,
  Marker,
  MidiTempoOut,
  SongChangeIn,
  SongOut,
  Temperament,
} from "../../../document/schema";
import { store } from "../../../document/track/store";
import { barAndBeat } from "../../../document/time/time_text";
import { loadKeys } from "../../../commands/song/offers";
import { useKeyChange, useScales } from "../../../commands/song/song_keys";
import { changeSong } from "../../../commands/song/songs";
import { useEditor } from "../../../session/useStore";
import { showWindow } from "../../../session/view";
import { Button, Field, MainButton, Quiet } from "../../ui/controls";
import { Window } from "../../ui/Window";
import { KeyChanges } from "./KeyChanges";
import { type ChosenKey, fitting, KeyPickers, OwnSteps } from "./KeyChoice";
import { KeyMeaning } from "./KeyMeaning";
import { Listening } from "./Listening";
import { TempoFields } from "./TempoFields";
import { TuningFields, type TuningValues } from "./TuningFields";

const Grid = styled.form`
  display: grid;
  grid-template-columns: 130px 1fr;
  gap: 8px 12px;
  align-items: center;
  min-width: min(625px, 80vw); /* what is heard comes later and moves nothing */
  & .offers {
    display: flex;
    min-height: 28px;
    flex-wrap: wrap;
    align-items: center;
    gap: 6px;
  }
  & .end {
    grid-column: 1 / 3;
    display: flex;
    justify-content: flex-end;
    gap: 8px;
    padding-block: 8px 14px;
    margin-bottom: -20px;
    position: sticky; /* in sight also where the window is longer than the screen */
    bottom: 0;
    background: var(--panel-solid);
  }
  & .pair {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  & .wrap {
    flex-wrap: wrap;
  }
  & .wide {
    grid-column: 2;
  }
`;

/** The values as the server takes them: only what is another than the song's own, unless nobody chose a key yet. */
function keysOf(values: Keys, song: SongOut): KeysIn {
  const { key, temperament, reference_key, key_changes } = values;
  const reference_hz = Number(values.reference_hz.replace(",", "."));
  const own = key.scale === "custom";
  const moved = key.tonic !== song.tonic || key.scale !== song.scale || own;
  const chosen = temperament.name !== "scala" || Boolean(temperament.scl || temperament.kbm); // a file, or none yet
  const retuned = chosen && (temperament.name !== song.temperament.name || temperament.name === "scala");
  return {
    ...(moved || retuned || !song.key_chosen
      ? { tonic: key.tonic, scale: key.scale, classes: own ? key.classes : [] }
      : {}),
    ...(retuned ? { temperament } : {}),
    ...(reference_hz !== song.reference_hz || reference_key !== song.reference_key
      ? { reference_hz, reference_key }
      : {}),
    ...(JSON.stringify(key_changes) !== JSON.stringify(song.key_changes) ? { key_changes } : {}),
  };
}

interface Keys extends TuningValues {
  key: ChosenKey;
  key_changes: KeyAt[];
}

interface Values extends Keys {
  title: string;
  tempo: string;
  beats_per_bar: string;
  beat_unit: string;
  bar_one_s: string;
  tempo_changes: SongOut["tempo_changes"];
  markers: Marker[];
}

/** The song as fields take it. */
function valuesOf(song: SongOut): Values {
  return {
    title: song.title,
    key: { tonic: song.tonic, scale: song.scale, classes: song.classes },
    temperament: { name: song.temperament.name } as Temperament,
    reference_key: song.reference_key,
    reference_hz: String(song.reference_hz),
    key_changes: song.key_changes,
    tempo: String(song.tempo),
    beats_per_bar: String(song.beats_per_bar),
    beat_unit: String(song.beat_unit),
    bar_one_s: String(song.bar_one_s),
    tempo_changes: song.tempo_changes,
    markers: song.markers.map(({ bar, beat, text }): Marker => ({ bar, beat, text })),
  };
}

/** The change of the song that fields amount to; a tempo that was not touched stays one that nobody chose. */
function changeOf(values: Values, song: SongOut): SongChangeIn {
  const wanted: SongChangeIn = { title: values.title, ...keysOf(values, song) };
  const bars = {
    tempo: Number(values.tempo),
    beats_per_bar: Number(values.beats_per_bar),
    beat_unit: Number(values.beat_unit),
    bar_one_s: Number(values.bar_one_s.replace("−", "-")),
  };
  const before = valuesOf(song);
  const differs = (name: "tempo_changes" | "markers"): boolean =>
    JSON.stringify(values[name]) !== JSON.stringify(before[name]);
  if (differs("tempo_changes")) Object.assign(wanted, { ...bars, tempo_changes: values.tempo_changes });
  if (differs("markers")) wanted.markers = values.markers;
  if (Object.entries(bars).some(([name, value]) => value !== song[name as keyof typeof bars]))
    Object.assign(wanted, bars);
  return wanted;
}

/** Keys of every step there is: a tuning has not the twelve that a scale with a name needs. */
function withEveryStep(values: Values): Values {
  return {
    ...values,
    key: { ...values.key, scale: "chromatic", classes: [] },
    key_changes: values.key_changes.map((one) => ({ ...one, scale: "chromatic", classes: [] })),
  };
}

/** Keys that the open track may be in. */
function SoundsLike({ trackId, onTake }: { trackId: string; onTake: (key: KeyOut) => void }) {
  const sounds = useEditor((s) => s.keys);
  return (
    <>
      <Quiet>Sounds like</Quiet>
      <span className="offers">
        {sounds?.keys.slice(0, 4).map((heard) => (
          <Button key={heard.title} onPress={() => onTake(heard)}>
            {`${heard.title} ${Math.round(100 * heard.confidence)} %`}
          </Button>
        ))}
        {sounds?.keys.length === 0 && <Quiet>no key stands out</Quiet>}
        {!sounds && <Listening what="key" again={() => void loadKeys(trackId)} />}
      </span>
    </>
  );
}

function EndRow({ onClose }: { onClose: () => void }) {
  const steps = (): void => {
    onClose();
    showWindow("song_steps");
  };
  return (
    <span className="end">
      <Button onPress={steps}>Steps of the song…</Button>
      <Button onPress={onClose}>Cancel</Button>
      <MainButton type="submit">Save</MainButton>
    </span>
  );
}

export function SongWindow({ onClose }: { onClose: () => void }) {
  const [song] = useState(() => store.getState().song!); // what the fields began with, whoever changes it meanwhile
  const sounds = useEditor((s) => s.keys);
  const trackId = useEditor((s) => s.trackId);
  const cursor_s = useEditor((s) => s.cursor_s);
  useScales();
  useEffect(() => {
    if (trackId && store.getState().keys === null) void loadKeys(trackId);
  }, [trackId]);
  const [values, setValues] = useState(() => valuesOf(song));
  const put = (change: Partial<Values>): void => setValues((old) => ({ ...old, ...change }));
  const keys = keysOf(values, song);
  const moved = Object.keys(keys).length > 0;
  const { change, trouble } = useKeyChange(keys);
  const tuning = (change?.pitches ?? song.pitches)?.tunings[0];
  const key = fitting(values.key, tuning);
  const takeKeys = ({ tonic, scale, key_changes }: MidiTempoOut): void =>
    put({ key: { tonic: tonic ?? 0, scale: scale ?? "chromatic", classes: [] }, key_changes });
  const everyStep = (): void => setValues(withEveryStep);
  const submit = async (event: SyntheticEvent): Promise<void> => {
    event.preventDefault();
    if (await changeSong({ ...changeOf({ ...values, key }, song), base: song.turn })) onClose();
  };
  return (
    <Window title="Key, tempo and tuning" open onClose={onClose}>
      <Grid onSubmit={(event) => void submit(event)}>
        <label htmlFor="song-title">Title</label>
        <Field id="song-title" value={values.title} onChange={(event) => put({ title: event.target.value })} />
        <span>Key</span>
        <span className="pair">
          <KeyPickers of="" value={key} tuning={tuning} onChange={(chosen) => put({ key: chosen })} />
        </span>
        {key.scale === "custom" && (
          <>
            <span>Notes</span>
            <OwnSteps value={key} tuning={tuning} onChange={(chosen) => put({ key: chosen })} />
          </>
        )}
        {trackId && (
          <SoundsLike trackId={trackId} onTake={({ tonic, scale }) => put({ key: { tonic, scale, classes: [] } })} />
        )}
        <KeyChanges
          changes={values.key_changes}
          first={key}
          here={barAndBeat(cursor_s, song).bar}
          tuning={tuning}
          onChange={(key_changes) => put({ key_changes })}
        />
        <TuningFields values={values} known={song.temperament} sounds={sounds} put={put} onOtherSteps={everyStep} />
        <TempoFields values={values} put={put} onKeys={takeKeys} />
        <KeyMeaning change={moved ? change : null} trouble={moved ? trouble : ""} />
        <EndRow onClose={onClose} />
      </Grid>
    </Window>
  );
}
