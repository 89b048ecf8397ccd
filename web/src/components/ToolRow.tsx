import styled from "styled-components";
import { useEditor } from "../hooks/useStore";
import { showWindow, takeTool } from "../hooks/view";
import { Button, Quiet, Segments } from "./ui";

const Row = styled.div`
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 4px 8px;
  border-bottom: 1px solid var(--edge);
  font-size: 13px;
  & .room {
    flex: 1;
  }
  & .hint {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    min-width: 0;
  }
`;

const HINTS = {
  select: "",
  draw: "Draw a pitch over notes. Shift keeps the voice's fine movement, Alt draws straight.",
  rub: "Drag along a hand curve to take it away.",
};

/** Tools of the sheet. */
export function ToolRow() {
  const tool = useEditor((s) => s.tool);
  const splitting = useEditor((s) => s.mark?.kind === "split");
  const previewing = useEditor((s) => s.preview !== null);
  const hint = splitting
    ? "Click or press X to split here; Alt takes the very place, Esc leaves it."
    : previewing
      ? "Preview: nothing is changed yet."
      : HINTS[tool];
  return (
    <Row role="toolbar" aria-label="Sheet tools">
      <Segments
        label="Tool"
        options={[
          ["select", "Select"],
          ["draw", "Draw (D)"],
          ["rub", "Rub out (R)"],
        ]}
        value={tool}
        onChange={(next) => takeTool(next)}
      />
      <Quiet className="hint">{hint}</Quiet>
      <span className="room" />
      <Button onPress={() => showWindow("pass")}>Tune pass…</Button>
      <Button onPress={() => showWindow("recut")}>More or fewer notes…</Button>
    </Row>
  );
}
