import styled from "styled-components";
import { byPlace, placeText, readPlace } from "../../../document/track/places";
import type { KeyAt, TuningOut } from "../../../document/schema";
import { Button, Quiet } from "../../ui/controls";
import { TypedField } from "../../ui/TypedField";
import { fitting, KeyPickers, OwnSteps } from "./KeyChoice";

const Rows = styled.div`
  grid-column: 1 / 3;
  display: flex;
  flex-direction: column;
  gap: 4px;
  max-height: 170px;
  overflow: auto;
  & .row {
    display: flex;
    gap: 6px;
    align-items: center;
    & input {
      width: 64px;
    }
  }
`;

/** Where a song goes on in another key. */
export function KeyChanges(props: {
  changes: readonly KeyAt[];
  /** what a new change begins from */
  first: Omit<KeyAt, "bar">;
  /** the bar that a new change is put at, unless there is one */
  here: number;
  tuning: TuningOut | undefined;
  onChange: (changes: KeyAt[]) => void;
}) {
  const { changes, onChange } = props;
  const put = (index: number, change: Partial<KeyAt>): void => {
    const all = changes.map((one, i) => (i === index ? { ...one, ...change } : one));
    onChange(all.sort(byPlace));
  };
  const move = (index: number) => (typed: string) => {
    const place = readPlace(typed);
    if (place) put(index, place);
    return place !== null;
  };
  const add = (): void => {
    const last = changes.at(-1);
    const free = changes.every(({ bar }) => bar !== props.here) && props.here > 1;
    const bar = free ? props.here : (last?.bar ?? 1) + 8;
    const key = changes.findLast((one) => one.bar <= bar) ?? props.first;
    onChange([...changes, { ...key, bar, beat: 1 }].sort(byPlace));
  };
  return (
    <Rows role="group" aria-label="Changes of key">
      {changes.map((change, i) => {
        const value = fitting(
          { tonic: change.tonic, scale: change.scale, classes: change.classes ?? [] },
          props.tuning,
        );
        return (
          <div key={i}>
            <div className="row">
              <Quiet>From bar</Quiet>
              <TypedField label={`Bar of key ${i + 2}`} text={placeText(change)} onCommit={move(i)} />
              <KeyPickers
                of={`key ${i + 2}`}
                value={value}
                tuning={props.tuning}
                onChange={(key) => put(i, { ...key })}
              />
              <Button onPress={() => onChange(changes.filter((_, at) => at !== i))} aria-label={`Remove key ${i + 2}`}>
                Remove
              </Button>
            </div>
            <OwnSteps value={value} tuning={props.tuning} onChange={(key) => put(i, { ...key })} />
          </div>
        );
      })}
      <span>
        <Button onPress={add}>
          {props.here > 1 ? `Another key from bar ${props.here} on…` : "Another key from a bar on…"}
        </Button>{" "}
        {changes.length > 0 && <Quiet>Marks on the ruler; drag them there.</Quiet>}
      </span>
    </Rows>
  );
}
