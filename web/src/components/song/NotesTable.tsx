import { useMemo, useRef, useState } from "react";
import styled from "styled-components";
import { centsOff, type Ghost, type NoteOut } from "../../document/model";
import { pitchLabel, signed, spelledWithFlats, tuningOffset } from "../../document/pitch_names";
import { barText } from "../../document/time_text";
import { editSelection, select } from "../../hooks/editing";
import { hearSelection } from "../../hooks/playing";
import { useEditor } from "../../hooks/useStore";

const Scroll = styled.div`
  overflow: auto;
  flex: 1;
  & table {
    border-collapse: collapse;
    width: 100%;
  }
  & th {
    position: sticky;
    top: 0;
    background: var(--panel-solid);
    text-align: left;
    padding: 0;
    z-index: 1;
    vertical-align: bottom;
  }
  & th[data-number] button {
    text-align: right;
    width: 100%;
  }
  & th button {
    font: inherit;
    font-weight: 600;
    color: var(--muted);
    background: none;
    border: 0;
    padding: 6px;
    cursor: pointer;
    text-align: left;
    line-height: 1.25;
  }
  & td {
    padding: 4px 6px;
    border-top: 1px solid var(--edge);
    white-space: nowrap;
  }
  & td.number {
    text-align: right;
  }
  & td.strained {
    color: var(--flag);
    font-weight: 600;
  }
  & td.flags {
    color: var(--flag);
    white-space: normal;
    min-width: 168px;
  }
  & tr[aria-selected="true"] {
    background: var(--select-wash);
  }
  & tr:focus-visible,
  & button:focus-visible {
    outline: 2px solid var(--select);
    outline-offset: -2px;
  }
`;

interface Column {
  name: string;
  value: (note: NoteOut) => number | string;
  number?: boolean;
}

const COLUMNS: Column[] = [
  { name: "Start", value: (n) => n.start_s },
  { name: "Target", value: (n) => n.target_midi },
  { name: "As sung", value: (n) => n.centre_midi },
  { name: "Off (ct)", value: (n) => Math.abs(centsOff(n)), number: true },
  { name: "Pull", value: (n) => n.gesture.pull, number: true },
  { name: "Tuned off (ct)", value: (n) => Math.abs(n.tuned_midi - n.target_midi), number: true },
  { name: "Drift (ct/s)", value: (n) => Math.abs(n.drift_cents_per_s), number: true },
  { name: "Vibrato", value: (n) => n.vibrato?.extent_cents ?? 0, number: true },
  { name: "Level (dB)", value: (n) => n.level_db + n.gesture.level_db, number: true },
  { name: "Strain", value: (n) => n.strain, number: true },
  { name: "Kept", value: (n) => n.kept, number: true },
  { name: "Flags", value: (n) => n.flags.length },
];

const BEFORE_GHOST = 6;

function ghostText(cents: number | null): string {
  return cents === null ? "–" : signed(cents);
}

/** The columns, with how far each note lies from the version shown as a ghost while there is one. */
function useColumns(): Column[] {
  const ghost = useEditor((s) => s.ghost);
  const name = useEditor((s) => s.versions.find((version) => version.id === ghost?.versionId)?.name);
  return useMemo(() => {
    if (!ghost) return COLUMNS;
    const value = (note: NoteOut): number => fromGhost(note, ghost) ?? 0;
    const column = { name: `From ${name ?? "ghost"} (ct)`, value, number: true };
    return [...COLUMNS.slice(0, BEFORE_GHOST), column, ...COLUMNS.slice(BEFORE_GHOST)];
  }, [ghost, name]);
}

/** Cents by which a note lies higher here than in the ghost; null when the ghost has no such note. */
function fromGhost(note: NoteOut, ghost: Ghost): number | null {
  const there = ghost.notes.get(note.id);
  return there === undefined ? null : 100 * (note.tuned_midi - there);
}

