/** Pieces that the inspector's pages share. */

import styled from "styled-components";

export const Body = styled.div`
  padding: 2px 12px 12px;
  display: flex;
  flex-direction: column;
  gap: 3px;
  overflow: auto;
  flex: 1;
`;

export const Head = styled.div`
  display: flex;
  align-items: baseline;
  justify-content: space-between;
  & strong {
    font-size: 20px;
    font-weight: 650;
  }
`;

export const Facts = styled.dl`
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 1px 10px;
  margin: 4px 0 0;
  font-size: 13px;
  & dt {
    color: var(--muted);
  }
  & dd {
    margin: 0;
    text-align: right;
  }
  & dd.strained {
    color: var(--flag);
    font-weight: 600;
  }
  & dd.flag .meant {
    text-decoration: underline;
    text-underline-offset: 2px;
    color: var(--muted);
    font-size: 13px;
  }
  & dd.quiet {
    color: var(--muted);
  }
  & dd.flag {
    color: var(--flag);
    grid-column: 1 / 3;
    text-align: left;
  }
`;

export const Buttons = styled.div`
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 6px;
  & select,
  & button {
    width: 100%;
    text-align: center;
  }
  padding-top: 4px;
`;

export const TargetRow = styled.div`
  & [role="group"] button {
    padding: 2px 8px;
  }
  display: grid;
  grid-template-columns: 62px 1fr;
  gap: 6px;
  align-items: center;
`;

export const Fold = styled.details`
  & summary {
    cursor: pointer;
    color: var(--muted);
    padding: 2px 0;
  }
`;
