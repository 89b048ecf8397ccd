import { useEffect, useRef } from "react";
import styled from "styled-components";
import { drawOutline } from "../../drawing/marks/outline";
import { DAYLIGHT, NIGHT } from "../../drawing/theme";
import type { TrackOut } from "../../document/schema";
import { useOutline, useProgress, useSeen } from "../../hooks/track_facts";
import { useEditor } from "../../session/useStore";

const Canvas = styled.canvas`
  display: block;
  width: 100%;
  height: 26px;
`;

/** The sound of a whole track in a row; once it is in sight, how far the track is is asked as well. */
export function TrackOutline({ track }: { track: TrackOut }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const seen = useSeen(canvas);
  const levels = useOutline(track.id, seen);
  useProgress(track, seen);
  const theme = useEditor((s) => (s.night ? NIGHT : DAYLIGHT));
  useEffect(() => {
    const at = canvas.current;
    const ctx = at?.getContext("2d");
    if (!at || !ctx || !levels) return;
    at.width = Math.round(at.clientWidth * window.devicePixelRatio);
    at.height = Math.round(at.clientHeight * window.devicePixelRatio);
    drawOutline(ctx, at.width, at.height, levels, theme.sung);
  }, [levels, theme]);
  return <Canvas ref={canvas} aria-hidden />;
}
