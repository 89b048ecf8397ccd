import { useRef } from "react";
import styled, { css } from "styled-components";
import { useShallow } from "zustand/react/shallow";
import { flagsText } from "../../document/track/flags";
import type { AirOut } from "../../document/track/model";
import { noteLabel, signed } from "../../document/music/pitch_names";
import { airIn } from "../../commands/notes/air";
import { notesIn } from "../../commands/notes/editing";
import { usePlayhead } from "../../hooks/playhead";
import { useOverviewLayers, useSheetLayers } from "../../hooks/useSheet";
import { useChords } from "../../hooks/useChords";
import { useEditor } from "../../session/useStore";
import { centreViewAt } from "../../session/view";
import { CanvasFrame } from "../ui/CanvasFrame";
import { LaneBorders } from "./LaneBorders";
import { NoteStrip } from "./NoteStrip";

const WIDE = "@media (min-width: 1200px)";

/** The whole track over the sheet; in the line of tools where the list and the inspector have given them room. */
const Strip = styled.div<{ $place: OverviewPlace }>`
  position: relative;
  height: 34px;
  flex: none;
  border-bottom: 1px solid var(--edge);
  ${(p) =>
    p.$place === "over, when narrow" &&
    css`
      ${WIDE} {
        display: none;
      }
    `}
  ${(p) =>
    p.$place === "among tools, when wide" &&
    css`
      display: none;
      ${WIDE} {
        display: block;
      }
      flex: 1;
      height: 28px;
      margin: 0 12px;
      border: 1px solid var(--edge);
    `}
  & canvas {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    cursor: pointer;
  }
`;

export type OverviewPlace = "over" | "over, when narrow" | "among tools, when wide";

export function Overview({ place = "over" }: { place?: OverviewPlace }) {
  const frame = useRef<HTMLDivElement>(null);
  useOverviewLayers(frame);
  const jump = (event: React.PointerEvent): void => {
    if (event.buttons !== 1) return;
    const box = event.currentTarget.getBoundingClientRect();
    centreViewAt((event.clientX - box.left) / box.width);
  };
  return (
    <Strip ref={frame} $place={place}>
      <canvas aria-hidden="true" />
      <canvas onPointerDown={jump} onPointerMove={jump} role="img" aria-label="Overview of the whole track" />
    </Strip>
  );
}

function spokenAir(air: AirOut[]): string {
  const first = air[0]!;
  if (air.length > 1) return `${air.length} air events selected`;
  const level = first.muted ? "silent" : `${signed(first.change_db, 1)} dB`;
  return `selected: ${first.kind} at ${first.start_s.toFixed(2)} seconds, ${level}${first.harsh_db === null ? "" : ", harsh"}`;
}

export function SheetView() {
  const frame = useRef<HTMLDivElement>(null);
  const line = useRef<HTMLDivElement>(null);
  useSheetLayers(frame);
  useChords();
  usePlayhead(line);
  const song = useEditor((s) => s.song);
  const count = useEditor((s) => s.selection.size);
  const times = useEditor((s) => s.view.times);
  const first = useEditor((s) => notesIn(s)[0]);
  const air = useEditor(useShallow(airIn));
  const spoken =
    air.length > 0
      ? spokenAir(air)
      : count === 0 || !first || !song
        ? "nothing selected"
        : count > 1
          ? `${count} notes selected`
          : `selected: ${noteLabel(song, first, first.tuned_midi, times)}, ${flagsText(first) || "no flags"}`;
  return (
    <CanvasFrame ref={frame}>
      <canvas aria-hidden="true" />
      <canvas aria-hidden="true" />
      <canvas aria-hidden="true" />
      <canvas
        tabIndex={0}
        role="application"
        aria-label={`Sheet; ${spoken}. Arrow keys choose and move notes; the notes table holds the same.`}
      />
      <div className="playhead" ref={line} />
      <LaneBorders frame={frame} />
      <NoteStrip />
    </CanvasFrame>
  );
}
