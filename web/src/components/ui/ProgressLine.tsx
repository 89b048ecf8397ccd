import { ProgressBar } from "react-aria-components";
import styled from "styled-components";

const Line = styled(ProgressBar)`
  display: inline-block;
  width: 220px;
  height: 6px;
  border-radius: 3px;
  background: var(--edge);
  overflow: hidden;
  & > div {
    height: 100%;
    background: var(--tuned);
    transition: width 0.2s;
  }
`;

/** How far something has come, 0 to 1. */
export function ProgressLine(props: { label: string; share: number }) {
  return (
    <Line aria-label={props.label} value={props.share} maxValue={1}>
      <div style={{ width: `${100 * props.share}%` }} />
    </Line>
  );
}