export function NotesTable() {
  const columns = useColumns();
  const ghost = useEditor((s) => s.ghost);
  const notes = useEditor((s) => s.content?.notes);
  const selection = useEditor((s) => s.selection);
  const song = useEditor((s) => s.song);
  const limit = useEditor((s) => s.strainLimit);
  const [chosen, setSort] = useState({ column: 0, down: false });
  const sort = useMemo(() => (chosen.column < columns.length ? chosen : { column: 0, down: false }), [chosen, columns]);
  const body = useRef<HTMLTableSectionElement>(null);
  const rows = useMemo(() => {
    const read = columns[sort.column]!.value;
    const sign = sort.down ? -1 : 1;
    return [...(notes ?? [])].sort((a, b) =>
      read(a) < read(b) ? -sign : read(a) > read(b) ? sign : a.start_s - b.start_s,
    );
  }, [notes, sort, columns]);
  if (!song) return null;
  const flats = spelledWithFlats(song);
  const offset = tuningOffset(song);
  const active = rows.find((note) => selection.has(note.id)) ?? rows[0];
  const go = (index: number, add: boolean): void => {
    const note = rows[Math.max(0, Math.min(rows.length - 1, index))];
    if (!note) return;
    select([note], { add });
    body.current?.querySelector<HTMLElement>(`[data-id="${note.id}"]`)?.focus();
  };
  const onKey = (event: React.KeyboardEvent, index: number): void => {
    const moves: Record<string, number> = {
      ArrowDown: index + 1,
      ArrowUp: index - 1,
      Home: 0,
      End: rows.length - 1,
      PageDown: index + 10,
      PageUp: index - 10,
    };
    const next = moves[event.key];
    if (next !== undefined) go(next, event.shiftKey);
    else if (event.key === "t") void editSelection({ type: "tune" });
    else if (event.key === "Backspace") void editSelection({ type: "put_back", aspect: "all" });
    else if (event.key === "Enter") hearSelection();
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <Scroll>
      <table role="grid" aria-label="Notes" aria-multiselectable="true">
        <thead>
          <tr>
            {columns.map((column, i) => (
              <th
                key={column.name}
                data-number={column.number ? "" : undefined}
                aria-sort={sort.column === i ? (sort.down ? "descending" : "ascending") : "none"}
              >
                <button
                  onClick={() => setSort({ column: i, down: sort.column === i ? !sort.down : column.number === true })}
                >
                  {column.name}
                  {sort.column === i ? (sort.down ? " ↓" : " ↑") : ""}
                </button>
              </th>
            ))}
          </tr>
        </thead>
        <tbody ref={body}>
          {rows.map((note, index) => (
            <tr
              key={note.id}
              data-id={note.id}
              aria-selected={selection.has(note.id)}
              tabIndex={note === active ? 0 : -1}
              onClick={(event) => select([note], { add: event.ctrlKey || event.shiftKey })}
              onKeyDown={(event) => onKey(event, index)}
            >
              <td>{`${barText(note.start_s, song)}  (${note.start_s.toFixed(2)} s)`}</td>
              <td>{pitchLabel(note.target_midi - offset, flats)}</td>
              <td>{pitchLabel(note.centre_midi - offset, flats)}</td>
              <td className="number">{signed(centsOff(note))}</td>
              <td className="number">{`${Math.round(100 * note.gesture.pull)} %`}</td>
              <td className="number">{signed(100 * (note.tuned_midi - note.target_midi))}</td>
              {ghost && <td className="number">{ghostText(fromGhost(note, ghost))}</td>}
              <td className="number">{signed(note.drift_cents_per_s)}</td>
              <td className="number">{note.vibrato ? `±${note.vibrato.extent_cents.toFixed(0)} ct` : "–"}</td>
              <td className="number">{signed(note.level_db + note.gesture.level_db, 1)}</td>
              <td className={note.strain > limit ? "number strained" : "number"}>{Math.round(note.strain)}</td>
              <td className="number">{`${Math.round(note.kept)} %`}</td>
              <td className="flags">{note.flags.join("; ")}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Scroll>
  );
}
