import { memo, useRef, useState } from "react";
import { Label, Slider, SliderThumb, SliderTrack } from "react-aria-components";
import styled from "styled-components";
import { STRIP, sharedValue, VALUES, type ValueName, valueText } from "../../document/track/values";
import { setValue } from "../../commands/notes/editing";
import { useNotePlace } from "../../hooks/note_place";
import { useEditor } from "../../session/useStore";

const Strip = styled.div`
  position: absolute;
  display: flex;
  gap: 2px;
  padding: 5px 6px 4px;
  user-select: none;
  background: var(--panel-solid);
  border: 1px solid var(--edge-strong);
  border-radius: 10px;
  box-shadow: 0 4px 14px rgba(0, 30, 28, 0.14);
  &[data-docked] {
    left: 62px;
    right: 4px;
    bottom: 3px;
    gap: 12px;
    padding: 1px 8px;
    box-shadow: none;
    container-type: inline-size;
  }
`;

const Fader = styled(Slider)`
  display: flex;
  flex-direction: column;
  align-items: center;
  width: 46px;
  font-size: 11px;
  &[data-orientation="horizontal"] {
    flex: 1;
    min-width: 0;
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 0 4px;
    & .track {
      grid-column: 1 / 3;
      width: auto;
      height: 15px;
      margin: 0 8px;
      &::before {
        inset: 6px -4px;
      }
    }
    & .rest {
      left: auto;
      right: auto;
      top: 2px;
      bottom: 2px;
      width: 1.5px;
    }
    & .thumb {
      left: auto;
      top: 50%;
      width: 10px;
      height: 13px;
    }
    & label,
    & .shown {
      grid-column: 1 / 3;
      text-align: center;
      overflow: hidden;
      text-overflow: ellipsis;
      line-height: 13px;
    }
    @container (min-width: 840px) {
      & label {
        grid-column: 1;
      }
      & .shown {
        grid-row: 1;
        grid-column: 2;
        text-align: right;
      }
    }
  }
  & label {
    color: var(--muted);
    white-space: nowrap;
  }
  & .shown {
    font-variant-numeric: tabular-nums;
    white-space: nowrap;
  }
  &[data-changed] .shown {
    color: var(--tuned);
    font-weight: 650;
  }
  & .track {
    position: relative;
    width: 22px;
    height: 58px;
    margin: 7px 0 8px;
    touch-action: none;
    &::before {
      content: "";
      position: absolute;
      inset: -4px 9px;
      border-radius: 2px;
      background: var(--edge-strong);
    }
  }
  & .rest {
    position: absolute;
    left: 3px;
    right: 3px;
    height: 1.5px;
    background: var(--muted);
  }
  & .thumb {
    left: 50%;
    width: 18px;
    height: 11px;
    border-radius: 4px;
    background: var(--panel-solid);
    border: 2px solid var(--tuned);
    transition: height 0.1s;
    &[data-hovered] {
      height: 14px;
    }
    &[data-focus-visible] {
      outline: 2px solid var(--select);
      outline-offset: 1px;
    }
  }
`;

/** The values of the chosen note as small faders right at it. */
export function NoteStrip() {
  const content = useEditor((s) => s.content);
  const selection = useEditor((s) => s.selection);
  const hidden = useEditor((s) => s.stripHidden);
  const busy = useEditor(
    (s) => s.drag !== null || s.sketch !== null || s.tool !== "select" || s.preview !== null || s.drawsMelody,
  );
  const notes = content?.notes.filter((note) => selection.has(note.id)) ?? [];
  const box = useRef<HTMLDivElement>(null);
  const docked = useNotePlace(box, notes.length === 1 && !busy && !hidden ? notes[0]!.id : null);
  if (notes.length !== 1 || busy || hidden) return null;
  return (
    <Strip
      ref={box}
      role="group"
      aria-label="Note strip"
      {...(docked && { "data-docked": "" })}
      style={{ visibility: "hidden" }}
    >
      {STRIP.map((name) => (
        <StripFader
          key={name}
          name={name}
          upright={!docked}
          value={sharedValue(notes, VALUES[name]) ?? VALUES[name].rest}
        />
      ))}
    </Strip>
  );
}

const StripFader = memo(function StripFader(props: { name: ValueName; value: number; upright: boolean }) {
  const { name, value, upright } = props;
  const spec = VALUES[name];
  // What the fader shows stays until the server's answer brings another value.
  const [moving, setMoving] = useState<{ to: number; from: number } | null>(null);
  const shown = moving?.from === value ? moving.to : value;
  const rest = 100 * ((spec.rest - spec.min) / (spec.max - spec.min));
  const changed = shown !== spec.rest ? { "data-changed": "" } : {};
  return (
    <Fader
      {...changed}
      orientation={upright ? "vertical" : "horizontal"}
      value={shown}
      minValue={spec.min}
      maxValue={spec.max}
      step={spec.step}
      onChange={(next) => setMoving({ to: Number(next), from: value })}
      onChangeEnd={(next) => {
        if (next !== value) void setValue(spec, Number(next));
        else setMoving(null);
      }}
    >
      <Label>{spec.label}</Label>
      <SliderTrack className="track">
        <span className="rest" style={{ [upright ? "bottom" : "left"]: `${rest}%` }} />
        <SliderThumb className="thumb" aria-label={`${spec.label} at the note`} />
      </SliderTrack>
      <span className="shown" aria-hidden>
        {valueText(shown, spec)}
      </span>
    </Fader>
  );
});
