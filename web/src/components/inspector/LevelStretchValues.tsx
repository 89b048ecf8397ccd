import { editStretch, putStretchBack } from "../../commands/notes/level_stretches";
import type { LevelStretchOut } from "../../document/track/model";
import { VALUES } from "../../document/track/values";
import { hearSelection } from "../../listening/playing";
import { CheckBox } from "../ui/CheckBox";
import { Button, Quiet } from "../ui/controls";
import { TypedField } from "../ui/TypedField";
import { ValueRow } from "../ui/ValueRow";
import { Body, Buttons, Head, TargetRow } from "./inspector_parts";

function seconds(typed: string): number {
  return Number.parseFloat(typed.replace(",", "."));
}

/** Values of the chosen level stretch. */
export function LevelStretchValues({ stretch }: { stretch: LevelStretchOut }) {
  const moment = (name: "start_s" | "end_s", label: string) => (
    <TargetRow>
      <span>{label}</span>
      <TypedField
        label={`${label} of the level stretch (s)`}
        text={`${stretch[name].toFixed(3)} s`}
        onCommit={(typed) =>
          Number.isFinite(seconds(typed)) ? editStretch(stretch, { [name]: seconds(typed) }) : Promise.resolve(false)
        }
      />
    </TargetRow>
  );
  return (
    <Body>
      <Head>
        <strong>Level stretch</strong>
        <Quiet>{`${(stretch.end_s - stretch.start_s).toFixed(2)} s`}</Quiet>
      </Head>
      {moment("start_s", "From")}
      {moment("end_s", "To")}
      <CheckBox checked={stretch.muted} onChange={(muted) => void editStretch(stretch, { muted })}>
        Silent
      </CheckBox>
      <ValueRow
        label="Level"
        unit="dB"
        value={stretch.level_db}
        min={VALUES.level_db.min}
        max={VALUES.level_db.max}
        step={VALUES.level_db.step}
        disabled={stretch.muted}
        onCommit={(level_db) => void editStretch(stretch, { level_db })}
      />
      <ValueRow
        label="Fades"
        unit="ms"
        value={stretch.fade_ms}
        min={5}
        max={200}
        step={5}
        onCommit={(next) => void editStretch(stretch, { fade_ms: Math.min(Math.max(next, 5), 200) })}
      />
      <Buttons>
        <Button onPress={hearSelection}>Hear it</Button>
        <Button onPress={putStretchBack}>Put back</Button>
      </Buttons>
    </Body>
  );
}
