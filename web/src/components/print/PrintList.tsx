import { useEffect, useState } from "react";
import { Link } from "react-aria-components";
import styled from "styled-components";
import { signed } from "../../document/music/pitch_names";
import {
  handOverAgain,
  hearPrint,
  type PrintEntry,
  printUrl,
  removePrint,
  usePrints,
} from "../../commands/song/printing";
import { Button, PlainButton, Quiet } from "../ui/controls";
import { Rows } from "./print_parts";

const List = styled.ul`
  list-style: none;
  margin: 0 0 12px;
  padding: 0;
  display: grid;
  gap: 6px;
  max-height: 46vh;
  overflow: auto;
  width: 560px;
  max-width: 86vw;
  & li {
    display: grid;
    grid-template-columns: 1fr auto auto auto;
    gap: 8px;
    align-items: center;
    border: 1px solid var(--edge);
    border-radius: 8px;
    padding: 6px 8px;
  }
  & .what {
    min-width: 0;
    overflow-wrap: anywhere;
  }
  & small {
    display: block;
    color: var(--muted);
    font-size: 12.5px;
  }
  & small.trouble {
    color: var(--flag);
  }
  & a {
    color: var(--tuned);
    font-weight: 600;
  }
`;

function madeFrom(one: PrintEntry): string {
  const when = new Date(1000 * one.created_at).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" });
  const step = one.step === null ? "" : `, step ${one.step}${one.label ? ` “${one.label}”` : ""}`;
  return `${one.version ?? "an earlier step"}${step}; ${when}`;
}

function levels(one: PrintEntry): string {
  const loud = one.integrated_lufs == null ? "" : `${signed(one.integrated_lufs, 1)} LUFS, `;
  const lent = one.borrowed?.length ? `, borrowed: ${one.borrowed.join("; ")}` : "";
  return `${loud}peak ${signed(one.peak_dbfs, 1)} dBFS, ${(100 * one.untouched_share).toFixed(1)} % untouched${lent}`;
}

/** The prints of the song: what each was made from; heard, saved, taken away. */
export function PrintList({ onClose }: { onClose: () => void }) {
  const [prints, load] = usePrints();
  const [heard, setHeard] = useState<string | null>(null);
  useEffect(() => () => hearPrint(null, () => undefined), []);
  const hear = (id: string): void => {
    const next = heard === id ? null : id;
    setHeard(next);
    hearPrint(next, () => setHeard(null));
  };
  return (
    <>
      {prints?.length === 0 && <p>Nothing was printed yet.</p>}
      <List aria-label="Prints">
        {prints?.map((one) => (
          <li key={one.id}>
            <span className="what">
              <strong>{one.shown_name}</strong>
              <small>{madeFrom(one)}</small>
              <small>{one.there ? levels(one) : "The file is gone; print it again."}</small>
              {one.handed_over && <small>{`Handed over as ${one.handed_over}`}</small>}
              {one.trouble && (
                <small className="trouble">
                  {`Not handed over: ${one.trouble} `}
                  <PlainButton onPress={() => void handOverAgain(one.id).then(load)}>Hand it over again</PlainButton>
                </small>
              )}
            </span>
            <Button
              aria-label={`Hear ${one.shown_name}`}
              aria-pressed={heard === one.id}
              isDisabled={!one.there}
              onPress={() => hear(one.id)}
            >
              {heard === one.id ? "Stop" : "Hear"}
            </Button>
            {one.there ? (
              <Link href={printUrl(one.id)} download aria-label={`Save ${one.shown_name}`}>
                Save
              </Link>
            ) : (
              <Quiet>gone</Quiet>
            )}
            <Button
              aria-label={`Take ${one.shown_name} away`}
              onPress={() => {
                if (heard === one.id) hear(one.id);
                void removePrint(one.id).then(load);
              }}
            >
              Take away
            </Button>
          </li>
        ))}
      </List>
      <Rows>
        <span className="end">
          <Button onPress={onClose}>Close</Button>
        </span>
      </Rows>
    </>
  );
}
