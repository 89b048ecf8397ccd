import { useState } from "react";
import styled from "styled-components";
import { Segments } from "../ui/controls";
import { Window } from "../ui/Window";
import { HandoffTab } from "./HandoffTab";
import { NewPrint } from "./NewPrint";
import { OtherFiles } from "./OtherFiles";
import { PrintList } from "./PrintList";

const Tabs = styled.div`
  margin-bottom: 14px;
`;

/** Fixed files of what is shown: a new one, those there are, and what other programs take. */
export function PrintWindow({ onClose }: { onClose: () => void }) {
  const [tab, setTab] = useState<"new" | "list" | "other" | "handoff">("new");
  return (
    <Window title="Print" open onClose={onClose}>
      <Tabs>
        <Segments
          label="Print window shows"
          options={[
            ["new", "New print"],
            ["list", "Prints of this song"],
            ["other", "For other programs"],
            ["handoff", "Hand-off folder"],
          ]}
          value={tab}
          onChange={setTab}
        />
      </Tabs>
      {tab === "new" && <NewPrint onClose={onClose} />}
      {tab === "list" && <PrintList onClose={onClose} />}
      {tab === "handoff" && <HandoffTab onClose={onClose} />}
      {tab === "other" && <OtherFiles onClose={onClose} />}
    </Window>
  );
}
