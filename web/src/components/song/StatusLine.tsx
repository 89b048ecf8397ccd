import styled from "styled-components";
import { SheetHint } from "../sheet/SheetHint";
import { Message } from "../ui/Page";
import { useEditor } from "../../session/useStore";

/** Under everything: always there, so that what it says moves nothing and lies over nothing. */
const Line = styled.div`
  display: flex;
  align-items: center;
  gap: 16px;
  min-height: 24px;
  padding: 0 8px;
  font-size: 13px;
  & > :last-child {
    margin-left: auto;
  }
  & button,
  & label {
    min-height: 22px;
    padding-block: 0;
  }
  @media print {
    display: none;
  }
`;

/** What the next click or key does, and what came of the last one. */
export function StatusLine() {
  const sheet = useEditor((s) => s.panel === "sheet");
  return (
    <Line>
      {sheet && <SheetHint />}
      <Message />
    </Line>
  );
}
