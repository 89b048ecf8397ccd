import { useEffect, useState } from "react";
import { FileTrigger, Label, TextArea, TextField } from "react-aria-components";
import styled from "styled-components";
import { linesFor, loadSyllables } from "../../../commands/lyrics/syllables";
import { setLanguage, setWords, wordsText } from "../../../commands/song/phrases";
import { useEditor } from "../../../session/useStore";
import { Button, MainButton, Quiet } from "../../ui/controls";
import { Picker } from "../../ui/Picker";
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

const Sources = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  padding-top: 10px;
`;

const GUESS = "guess";
const NAMES = new Intl.DisplayNames(["en"], { type: "language" });
const named = (code: string): string => NAMES.of(code) ?? code;
const option = (code: string): readonly [string, string] => [code, named(code)];

const End = styled.div`
  display: flex;
  justify-content: flex-end;
  gap: 8px;
  padding-top: 12px;
`;

/** What is sung, typed, pasted or from a file: one line a phrase, or lines that are laid on the phrases. */
export function WordsWindow({ onClose }: { onClose: () => void }) {
  const phrases = useEditor((s) => s.analysis?.phrases.length) ?? 0;
  const [text, setText] = useState(wordsText);
  const lines = text === "" ? 0 : text.trimEnd().split("\n").length;
  const language = useEditor((s) => s.song?.language ?? "");
  const guessed = useEditor((s) => s.language);
  const languages = useEditor((s) => s.languages);
  useEffect(() => void loadSyllables(), []); // which languages there are
  const [picked, setPicked] = useState<string | null>(null);
  const lay = async (from: Blob): Promise<void> => {
    const found = await linesFor(from);
    if (found !== null) setText(found);
  };
  const take = async (): Promise<void> => {
    if (picked !== null && picked !== language) await setLanguage(picked);
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
      <Sources>
        <FileTrigger
          acceptedFileTypes={[".txt", ".lrc", ".mid", ".midi"]}
          onSelect={(files) => {
            const [file] = files ?? [];
            if (file) void lay(file);
          }}
        >
          <Button>From a file…</Button>
        </FileTrigger>
        <Button isDisabled={text.trim() === ""} onPress={() => void lay(new Blob([text]))}>
          Lay on the phrases
        </Button>
        <Picker
          label="Language"
          options={[[GUESS, guessed ? `as it looks: ${named(guessed)}` : "as it looks"], ...languages.map(option)]}
          value={(picked ?? language) || GUESS}
          onChange={(chosen) => setPicked(chosen === GUESS ? "" : chosen)}
        />
      </Sources>
      <End>
        <Button onPress={onClose}>Cancel</Button>
        <MainButton onPress={() => void take()}>Save</MainButton>
      </End>
    </Window>
  );
}
