import { useState } from "react";
import type { Follow } from "../../../commands/voices/following";
import { CheckBox } from "../../ui/CheckBox";
import { Segments } from "../../ui/controls";
import { Picker } from "../../ui/Picker";
import { ValueRow } from "../../ui/ValueRow";
import { Line } from "../PassParts";

/** Our names for how closely times follow, in percent. */
const CLOSENESS: readonly [string, number][] = [
  ["Tightest", 100],
  ["Close", 85],
  ["Loose", 60],
];

/** How far a follower follows, in percent as it is shown. */
export interface Strengths {
  timing: number;
  pitch: number;
  level: number;
  movement: boolean;
  interval: NonNullable<Follow["interval"]>;
}

/** Strengths as they are shown, and as an operation takes them. */
export function useFollowStrengths(known?: Strengths): {
  values: Strengths;
  set: (values: Partial<Strengths>) => void;
  strengths: Strengths;
} {
  const [values, setValues] = useState<Strengths>(
    known
      ? {
          ...known,
          timing: Math.round(100 * known.timing),
          pitch: Math.round(100 * known.pitch),
          level: Math.round(100 * known.level),
        }
      : { timing: 85, pitch: 0, level: 0, movement: false, interval: "scale" },
  );
  const { timing, pitch, level, movement, interval } = values;
  const strengths = { timing: timing / 100, pitch: pitch / 100, level: level / 100, movement, interval };
  return { values, set: (some) => setValues({ ...values, ...some }), strengths };
}

export function FollowStrengths(props: { values: Strengths; onChange: (values: Partial<Strengths>) => void }) {
  const { values, onChange } = props;
  const strength = (label: string, name: "timing" | "pitch" | "level") => (
    <ValueRow
      label={label}
      unit="%"
      value={values[name]}
      min={0}
      max={100}
      step={1}
      onCommit={(next) => onChange({ [name]: next })}
    />
  );
  return (
    <>
      <Segments
        label="How closely times follow"
        options={CLOSENESS.map(([name, value]) => [String(value), name] as const)}
        value={String(values.timing)}
        onChange={(value) => onChange({ timing: Number(value) })}
      />
      {strength("Timing", "timing")}
      {strength("Pitch", "pitch")}
      {strength("Level", "level")}
      {values.pitch > 0 && (
        <Line>
          <CheckBox checked={values.movement} onChange={(movement) => onChange({ movement })}>
            The whole movement
          </CheckBox>
          <Picker
            label="A harmony keeps its interval in"
            options={[
              ["scale", "the scale"],
              ["semitones", "semitones"],
            ]}
            value={values.interval}
            onChange={(next) => onChange({ interval: next === "scale" ? "scale" : "semitones" })}
          />
        </Line>
      )}
    </>
  );
}
