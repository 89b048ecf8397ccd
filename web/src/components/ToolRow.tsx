import styled from "styled-components";
import { useEditor } from "../hooks/useStore";
import { showWindow, takeTool } from "../hooks/view";
import type { WindowName } from "../document/store";
import { showAirAs } from "../hooks/air";
import { Button, Choice, Segments } from "./ui";

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
  & select {
    width: 128px;
  }
`;

/** Tools of the sheet. */
export function ToolRow() {
  const tool = useEditor((s) => s.tool);
  const airAs = useEditor((s) => s.airAs);
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
      <span className="room" />
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
