import { Menu, MenuItem, MenuTrigger, Popover } from "react-aria-components";
import styled from "styled-components";
import { Button } from "./controls";

const Sheet = styled(Popover)`
  background: var(--panel-solid);
  border: 1px solid var(--edge-strong);
  border-radius: 8px;
  box-shadow: 0 10px 34px rgba(0, 30, 28, 0.24);
  overflow: auto;
  min-width: var(--trigger-width);
`;

const List = styled(Menu)`
  padding: 4px;
  outline: none;
  font-size: 13px;
`;

const Item = styled(MenuItem)`
  padding: 5px 10px;
  border-radius: 5px;
  cursor: pointer;
  outline: none;
  &[data-focused] {
    background: var(--select-wash);
  }
`;

export type Action = readonly [text: string, act: () => void];

/** A button that offers things to do; nothing happens until one is chosen. */
export function ActionMenu(props: { label: string; text: string; actions: readonly Action[] }) {
  return (
    <MenuTrigger>
      <Button aria-label={props.label}>{props.text}</Button>
      <Sheet placement="bottom end" offset={4}>
        <List aria-label={props.label} onAction={(key) => props.actions[Number(key)]?.[1]()}>
          {props.actions.map(([text], index) => (
            <Item key={text} id={index} textValue={text}>
              {text}
            </Item>
          ))}
        </List>
      </Sheet>
    </MenuTrigger>
  );
}
