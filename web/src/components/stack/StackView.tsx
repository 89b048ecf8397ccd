import { type RefObject, useEffect, useRef, useState } from "react";
import { GridList, GridListItem, useDragAndDrop } from "react-aria-components";
import styled from "styled-components";
import type { SongOut } from "../../document/schema";
import { reordered } from "../../document/track/song_order";
import { isVocal } from "../../document/track/vocals";
import { stackRow } from "../../geometry/stack_rows";
import { usePlayhead } from "../../hooks/playhead";
import { chooseTracks } from "../../commands/stack";
import { orderTracks } from "../../listening/stack_levels";
import { useStack } from "../../hooks/useStack";
import { useEditor } from "../../session/useStore";
import { CanvasFrame } from "../ui/CanvasFrame";
import { Quiet } from "../ui/controls";
import { StackTools } from "./StackTools";
import { TrackHead } from "./TrackHead";

const HEADS = 440;
const RULER = 34;

const Area = styled.div`
  flex: 1;
  min-height: 0;
  overflow: auto;
  display: grid;
  grid-template-columns: ${HEADS}px minmax(240px, 1fr);
  grid-template-rows: ${RULER}px auto;
  align-content: start;
  & > :nth-child(-n + 2) {
    position: sticky;
    top: 0;
    z-index: 2;
    background: var(--panel-solid);
    border-bottom: 1px solid var(--edge);
  }
  @media (max-width: 900px) {
    grid-template-columns: minmax(0, 1fr);
    & > :nth-child(2),
    & > :nth-child(4) {
      display: none;
    }
  }
`;

const Corner = styled.div`
  display: grid;
  grid-template-columns: 1fr 132px 132px;
  gap: 7px;
  align-items: end;
  padding: 0 10px 4px;
  font-size: 13px;
`;

const Heads = styled(GridList)`
  outline: none;
  & .react-aria-GridListItem {
    display: flex;
    height: var(--row);
    padding: 0 10px;
    border-bottom: 1px solid var(--edge);
    outline: none;
    overflow: hidden;
    &[data-selected] {
      background: var(--select-wash);
    }
    &[data-focus-visible] {
      box-shadow: inset 0 0 0 2px var(--select);
    }
  }
  & .react-aria-DropIndicator[data-drop-target] {
    outline: 1px solid var(--select);
  }
` as unknown as typeof GridList;

/** All tracks of the song on one time axis: what is heard of each, how loud, where; and edits of several at once. */
export function StackView() {
  const song = useEditor((s) => s.song);
  return song ? <Stack song={song} /> : null;
}

function Stack({ song }: { song: SongOut }) {
  const ruler = useRef<HTMLDivElement>(null);
  const rows = useRef<HTMLDivElement>(null);
  const above = useRef<HTMLDivElement>(null);
  const line = useRef<HTMLDivElement>(null);
  const area = useRef<HTMLDivElement>(null);
  const row = useRow(area, song.tracks.length);
  useStack(ruler, rows);
  usePlayhead(above);
  usePlayhead(line);
  return (
    <>
      <StackTools />
      <Area ref={area} style={{ "--row": `${row}px` }}>
        <Corner>
          <Quiet>Heard in stack and mix</Quiet>
          <Quiet>Level</Quiet>
          <Quiet title="− left, + right">Place</Quiet>
        </Corner>
        <CanvasFrame ref={ruler}>
          <canvas aria-hidden="true" />
          <div className="playhead" ref={above} />
        </CanvasFrame>
        <TrackHeads song={song} />
        <CanvasFrame ref={rows} style={{ height: row * song.tracks.length }}>
          <canvas tabIndex={0} role="application" aria-label="Tracks in time; the list beside it says what each is." />
          <div className="playhead" ref={line} />
        </CanvasFrame>
      </Area>
    </>
  );
}

/** The height of a row so that all tracks fill the area, within bounds. */
function useRow(area: RefObject<HTMLDivElement | null>, count: number): number {
  const [height, setHeight] = useState(0);
  useEffect(() => {
    const element = area.current;
    if (!element) return;
    const watch = new ResizeObserver(() => setHeight(element.clientHeight));
    watch.observe(element);
    return () => watch.disconnect();
  }, [area]);
  return stackRow(height - RULER - 2, count);
}

function TrackHeads({ song }: { song: SongOut }) {
  const trackId = useEditor((s) => s.trackId);
  const chosen = useEditor((s) => s.chosenTracks);
  const { dragAndDropHooks } = useDragAndDrop({
    getItems: (keys) => [...keys].map((key) => ({ "text/plain": nameOf(song, String(key)) })),
    onReorder: ({ keys, target }) => {
      const ids = song.tracks.map((track) => track.id);
      void orderTracks(song.id, reordered(ids, keys, String(target.key), target.dropPosition === "after"));
    },
  });
  const backings = song.tracks.filter((track) => !isVocal(track)).map((track) => track.id);
  return (
    <Heads
      aria-label="Tracks of the song"
      items={song.tracks}
      dependencies={[trackId, chosen, song]}
      selectionMode="multiple"
      selectedKeys={chosen}
      disabledKeys={backings}
      disabledBehavior="selection"
      keyboardNavigationBehavior="tab"
      onSelectionChange={(keys) =>
        chooseTracks(keys === "all" ? song.tracks.map((one) => one.id) : [...keys].map(String))
      }
      dragAndDropHooks={dragAndDropHooks}
    >
      {(track) => (
        <GridListItem id={track.id} textValue={`${track.name}, ${track.role}`}>
          <TrackHead track={track} open={track.id === trackId} songId={song.id} />
        </GridListItem>
      )}
    </Heads>
  );
}

function nameOf(song: SongOut, id: string): string {
  return song.tracks.find((track) => track.id === id)?.name ?? "";
}
