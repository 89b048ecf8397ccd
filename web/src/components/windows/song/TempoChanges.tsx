import styled from "styled-components";
import { byPlace, placeText, readPlace } from "../../../document/track/places";
import type { TempoChange } from "../../../document/music/tempo_map";
import { Button, Quiet } from "../../ui/controls";
import { TypedField } from "../../ui/TypedField";

const Rows = styled.div`
  grid-column: 1 / 3;
  display: flex;
  flex-direction: column;
  gap: 4px;
  max-height: 150px;
  overflow: auto;
  & .row {
    display: grid;
    grid-template-columns: 64px 92px 72px auto;
    gap: 6px;
    align-items: center;
    & button {
      justify-self: start;
    }
  }
`;

/** The change with one of its texts typed anew; null when that cannot be read. */
function typedInto(change: TempoChange, part: "place" | "tempo" | "meter", typed: string): TempoChange | null {
  if (part === "tempo") {
    const tempo = Number.parseFloat(typed.replace(",", "."));
    return Number.isFinite(tempo) ? { ...change, tempo } : null;
  }
  if (part === "place") {
    const place = readPlace(typed);
    return place && { ...change, ...place };
  }
  const meter = /(\d+)\s*\/\s*(\d+)/.exec(typed);
  return meter && { ...change, beats_per_bar: Number(meter[1]), beat_unit: Number(meter[2]) };
}

/** Where a song goes on in another tempo or meter. */
export function TempoChanges(props: {
  changes: readonly TempoChange[];
  /** what a new change begins from */
  first: TempoChange;
  onChange: (changes: TempoChange[]) => void;
}) {
  const { changes, onChange } = props;
  const put = (index: number, part: "place" | "tempo" | "meter") => (typed: string) => {
    const now = typedInto(changes[index]!, part, typed);
    if (!now) return false;
    const all = changes.map((change, i) => (i === index ? now : change));
    onChange(all.sort(byPlace));
    return true;
  };
  const add = (): void => {
    const last = changes.at(-1) ?? props.first;
    onChange([...changes, { ...last, bar: last.bar + 8, beat: 1 }]);
  };
  return (
    <Rows role="group" aria-label="Changes of tempo">
      {changes.map((change, i) => (
        <div className="row" key={i}>
          <TypedField label={`Bar of change ${i + 1}`} text={placeText(change)} onCommit={put(i, "place")} />
          <TypedField label={`Tempo of change ${i + 1}`} text={`${change.tempo} bpm`} onCommit={put(i, "tempo")} />
          <TypedField
            label={`Meter of change ${i + 1}`}
            text={`${change.beats_per_bar}/${change.beat_unit}`}
            onCommit={put(i, "meter")}
          />
          <Button onPress={() => onChange(changes.filter((_, at) => at !== i))}>Remove</Button>
        </div>
      ))}
      <span>
        <Button onPress={add}>Another tempo or meter from a bar on…</Button>
      </span>
      {changes.length > 0 && <Quiet>From that bar (or bar.beat) on: tempo, meter.</Quiet>}
    </Rows>
  );
}
