import { type ReactNode, useState } from "react";
import {
  Cell,
  Column,
  type DroppableCollectionInsertDropEvent,
  type DroppableCollectionRootDropEvent,
  Row,
  Table,
  TableBody,
  TableHeader,
  useDragAndDrop,
} from "react-aria-components";
import styled from "styled-components";
import type { ProgressOut, SongOut, TrackOut } from "../../document/schema";
import { progressOf, reordered, whenText } from "../../document/track/song_order";
import { secondsText } from "../../document/time/time_text";
import { isVocal } from "../../document/track/vocals";
import { goTo } from "../../session/address";
import { orderTracks } from "../../commands/song/songs";
import { useEditor } from "../../session/useStore";
import { PlainButton, Unseen } from "../ui/controls";
import { ChangeTrack } from "../windows/song/TrackWindow";
import { TrackOutline } from "./TrackOutline";

const Rows = styled(Table)`
  border-collapse: collapse;
  table-layout: fixed;
  width: 100%;
  outline: none;
  & th {
    text-align: left;
    color: var(--muted);
    font-weight: 500;
    white-space: nowrap;
  }
  & td,
  & th {
    padding: 3px 12px 3px 0;
    white-space: nowrap;
  }
  & th.number,
  & td.number {
    text-align: right;
  }
  & td.name,
  & td.sound {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  & td.name {
    font-weight: 600;
  }
  & td.flags {
    color: var(--flag);
    font-weight: 600;
  }
  & tr[data-opens] {
    cursor: pointer;
    & .name {
      text-decoration: underline;
      text-decoration-color: var(--edge-strong);
      text-underline-offset: 3px;
    }
    &[data-hovered] {
      background: var(--control-over);
    }
  }
  & [data-focus-visible] {
    outline: 2px solid var(--select);
    outline-offset: -1px;
    border-radius: 4px;
  }
  & .grip {
    color: var(--muted);
    padding: 2px 6px;
    cursor: grab;
  }
  & .react-aria-DropIndicator[data-drop-target] {
    outline: 1px solid var(--select);
  }
` as unknown as typeof Table;

/** Name, kind and width in pixels (the rest for 0) of each column. */
const HEADS: readonly (readonly [string, string, number])[] = [
  ["Order", "", 34],
  ["Track", "", 178],
  ["Role", "", 72],
  ["Length", "number", 68],
  ["Rate", "", 126],
  ["Notes", "number", 58],
  ["Sound", "", 0],
  ["Flags", "number", 62],
  ["Done", "number", 62],
  ["Last worked", "", 108],
  ["Change", "", 34],
];
const SPOKEN = new Set(["Track", "Role", "Length", "Rate", "Notes"]); // what names a row

async function filesOf(event: DroppableCollectionRootDropEvent | DroppableCollectionInsertDropEvent): Promise<File[]> {
  return Promise.all(event.items.flatMap((item) => (item.kind === "file" ? [item.getFile()] : [])));
}

/** The tracks of a song; a row opens its track, dragging puts them in order, and files can be dropped among them. */
export function TrackTable({ song, onFiles }: { song: SongOut; onFiles: (files: File[]) => void }) {
  const take = (event: DroppableCollectionRootDropEvent | DroppableCollectionInsertDropEvent): void => {
    void filesOf(event).then((files) => files.length > 0 && onFiles(files));
  };
  const { dragAndDropHooks } = useDragAndDrop({
    getItems: (keys) => [...keys].map((key) => ({ "text/plain": nameOf(song, String(key)) })),
    onReorder: (event) => {
      const { key, dropPosition } = event.target;
      void orderTracks(
        song.id,
        reordered(
          song.tracks.map((track) => track.id),
          event.keys,
          key,
          dropPosition === "after",
        ),
      );
    },
    onRootDrop: take,
    onInsert: take,
  });
  const [now_s] = useState(() => Date.now() / 1000);
  const open = (key: unknown): void => {
    const track = song.tracks.find((one) => one.id === key);
    if (track && isVocal(track)) goTo(`/song/${song.id}/track/${track.id}`);
  };
  return (
    <Rows aria-label={`Tracks of ${song.title}`} dragAndDropHooks={dragAndDropHooks} onRowAction={open}>
      <TableHeader>
        {HEADS.map(([name, kind, width]) => (
          <Column key={name} id={name} className={kind} style={width ? { width } : {}} isRowHeader={SPOKEN.has(name)}>
            {name === "Order" || name === "Change" ? <Unseen>{name}</Unseen> : name}
          </Column>
        ))}
      </TableHeader>
      <TableBody items={song.tracks} dependencies={[song.tracks]}>
        {(track) => <TrackRow track={track} now_s={now_s} />}
      </TableBody>
    </Rows>
  );
}

function nameOf(song: SongOut, id: string): string {
  return song.tracks.find((track) => track.id === id)?.name ?? "";
}

function TrackRow({ track, now_s }: { track: TrackOut; now_s: number }) {
  const cell = (kind: string, text: ReactNode) => <Cell className={kind}>{text}</Cell>;
  return (
    <Row id={track.id} textValue={track.name} {...(isVocal(track) ? { "data-opens": "" } : {})}>
      <Cell>
        <PlainButton slot="drag" className="grip" aria-label={`Move ${track.name}`}>
          ⠿
        </PlainButton>
      </Cell>
      {cell("name", track.name)}
      {cell("", track.role)}
      {cell("number", secondsText(track.duration_s, 1))}
      {cell("", `${track.sample_rate / 1000} kHz ${track.channels === 2 ? "stereo" : "mono"}`)}
      {cell("number", track.role === "backing" ? "–" : track.ready ? track.notes_found : "…")}
      {cell("sound", <TrackOutline track={track} />)}
      {cell("number flags", <HowFar track={track} text={(far) => (far.flags > 0 ? `⚑ ${far.flags}` : "")} />)}
      {cell("number", <HowFar track={track} text={(far) => `${doneShare(far.done_s, far.sung_s)} %`} />)}
      {cell("", <HowFar track={track} text={(far) => (far.worked_at ? whenText(far.worked_at, now_s) : "")} />)}
      {cell("", <ChangeTrack track={track} />)}
    </Row>
  );
}

/** What one cell says of how far a track is; read here, since a row that is made anew has the whole table made anew. */
function HowFar({ track, text }: { track: TrackOut; text: (far: ProgressOut) => string }) {
  const far = useEditor((s) => (track.role === "backing" ? null : progressOf(track, s.progress)));
  return far ? text(far) : "";
}

function doneShare(done_s: number, sung_s: number): number {
  return sung_s > 0 ? Math.round((100 * done_s) / sung_s) : 0;
}
