import styled from "styled-components";
import { useEditor } from "../../hooks/useStore";
import { drawExact, showWindow, takeTool } from "../../hooks/view";
import { showAirAs } from "../../hooks/air";
import { CheckBox } from "../ui/CheckBox";
import { type Action, ActionMenu } from "../ui/ActionMenu";
import { Button, Segments } from "../ui/controls";

const LEVEL_WINDOWS: Action[] = [
  ["Soften harsh sibilants…", () => showWindow("soften")],
  ["Breaths…", () => showWindow("breaths")],
  ["Even out…", () => showWindow("even")],
  ["Clear gaps…", () => showWindow("gaps")],
  ["Loudness…", () => showWindow("loudness")],
];

const STACK_WINDOWS: Action[] = [
  ["Follow another track… (Y)", () => showWindow("follow")],
  ["Make a double…", () => showWindow("double")],
  ["Make a harmony…", () => showWindow("harmony")],
  ["Sing a melody from MIDI…", () => showWindow("melody")],
  ["Levels and places…", () => showWindow("stack")],
];

const Row = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  padding: 4px 8px;
  border-bottom: 1px solid var(--edge);
  font-size: 13px;
  & .room {
    flex: 1;
  }
  & button {
    padding: 2px 8px;
  }
`;

/** Tools of the sheet. */
export function ToolRow() {
  const tool = useEditor((s) => s.tool);
  const exact = useEditor((s) => s.exactLine);
  const airAs = useEditor((s) => s.airAs);
  return (
    <Row role="toolbar" aria-label="Sheet tools">
      <Segments
        label="Tool"
        options={[
          ["select", "Select"],
          ["time", "Time"],
          ["draw", "Draw"],
          ["rub", "Rub out"],
        ]}
        value={tool}
        onChange={(next) => takeTool(next)}
      />
      {tool === "draw" && (
        <CheckBox checked={exact} onChange={drawExact}>
          Exact line
        </CheckBox>
      )}
      <span className="room" />
      <Button
        aria-pressed={airAs === "spectrum"}
        aria-label="Air lane as energy over frequency"
        onPress={() => void showAirAs(airAs === "level" ? "spectrum" : "level")}
      >
        Energy
      </Button>
      <ActionMenu label="Air and level" text="Air and level…" actions={LEVEL_WINDOWS} />
      <Button onPress={() => showWindow("quantise")}>Quantise…</Button>
      <Button onPress={() => showWindow("pass")}>Tune pass…</Button>
      <Button onPress={() => showWindow("glaze")}>Glaze…</Button>
      <ActionMenu label="Stack" text="Stack…" actions={STACK_WINDOWS} />
      <Button onPress={() => showWindow("recut")}>Cuts…</Button>
    </Row>
  );
}
