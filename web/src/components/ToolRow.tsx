import styled from "styled-components";
import { useEditor } from "../hooks/useStore";
import { showWindow, takeTool } from "../hooks/view";
import type { WindowName } from "../document/store";
import { showAirAs, makeOfStretch } from "../hooks/air";
import { Button, Choice, Quiet, Segments } from "./ui";

const LEVEL_WINDOWS: [WindowName, string][] = [
  ["soften", "Soften harsh sibilants…"],
  ["breaths", "Breaths…"],
  ["even", "Even out…"],
  ["gaps", "Clear gaps…"],
  ["loudness", "Loudness…"],
];

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
  const airAs = useEditor((s) => s.airAs);
  const stretch = useEditor((s) => s.mark?.kind === "stretch" && s.mark.done);
  const hint = stretch
    ? "What is this stretch? Esc leaves it."
    : splitting
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
      {stretch && (
        <>
          <Button onPress={() => void makeOfStretch("make_note")}>Make a note</Button>
          <Button onPress={() => void makeOfStretch("add_air")}>Make air</Button>
        </>
      )}
      <Button
        aria-pressed={airAs === "spectrum"}
        aria-label="Air lane as energy over frequency"
        onPress={() => void showAirAs(airAs === "level" ? "spectrum" : "level")}
      >
        Energy (E)
      </Button>
      <Choice aria-label="Air and level" value="" onChange={(event) => showWindow(event.target.value as WindowName)}>
        <option value="">Air and level…</option>
        {LEVEL_WINDOWS.map(([name, text]) => (
          <option key={name} value={name}>
            {text}
          </option>
        ))}
      </Choice>
      <Button onPress={() => showWindow("pass")}>Tune pass…</Button>
      <Button onPress={() => showWindow("recut")}>More or fewer notes…</Button>
    </Row>
  );
}
