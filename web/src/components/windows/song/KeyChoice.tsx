import styled from "styled-components";
import type { TuningOut } from "../../../document/schema";
import { useEditor } from "../../../session/useStore";
import { CheckBox } from "../../ui/CheckBox";
import { Picker } from "../../ui/Picker";

export interface ChosenKey {
  tonic: number;
  scale: string;
  classes: number[];
}

const OWN = "custom";
const EVERY = "chromatic";

const Steps = styled.span`
  display: flex;
  flex-wrap: wrap;
  gap: 2px 8px;
  max-width: 560px;
  max-height: 108px;
  overflow: auto;
  font-size: 12px;
`;

/** Whether a scale can be chosen in a tuning: those with names have twelve steps to their octave. */
export function fitting(key: ChosenKey, tuning: TuningOut | undefined): ChosenKey {
  if (!tuning || tuning.twelve) return key;
  if (key.scale !== OWN) return { ...key, scale: EVERY, classes: [] };
  return { ...key, classes: key.classes.filter((step) => step < tuning.steps) };
}

/** A tonic and a scale, in a tuning. */
export function KeyPickers(props: {
  /** what it is the key of, before the labels; empty for that of the song */
  of: string;
  value: ChosenKey;
  tuning: TuningOut | undefined;
  onChange: (key: ChosenKey) => void;
}) {
  const { value, tuning, onChange } = props;
  const scales = useEditor((s) => s.scales?.scales) ?? [];
  const twelve = tuning?.twelve ?? true;
  const named = scales.filter(({ name }) => twelve || name === EVERY);
  const tonics = scales.find(({ name }) => name === value.scale)?.tonics ?? scales[0]?.tonics ?? [];
  const label = (name: string): string => (props.of ? `${name} of ${props.of}` : name);
  return (
    <>
      <Picker
        label={label("Tonic")}
        options={tonics.map((name, i) => [String(i), name])}
        value={String(value.tonic)}
        onChange={(tonic) => onChange({ ...value, tonic: Number(tonic) })}
      />
      <Picker
        label={label("Scale")}
        options={[
          ...named.map(({ name }) => [name, name === EVERY && !twelve ? "every step" : name] as const),
          [OWN, twelve ? "notes of your own" : "steps of your own"],
        ]}
        value={value.scale}
        onChange={(scale) => onChange({ ...value, scale, classes: scale === OWN ? allowedNow(value, tuning) : [] })}
      />
    </>
  );
}

/** The steps that a scale allows, to go on from; none where it allows all. */
function allowedNow({ scale }: ChosenKey, tuning: TuningOut | undefined): number[] {
  if (!tuning || scale === EVERY) return [];
  return [...new Set(tuning.lines.filter((line) => line.allowed).map((line) => line.step))].sort((a, b) => a - b);
}

/** The steps of a period, to be chosen by hand; nothing unless they are. */
export function OwnSteps({ value, tuning, onChange }: Omit<Parameters<typeof KeyPickers>[0], "of">) {
  if (value.scale !== OWN || !tuning) return null;
  const put = (step: number, on: boolean): void =>
    onChange({ ...value, classes: on ? [...value.classes, step] : value.classes.filter((one) => one !== step) });
  return (
    <Steps role="group" aria-label="Notes of the scale">
      {namesOfSteps(tuning).map((name, step) => (
        <CheckBox key={step} checked={value.classes.includes(step)} onChange={(on) => put(step, on)}>
          {name}
        </CheckBox>
      ))}
    </Steps>
  );
}

/** Names of the steps of a period, without their octave. */
function namesOfSteps({ steps, lines }: TuningOut): string[] {
  const names: string[] = Array.from({ length: steps }, () => "");
  for (const line of lines) names[line.step] ||= line.name.replace(/−?\d+$/, "");
  return names;
}
