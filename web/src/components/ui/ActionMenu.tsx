import { memo } from "react";
import { Menu, MenuItem, MenuTrigger } from "react-aria-components";
import styled from "styled-components";
import { Button } from "./controls";
import { FloatingSheet, floatingRow } from "./floating";

const List = styled(Menu)`
  padding: 4px;
  outline: none;
  font-size: 13px;
`;

const Item = styled(MenuItem)`
  ${floatingRow}
`;

export type Action = readonly [text: string, act: () => void];

/** A button that offers things to do; nothing happens until one is chosen. */
export const ActionMenu = memo(function ActionMenu(props: {
  label: string;
  text: string;
  disabled?: boolean;
  actions: readonly Action[];
}) {
  return (
    <MenuTrigger>
      <Button aria-label={props.label} isDisabled={props.disabled ?? false}>
        {props.text}
      </Button>
      <FloatingSheet placement="bottom end" offset={4}>
        <List aria-label={props.label} onAction={(key) => props.actions[Number(key)]?.[1]()}>
          {props.actions.map(([text], index) => (
            <Item key={text} id={index} textValue={text}>
              {text}
            </Item>
          ))}
        </List>
      </FloatingSheet>
    </MenuTrigger>
  );
});
