import { useEffect } from "react";
import styled from "styled-components";
import { CompPanel } from "../components/comp/CompPanel";
import { CompView } from "../components/comp/CompView";
import { StackView } from "../components/stack/StackView";
import { ShownWindow } from "../components/windows/ShownWindow";
import { HelpWindow } from "../components/windows/HelpWindow";
import { Inspector } from "../components/inspector/Inspector";
import { FindBar } from "../components/song/FindBar";
import { NotesTable } from "../components/song/NotesTable";
import { ReportView } from "../components/report/ReportView";
import { PhraseList } from "../components/song/PhraseList";
import { BehindBar, SongOffers } from "../components/sheet/SongOffers";
import { Overview, SheetView } from "../components/sheet/SheetView";
import { StatusLine } from "../components/song/StatusLine";
import { SongBar } from "../components/song/SongBar";
import { ToolRow } from "../components/sheet/ToolRow";
import { TransportBar } from "../components/song/TransportBar";
import { Button, Panel } from "../components/ui/controls";
import type { Panel as PanelName } from "../document/track/store";
import { goTo, keepAddress } from "../session/address";
import { stop } from "../listening/playing";
import { useReadyToPlay } from "../hooks/ready_to_play";
import { followSong } from "../commands/song/news";
import { watchLead } from "../commands/stack";
import { useKeyboard } from "../hooks/useKeyboard";
import { useSyllables } from "../hooks/useSyllables";
import { useEditor } from "../session/useStore";

const PANELS = { sheet: "Sheet", table: "Notes", comp: "Comp", stack: "Stack", report: "Report" } as const;
const [LIST, MIDDLE, BESIDE] = ["206px", "minmax(300px, 1fr)", "268px"];

/** What stands beside the middle of a panel. */
function sidesOf(panel: PanelName, listFolded: boolean, inspectorFolded: boolean): { list: boolean; right: boolean } {
  const edits = panel === "sheet" || panel === "table";
  return {
    list: panel !== "stack" && !(listFolded && panel !== "report"),
    right: panel === "comp" || (edits && !inspectorFolded),
  };
}

const Layout = styled.div<{ $columns: string }>`
  height: 100%;
  min-height: 480px;
  display: grid;
  grid-template-rows: auto 1fr auto auto;
  grid-template-columns: minmax(0, 1fr);
  gap: 6px;
  padding: 6px 6px 0;
  & > :last-child {
    margin-top: -4px;
  }
  & > main {
    display: grid;
    grid-template-columns: ${(p) => p.$columns};
    gap: 6px;
    min-height: 0;
  }
  @media (max-width: 900px) {
    height: auto;
    & > main {
      grid-template-columns: 1fr;
      grid-template-rows: 460px auto auto;
      & > :nth-child(2) {
        order: -1;
      }
    }
    & > header,
    & > footer {
      flex-wrap: wrap;
    }
  }
  @media print {
    display: block;
    height: auto;
    & > main {
      display: block;
    }
    & > :not(main),
    & > main > :first-child {
      display: none;
    }
  }
`;

export function Editor() {
  useKeyboard();
  useReadyToPlay();
  useSyllables();
  useEffect(keepAddress, []);
  useEffect(watchLead, []);
  const songId = useEditor((s) => s.song?.id);
  useEffect(() => (songId ? followSong(songId) : undefined), [songId]);
  useEffect(() => stop, []);
  const panel = useEditor((s) => s.panel);
  const ready = useEditor((s) => s.curves !== null);
  const listFolded = useEditor((s) => s.listFolded);
  const inspectorFolded = useEditor((s) => s.inspectorFolded);
  const sides = sidesOf(panel, listFolded, inspectorFolded);
  const window = useEditor((s) => s.window);
  const finding = useEditor((s) => s.finding);
  const beside = window !== null || sides.right;
  const columns = [...(sides.list ? [LIST] : []), MIDDLE, ...(beside ? [BESIDE] : [])].join(" ");
  if (!ready) {
    return (
      <p style={{ padding: 24 }}>
        <Button onPress={() => goTo("/")}>‹ Songs</Button> Opening…
      </p>
    );
  }
  return (
    <Layout $columns={columns}>
      <SongBar />
      <main>
        {sides.list && <PhraseList />}
        <Panel aria-label={PANELS[panel]}>
          {panel !== "report" && panel !== "stack" && (
            <Overview place={panel === "sheet" && listFolded && inspectorFolded ? "over, when narrow" : "over"} />
          )}
          {panel === "sheet" && !finding && <ToolRow />}
          {finding && (panel === "sheet" || panel === "table") && <FindBar />}
          <SongOffers />
          {panel !== "stack" && <BehindBar />}
          {panel === "sheet" && <SheetView />}
          {panel === "table" && <NotesTable />}
          {panel === "comp" && <CompView />}
          {panel === "stack" && <StackView />}
          {panel === "report" && <ReportView />}
        </Panel>
        {window !== null ? <ShownWindow /> : sides.right && (panel === "comp" ? <CompPanel /> : <Inspector />)}
      </main>
      <TransportBar />
      <StatusLine />
      <HelpWindow />
    </Layout>
  );
}
