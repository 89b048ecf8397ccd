import { useState } from "react";
import { FileTrigger } from "react-aria-components";
import type { KeysOut, Temperament, TemperamentOut } from "../../../document/schema";
import { sungWords } from "../../../document/track/song_words";
import { readScala } from "../../../commands/song/song_keys";
import { useEditor } from "../../../session/useStore";
import { Button, Field, Quiet } from "../../ui/controls";
import { Picker } from "../../ui/Picker";

export interface TuningValues {
  temperament: Temperament;
  reference_key: number;
  reference_hz: string;
}

const SCALA = "scala";

/** How steps are laid, and which note has which frequency. */
export function TuningFields(props: {
  values: TuningValues;
  /** the song's own, whose file need not be chosen again */
  known: TemperamentOut;
  sounds: KeysOut | null;
  put: (change: Partial<TuningValues>) => void;
  /** a scale has not twelve steps to its octave: those with names fit no more */
  onOtherSteps: () => void;
}) {
  const { values, known, put } = props;
  const scales = useEditor((s) => s.scales);
  const [told, setTold] = useState({ scale: "", mapping: "" });
  const fromFile = values.temperament.name === SCALA;
  const name = scales?.references.find(({ key }) => key === values.reference_key)?.name ?? "A4";
  const load = async (what: "scale" | "mapping", file: File): Promise<void> => {
    const read = await readScala(file, what);
    if (!read) return;
    setTold({ ...told, [what]: read.words });
    const text = what === "scale" ? { scl: read.text } : { kbm: read.text };
    put({ temperament: { ...values.temperament, name: SCALA, ...text } });
    if (what === "scale" && !read.twelve) props.onOtherSteps();
  };
  const title = told.scale || (known.name === SCALA ? known.title : "");
  return (
    <>
      <span>Tuning</span>
      <span className="pair wrap">
        <Picker
          label="Tuning"
          options={(scales?.temperaments ?? []).map(({ name: id, words }) => [id, words])}
          value={values.temperament.name}
          onChange={(id) => put({ temperament: { name: id as Temperament["name"] } })}
        />
        {fromFile && <ScalaFile what="scale" types={[".scl"]} onFile={(file) => void load("scale", file)} />}
        {fromFile && title && (
          <ScalaFile what="mapping" types={[".kbm"]} onFile={(file) => void load("mapping", file)} />
        )}
        {fromFile && (
          <Quiet>{[title, told.mapping || (known.mapped ? "with a keyboard mapping" : "")].join(" ")}</Quiet>
        )}
      </span>
      <label htmlFor="song-reference_hz">Reference</label>
      <span className="pair">
        <Picker
          label="Reference note"
          options={(scales?.references ?? []).map((one) => [String(one.key), one.name])}
          value={String(values.reference_key)}
          onChange={(key) => put({ reference_key: Number(key) })}
        />
        <Field
          id="song-reference_hz"
          inputMode="decimal"
          value={values.reference_hz}
          aria-label={`Reference ${name} in Hz`}
          onChange={(event) => put({ reference_hz: event.target.value })}
        />
        <span>Hz</span>
      </span>
      <Quiet className="wide">{props.sounds ? sungWords(props.sounds) : "…"}</Quiet>
    </>
  );
}

function ScalaFile(props: { what: "scale" | "mapping"; types: string[]; onFile: (file: File) => void }) {
  return (
    <FileTrigger acceptedFileTypes={props.types} onSelect={(files) => files?.[0] && props.onFile(files[0])}>
      <Button>{props.what === "scale" ? "Scale (.scl)…" : "Keyboard (.kbm)…"}</Button>
    </FileTrigger>
  );
}
