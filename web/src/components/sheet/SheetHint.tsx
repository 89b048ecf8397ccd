import styled from "styled-components";
import { makeOfStretch } from "../../commands/notes/air";
import { letFollow, pinCursor, takePinsAway } from "../../commands/notes/timing";
import { useEditor } from "../../session/useStore";
import { drawExact, drawOnLines } from "../../session/view";
import { CheckBox } from "../ui/CheckBox";
import { Button } from "../ui/controls";

const Hint = styled.div`
  display: flex;
  gap: 10px;
  align-items: center;
  color: var(--muted);
`;

const TOOL_HINTS = {
  select: "",
  time: "Drag a note or one of its ends: Shift by 1 ms, Ctrl onto the grid.",
  draw: "Draw a pitch over notes; Alt draws straight.",
  rub: "Drag over what was drawn, or over a tuned note, to have the voice back as it was.",
  level: "Drag along the level lane for a stretch; its cap goes up and down, its ends along.",
};

/** What the time tool takes along, and what holds still. */
function TimeChoices() {
  const follows = useEditor((s) => s.timeFollows);
  const pins = useEditor((s) => s.content?.pins.length ?? 0);
  return (
    <>
      <CheckBox checked={follows} onChange={letFollow}>
        The rest follows
      </CheckBox>
      <Button onPress={pinCursor} aria-label="Pin at the cursor">
        Pin (O)
      </Button>
      {pins > 0 && <Button onPress={takePinsAway}>Unpin all</Button>}
    </>
  );
}

/** How what is drawn goes. */
function DrawChoices() {
  const exact = useEditor((s) => s.exactLine);
  const onLines = useEditor((s) => s.onLines);
  return (
    <>
      <CheckBox checked={onLines} onChange={drawOnLines}>
        On the lines
      </CheckBox>
      <CheckBox checked={exact} onChange={drawExact}>
        Exact line
      </CheckBox>
    </>
  );
}

/** What the next click or key does. */
export function SheetHint() {
  const tool = useEditor((s) => s.tool);
  const splitting = useEditor((s) => s.sketch?.kind === "split");
  const stretch = useEditor((s) => s.sketch?.kind === "stretch" && s.sketch.done);
  const previewing = useEditor((s) => s.preview !== null);
  if (stretch) {
    return (
      <Hint role="group" aria-label="The marked stretch">
        This stretch is
        <Button onPress={() => void makeOfStretch("make_note")}>a note</Button>
        <Button onPress={() => void makeOfStretch("add_air")}>air</Button>
        Esc leaves it.
      </Hint>
    );
  }
  const hint = splitting
    ? "Click or press X to split here; Alt takes the very place, Esc leaves it."
    : previewing
      ? "Preview: nothing is changed yet."
      : TOOL_HINTS[tool];
  if (!hint) return null;
  return (
    <Hint>
      {hint}
      {hint === TOOL_HINTS.time && <TimeChoices />}
      {hint === TOOL_HINTS.draw && <DrawChoices />}
    </Hint>
  );
}
