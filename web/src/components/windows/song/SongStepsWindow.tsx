import styled from "styled-components";
import { byWhom } from "../../inspector/Steps";
import type { SongStepOut } from "../../../document/schema";
import { aheadIn, redoSong, undoSong, useSongSteps } from "../../../commands/song/song_steps";
import { showWindow } from "../../../session/view";
import { Button, Quiet } from "../../ui/controls";
import { SideWindow } from "../SideWindow";

const List = styled.ol`
  margin: 0;
  padding: 0;
  list-style: none;
  & li {
    display: flex;
    gap: 8px;
    padding: 3px 6px;
    border-radius: 5px;
  }
  & li > span:first-child {
    min-width: 22px;
    color: var(--muted);
  }
  & li[data-state="undone"],
  & li[data-state="left"] {
    color: var(--muted);
    text-decoration: line-through;
  }
  & li[aria-current] {
    background: var(--select-wash);
  }
`;

const Pair = styled.div`
  display: grid;
  gap: 6px;
  justify-items: start;
`;

const ASIDE: Readonly<Record<string, string>> = { undone: "taken back", left: "left behind" };

/** What was done to the song: its keys, tempo, words, tracks and their places, and edits over several tracks. */
export function SongStepsWindow() {
  const steps = useSongSteps();
  return (
    <SideWindow title="Steps of the song" onClose={() => showWindow(null)}>
      <Quiet>
        Keys, tempo, words, tracks, links and edits over several tracks. Edits of one track are in its own steps.
      </Quiet>
      {steps && <Ways steps={steps} />}
      {steps?.length === 0 && <Quiet>Nothing was done to the song yet.</Quiet>}
      {steps && steps.length > 0 && <Listed steps={steps} />}
    </SideWindow>
  );
}

function Ways({ steps }: { steps: readonly SongStepOut[] }) {
  const { undo, redo } = aheadIn(steps);
  return (
    <Pair>
      <Button isDisabled={!undo} onPress={() => void undoSong()}>
        {undo ? `↶ Take back: ${undo.label}` : "↶ Nothing to take back"}
      </Button>
      {redo && <Button onPress={() => void redoSong()}>{`↷ Do again: ${redo.label}`}</Button>}
    </Pair>
  );
}

function Listed({ steps }: { steps: readonly SongStepOut[] }) {
  const current = aheadIn(steps).undo?.id;
  return (
    <List aria-label="Steps of the song">
      {steps.map((step) => (
        <li key={step.id} data-state={step.state} aria-current={step.id === current ? "step" : undefined}>
          <span>{step.number}</span>
          <span title={ASIDE[step.state]}>{step.label + byWhom(step)}</span>
        </li>
      ))}
    </List>
  );
}
