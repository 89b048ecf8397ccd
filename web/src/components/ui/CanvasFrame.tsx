import styled from "styled-components";

/** Canvases over each other, the topmost with the focus, and a playhead. */
export const CanvasFrame = styled.div`
  position: relative;
  flex: 1;
  min-height: 0;
  overflow: hidden;
  & canvas {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    touch-action: none;
    outline: none;
  }
  &:focus-within {
    box-shadow: inset 0 0 0 2px var(--select);
  }
  & .playhead {
    position: absolute;
    top: 0;
    bottom: 0;
    left: -0.5px;
    width: 1.5px;
    background: var(--ink);
    pointer-events: none;
    will-change: transform; /* moved by the compositor, so that nothing is painted anew while playing */
  }
`;
