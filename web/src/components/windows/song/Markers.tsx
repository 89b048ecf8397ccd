import styled from "styled-components";
import { byPlace, placeText, readPlace } from "../../../document/track/places";
import type { Marker } from "../../../document/schema";
import { Button, Quiet } from "../../ui/controls";
import { TypedField } from "../../ui/TypedField";

const Rows = styled.div`
  grid-column: 1 / 3;
  display: flex;
  flex-direction: column;
  gap: 4px;
  & .list {
    display: flex;
    flex-direction: column;
    gap: 4px;
    max-height: 132px;
    overflow: auto;
  }
  & .row {
    display: grid;
    grid-template-columns: 64px 1fr auto;
    gap: 6px;
    align-items: center;
  }
`;

/** Places of the song with names; they stand on the ruler and over the phrases that follow. */
export function Markers(props: { markers: readonly Marker[]; onChange: (markers: Marker[]) => void }) {
  const { markers, onChange } = props;
  const put = (index: number, change: Partial<Marker>): void => {
    const all = markers.map((marker, i) => (i === index ? { ...marker, ...change } : marker));
    onChange(all.sort(byPlace));
  };
  const move = (index: number) => (typed: string) => {
    const place = readPlace(typed);
    if (place) put(index, place);
    return place !== null;
  };
  return (
    <Rows role="group" aria-label="Markers">
      {markers.length > 0 && <Quiet>Markers: the bar, and its name</Quiet>}
      <div className="list">
        {markers.map((marker, i) => (
          <div className="row" key={i}>
            <TypedField label={`Bar of marker ${i + 1}`} text={placeText(marker)} onCommit={move(i)} />
            <TypedField
              label={`Name of marker ${i + 1}`}
              text={marker.text}
              onCommit={(text) => {
                put(i, { text });
                return true;
              }}
            />
            <Button
              onPress={() => onChange(markers.filter((_, other) => other !== i))}
              aria-label={`Remove ${marker.text}`}
            >
              Remove
            </Button>
          </div>
        ))}
      </div>
      <span>
        <Button onPress={() => onChange([...markers, { bar: (markers.at(-1)?.bar ?? 0) + 1, beat: 1, text: "Verse" }])}>
          Add a marker
        </Button>{" "}
        {markers.length === 0 && <Quiet>Names of places, such as Verse, on the ruler and over the phrases.</Quiet>}
      </span>
    </Rows>
  );
}
