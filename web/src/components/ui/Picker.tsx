import { Button as AriaButton, ListBox, ListBoxItem, Select, SelectValue } from "react-aria-components";
import styled from "styled-components";
import { Button } from "./controls";
import { FloatingSheet, floatingRow } from "./floating";

const Face = styled(Button)`
  display: flex;
  gap: 8px;
  align-items: center;
  max-width: 190px;
  min-width: 0;
  & > span:first-child {
    overflow: hidden;
    text-overflow: ellipsis;
  }
` as unknown as typeof AriaButton;

const List = styled(ListBox)`
  padding: 4px;
  outline: none;
  max-height: 50vh;
  overflow: auto;
` as unknown as typeof ListBox;

const Item = styled(ListBoxItem)`
  ${floatingRow}
  &[data-selected] {
    font-weight: 650;
  }
`;

/** One of many, from a list that opens. */
export function Picker(props: {
  label: string;
  options: readonly (readonly [string, string])[];
  value: string | null;
  /** shown while nothing is chosen */
  placeholder?: string;
  onChange: (value: string) => void;
}) {
  return (
    <Select
      aria-label={props.label}
      {...(props.placeholder ? { placeholder: props.placeholder } : {})}
      value={props.value}
      onChange={(key) => key !== null && props.onChange(String(key))}
    >
      <Face>
        <SelectValue />
        <span aria-hidden="true">▾</span>
      </Face>
      <FloatingSheet offset={4}>
        <List>
          {props.options.map(([value, text]) => (
            <Item key={value} id={value} textValue={text}>
              {text}
            </Item>
          ))}
        </List>
      </FloatingSheet>
    </Select>
  );
}
