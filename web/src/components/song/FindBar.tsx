import { useMemo, useState } from "react";
import styled from "styled-components";
import { useShallow } from "zustand/react/shallow";
import { found, goToFound, selectFound, showFind } from "../../commands/lyrics/finding";
import { useEditor } from "../../session/useStore";
import { Button, Field, Quiet } from "../ui/controls";
import { ToolLine } from "../ui/ToolLine";

const Row = styled(ToolLine)`
  & input {
    width: 200px;
  }
`;

/** Search, in the place of the tools: Enter goes to the next, Shift+Enter to the one before, Esc leaves. */
export function FindBar() {
  const [typed, setTyped] = useState("");
  const searched = useEditor(
    useShallow(({ content, song, view, syllables }) => ({ content, song, times: view.times, syllables })),
  );
  const selection = useEditor((s) => s.selection);
  const notes = useMemo(() => found(typed, searched), [typed, searched]);
  const at = notes.findIndex((note) => selection.has(note.id));
  const leave = (): void => {
    showFind(false);
    document.querySelector<HTMLElement>("[role=application]")?.focus();
  };
  return (
    <Row role="search">
      <Field
        autoFocus
        aria-label="Find words, pitches, flags or bars"
        placeholder="love, G#4, bar 16, flag"
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === "Enter") goToFound(typed, event.shiftKey ? -1 : 1);
          if (event.key === "Escape") leave();
        }}
      />
      <Quiet aria-live="polite">
        {typed.trim() === ""
          ? ""
          : notes.length === 0
            ? "not found"
            : `${at >= 0 ? `${at + 1} of ` : ""}${notes.length}`}
      </Quiet>
      <Button isDisabled={notes.length === 0} onPress={() => goToFound(typed, -1)} aria-label="The one before">
        ‹
      </Button>
      <Button isDisabled={notes.length === 0} onPress={() => goToFound(typed, 1)} aria-label="The next one">
        ›
      </Button>
      <Button
        isDisabled={notes.length === 0}
        onPress={() => {
          selectFound(typed);
          leave();
        }}
      >
        Choose all
      </Button>
      <Button onPress={leave} aria-label="Close the search">
        ✕
      </Button>
    </Row>
  );
}
