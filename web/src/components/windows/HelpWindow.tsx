import { useState } from "react";
import styled from "styled-components";
import { KEYS } from "../../commands/keys";
import { useEditor } from "../../session/useStore";
import { showHelp } from "../../session/view";
import { Button, Field } from "../ui/controls";
import { Window } from "../ui/Window";

const List = styled.dl`
  columns: 2;
  column-gap: 34px;
  width: min(860px, 86vw);
  margin: 0 0 14px;
  font-size: 14px;
  & div {
    display: grid;
    grid-template-columns: 128px 1fr;
    gap: 10px;
    padding: 3px 0;
    break-inside: avoid;
  }
  & dt {
    font-weight: 600;
  }
  & dd {
    margin: 0;
  }
`;

/** Words that people look for, and what stands in the list for them. */
const SAME: Readonly<Record<string, string>> = {
  s: "sibilant",
  ess: "sibilant",
  louder: "level",
  softer: "level",
  quieter: "level",
  lower: "down",
  raise: "up",
  mute: "silence",
  correct: "tune",
  pitch: "tune",
  cut: "split",
  merge: "join",
  revert: "put back",
  reset: "put back",
  original: "as sung",
  compare: "hear as sung",
  slide: "glide",
  portamento: "glide",
};

const LITTLE: readonly string[] = ["a", "an", "the"];

/** Keys whose words hold all that was typed, or what it is called here. */
function matching(typed: string): typeof KEYS {
  const typedWords = typed.toLowerCase().split(/\s+/);
  const wanted = typedWords.filter((word) => !LITTLE.includes(word) && (word.length > 1 || word in SAME));
  const fits = (text: string, word: string): boolean => text.includes(word) || text.includes(SAME[word] ?? word);
  return KEYS.filter(({ shown, words }) => wanted.every((word) => fits(`${shown} ${words}`.toLowerCase(), word)));
}

export function HelpWindow() {
  const open = useEditor((s) => s.help);
  const [typed, setTyped] = useState("");
  const found = matching(typed);
  return (
    <Window title="Keys" open={open} onClose={() => showHelp(false)}>
      <Field
        aria-label="What do you want to do?"
        placeholder="What do you want to do?"
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
      />
      <p role="status">{found.length === 0 ? "Nothing here is called that." : ""}</p>
      <List>
        {found.map(({ shown, words }) => (
          <div key={shown}>
            <dt>{shown}</dt>
            <dd>{words}</dd>
          </div>
        ))}
        <div>
          <dt>Wheel</dt>
          <dd>along the song; Ctrl zooms, Ctrl+Shift zooms pitch, Alt moves pitch</dd>
        </div>
      </List>
      <Button onPress={() => showHelp(false)}>Close</Button>
    </Window>
  );
}
