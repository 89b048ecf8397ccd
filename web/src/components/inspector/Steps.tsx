import { useState } from "react";
import styled from "styled-components";
import type { StepOut, VersionOut } from "../../document/track/model";
import type { BranchOut } from "../../document/schema";
import { jumpComp } from "../../commands/versions/comps";
import { jumpTo } from "../../commands/notes/editing";
import { useSteps } from "../../commands/versions/steps";
import { useEditor } from "../../session/useStore";
import { makeVersion } from "../../commands/versions/versions";
import { Button, Field, MainButton, PlainButton, Quiet } from "../ui/controls";
import { Body } from "./inspector_parts";

const Group = styled.section`
  & h3 {
    margin: 6px 0 1px;
    font-size: 12px;
    font-weight: 600;
    color: var(--muted);
  }
  & ol {
    margin: 0;
    padding: 0;
    list-style: none;
  }
  & li {
    display: flex;
    border-radius: 5px;
  }
  & li[data-off] > button:first-child {
    color: var(--muted);
    text-decoration: line-through;
  }
  & li[aria-current] {
    background: var(--select-wash);
  }
  & li > button {
    font: inherit;
    color: inherit;
    text-align: left;
    background: none;
    border: 0;
    border-radius: 5px;
    padding: 3px 6px;
    cursor: pointer;
  }
  & li > button:first-child {
    flex: 1;
    min-width: 0;
  }
  & li > button:last-child {
    color: var(--muted);
  }
  & li > button:hover {
    background: var(--control-over);
  }
  & li > button:focus-visible {
    outline: 2px solid var(--select);
  }
`;

/** The way the open version came, newest first, and the branches beside it; any step can be gone to. */
export function Steps() {
  const version = useEditor((s) => s.content?.version);
  return <StepsOf version={version} jump={(step) => void jumpTo(step)} />;
}

/** The same for a comp; only versions begin at steps. */
export function CompSteps() {
  const version = useEditor((s) => s.comp?.version);
  return <StepsOf version={version} jump={(step) => void jumpComp(step)} />;
}

/** With which sign-in code a step was made, when it was not made on the machine itself. */
export function byWhom(step: { made_by: string }): string {
  return step.made_by ? ` · ${step.made_by}` : "";
}

function StepsOf({ version, jump }: { version: VersionOut | undefined; jump: (step: string) => void }) {
  const list = useSteps(version?.id);
  const readOnly = version?.read_only ?? false;
  const ofComp = version?.kind === "comp";
  const [from, setFrom] = useState<StepOut | null>(null);
  if (!list) return <Body />;
  const only = list.groups.length === 1 && list.groups[0]!.steps.length === 1;
  const step = (one: StepOut, beside?: BranchOut) => (
    <li
      key={one.id}
      data-off={!beside && one.number > list.head ? "" : undefined}
      aria-current={!beside && one.number === list.head ? "step" : undefined}
    >
      <PlainButton isDisabled={readOnly} onPress={() => jump(one.id)}>
        {`${one.number}  ${one.label}${beside ? ` (${beside.steps} aside)` : ""}${byWhom(one)}`}
      </PlainButton>
      {!ofComp && (
        <PlainButton aria-label={`Make a version from step ${one.number}`} onPress={() => setFrom(one)}>
          ⎇
        </PlainButton>
      )}
    </li>
  );
  return (
    <Body>
      {readOnly && <Quiet>As sung has no steps; switch to another version to change something.</Quiet>}
      {only && !readOnly && <Quiet>Nothing is changed yet. Every edit appears here, and stays after a restart.</Quiet>}
      {from && <FromStep step={from} onDone={() => setFrom(null)} />}
      {list.groups.map((group) => (
        <Group key={group.steps[0]!.id} aria-label={group.title}>
          <h3>{group.title}</h3>
          <ol aria-label="Steps">{group.steps.map((one) => step(one))}</ol>
        </Group>
      ))}
      {list.more && <Button onPress={list.more}>Older steps</Button>}
      {list.branches.length > 0 && (
        <Group aria-label="Other branches">
          <h3>Other branches</h3>
          <ol>{list.branches.map((branch) => step(branch.last, branch))}</ol>
        </Group>
      )}
    </Body>
  );
}

function FromStep({ step, onDone }: { step: StepOut; onDone: () => void }) {
  const [name, setName] = useState(`Step ${step.number}`);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        void makeVersion({ name, from_step: step.id }).then((done) => done && onDone());
      }}
    >
      <Quiet>{`A version that begins at step ${step.number}, “${step.label}”:`}</Quiet>
      <Field
        autoFocus
        aria-label="Name of the version"
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <MainButton type="submit" isDisabled={!name.trim()}>
        Make
      </MainButton>{" "}
      <Button onPress={onDone}>Leave</Button>
    </form>
  );
}
