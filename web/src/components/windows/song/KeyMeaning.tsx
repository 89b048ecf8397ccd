import styled from "styled-components";
import { signed } from "../../../document/music/pitch_names";
import type { KeyChangeOut } from "../../../document/schema";
import { keyWords } from "../../../commands/song/song_keys";
import { Quiet } from "../../ui/controls";

const MOST = 40;

/** As high as what it mostly says, so that the buttons under it do not move away from a press when the answer comes. */
const Meaning = styled.div`
  grid-column: 1 / 3;
  display: grid;
  gap: 8px;
  align-content: start;
  min-height: 70px;
  max-width: 660px;
`;

const Fold = styled.details`
  & ul {
    margin: 4px 0 0;
    padding: 0;
    list-style: none;
    max-height: 130px;
    overflow: auto;
    columns: 2;
    font-variant-numeric: tabular-nums;
    font-size: 13px;
  }
`;

/** What other keys or another tuning mean for the notes: in a sentence, and which notes they are. */
export function KeyMeaning({ change, trouble }: { change: KeyChangeOut | null; trouble: string }) {
  return <Meaning>{trouble ? <Quiet role="alert">{trouble}</Quiet> : change && <Elsewhere change={change} />}</Meaning>;
}

function Elsewhere({ change }: { change: KeyChangeOut }) {
  const { elsewhere } = change;
  const all = change.tuned_elsewhere + change.untuned_moved;
  if (all === 0) return null;
  return (
    <>
      <Quiet>{keyWords(change)}</Quiet>
      <Fold>
        <summary>Which notes round elsewhere</summary>
        <ul tabIndex={0} aria-label="Notes that round elsewhere">
          {elsewhere.slice(0, MOST).map((note) => (
            <li key={`${note.track_id} ${note.note_id}`}>
              {`${note.bar} ${note.track}: ${note.now} → ${note.then}${note.now === note.then ? ` (${signed(note.cents, 1)} ct)` : ""}${note.tuned ? ", tuned: stays" : ""}`}
            </li>
          ))}
          {all > MOST && <li>{`and ${all - MOST} more`}</li>}
        </ul>
      </Fold>
    </>
  );
}
