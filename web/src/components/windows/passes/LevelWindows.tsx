import { useState } from "react";
import type { Operation } from "../../../document/track/model";
import { takePreview } from "../../../commands/notes/previewing";
import { type ReachName, useReach } from "../../../commands/notes/reach";
import { sourceSpan } from "../../../geometry/viewport";
import { useEditor } from "../../../session/useStore";
import { showWindow } from "../../../session/view";
import { Line, ReachChoice, TakeLine, useTried } from "../PassParts";
import { SideWindow } from "../SideWindow";
import { CheckBox } from "../../ui/CheckBox";
import { Button, Quiet, Segments } from "../../ui/controls";
import { ValueRow } from "../../ui/ValueRow";

/** Notes brought towards the part's usual level. */
export function EvenOutWindow() {
  const some = useEditor((s) => s.selection.size > 0);
  const [asked, setAsked] = useState<ReachName | null>(some ? "selection" : null);
  const [lift, setLift] = useState(50);
  const [hold, setHold] = useState(50);
  const reach = asked === "selection" && !some ? null : asked;
  const chosen = useReach(reach);
  const operation: Operation | null =
    chosen && chosen.noteIds.length > 0
      ? { type: "even_out", note_ids: chosen.noteIds, lift: lift / 100, hold: hold / 100 }
      : null;
  const tried = useTried(operation);
  const share = (next: number): number => Math.min(Math.max(next, 0), 100);
  return (
    <SideWindow title="Even out" onClose={() => showWindow(null)}>
      <Quiet>Moves notes towards the part’s usual level. Air and the noise between notes are never raised.</Quiet>
      {reach === null && <p role="status">Nothing is selected. What should be evened out?</p>}
      <ReachChoice selection={some} value={reach} onChange={setAsked} />
      <ValueRow
        label="Lift quiet"
        unit="%"
        value={lift}
        min={0}
        max={100}
        step={1}
        onCommit={(next) => setLift(share(next))}
      />
      <ValueRow
        label="Hold loud"
        unit="%"
        value={hold}
        min={0}
        max={100}
        step={1}
        onCommit={(next) => setHold(share(next))}
      />
      {chosen && (
        <Quiet aria-live="polite">
          {`Acts on ${chosen.words}${tried ? `: ${tried.changed_notes === 1 ? "1 note changes" : `${tried.changed_notes} notes change`}` : ""}.`}
        </Quiet>
      )}
      <TakeLine operation={operation} nothing={!tried || tried.changed_notes === 0} />
    </SideWindow>
  );
}

function KeptTime({ label, value, onCommit }: { label: string; value: number; onCommit: (ms: number) => void }) {
  return (
    <ValueRow
      label={label}
      unit="ms"
      value={value}
      min={0}
      max={1000}
      step={5}
      onCommit={(next) => onCommit(Math.min(Math.max(next, 0), 2000))}
    />
  );
}

function gapsText(gaps: readonly { start_s: number; end_s: number }[]): string {
  const total = gaps.reduce((sum, gap) => sum + gap.end_s - gap.start_s, 0);
  return `${gaps.length === 1 ? "1 gap" : `${gaps.length} gaps`}, ${total.toFixed(1)} s in all, framed in the level lane.`;
}

/** What lies between phrases, quieter or gone. */
export function GapsWindow() {
  const [where, setWhere] = useState<"track" | "view">("track");
  const [silent, setSilent] = useState(true);
  const [down, setDown] = useState(12);
  const [before, setBefore] = useState(80);
  const [after, setAfter] = useState(120);
  const [soft, setSoft] = useState(true);
  const [breaths, setBreaths] = useState(true);
  const view = useEditor((s) => s.view);
  const cleared = useEditor((s) => s.content?.gaps.length ?? 0);
  const [from, to] = sourceSpan(view);
  const span = where === "track" ? {} : { start_s: Math.max(0, from), end_s: Math.max(0, to) };
  const operation: Operation = {
    type: "clear_gaps",
    ...span,
    level_db: silent ? null : -down,
    keep_before_s: before / 1000,
    keep_after_s: after / 1000,
    keep_soft: soft,
    keep_breaths: breaths,
  };
  const tried = useTried(operation);
  return (
    <SideWindow title="Clear gaps" onClose={() => showWindow(null)}>
      <Segments
        label="Where"
        options={[
          ["track", "Whole track"],
          ["view", "What is in view"],
        ]}
        value={where}
        onChange={setWhere}
      />
      <CheckBox checked={silent} onChange={setSilent}>
        To silence
      </CheckBox>
      <ValueRow
        label="Down by"
        unit="dB"
        value={down}
        min={0}
        max={60}
        step={1}
        disabled={silent}
        onCommit={(next) => setDown(Math.min(Math.max(next, 0), 60))}
      />
      <Quiet>Time kept before the first sound of a phrase, and after its last:</Quiet>
      <KeptTime label="Before" value={before} onCommit={setBefore} />
      <KeptTime label="After" value={after} onCommit={setAfter} />
      <CheckBox checked={soft} onChange={setSoft}>
        Keep soft starts
      </CheckBox>
      <CheckBox checked={breaths} onChange={setBreaths}>
        Keep breaths
      </CheckBox>
      <p aria-live="polite">{tried ? gapsText(tried.gaps) : "…"}</p>
      <TakeLine operation={operation} nothing={!tried || tried.changed_air === 0} />
      {cleared > 0 && <PutGapsBack count={cleared} />}
    </SideWindow>
  );
}

function PutGapsBack({ count }: { count: number }) {
  return (
    <Line>
      <Quiet>{count === 1 ? "1 gap is cleared." : `${count} gaps are cleared.`}</Quiet>
      <Button onPress={() => void takePreview({ type: "fill_gaps_again" }).then((done) => done && showWindow(null))}>
        Put them back
      </Button>
    </Line>
  );
}
