import styled from "styled-components";
import { barText } from "../../document/time_text";
import { select, showPhrase } from "../../hooks/editing";
import { toggleDone, usePhrases } from "../../hooks/phrases";
import { useEditor } from "../../hooks/useStore";
import { CheckBox } from "../ui/CheckBox";
import { Panel, Title } from "../ui/controls";

const List = styled.ol`
  list-style: none;
  margin: 0;
  padding: 0 6px 6px;
  overflow: auto;
  flex: 1;
`;

const Item = styled.li<{ $current: boolean }>`
  display: grid;
  grid-template-columns: 1fr auto;
  align-items: start;
  border-radius: 7px;
  background: ${(p) => (p.$current ? "var(--select-wash)" : "transparent")};
  & > button {
    font: inherit;
    color: inherit;
    text-align: left;
    background: none;
    border: 0;
    border-radius: 7px;
    padding: 6px 4px 6px 8px;
    cursor: pointer;
  }
  & > button:focus-visible,
  & input:focus-visible {
    outline: 2px solid var(--select);
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

export function PhraseList() {
  const song = useEditor((s) => s.song);
  const phrases = usePhrases();
  if (!song) return null;
  return (
    <Panel aria-label="Phrases">
      <Title>Phrases</Title>
      <List>
        {phrases.map((phrase) => (
          <Item key={phrase.index} $current={phrase.current}>
            <button
              onClick={() => {
                showPhrase(phrase.index);
                select(phrase.worst ? [phrase.worst] : []);
              }}
              aria-current={phrase.current}
            >
              <span className="head">
                <span>{`${phrase.index + 1} · bar ${barText(phrase.start_s, song)}`}</span>
                {phrase.flags > 0 && <span className="flags" title="flags left">{`⚑ ${phrase.flags}`}</span>}
              </span>
              <span className="words">{phrase.words || `${phrase.notes} notes`}</span>
            </button>
            <CheckBox
              checked={phrase.done}
              onChange={() => toggleDone(phrase.index)}
              aria-label={`Phrase ${phrase.index + 1} done`}
              label={`Phrase ${phrase.index + 1} done`}
            >
              done
            </CheckBox>
          </Item>
        ))}
      </List>
    </Panel>
  );
}
