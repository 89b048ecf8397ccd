import type { ReactNode } from "react";
import styled from "styled-components";
import type { SongOut, TaskOut } from "../../document/schema";
import { cancelTask, forgetTask, settleCutOff } from "../../commands/song/songs";
import { useEditor } from "../../session/useStore";
import { Button } from "../ui/controls";
import { ProgressLine } from "../ui/ProgressLine";

const Line = styled.div`
  display: flex;
  align-items: center;
  gap: 10px;
  &[data-failed] {
    color: var(--flag);
  }
`;

function Failed({ text, children }: { text: string; children: ReactNode }) {
  return (
    <Line data-failed="" role="alert">
      <span>{text}</span>
      {children}
    </Line>
  );
}

/** Files on their way into a song, each with its stage, and those that did not make it. */
export function Imports({ song }: { song: SongOut }) {
  const sending = useEditor((s) => s.sending);
  const cutOff = useEditor((s) => s.cutOff);
  return (
    <>
      {song.tasks
        .filter((task) => task.kind === "import")
        .map((task) => (
          <ImportTask key={task.id} task={task} />
        ))}
      {sending
        .filter((one) => one.songId === song.id)
        .map((one) => (
          <Line key={`${one.file.name} ${one.file.lastModified}`}>{`${one.file.name}: ${one.stage}`}</Line>
        ))}
      {cutOff
        .filter((one) => one.songId === song.id)
        .map((one) => (
          <Failed
            key={`${one.file.name} ${one.file.lastModified}`}
            text={`${one.file.name} is cut off: it promises more sound than it holds.`}
          >
            <Button onPress={() => void settleCutOff(one, true)}>Bring in as far as it goes</Button>
            <Button onPress={() => void settleCutOff(one, false)}>Leave it</Button>
          </Failed>
        ))}
    </>
  );
}

function ImportTask({ task }: { task: TaskOut }) {
  const name = task.wanted.file ?? "";
  if (task.state === "failed") {
    return (
      <Failed text={`${name}: ${task.message}`}>
        <Button onPress={() => void forgetTask(task)}>Understood</Button>
      </Failed>
    );
  }
  return (
    <Line>
      <span>{`${name}: ${task.stage}`}</span>
      <ProgressLine label={`Progress of ${name}`} share={task.share} />
      <Button onPress={() => void cancelTask(task)}>Cancel</Button>
    </Line>
  );
}
