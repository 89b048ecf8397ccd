import { type KeyboardEvent, useMemo, useState } from "react";
import { createLeafComponent } from "react-aria-components/CollectionBuilder";
import {
  Cell,
  Column,
  Rect,
  ResizableTableContainer,
  Row,
  type Selection,
  type SortDescriptor,
  Table,
  TableBody,
  TableHeader,
  TableLayout,
  Virtualizer,
} from "react-aria-components";
import styled from "styled-components";
import type { NoteOut } from "../../document/track/model";
import { editSelection, select } from "../../commands/notes/editing";
import { hearSelection } from "../../listening/playing";
import { useEditor } from "../../session/useStore";
import { type NoteColumn, useNoteColumns } from "./note_columns";

const ROW_HEIGHT = 28;

/** Every laying out walks through all rows: with more than is in sight it need not be done at each step of a scroll. */
const AHEAD_PX = 60 * ROW_HEIGHT;

class RowLayout extends TableLayout<NoteOut> {
  protected override layoutIfNeeded(seen: Rect): void {
    const there = this.requestedRect.containsRect(seen);
    super.layoutIfNeeded(
      there ? seen : new Rect(seen.x, Math.max(0, seen.y - AHEAD_PX), seen.width, seen.height + 2 * AHEAD_PX),
    );
  }
}

const Frame = styled.div<{ $columns: string }>`
  flex: 1;
  min-height: 0;
  display: flex;
  & > * {
    flex: 1;
    min-width: 0;
    overflow: auto;
    will-change: transform; /* scrolled as it is: what stays in sight is not painted anew */
  }
  & [role="columnheader"] {
    background: var(--panel-solid);
    color: var(--muted);
    font-weight: 600;
    line-height: 1.25;
    padding: 5px;
    height: 100%;
    display: flex;
    align-items: end;
    cursor: pointer;
    box-sizing: border-box;
  }
  & [role="gridcell"],
  & [role="rowheader"] {
    padding: 4px 5px;
    border-top: 1px solid var(--edge);
    white-space: nowrap;
    height: 100%;
    box-sizing: border-box;
  }
  & [data-further] {
    display: grid;
    grid-template: 100% / ${(p) => p.$columns};
    height: 100%;
    contain: strict;
  }
  & [data-further] > * {
    contain: layout paint style;
  }
  & [data-long] {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  & [data-number] {
    text-align: right;
    justify-content: end;
  }
  & [data-flag] {
    color: var(--flag);
  }
  & [role="row"] {
    height: 100%;
  }
  & [role="row"][aria-selected="true"] {
    background: var(--select-wash);
  }
  & [data-focus-visible] {
    outline: 2px solid var(--select);
    outline-offset: -2px;
  }
`;

interface FurtherProps {
  colSpan: number;
  /** all of the table's */
  columns: NoteColumn[];
  note: NoteOut;
}

const marks = ({ number, grows, warns }: NoteColumn, note: NoteOut) => ({
  "data-number": number && "",
  "data-long": grows && "",
  "data-flag": warns?.(note) ? "" : undefined,
});

/** All cells of a row after its first in one piece: as cells of the library they would cost most of a scroll. */
const FurtherCells = createLeafComponent("cell", function FurtherCells({ columns, note }: FurtherProps) {
  return (
    <div data-further="" role="presentation">
      {columns.slice(1).map((column, place) => (
        <div key={column.name} role="gridcell" aria-colindex={place + 2} {...marks(column, note)}>
          {column.text(note)}
        </div>
      ))}
    </div>
  );
});

const templateOf = (columns: NoteColumn[]): string =>
  columns
    .slice(1)
    .map(({ grows, width }) => (grows ? `minmax(${width}px, 1fr)` : `${width}px`))
    .join(" ");

function sorted(notes: readonly NoteOut[], column: NoteColumn, down: boolean): NoteOut[] {
  const read = column.value;
  const sign = down ? -1 : 1;
  return [...notes].sort((a, b) => (read(a) < read(b) ? -sign : read(a) > read(b) ? sign : a.start_s - b.start_s));
}

function onKey(event: KeyboardEvent): void {
  if (event.key === "t") void editSelection({ type: "tune" });
  else if (event.key === "Backspace") void editSelection({ type: "put_back", aspect: "all" });
  else if (event.key === "Enter") hearSelection();
  else return;
  event.preventDefault();
  event.stopPropagation();
}

/** Header and rows of the table. */
function tableParts(columns: NoteColumn[], rows: NoteOut[]) {
  return (
    <>
      <TableHeader columns={columns}>
        {(column) => (
          <Column
            id={column.name}
            isRowHeader={column.name === "Start"}
            allowsSorting
            defaultWidth={column.grows ? "1fr" : column.width}
            minWidth={column.width}
            {...(column.number ? { "data-number": "" } : {})}
          >
            {({ sortDirection }) => (
              <span>
                {column.name}
                {sortDirection && <span aria-hidden>{sortDirection === "descending" ? " ↓" : " ↑"}</span>}
              </span>
            )}
          </Column>
        )}
      </TableHeader>
      <TableBody items={rows} dependencies={[columns]}>
        {(note) => (
          <Row id={note.id}>
            <Cell>{columns[0]!.text(note)}</Cell>
            <FurtherCells colSpan={columns.length - 1} columns={columns} note={note} />
          </Row>
        )}
      </TableBody>
    </>
  );
}

/** Every note in rows; only those in sight are on the page. */
export function NotesTable() {
  const columns = useNoteColumns();
  const notes = useEditor((s) => s.content?.notes);
  const selection = useEditor((s) => s.selection);
  const [chosen, setSort] = useState<SortDescriptor>({ column: "Start", direction: "ascending" });
  const by = columns.find((column) => column.name === chosen.column) ?? columns[0]!;
  const rows = useMemo(() => sorted(notes ?? [], by, chosen.direction === "descending"), [notes, by, chosen]);
  const onSort = (wanted: SortDescriptor): void => {
    const fresh = wanted.column !== chosen.column;
    const number = columns.find((column) => column.name === wanted.column)?.number === true;
    setSort(fresh && number ? { column: wanted.column, direction: "descending" } : wanted); // the worst first
  };
  const onSelect = (keys: Selection): void => {
    select(rows.filter((note) => keys === "all" || keys.has(note.id)));
  };
  // The same elements while only the selection changes: else every row would be made anew at each key.
  const parts = useMemo(() => tableParts(columns, rows), [columns, rows]);
  return (
    <Frame $columns={templateOf(columns)} onKeyDownCapture={onKey}>
      <ResizableTableContainer>
        <Virtualizer layout={RowLayout} layoutOptions={{ rowHeight: ROW_HEIGHT, headingHeight: 46 }}>
          <Table
            aria-label="Notes"
            selectionMode="multiple"
            selectionBehavior="replace"
            selectedKeys={selection}
            onSelectionChange={onSelect}
            sortDescriptor={chosen}
            onSortChange={onSort}
          >
            {parts}
          </Table>
        </Virtualizer>
      </ResizableTableContainer>
    </Frame>
  );
}
