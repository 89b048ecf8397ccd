/** The few controls everything is made of. */

import { type ReactNode, useState } from "react";
import {
  Button as AriaButton,
  Dialog,
  Heading,
  Label,
  Modal,
  ModalOverlay,
  Slider,
  SliderThumb,
  SliderTrack,
} from "react-aria-components";
import styled, { css } from "styled-components";
import { readTyped } from "../../document/values";

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

export const Field = styled.input`
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
`;

export const Title = styled.h2`
  margin: 0;
  padding: 8px 12px 6px;
  font-size: 13px;
  font-weight: 650;
  color: var(--muted);
`;

export const Quiet = styled.span`
  color: var(--muted);
`;

const Veil = styled(ModalOverlay)`
  position: fixed;
  inset: 0;
  background: rgba(10, 30, 28, 0.35);
  display: grid;
  place-items: center;
  z-index: 20;
`;

const Sheet = styled(Modal)`
  background: var(--panel-solid);
  color: var(--ink);
  border: 1px solid var(--edge);
  border-radius: 12px;
  min-width: 380px;
  max-width: 94vw;
  max-height: 90vh;
  overflow: auto;
  box-shadow: 0 18px 60px rgba(0, 30, 28, 0.25);
  & [role="dialog"] {
    outline: none;
    padding: 20px 22px;
  }
  & h3 {
    margin: 0 0 12px;
    font-size: 18px;
  }
`;

export function Window(props: { title: string; open: boolean; onClose: () => void; children: ReactNode }) {
  return (
    <Veil isOpen={props.open} onOpenChange={(open) => !open && props.onClose()} isDismissable>
      <Sheet>
        <Dialog>
          <Heading slot="title" level={3}>
            {props.title}
          </Heading>
          {props.children}
        </Dialog>
      </Sheet>
    </Veil>
  );
}

const Row = styled.div`
  display: grid;
  grid-template-columns: 66px 1fr 62px;
  align-items: center;
  gap: 8px;
  min-height: 30px;
`;

const Fader = styled(Slider)`
  display: contents;
  & .track {
    position: relative;
    height: 22px;
    &::before {
      content: "";
      position: absolute;
      inset: 9px 0;
      height: 4px;
      border-radius: 2px;
      background: var(--edge-strong);
    }
  }
  & .thumb {
    width: 12px;
    height: 18px;
    top: 11px;
    border-radius: 4px;
    background: var(--panel-solid);
    border: 2px solid var(--tuned);
    &[data-focus-visible] {
      outline: 2px solid var(--select);
      outline-offset: 1px;
    }
  }
`;

interface ValueRowProps {
  label: string;
  unit: string;
  /** null when the selection has different values */
  value: number | null;
  min: number;
  max: number;
  step: number;
  disabled?: boolean;
  onCommit: (value: number) => void;
  /** a change by an amount, typed as “by 5” */
  onChangeBy?: (amount: number) => void;
}

/** One value as a fader and as a field that takes typed numbers. */
export function ValueRow(props: ValueRowProps) {
  const { label, unit, value, min, max, step, onCommit } = props;
  const [moving, setMoving] = useState<number | null>(null);
  const shown = moving ?? value ?? min;
  return (
    <Row>
      <Fader
        value={shown}
        minValue={min}
        maxValue={max}
        step={step}
        isDisabled={props.disabled ?? false}
        onChange={(next) => setMoving(Number(next))}
        onChangeEnd={(next) => {
          setMoving(null);
          if (next !== value) onCommit(Number(next));
        }}
      >
        <Label>{label}</Label>
        <SliderTrack className="track">
          <SliderThumb className="thumb" aria-label={`${label} fader`} />
        </SliderTrack>
      </Fader>
      <NumberField
        label={`${label} (${unit})`}
        text={
          moving === null && value === null
            ? "mixed"
            : `${String(Math.round(shown * 100) / 100).replace("-", "−")} ${unit}`
        }
        disabled={props.disabled ?? false}
        onCommit={onCommit}
        {...(props.onChangeBy ? { onChangeBy: props.onChangeBy } : {})}
      />
    </Row>
  );
}

function NumberField(props: {
  label: string;
  text: string;
  disabled: boolean;
  onCommit: (value: number) => void;
  onChangeBy?: (amount: number) => void;
}) {
  return (
    <TypedField
      label={props.label}
      text={props.text}
      disabled={props.disabled}
      onCommit={(typed) => {
        const read = readTyped(typed);
        if (!read) return false;
        if (read.relative && props.onChangeBy) props.onChangeBy(read.value);
        else props.onCommit(read.value);
        return true;
      }}
    />
  );
}

/** A field that commits on Enter or when left, and goes back to what it was on Escape. */
export function TypedField(props: {
  label: string;
  text: string;
  disabled?: boolean;
  onCommit: (typed: string) => boolean | Promise<boolean>;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const commit = (): void => {
    if (typed !== null && typed.trim() !== "" && typed !== props.text) void props.onCommit(typed);
    setTyped(null);
  };
  return (
    <Field
      aria-label={props.label}
      value={typed ?? props.text}
      disabled={props.disabled}
      onChange={(event) => setTyped(event.target.value)}
      onFocus={(event) => event.target.select()}
      onBlur={commit}
      onKeyDown={(event) => {
        if (event.key === "Enter") commit();
        if (event.key === "Escape") setTyped(null);
      }}
    />
  );
}

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
