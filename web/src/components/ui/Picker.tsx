import { Button as AriaButton, ListBox, ListBoxItem, Popover, Select, SelectValue } from "react-aria-components";
import styled from "styled-components";
import { Button } from "./controls";

const Face = styled(Button)`
  display: flex;
  gap: 8px;
  align-items: center;
  max-width: 220px;
  & > span:first-child {
    overflow: hidden;
    text-overflow: ellipsis;
  }
` as unknown as typeof AriaButton;

const Sheet = styled(Popover)`
  background: var(--panel-solid);
  border: 1px solid var(--edge-strong);
  border-radius: 8px;
  box-shadow: 0 10px 34px rgba(0, 30, 28, 0.24);
  overflow: auto;
  min-width: var(--trigger-width);
`;

const List = styled(ListBox)`
  padding: 4px;
  outline: none;
  max-height: 50vh;
  overflow: auto;
` as unknown as typeof ListBox;

const Item = styled(ListBoxItem)`
  padding: 5px 10px;
  border-radius: 5px;
  cursor: pointer;
  outline: none;
  &[data-focused] {
    background: var(--select-wash);
  }
  &[data-selected] {
    font-weight: 650;
  }
`;

/** One of many, from a list that opens. */
export function Picker(props: {
  label: string;
  options: readonly (readonly [string, string])[];
  value: string | null;
  onChange: (value: string) => void;
}) {
  return (
    <Select
      aria-label={props.label}
      value={props.value}
      onChange={(key) => key !== null && props.onChange(String(key))}
    >
      <Face>
        <SelectValue />
        <span aria-hidden="true">▾</span>
      </Face>
      <Sheet offset={4}>
        <List>
          {props.options.map(([value, text]) => (
            <Item key={value} id={value} textValue={text}>
              {text}
            </Item>
          ))}
        </List>
      </Sheet>
    </Select>
  );
}
