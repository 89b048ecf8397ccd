import { useEffect, useState } from "react";
import styled from "styled-components";
import type { Operation } from "../../document/track/model";
import type { PreviewOut } from "../../document/schema";
import { dropPreview, takePreview, tryOut, tryVoices } from "../../commands/notes/previewing";
import type { Double, Harmony } from "../../commands/voices/deriving";
import type { ReachName } from "../../commands/notes/reach";
import { useAsked } from "../../session/useAsked";
import { hearSelection, stop } from "../../listening/playing";
import { useEditor } from "../../session/useStore";
import { showWindow } from "../../session/view";
import { Button, MainButton, Segments } from "../ui/controls";

export const Line = styled.div`
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
  & > input {
    flex: 1;
    width: auto;
    min-width: 0;
  }
`;

export const Found = styled.ul`
  margin: 0;
  padding-left: 18px;
  max-height: 140px;
  overflow: auto;
  font-variant-numeric: tabular-nums;
  & button {
    font: inherit;
    color: inherit;
    background: none;
    border: 0;
    padding: 1px 4px;
    border-radius: 4px;
    cursor: pointer;
  }
  & button:hover {
    background: var(--select-wash);
  }
  & button:focus-visible {
    outline: 2px solid var(--select);
  }
  & th,
  & td {
    text-align: left;
    padding: 1px 10px 1px 0;
    font-weight: 450;
    white-space: nowrap;
  }
  & td:last-child {
    white-space: normal;
    padding-right: 0;
  }
  & th {
    color: var(--muted);
    font-size: 12.5px;
  }
`;

/** For so long a question rests before it is asked. */
export const SETTLE_MS = 150;

/** What an operation would do, tried out whenever it changes; null shows nothing.  It may be heard with a lead. */
export function useTried(operation: Operation | null, lead: string | null = null): PreviewOut | null {
  return useShown(operation, (asked) => tryOut(asked, lead), lead ?? "");
}

/** What voices made of the open track would be, as `useTried`. */
export function useTriedVoices(operation: Double | Harmony | null, voices: number): PreviewOut | null {
  return useShown(operation && { operation, voices }, tryVoices, "");
}

function useShown<T extends object>(
  wanted: T | null,
  send: (wanted: T) => Promise<PreviewOut | null>,
  more: string,
): PreviewOut | null {
  const asked = wanted === null ? null : JSON.stringify(wanted) + more;
  const [tried, setTried] = useState<{ asked: string | null; answer: PreviewOut | null } | null>(null);
  useEffect(() => {
    if (asked === null) dropPreview();
  }, [asked]);
  useAsked(asked, SETTLE_MS, async () => ({ asked, answer: await send(wanted!) }), setTried);
  useEffect(() => dropPreview, []);
  return tried !== null && tried.asked === asked ? tried.answer : null;
}

export function ReachChoice(props: {
  selection: boolean;
  value: ReachName | null;
  onChange: (reach: ReachName) => void;
}) {
  return (
    <Segments<ReachName>
      label="Acts on"
      options={[
        ...(props.selection ? ([["selection", "Selection"]] as const) : []),
        ["phrase", "Phrase"],
        ["track", "Whole track"],
      ]}
      value={props.value}
      onChange={props.onChange}
    />
  );
}

/** What a pass or a glaze rounds to. */
export function RoundingLine(props: {
  label: string;
  value: "scale" | "semitone";
  onChange: (rounding: "scale" | "semitone") => void;
}) {
  return (
    <Line>
      <span>Rounding</span>
      <Segments
        label={props.label}
        options={[
          ["scale", "Scale"],
          ["semitone", "Semitone"],
        ]}
        value={props.value}
        onChange={props.onChange}
      />
    </Line>
  );
}

/** Hear the selection, or the phrase at the cursor, as it would be. */
export function HearIt() {
  const playing = useEditor((s) => s.playing);
  return <Button onPress={playing ? stop : hearSelection}>{playing ? "Stop" : "Hear it"}</Button>;
}

/** Take what is previewed, or leave it. */
export function TakeLine(props: { operation: Operation | null; nothing: boolean; children?: React.ReactNode }) {
  const { operation } = props;
  return (
    <Line>
      <MainButton
        isDisabled={operation === null || props.nothing}
        onPress={() => operation && void takePreview(operation).then((done) => done && showWindow(null))}
      >
        Take it
      </MainButton>
      {props.children}
      <Button onPress={() => showWindow(null)}>Leave</Button>
    </Line>
  );
}
