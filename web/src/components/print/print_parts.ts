import styled from "styled-components";

export const Rows = styled.div`
  display: grid;
  grid-template-columns: 130px 1fr;
  gap: 9px 12px;
  align-items: center;
  width: 560px;
  max-width: 86vw;
  & .end {
    grid-column: 1 / 3;
    display: flex;
    justify-content: flex-end;
    gap: 8px;
    align-items: center;
    flex-wrap: wrap;
  }
  & .line {
    display: flex;
    gap: 10px;
    align-items: center;
    flex-wrap: wrap;
  }
  & a {
    color: var(--tuned);
    font-weight: 600;
  }
`;
