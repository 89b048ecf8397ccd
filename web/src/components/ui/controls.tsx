/** The few controls everything is made of. */

import { Button as AriaButton, Input } from "react-aria-components";
import styled, { css } from "styled-components";

const control = css`
  font: inherit;
  color: var(--ink);
  background: var(--control);
  border: 1px solid var(--edge);
  border-radius: 6px;
  min-height: 28px;
  padding: 2px 10px;
`;

const focus = css`
  &:focus-visible,
  &[data-focus-visible] {
    outline: 2px solid var(--select);
    outline-offset: 1px;
  }
`;

export const Button = styled(AriaButton)`
  ${control}
  ${focus}
  cursor: pointer;
  white-space: nowrap;
  transition: background 0.12s;
  &[data-hovered] {
    background: var(--control-over);
  }
  &[data-disabled] {
    opacity: 0.45;
    cursor: default;
  }
  &[aria-pressed="true"] {
    background: var(--ink);
    color: var(--panel-solid);
    border-color: var(--ink);
  }
`;

export const MainButton = styled(Button)`
  background: var(--tuned);
  color: var(--on-tuned);
  border-color: var(--tuned);
  font-weight: 600;
  &[data-hovered] {
    background: var(--tuned-over);
  }
`;

/** A row or heading that can be pressed, without a button's looks. */
export const PlainButton = styled(AriaButton)`
  font: inherit;
  color: inherit;
  text-align: left;
  background: none;
  border: 0;
  border-radius: 7px;
  padding: 0;
  cursor: pointer;
  ${focus}
`;

export const Field = styled(Input)`
  ${control}
  ${focus}
  cursor: text;
  padding: 2px 8px;
  width: 100%;
  font-variant-numeric: tabular-nums;
`;

export const Panel = styled.section`
  background: var(--panel);
  border: 1px solid var(--edge);
  border-radius: 10px;
  overflow: hidden;
  display: flex;
  flex-direction: column;
  min-height: 0;
  @media print {
    display: block;
    overflow: visible;
    border: 0;
    background: none;
  }
`;

export const Title = styled.h2`
  margin: 0;
  padding: 8px 12px 6px;
  font-size: 13px;
  font-weight: 650;
  color: var(--muted);
`;

/** For assistive technology alone. */
export const unseen = css`
  position: absolute;
  clip-path: inset(50%);
`;

export const Unseen = styled.span`
  ${unseen}
`;

export const UnseenTitle = styled.h2`
  ${unseen}
`;

export const Quiet = styled.span`
  color: var(--muted);
`;

const Group = styled.div`
  display: inline-flex;
  & button {
    border-radius: 0;
    margin-left: -1px;
  }
  & button:first-child {
    border-radius: 6px 0 0 6px;
  }
  & button:last-child {
    border-radius: 0 6px 6px 0;
  }
`;

/** One of a few, as neighbouring buttons. */
export function Segments<T extends string>(props: {
  label: string;
  options: readonly (readonly [T, string])[];
  value: T | null;
  disabled?: boolean;
  onChange: (value: T) => void;
}) {
  return (
    <Group role="group" aria-label={props.label}>
      {props.options.map(([value, text]) => (
        <Button
          key={value}
          aria-pressed={props.value === value}
          isDisabled={props.disabled ?? false}
          onPress={() => props.onChange(value)}
        >
          {text}
        </Button>
      ))}
    </Group>
  );
}
