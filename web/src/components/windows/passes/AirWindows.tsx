import { useState } from "react";
import type { Operation } from "../../../document/track/model";
import { signed } from "../../../document/music/pitch_names";
import type { AirOut, PreviewOut } from "../../../document/schema";
import { showAir } from "../../../commands/notes/air";
import { type ReachName, useReach } from "../../../commands/notes/reach";
import { clearBreathsOfStack } from "../../../commands/stack";
import { useEditor } from "../../../session/useStore";
import { showWindow } from "../../../session/view";
import { Found, Line, ReachChoice, TakeLine, useTried } from "../PassParts";
import { SideWindow } from "../SideWindow";
import { CheckBox } from "../../ui/CheckBox";
import { Button, PlainButton, Quiet } from "../../ui/controls";
import { ValueRow } from "../../ui/ValueRow";

function useReachChoice(): [ReachName, (reach: ReachName) => void, boolean] {
  const some = useEditor((s) => s.selection.size + s.airSelection.size > 0);
  const [reach, setReach] = useState<ReachName>(some ? "selection" : "track");
  return [reach === "selection" && !some ? "track" : reach, setReach, some];
}

/** Events whose level a preview changes, with the dB by which it does. */
function changedAir(now: AirOut[], tried: PreviewOut): { event: AirOut; text: string }[] {
  const before = new Map(now.map((event) => [event.id, event]));
  return tried.air
    .filter(
      (event) => before.get(event.id)?.change_db !== event.change_db || before.get(event.id)?.muted !== event.muted,
    )
    .map((event) => ({
      event,
      text: `${event.start_s.toFixed(2)} s: ${event.muted ? "silent" : `${signed(event.change_db, 1)} dB`}`,
    }));
}

/** Harsh sibilants, brought nearer to the usual one. */
export function SoftenWindow() {
  const [reach, setReach, some] = useReachChoice();
  const [over, setOver] = useState(6);
  const [to, setTo] = useState(3);
  const air = useEditor((s) => s.content?.air) ?? [];
  const chosen = useReach(reach);
  const operation: Operation | null = chosen && {
    type: "soften_harsh",
    note_ids: reach === "track" ? [] : chosen.noteIds,
    air_ids: chosen.airIds,
    over_db: over,
    to_db: Math.min(to, over),
  };
  const tried = useTried(operation);
  const found = tried ? changedAir(air, tried) : null;
  return (
    <SideWindow title="Soften harsh sibilants" onClose={() => showWindow(null)}>
      <Quiet>
        Finds sibilants that stand out above 5 kHz against the vowels around them, more than is usual in this track.
        Nothing else changes.
      </Quiet>
      <ReachChoice selection={some} value={reach} onChange={setReach} />
      <ValueRow label="Harsh over" unit="dB" value={over} min={0} max={18} step={0.5} onCommit={setOver} />
      <ValueRow
        label="Bring to"
        unit="dB"
        value={Math.min(to, over)}
        min={-12}
        max={over}
        step={0.5}
        onCommit={setTo}
      />
      <Quiet>Both count from the usual sibilant.</Quiet>
      {found && (
        <p aria-live="polite">
          {found.length === 0 ? "No sibilant is harsh here." : `${found.length} of them get softer:`}
        </p>
      )}
      {found && found.length > 0 && (
        <Found aria-label="Sibilants that change">
          {found.map(({ event, text }) => (
            <li key={event.id}>
              <PlainButton onPress={() => showAir(event)}>{text}</PlainButton>
            </li>
          ))}
        </Found>
      )}
      <TakeLine operation={operation} nothing={!found || found.length === 0} />
    </SideWindow>
  );
}

/** All breaths at once. */
export function BreathsWindow() {
  const [reach, setReach, some] = useReachChoice();
  const [level, setLevel] = useState(-6);
  const [gone, setGone] = useState(false);
  const air = useEditor((s) => s.content?.air) ?? [];
  const chosen = useReach(reach);
  const operation: Operation | null = chosen && {
    type: "set_breaths",
    note_ids: reach === "track" ? [] : chosen.noteIds,
    air_ids: chosen.airIds,
    values: { level_db: gone ? 0 : level, muted: gone },
  };
  const tried = useTried(operation);
  const found = tried ? changedAir(air, tried) : null;
  return (
    <SideWindow title="Breaths" onClose={() => showWindow(null)}>
      <ReachChoice selection={some} value={reach} onChange={setReach} />
      <ValueRow
        label="Level"
        unit="dB"
        value={level}
        min={-30}
        max={12}
        step={0.5}
        disabled={gone}
        onCommit={(next) => setLevel(Math.min(Math.max(next, -60), 12))}
      />
      <CheckBox checked={gone} onChange={setGone}>
        Remove them, with natural fades
      </CheckBox>
      {found && (
        <p aria-live="polite">{found.length === 1 ? "1 breath changes." : `${found.length} breaths change.`}</p>
      )}
      <TakeLine operation={operation} nothing={!found || found.length === 0} />
      <Quiet>In a stack, breaths of many voices pile up: keep the lead’s and take out the others’.</Quiet>
      <Line>
        <Button onPress={() => void clearBreathsOfStack()}>Remove breaths of doubles and harmonies</Button>
      </Line>
    </SideWindow>
  );
}
