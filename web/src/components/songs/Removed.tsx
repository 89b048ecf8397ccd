import { useState } from "react";
import styled from "styled-components";
import { bringBack, sweepRemoved, useRemoved } from "../../commands/song/tracks";
import type { RemovedThingOut } from "../../document/schema";
import { secondsText } from "../../document/time/time_text";
import { Button, Panel, Quiet } from "../ui/controls";

const Card = styled(Panel)`
  padding: 10px 16px;
  gap: 6px;
  & summary {
    cursor: pointer;
    color: var(--muted);
  }
  & ul {
    margin: 8px 0;
    padding: 0;
    list-style: none;
    display: grid;
    gap: 4px;
  }
  & li,
  & .end {
    display: flex;
    gap: 10px;
    align-items: center;
  }
  & li > span:first-child {
    min-width: 300px;
  }
`;

function nameOf({ kind, name, song }: RemovedThingOut): string {
  return kind === "song" ? `Song “${name}”` : `“${name}” of ${song}`;
}

/** What was removed and can be brought back, until it is swept away. */
export function Removed() {
  const { removed } = useRemoved();
  const [sure, setSure] = useState(false);
  if (removed.length === 0) return null;
  return (
    <Card as="section" aria-label="Removed">
      <details>
        <summary>{removed.length === 1 ? "Removed: 1" : `Removed: ${removed.length}`}</summary>
        <ul>
          {removed.map((one) => (
            <li key={one.id}>
              <span>{nameOf(one)}</span>
              <Quiet>{secondsText(one.seconds, 0)}</Quiet>
              <Button onPress={() => void bringBack(one)} aria-label={`Bring ${nameOf(one)} back`}>
                Bring back
              </Button>
            </li>
          ))}
        </ul>
        <span className="end">
          {!sure && <Button onPress={() => setSure(true)}>Sweep away…</Button>}
          {sure && (
            <>
              <Quiet>Recordings, edits and prints of all of these go for good.</Quiet>
              <Button onPress={() => void sweepRemoved().then(() => setSure(false))}>Sweep away for good</Button>
              <Button onPress={() => setSure(false)}>Keep</Button>
            </>
          )}
        </span>
      </details>
    </Card>
  );
}
