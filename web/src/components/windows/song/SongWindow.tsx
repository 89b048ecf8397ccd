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
import { putKeyBack, useKeyChange, useScales } from "../../../commands/song/song_keys";
import { changeSong } from "../../../commands/song/songs";
import { useEditor } from "../../../session/useStore";
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
    padding-top: 8px;
  }
  & .pair {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  & .wrap {
    flex-wrap: wrap;
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

export function SongWindow({ onClose }: { onClose: () => void }) {
  const song = useEditor((s) => s.song)!;
  const sounds = useEditor((s) => s.keys);
  const trackId = useEditor((s) => s.trackId);
  const cursor_s = useEditor((s) => s.cursor_s);
  useScales();
  useEffect(() => {
    if (trackId && store.getState().keys === null) void loadKeys(trackId);
  }, [trackId]);
  const [values, setValues] = useState({
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
  });
  const put = (change: Partial<typeof values>): void => setValues((old) => ({ ...old, ...change }));
  const keys = keysOf(values, song);
  const moved = Object.keys(keys).length > 0;
  const { change, trouble } = useKeyChange(keys);
  const tuning = (change?.pitches ?? song.pitches)?.tunings[0];
  const key = fitting(values.key, tuning);
  const take = ({ tonic, scale }: KeyOut): void => put({ key: { tonic, scale, classes: [] } });
  const takeKeys = ({ tonic, scale, key_changes }: MidiTempoOut): void =>
    put({ key: { tonic: tonic ?? 0, scale: scale ?? "chromatic", classes: [] }, key_changes });
  const everyStep = (): void =>
    setValues((old) => ({
      ...old,
      key: { ...old.key, scale: "chromatic", classes: [] },
      key_changes: old.key_changes.map((one) => ({ ...one, scale: "chromatic", classes: [] })),
    }));
  const submit = async (event: SyntheticEvent): Promise<void> => {
    event.preventDefault();
    const wanted: SongChangeIn = { title: values.title, ...keysOf({ ...values, key }, song) };
    const bars = {
      tempo: Number(values.tempo),
      beats_per_bar: Number(values.beats_per_bar),
      beat_unit: Number(values.beat_unit),
      bar_one_s: Number(values.bar_one_s.replace("−", "-")),
    };
    if (JSON.stringify(values.tempo_changes) !== JSON.stringify(song.tempo_changes))
      Object.assign(wanted, { ...bars, tempo_changes: values.tempo_changes });
    const known = song.markers.map(({ bar, beat, text }): Marker => ({ bar, beat, text }));
    if (JSON.stringify(values.markers) !== JSON.stringify(known)) wanted.markers = values.markers;
    if (Object.entries(bars).some(([name, value]) => value !== song[name as keyof typeof bars])) {
      Object.assign(wanted, bars); // a tempo that was not touched stays one that nobody chose
    }
    if (await changeSong(wanted)) onClose();
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
          <>
            <Quiet>Sounds like</Quiet>
            <span className="offers">
              {sounds?.keys.slice(0, 4).map((heard) => (
                <Button key={heard.title} onPress={() => take(heard)}>
                  {`${heard.title} ${Math.round(100 * heard.confidence)} %`}
                </Button>
              ))}
              {sounds?.keys.length === 0 && <Quiet>no key stands out</Quiet>}
              {!sounds && <Listening what="key" again={() => void loadKeys(trackId)} />}
            </span>
          </>
        )}
        <KeyChanges
          changes={values.key_changes}
          first={key}
          here={barAndBeat(cursor_s, song).bar}
          tuning={tuning}
          onChange={(key_changes) => put({ key_changes })}
        />
        <TuningFields
          values={values}
          known={song.temperament}
          sungAt={sounds?.reference_hz ?? null}
          put={put}
          onOtherSteps={everyStep}
        />
        <TempoFields values={values} put={put} onKeys={takeKeys} />
        <KeyMeaning change={moved ? change : null} trouble={moved ? trouble : ""} />
        <span className="end">
          {song.earlier_key && (
            <Button onPress={() => void putKeyBack().then((done) => done && onClose())}>
              {`Put the key back: ${song.earlier_key}`}
            </Button>
          )}
          <Button onPress={onClose}>Cancel</Button>
          <MainButton type="submit">Save</MainButton>
        </span>
      </Grid>
    </Window>
  );
}
