/** What opens beside a control: the sheet it lies on and the look of its rows. */

import { Popover } from "react-aria-components";
import styled, { css } from "styled-components";

export const FloatingSheet = styled(Popover)`
  background: var(--panel-solid);
  border: 1px solid var(--edge-strong);
  border-radius: 8px;
  box-shadow: 0 10px 34px rgba(0, 30, 28, 0.24);
  overflow: auto;
  min-width: var(--trigger-width);
`;

export const floatingRow = css`
  padding: 5px 10px;
  border-radius: 5px;
  cursor: pointer;
  outline: none;
  &[data-focused] {
    background: var(--select-wash);
  }
`;
