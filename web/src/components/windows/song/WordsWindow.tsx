import { useState } from "react";
import { Label, TextArea, TextField } from "react-aria-components";
import styled from "styled-components";
import { setWords, wordsText } from "../../../commands/song/phrases";
import { useEditor } from "../../../session/useStore";
import { Button, MainButton, Quiet } from "../../ui/controls";
import { Window } from "../../ui/Window";

const Lines = styled(TextField)`
  display: grid;
  gap: 6px;
  & textarea {
    font: inherit;
    line-height: 1.6;
    width: 460px;
    max-width: 100%;
    min-height: 240px;
    color: var(--ink);
    background: var(--control);
    border: 1px solid var(--edge);
    border-radius: 6px;
    padding: 6px 10px;
  }
`;

const End = styled.div`
  display: flex;
  justify-content: flex-end;
  gap: 8px;
  padding-top: 12px;
`;

/** What is sung, typed or pasted: one line a phrase. */
export function WordsWindow({ onClose }: { onClose: () => void }) {
  const phrases = useEditor((s) => s.analysis?.phrases.length) ?? 0;
  const [text, setText] = useState(wordsText);
  const lines = text === "" ? 0 : text.trimEnd().split("\n").length;
  const take = async (): Promise<void> => {
    if (await setWords(text)) onClose();
  };
  return (
    <Window title="Words" open onClose={onClose}>
      <Lines value={text} onChange={setText}>
        <Label>One line a phrase; an empty line leaves its phrase without words.</Label>
        <TextArea spellCheck={false} />
      </Lines>
      <Quiet aria-live="polite">
        {lines > phrases ? `${lines} lines for ${phrases} phrases: the last are not used.` : `${phrases} phrases`}
      </Quiet>
      <End>
        <Button onPress={onClose}>Cancel</Button>
        <MainButton onPress={() => void take()}>Save</MainButton>
      </End>
    </Window>
  );
}
