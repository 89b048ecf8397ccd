import type { ReactNode } from "react";
import styled from "styled-components";
import type { Offered } from "../../document/track/store";
import { catchUp } from "../../commands/voices/following";
import { keepTempo, offerLater, takeKey, takeNoKey, takeReference, takeTempo } from "../../commands/song/offers";
import { useEditor } from "../../session/useStore";
import { Button, Quiet } from "../ui/controls";
import { ByItself } from "../windows/voices/Links";

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
const SURE_ENOUGH = 0.4; // below this a tempo waits in its window

function offTune(sung: number, song: number): boolean {
  return Math.abs(1200 * Math.log2(sung / song)) > NOTICED_CENTS;
}

/** A lead that has changed since the open track followed it. */
export function BehindBar() {
  const behind = useEditor((s) => s.content?.links.find((link) => link.behind));
  const looking = useEditor((s) => s.window === "follow");
  if (!behind || looking) return null;
  return (
    <Bar role="group" aria-label="Behind its lead">
      <span>{`Behind ${behind.lead}: it has changed since.`}</span>
      <Button onPress={() => catchUp(behind.id)}>Catch up</Button>
      <ByItself link={behind} />
    </Bar>
  );
}

/** What a song without a key, and then without a tempo, sounds like; until it is taken the sheet works without. */
export function SongOffers() {
  const song = useEditor((s) => s.song);
  const keys = useEditor((s) => s.keys);
  const tempos = useEditor((s) => s.tempos);
  const later = useEditor((s) => s.offersLater);
  if (!song) return null;
  const open = (what: Offered): boolean => !later.has(`${what} ${song.id}`);
  if (!song.key_chosen && open("key")) return keys && keys.keys.length > 0 ? <KeyOffer /> : null;
  const heard = tempos !== null && tempos.confidence >= SURE_ENOUGH;
  return !song.tempo_chosen && open("tempo") && heard ? <TempoOffer /> : null;
}

function Offer({ what, children }: { what: Offered; children: ReactNode }) {
  return (
    <Bar role="group" aria-label={what === "key" ? "Key of the song" : "Tempo of the song"}>
      {children}
      <Button onPress={() => offerLater(what)}>Later</Button>
    </Bar>
  );
}

function KeyOffer() {
  const song = useEditor((s) => s.song)!;
  const sounds = useEditor((s) => s.keys)!;
  return (
    <Offer what="key">
      <span>No key yet: sounds like</span>
      {sounds.keys.slice(0, OFFERED).map((key) => (
        <Button key={key.title} onPress={() => takeKey(key)}>
          {`${key.title} · ${Math.round(100 * key.confidence)} %`}
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
    </Offer>
  );
}

function TempoOffer() {
  const song = useEditor((s) => s.song)!;
  const heard = useEditor((s) => s.tempos)!;
  return (
    <Offer what="tempo">
      <span>No tempo yet: sounds like</span>
      {heard.tempos.map((tempo) => (
        <Button key={tempo.bpm} onPress={() => takeTempo(tempo)}>
          {`${tempo.bpm.toFixed(1)} bpm · ${tempo.beats_per_bar}/4`}
        </Button>
      ))}
      <Quiet>{`in ${heard.heard_in ?? "it"}, ${Math.round(100 * heard.confidence)} % sure`}</Quiet>
      <span className="room" />
      <Button onPress={keepTempo}>{`Keep ${song.tempo} bpm`}</Button>
    </Offer>
  );
}
