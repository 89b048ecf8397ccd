import styled from "styled-components";
import { KEYS } from "../../commands/keys";
import { useEditor } from "../../session/useStore";
import { showHelp } from "../../session/view";
import { Button } from "../ui/controls";
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

export function HelpWindow() {
  const open = useEditor((s) => s.help);
  return (
    <Window title="Keys" open={open} onClose={() => showHelp(false)}>
      <List>
        {KEYS.map(({ shown, words }) => (
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
