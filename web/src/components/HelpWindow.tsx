import styled from "styled-components";
import { KEYS } from "../hooks/useKeyboard";
import { useEditor } from "../hooks/useStore";
import { showHelp } from "../hooks/view";
import { Button, Window } from "./ui";

const List = styled.dl`
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 4px 18px;
  margin: 0 0 14px;
  & dt {
    font-weight: 600;
  }
  & dd {
    margin: 0;
  }
`;

export function HelpWindow() {
  const open = useEditor((s) => s.help);
  return (
    <Window title="Keys" open={open} onClose={() => showHelp(false)}>
      <List>
        {KEYS.map(([key, what]) => (
          <div key={key} style={{ display: "contents" }}>
            <dt>{key}</dt>
            <dd>{what}</dd>
          </div>
        ))}
        <div style={{ display: "contents" }}>
          <dt>Wheel</dt>
          <dd>along the song; Ctrl zooms, Ctrl+Shift zooms pitch, Alt moves pitch</dd>
        </div>
      </List>
      <Button onPress={() => showHelp(false)}>Close</Button>
    </Window>
  );
}
