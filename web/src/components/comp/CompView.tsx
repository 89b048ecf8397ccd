import { useEffect, useRef, useState } from "react";
import styled from "styled-components";
import { chosenHere } from "../../document/track/comp";
import { makeComp, showComps } from "../../commands/versions/comps";
import { usePlayhead } from "../../hooks/playhead";
import { useComp } from "../../hooks/useComp";
import { useEditor } from "../../session/useStore";
import { Field, MainButton, Quiet } from "../ui/controls";
import { CanvasFrame } from "../ui/CanvasFrame";

const Begin = styled.form`
  display: grid;
  gap: 10px;
  width: 420px;
  margin: 48px auto;
  & > div {
    display: flex;
    gap: 8px;
  }
`;

/** How to begin when there is no comp yet. */
function NoComp() {
  const [name, setName] = useState("Comp 1");
  const open = useEditor((s) => s.content?.version.name);
  return (
    <Begin
      onSubmit={(event) => {
        event.preventDefault();
        void makeComp(name);
      }}
    >
      <strong>No comp yet</strong>
      <Quiet>{`A comp takes each phrase from the version that has it best. It begins with “${open ?? "Tuned"}” throughout.`}</Quiet>
      <Quiet>Press a phrase in a row to choose it there, or drag over any stretch.</Quiet>
      <div>
        <Field aria-label="Name of the comp" value={name} onChange={(event) => setName(event.target.value)} />
        <MainButton type="submit" isDisabled={!name.trim()}>
          Make a comp
        </MainButton>
      </div>
    </Begin>
  );
}

/** One row per version over the same time axis, and above them what sounds. */
export function CompView() {
  const there = useEditor((s) => s.comp !== null);
  const none = useEditor((s) => s.comps?.length === 0);
  const trackId = useEditor((s) => s.trackId);
  useEffect(() => void showComps(), [trackId]);
  return there ? <Rows /> : none ? <NoComp /> : null;
}

function Rows() {
  const frame = useRef<HTMLDivElement>(null);
  const line = useRef<HTMLDivElement>(null);
  useComp(frame);
  usePlayhead(line);
  const comp = useEditor((s) => s.comp);
  const here = useEditor((s) => s.compHere);
  const times = useEditor((s) => s.view.times);
  const names = useEditor((s) => s.versions);
  const chosen = comp && here ? chosenHere(comp, here, times) : null;
  const name = names.find((version) => version.id === chosen)?.name ?? "several versions";
  const spoken = here ? `from ${here.start_s.toFixed(1)} to ${here.end_s.toFixed(1)} seconds: ${name}` : "no phrase";
  return (
    <CanvasFrame ref={frame}>
      <canvas aria-hidden="true" />
      <canvas
        tabIndex={0}
        role="application"
        aria-label={`Comp; ${spoken}. Left and right go through phrases, up and down and the numbers choose a version.`}
      />
      <div className="playhead" ref={line} />
    </CanvasFrame>
  );
}
