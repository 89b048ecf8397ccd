import styled from "styled-components";

/** A line of tools over a view. */
export const ToolLine = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 5px;
  padding: 3px 7px;
  border-bottom: 1px solid var(--edge);
  font-size: 13px;
  & .room {
    flex: 1;
  }
  & button {
    padding: 2px 7px;
  }
  & button.fold {
    padding: 2px 5px;
    color: var(--muted);
    background: none;
    border-color: transparent;
  }
`;
