import { useEffect, useState } from "react";
import styled from "styled-components";
import { dropPreview, takePreview, tryOut } from "../hooks/previewing";
import { makeNoteAtCursor } from "../hooks/shaping";
import { useEditor } from "../hooks/useStore";
import { showWindow } from "../hooks/view";
import { SideWindow } from "./SideWindow";
import { Button, MainButton, Quiet, ValueRow } from "./ui";

const Lost = styled.ul`
  margin: 0;
  padding-left: 18px;
  color: var(--flag);
  max-height: 120px;
  overflow: auto;
`;

const Line = styled.div`
  display: flex;
  gap: 8px;
`;

/** Cut the track or the selection again with more or fewer notes. */
export function RecutWindow() {
  const [amount, setAmount] = useState(0);
  const [found, setFound] = useState<{ count: number; lost: string[] } | null>(null);
  const selection = useEditor((s) => s.selection);
  const now = useEditor((s) => s.document?.notes.length ?? 0);
  const operation = { type: "recut", sensitivity: amount / 10, note_ids: [...selection] };
  const asked = JSON.stringify(operation);
  useEffect(() => {
    void tryOut(JSON.parse(asked) as Record<string, unknown>).then((answer) =>
      setFound(answer && { count: answer.notes.length, lost: answer.lost }),
    );
  }, [asked]);
  useEffect(() => dropPreview, []);
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
      {found && <p aria-live="polite">{`${now} notes now, ${found.count} after it.`}</p>}
      {found && found.lost.length > 0 && (
        <>
          <p>These edits would be lost:</p>
          <Lost>
            {found.lost.map((text) => (
              <li key={text}>{text}</li>
            ))}
          </Lost>
        </>
      )}
      <Button onPress={makeNoteAtCursor}>Make a note at the play position</Button>
      <Line>
        <MainButton onPress={() => void takePreview(operation).then((done) => done && showWindow(null))}>
          Take it
        </MainButton>
        <Button onPress={() => showWindow(null)}>Leave</Button>
      </Line>
    </SideWindow>
  );
}
