import styled from "styled-components";

/** The rows of the panel at the left: phrases, or flags. */
export const SideList = styled.ol`
  list-style: none;
  margin: 0;
  padding: 0 6px 6px;
  overflow: auto;
  flex: 1;
`;
