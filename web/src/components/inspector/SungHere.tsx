import styled from "styled-components";
import { cutByRule, cutWord, forgetHere, moveSyllable, toggleHeld } from "../../commands/lyrics/syllables";
import { plainWord, wordOf } from "../../document/lyrics/lyrics";
import { trackOf } from "../../document/track/store";
import type { NoteOut } from "../../document/track/model";
import { useSung } from "../../hooks/useSyllables";
import { useEditor } from "../../session/useStore";
import { Button, PlainButton } from "../ui/controls";
import { TypedField } from "../ui/TypedField";
import { Fold, TargetRow } from "./inspector_parts";

const Moves = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  padding-top: 6px;
`;

/** The word on a note: which syllable begins with it, where that goes, and how its word is cut. */
export function SungHere({ note }: { note: NoteOut }) {
  const sung = useSung().get(note.id);
  const syllables = useEditor((s) => s.syllables);
  const cuts = useEditor((s) => trackOf(s)?.laid.cuts);
  if (!sung) return null;
  const { begins, word } = sung;
  const parts = begins ? wordOf(syllables, begins).map((one) => one.text) : [];
  return (
    <Fold>
      <summary>{begins ? `Word: ${sung.text}` : `Word: ${word}, held on`}</summary>
      {begins && (
        <TargetRow>
          <span>Cut as</span>
          <TypedField
            label="Cut the word as"
            text={parts.join("·")}
            onCommit={(typed) => cutWord(begins.word, plainParts(typed))}
          />
        </TargetRow>
      )}
      <Moves>
        {begins && (
          <>
            <Button aria-label="Syllable one note earlier" onPress={() => moveSyllable(-1)}>
              ‹ Earlier
            </Button>
            <Button aria-label="Syllable one note later" onPress={() => moveSyllable(1)}>
              Later ›
            </Button>
          </>
        )}
        <Button onPress={toggleHeld}>{begins ? "Held on (Shift+W)" : "Begins here (Shift+W)"}</Button>
      </Moves>
      {begins?.by_hand && (
        <PlainButton onPress={forgetHere}>
          <u>as it is heard</u>
        </PlainButton>
      )}
      {begins && cuts && plainWord(begins.word) in cuts && (
        <PlainButton onPress={() => cutByRule(begins.word)}>
          <u>cut by rule</u>
        </PlainButton>
      )}
    </Fold>
  );
}

/** Typed syllables without the marks around their word, which stay as they are. */
function plainParts(typed: string): string {
  return typed.replaceAll(/[^\p{L}\p{M}'’·\-\s]/gu, "");
}
