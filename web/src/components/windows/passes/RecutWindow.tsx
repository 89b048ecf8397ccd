import { useState } from "react";
import type { Operation } from "../../../document/track/model";
import styled from "styled-components";
import type { PreviewOut } from "../../../document/schema";
import { makeNoteAtCursor } from "../../../commands/notes/shaping";
import { useCuts } from "../../../commands/notes/cuts";
import { useEditor } from "../../../session/useStore";
import { showWindow } from "../../../session/view";
import { Line, TakeLine, useTried } from "../PassParts";
import { SideWindow } from "../SideWindow";
import { Button, Quiet } from "../../ui/controls";
import { ValueRow } from "../../ui/ValueRow";

const UNSURE = 0.5;

const Lost = styled.ul`
  margin: 0;
  padding-left: 18px;
  color: var(--flag);
  max-height: 120px;
  overflow: auto;
`;

function LostEdits({ tried }: { tried: PreviewOut | null }) {
  if (!tried || tried.lost.length === 0) return null;
  return (
    <>
      <p>These edits would be lost:</p>
      <Lost>
        {tried.lost.map((text) => (
          <li key={text}>{text}</li>
        ))}
      </Lost>
    </>
  );
}

function cutWords(cuts: readonly { confidence: number }[]): string {
  const unsure = cuts.filter((cut) => cut.confidence < UNSURE).length;
  return `Borders between notes that touch: ${cuts.length}, ${unsure} of them less than half sure. Fewer notes give those up first.`;
}

/** Cut the track or the selection again with more or fewer notes. */
export function RecutWindow() {
  const [amount, setAmount] = useState(0);
  const selection = useEditor((s) => s.selection);
  const now = useEditor((s) => s.content?.notes.length ?? 0);
  const operation: Operation = { type: "recut", sensitivity: amount / 10, note_ids: [...selection] };
  const tried = useTried(operation);
  const cuts = useCuts();
  const then = useEditor((s) => s.preview?.notes.length ?? s.content?.notes.length ?? 0);
  return (
    <SideWindow title="More or fewer notes" onClose={() => showWindow(null)}>
      <Quiet>
        {selection.size > 0 ? "Cuts the stretch of the selection again." : "Cuts the whole track again."} Notes that
        come out alike keep everything.
      </Quiet>
      <ValueRow
        label="Notes"
        unit="step"
        value={amount}
        min={-30}
        max={30}
        step={1}
        onCommit={(next) => setAmount(Math.min(Math.max(Math.round(next), -30), 30))}
      />
      <Quiet>{cutWords(cuts)}</Quiet>
      <p aria-live="polite">{tried && `${now} notes now, ${then} after it.`}</p>
      <LostEdits tried={tried} />
      <Button onPress={makeNoteAtCursor}>Make a note at the play position</Button>
      <TakeLine operation={operation} nothing={!tried?.changed_notes} />
    </SideWindow>
  );
}

const [LOWEST_HZ, HIGHEST_HZ, WIDTH] = [50, 1200, 1.5]; // the range that can be searched, and how wide at least
const VOICES = [
  ["Low", 50, 300],
  ["Middle", 80, 600],
  ["High", 200, 1200],
] as const;

/** Read the pitch of the chosen notes again, looking only where this voice can be. */
export function ReadAgainWindow() {
  const [[low_hz, high_hz], setRange] = useState<[number, number]>([80, 600]);
  const selection = useEditor((s) => s.selection);
  const operation: Operation | null =
    selection.size > 0 ? { type: "read_again", note_ids: [...selection], low_hz, high_hz } : null;
  const tried = useTried(operation);
  const within = (hz: number): number => Math.min(Math.max(Math.round(hz), LOWEST_HZ), HIGHEST_HZ);
  const low = (hz: number): void => {
    const next = Math.min(within(hz), HIGHEST_HZ / WIDTH);
    setRange([next, Math.max(high_hz, Math.ceil(next * WIDTH))]);
  };
  const high = (hz: number): void => {
    const next = Math.max(within(hz), LOWEST_HZ * WIDTH);
    setRange([Math.min(low_hz, Math.floor(next / WIDTH)), next]);
  };
  return (
    <SideWindow title="Read again" onClose={() => showWindow(null)}>
      <Quiet>
        {operation
          ? "Looks for the pitch of the chosen notes again, only where this voice can be. What you asked of them stays."
          : "Choose the notes that were read wrong."}
      </Quiet>
      <Line role="group" aria-label="Voice">
        {VOICES.map(([name, low, high]) => (
          <Button key={name} onPress={() => setRange([low, high])}>
            {name}
          </Button>
        ))}
      </Line>
      <ValueRow
        label="Lowest"
        unit="Hz"
        value={low_hz}
        min={LOWEST_HZ}
        max={HIGHEST_HZ / WIDTH}
        step={1}
        onCommit={low}
      />
      <ValueRow
        label="Highest"
        unit="Hz"
        value={high_hz}
        min={LOWEST_HZ * WIDTH}
        max={HIGHEST_HZ}
        step={1}
        onCommit={high}
      />
      <p aria-live="polite">
        {tried &&
          (tried.changed_notes > 0
            ? `${tried.changed_notes === 1 ? "1 note" : `${tried.changed_notes} notes`} read otherwise.`
            : "Nothing is read otherwise.")}
      </p>
      <LostEdits tried={tried} />
      <TakeLine operation={operation} nothing={!tried?.changed_notes} />
    </SideWindow>
  );
}
