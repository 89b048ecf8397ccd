import { type RefObject, useEffect, useState } from "react";
import styled from "styled-components";
import { LANE_RANGES, layLanes, withLane } from "../../geometry/viewport";
import { remember } from "../../session/remembered";
import { useEditor } from "../../session/useStore";

const Border = styled.div`
  position: absolute;
  left: 0;
  right: 0;
  height: 7px;
  cursor: row-resize;
  touch-action: none;
  outline: none;
  &:hover::after,
  &:focus-visible::after {
    content: "";
    position: absolute;
    inset: 2px 0;
    background: var(--select);
  }
`;
const STEP = 8;
const NAMES = { air: "Height of the air lane", level: "Height of the level lane" } as const;

/** Borders of the air and level lanes, dragged or moved by ↑ and ↓; kept for the next visit. */
export function LaneBorders({ frame }: { frame: RefObject<HTMLDivElement | null> }) {
  const [size, setSize] = useState({ width: 0, height: 0 });
  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    const watch = new ResizeObserver(() => setSize({ width: element.clientWidth, height: element.clientHeight }));
    watch.observe(element);
    return () => watch.disconnect();
  }, [frame]);
  if (size.height === 0) return null;
  return (
    <>
      <LaneBorder lane="air" size={size} />
      <LaneBorder lane="level" size={size} />
    </>
  );
}

function LaneBorder({ lane, size }: { lane: "air" | "level"; size: { width: number; height: number } }) {
  const sizes = useEditor((s) => s.laneSizes);
  const lanes = layLanes(size.width, size.height, sizes);
  const { top, height } = lanes[lane];
  const make = (next: number): void => remember({ laneSizes: withLane(sizes, lane, next) });
  const drag = (event: React.PointerEvent<HTMLElement>): void => {
    if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
    const y = event.clientY - event.currentTarget.parentElement!.getBoundingClientRect().top;
    make(top + height - y);
  };
  const turn = (event: React.KeyboardEvent): void => {
    const by = { ArrowUp: STEP, ArrowDown: -STEP }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    make(height + by);
  };
  return (
    <Border
      role="separator"
      tabIndex={0}
      aria-orientation="horizontal"
      aria-label={NAMES[lane]}
      aria-valuenow={Math.round(height)}
      aria-valuemin={LANE_RANGES[lane][0]}
      aria-valuemax={LANE_RANGES[lane][1]}
      style={{ top: top - 3 }}
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={drag}
      onKeyDown={turn}
    />
  );
}
