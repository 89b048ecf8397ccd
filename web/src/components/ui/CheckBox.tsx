import type { ReactNode } from "react";
import { CheckboxButton, CheckboxField } from "react-aria-components";
import styled from "styled-components";

const Box = styled(CheckboxButton)`
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 26px;
  cursor: pointer;
  & .box {
    width: 15px;
    height: 15px;
    border: 1.5px solid var(--edge-strong);
    border-radius: 4px;
    background: var(--control);
    display: grid;
    place-items: center;
    color: var(--on-tuned);
    font-size: 11px;
    line-height: 1;
  }
  &[data-selected] .box {
    background: var(--tuned);
    border-color: var(--tuned);
  }
  &[data-focus-visible] .box {
    outline: 2px solid var(--select);
    outline-offset: 1px;
  }
`;

export function CheckBox(props: {
  checked: boolean;
  onChange: (checked: boolean) => void;
  /** what it is called where the words beside it are not enough */
  label?: string;
  children: ReactNode;
}) {
  return (
    <CheckboxField
      isSelected={props.checked}
      onChange={props.onChange}
      {...(props.label ? { "aria-label": props.label } : {})}
    >
      <Box>
        <span className="box" aria-hidden="true">
          {props.checked ? "✓" : ""}
        </span>
        <span>{props.children}</span>
      </Box>
    </CheckboxField>
  );
}
