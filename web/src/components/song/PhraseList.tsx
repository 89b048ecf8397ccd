import { Fragment, memo, useState } from "react";
import styled from "styled-components";
import { leftToDo } from "../../document/track/flags";
import { barText, secondsText } from "../../document/time/time_text";
import { sourceToSong } from "../../document/time/times";
import { store } from "../../document/track/store";
import { goToPhrase } from "../../commands/versions/comps";
import { pressPhrase } from "../../commands/song/phrase_unit";
import { showLeft } from "../../commands/notes/flags";
import { type PhraseRow, toggleDone, usePhrases } from "../../commands/song/phrases";
import { useEditor } from "../../session/useStore";
import { CheckBox } from "../ui/CheckBox";
import { Button, Panel, PlainButton, Quiet, Segments, UnseenTitle } from "../ui/controls";
import { FlagList } from "./FlagList";
import { SideList } from "./side_list";
import { WordsWindow } from "../windows/song/WordsWindow";

const Heading = styled.div`
  display: flex;
  align-items: center;
  justify-content: space-between;
  padding: 8px 8px 4px;
  & button {
    font-size: 12px;
    min-height: 24px;
    padding: 0 7px;
  }
`;

const Left = styled(Quiet)`
  padding: 2px 12px 6px;
  font-size: 12px;
`;

const Item = styled.li<{ $current: boolean }>`
  display: grid;
  grid-template-columns: 1fr auto;
  align-items: start;
  border-radius: 7px;
  background: ${(p) => (p.$current ? "var(--select-wash)" : "transparent")};
  & > button {
    padding: 6px 4px 6px 8px;
  }
  & .head {
    display: flex;
    gap: 8px;
    font-weight: 600;
  }
  & .flags {
    color: var(--flag);
    font-weight: 600;
    white-space: nowrap;
  }
  & .words {
    color: var(--muted);
    font-size: 13px;
  }
  & label {
    padding: 8px 8px 0 0;
    font-size: 12px;
    color: var(--muted);
    gap: 5px;
  }
`;

const Section = styled.li`
  padding: 8px 8px 2px;
  font-size: 12.5px;
  font-weight: 650;
  color: var(--select);
`;

interface RowProps {
  index: number;
  place: string;
  words: string;
  flags: number;
  current: boolean;
  done: boolean;
}

/** One phrase; drawn anew only when what it says changes. */
const PhraseItem = memo(function PhraseItem({ index, place, words, flags, current, done }: RowProps) {
  return (
    <Item $current={current}>
      <PlainButton
        onPress={(event) => {
          if (store.getState().panel === "comp") return goToPhrase(index);
          pressPhrase(index, event.shiftKey);
        }}
        aria-current={current}
      >
        <span className="head">
          <span>{`${index + 1} · bar ${place}`}</span>
          {flags > 0 && <span className="flags">{`⚑ ${flags}`}</span>}
        </span>
        <span className="words">{words}</span>
      </PlainButton>
      <CheckBox
        checked={done}
        onChange={() => toggleDone(index)}
        aria-label={`Phrase ${index + 1} done`}
        label={`Phrase ${index + 1} done`}
      >
        done
      </CheckBox>
    </Item>
  );
});

const SIDES = [
  ["phrases", "Phrases"],
  ["flags", "Flags"],
] as const;

/** What is left to do, in minutes of singing. */
function leftWords(phrases: readonly PhraseRow[]): string {
  const [left, all] = leftToDo(phrases);
  return left > 0 ? `Left: ${secondsText(left, 0)} of ${secondsText(all, 0)}` : `All ${secondsText(all, 0)} done`;
}

export function PhraseList() {
  const song = useEditor((s) => s.song);
  const phrases = usePhrases();
  const side = useEditor((s) => s.leftPanel);
  const times = useEditor((s) => s.view.times);
  const [typing, setTyping] = useState(false);
  if (!song) return null;
  return (
    <Panel aria-label="Phrases">
      <Heading>
        <UnseenTitle>Phrases</UnseenTitle>
        <Segments label="Phrases or flags" options={SIDES} value={side} onChange={showLeft} />
        <Button onPress={() => setTyping(true)}>Words…</Button>
      </Heading>
      <Left>{leftWords(phrases)}</Left>
      {typing && <WordsWindow onClose={() => setTyping(false)} />}
      {side === "flags" ? (
        <FlagList />
      ) : (
        <SideList>
          {phrases.map((phrase, i) => (
            <Fragment key={phrase.index}>
              {phrase.section !== "" && phrase.section !== phrases[i - 1]?.section && (
                <Section>{phrase.section}</Section>
              )}
              <PhraseItem
                index={phrase.index}
                place={barText(sourceToSong(phrase.start_s, times), song)}
                words={phrase.words || (phrase.spoken ? "spoken" : `${phrase.notes} notes`)}
                flags={phrase.flags}
                current={phrase.current}
                done={phrase.done}
              />
            </Fragment>
          ))}
        </SideList>
      )}
    </Panel>
  );
}
