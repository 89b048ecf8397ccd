import { useState } from "react";
import { Label, Slider, SliderThumb, SliderTrack } from "react-aria-components";
import styled from "styled-components";
import { readTyped } from "../../document/track/values";
import { TypedField } from "./TypedField";

const Row = styled.div`
  display: grid;
  grid-template-columns: 68px 1fr 68px;
  align-items: center;
  gap: 8px;
  min-height: 30px;
`;

const Rail = styled(Slider)`
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

interface FaderProps {
  label: string;
  value: number;
  min: number;
  max: number;
  step: number;
  disabled?: boolean;
  /** the label is read out only */
  silent?: true;
  onChange: (value: number) => void;
  onChangeEnd?: (value: number) => void;
}

/** A label and a fader along a line. */
export function Fader(props: FaderProps) {
  return (
    <Rail
      value={props.value}
      minValue={props.min}
      maxValue={props.max}
      step={props.step}
      isDisabled={props.disabled ?? false}
      onChange={(next) => props.onChange(Number(next))}
      onChangeEnd={(next) => props.onChangeEnd?.(Number(next))}
      {...(props.silent ? { "aria-label": props.label } : {})}
    >
      {!props.silent && <Label>{props.label}</Label>}
      <SliderTrack className="track">
        <SliderThumb className="thumb" aria-label={props.silent ? props.label : `${props.label} fader`} />
      </SliderTrack>
    </Rail>
  );
}

interface ValueRowProps {
  label: string;
  unit: string;
  /** null when the selection has different values */
  value: number | null;
  min: number;
  max: number;
  step: number;
  disabled?: boolean;
  /** how a value is written where it is not the number with its unit */
  text?: (value: number) => string;
  onCommit: (value: number) => void;
  /** a change by an amount, typed as “by 5” */
  onChangeBy?: (amount: number) => void;
}

/** One value as a fader and as a field that takes typed numbers. */
export function ValueRow(props: ValueRowProps) {
  return (
    <Row>
      <FaderAndField {...props} />
    </Row>
  );
}

/** The same side by side in what is around them; `silent` when the label is read out only. */
export function FaderAndField(props: ValueRowProps & { silent?: true }) {
  const { label, unit, value, min, max, step, onCommit } = props;
  const [moving, setMoving] = useState<number | null>(null);
  const shown = moving ?? value ?? min;
  const written = (of: number): string => `${String(Math.round(of * 100) / 100).replace("-", "−")} ${unit}`;
  return (
    <>
      <Fader
        label={label}
        {...(props.silent ? { silent: true } : {})}
        value={shown}
        min={min}
        max={max}
        step={step}
        disabled={props.disabled ?? false}
        onChange={setMoving}
        onChangeEnd={(next) => {
          setMoving(null);
          if (next !== value) onCommit(next);
        }}
      />
      <NumberField
        label={`${label} (${unit})`}
        text={moving === null && value === null ? "mixed" : (props.text ?? written)(shown)}
        disabled={props.disabled ?? false}
        onCommit={onCommit}
        {...(props.onChangeBy ? { onChangeBy: props.onChangeBy } : {})}
      />
    </>
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
