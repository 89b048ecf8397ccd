/** What an engineer sets once, for every song. */

import { remember } from "../../session/remembered";
import { useEditor } from "../../session/useStore";
import { CheckBox } from "../ui/CheckBox";
import { ValueRow } from "../ui/ValueRow";
import { Fold } from "./inspector_parts";

function clamp(value: number, low: number, high: number): number {
  return Math.min(Math.max(value, low), high);
}

/** How far T pulls, how a selection is heard, and from where on a note counts as strained. */
export function OwnSettings() {
  const own = useEditor((s) => s.ownStrength);
  const leadIn_s = useEditor((s) => s.leadIn_s);
  const presses = useEditor((s) => s.hearsPresses);
  const chords = useEditor((s) => s.showsChords);
  const limit = useEditor((s) => s.strainLimit);
  return (
    <Fold>
      <summary>Your own settings</summary>
      <ValueRow
        label="T pulls"
        unit="%"
        value={Math.round(100 * own)}
        min={60}
        max={100}
        step={5}
        onCommit={(next) => remember({ ownStrength: clamp(Math.round(next), 60, 100) / 100 })}
      />
      <ValueRow
        label="Lead-in"
        unit="ms"
        value={Math.round(1000 * leadIn_s)}
        min={0}
        max={2000}
        step={100}
        onCommit={(next) => remember({ leadIn_s: clamp(Math.round(next), 0, 2000) / 1000 })}
      />
      <ValueRow
        label="Strained"
        unit="up"
        value={limit}
        min={5}
        max={100}
        step={1}
        onCommit={(next) => remember({ strainLimit: clamp(Math.round(next), 1, 100) })}
      />
      <CheckBox checked={presses} onChange={(hearsPresses) => remember({ hearsPresses })}>
        Hear what is pressed
      </CheckBox>
      <CheckBox checked={chords} onChange={(showsChords) => remember({ showsChords })}>
        Chords of the backing
      </CheckBox>
    </Fold>
  );
}
