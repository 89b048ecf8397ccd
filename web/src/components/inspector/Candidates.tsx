import { useState } from "react";
import { askCandidates, nameCandidates, swapCandidates } from "../../commands/notes/candidates";
import type { NoteOut } from "../../document/track/model";
import type { CandidateOut } from "../../document/schema";
import { useAsked } from "../../session/useAsked";
import { useEditor } from "../../session/useStore";
import { Button, Quiet } from "../ui/controls";
import { TypedField } from "../ui/TypedField";
import { placeOn } from "../../document/music/chord_place";
import { useChordOf } from "../../hooks/useChords";
import { TargetRow } from "./inspector_parts";

const NAMES = ["First", "Second"] as const;

/** Two pitches that a note may be meant to have, how each sits on the backing, and a way from one to the other. */
export function Candidates({ note }: { note: NoteOut }) {
  const step = useEditor((s) => s.content?.step_id);
  const [found, setFound] = useState<{ of: string; list: CandidateOut[] }>({ of: "", list: [] });
  const question = `${step} ${note.id}`;
  useAsked(question, 120, async () => ({ of: note.id, list: await askCandidates(note.id) }), setFound);
  const chord = useChordOf(note);
  const onChord = (midi: number): string => (chord ? `${placeOn(chord, midi)} of ${chord.title}` : "");
  const [first, second] = found.of === note.id ? found.list : [];
  if (!first || !second) return <Quiet>…</Quiet>;
  const named = note.gesture.candidates.length > 0;
  const name = (place: number, typed: string): Promise<boolean> =>
    place === 0 ? nameCandidates(typed, second.label) : nameCandidates(first.label, typed);
  return (
    <>
      {[first, second].map((one, place) => (
        <div key={NAMES[place]}>
          <TargetRow>
            <span>{NAMES[place]}</span>
            <TypedField label={`${NAMES[place]} candidate`} text={one.label} onCommit={(typed) => name(place, typed)} />
          </TargetRow>
          <Quiet>
            {[named && note.target_midi === one.midi ? "sounds now" : "", one.sits, onChord(one.midi)]
              .filter(Boolean)
              .join(" · ")}
          </Quiet>
        </div>
      ))}
      <Button onPress={() => void swapCandidates()}>{named ? "Hear the other (;)" : "Try both (;)"}</Button>
    </>
  );
}
