import styled from "styled-components";
import { keyName } from "../../document/pitch_names";
import { offerLater, takeKey, takeNoKey, takeReference } from "../../hooks/key_offer";
import { useEditor } from "../../hooks/useStore";
import { Button, Quiet } from "../ui/controls";

const Bar = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 6px;
  padding: 4px 8px;
  border-bottom: 1px solid var(--edge);
  font-size: 13px;
  & button {
    min-height: 24px;
    padding: 1px 7px;
  }
  & .room {
    flex: 1;
  }
`;

const OFFERED = 3; // the best and its runners-up
const NOTICED_CENTS = 8;

function offTune(sung: number, song: number): boolean {
  return Math.abs(1200 * Math.log2(sung / song)) > NOTICED_CENTS;
}

/** What the track sounds like, while its song has no key: every semitone has a line until one is taken. */
export function KeyOffer() {
  const song = useEditor((s) => s.song);
  const sounds = useEditor((s) => s.keys);
  const later = useEditor((s) => (s.song ? s.keyLater.has(s.song.id) : true));
  if (!song || song.key_chosen || later || !sounds || sounds.keys.length === 0) return null;
  return (
    <Bar role="group" aria-label="Key of the song">
      <span>No key yet: sounds like</span>
      {sounds.keys.slice(0, OFFERED).map((key) => (
        <Button key={keyName(key)} onPress={() => takeKey(key)}>
          {`${keyName(key)} · ${Math.round(100 * key.confidence)} %`}
        </Button>
      ))}
      {sounds.with_backing && <Quiet>with the backing</Quiet>}
      {offTune(sounds.reference_hz, song.reference_hz) && !sounds.with_backing && (
        <Button onPress={() => takeReference(sounds.reference_hz)}>
          {`A4 = ${sounds.reference_hz.toFixed(0)} Hz`}
        </Button>
      )}
      <span className="room" />
      <Button onPress={takeNoKey}>No key</Button>
      <Button onPress={offerLater}>Later</Button>
    </Bar>
  );
}
