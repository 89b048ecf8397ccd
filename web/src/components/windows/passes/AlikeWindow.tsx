import { useEffect, useState } from "react";
import type { Operation } from "../../../document/track/model";
import styled from "styled-components";
import { barText } from "../../../document/time/time_text";
import { showPhrase } from "../../../commands/song/opening";
import { usePhrases } from "../../../commands/song/phrases";
import { findAlike } from "../../../commands/notes/shaping";
import { useEditor } from "../../../session/useStore";
import { showWindow } from "../../../session/view";
import { TakeLine, useTried } from "../PassParts";
import { SideWindow } from "../SideWindow";
import { CheckBox } from "../../ui/CheckBox";
import { Button, Quiet } from "../../ui/controls";

const Offer = styled.div`
  display: flex;
  gap: 8px;
  align-items: center;
  justify-content: space-between;
`;

/** Offer a phrase's gestures to the phrases that repeat it. */
export function AlikeWindow() {
  const [found, setFound] = useState<{ phrase: number; alike: number[] } | null>(null);
  const [left, setLeft] = useState<ReadonlySet<number>>(new Set());
  const [targets, setTargets] = useState(true);
  const notes = useEditor((s) => s.content?.notes) ?? [];
  const song = useEditor((s) => s.song);
  const phrases = usePhrases();
  useEffect(() => void findAlike().then(setFound), []);
  const of = (index: number): string[] => notes.filter((note) => note.phrase === index).map((note) => note.id);
  const chosen = found?.alike.filter((index) => !left.has(index)) ?? [];
  const operation: Operation | null =
    found && chosen.length > 0
      ? { type: "copy_gestures", from_ids: of(found.phrase), to_ids: chosen.flatMap(of), targets }
      : null;
  const tried = useTried(operation);
  const change = (index: number): void => {
    const next = new Set(left);
    if (!next.delete(index)) next.add(index);
    setLeft(next);
  };
  return (
    <SideWindow title="Phrases like this one" onClose={() => showWindow(null)}>
      {found && (
        <Quiet>
          {found.alike.length > 0
            ? `Carries the gestures of phrase ${found.phrase + 1} to those that repeat it in pitch and rhythm.`
            : "No other phrase has this melody and rhythm."}
        </Quiet>
      )}
      {found?.alike.map((index) => (
        <Offer key={index}>
          <CheckBox
            checked={!left.has(index)}
            onChange={() => change(index)}
          >{`${index + 1} · bar ${song ? barText(phrases[index]?.start_s ?? 0, song) : ""} ${phrases[index]?.words ?? ""}`}</CheckBox>
          <Button onPress={() => showPhrase(index)} aria-label={`Show phrase ${index + 1}`}>
            Show
          </Button>
        </Offer>
      ))}
      {found && found.alike.length > 0 && (
        <CheckBox checked={targets} onChange={setTargets}>
          Their targets too
        </CheckBox>
      )}
      <p aria-live="polite">
        {tried && (tried.changed_notes === 1 ? "1 note changes." : `${tried.changed_notes} notes change.`)}
      </p>
      <TakeLine operation={operation} nothing={!tried?.changed_notes} />
    </SideWindow>
  );
}
