import { useState } from "react";
import { ListBox, ListBoxItem } from "react-aria-components";
import styled from "styled-components";
import type { BorrowOut } from "../../../document/track/model";
import { signed } from "../../../document/music/pitch_names";
import type { OfferOut } from "../../../document/schema";
import { barText } from "../../../document/time/time_text";
import { sourceToSong } from "../../../document/time/times";
import { type Borrow, giveBack, loadBorrowOffers, takeBorrow } from "../../../commands/voices/borrowing";
import { hearSelection } from "../../../listening/playing";
import { useAsked } from "../../../session/useAsked";
import { useEditor } from "../../../session/useStore";
import { showWindow } from "../../../session/view";
import { Button, MainButton, PlainButton, Quiet, Segments } from "../../ui/controls";
import { Found, Line, SETTLE_MS, useTried } from "../PassParts";
import { SideWindow } from "../SideWindow";

const Offers = styled(ListBox<OfferOut>)`
  max-height: 268px;
  overflow: auto;
  border: 1px solid var(--edge);
  border-radius: 8px;
  font-variant-numeric: tabular-nums;
  &:focus-visible {
    outline: 2px solid var(--select);
  }
`;

const OfferItem = styled(ListBoxItem)`
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 0 10px;
  padding: 4px 10px;
  cursor: pointer;
  & small {
    grid-column: 1 / 3;
    font-size: 12.5px;
    color: var(--muted);
  }
  &[data-selected] {
    background: var(--select-wash);
  }
  &[data-focus-visible] {
    outline: 2px solid var(--select);
    outline-offset: -2px;
  }
`;

/** How a place differs from what is wanted, in words. */
function offerText(offer: OfferOut): string {
  const cents = Math.round(100 * offer.semitones);
  const pitch = cents === 0 ? "on pitch" : `${signed(cents)} ct`;
  const length = `${offer.times_as_long.toFixed(2)} × as long`;
  return [pitch, length, ...(offer.same_words ? ["same words"] : [])].join(", ");
}

/** What is borrowed on this version, each with a way back. */
function BorrowList() {
  const borrows = useEditor((s) => s.content?.borrows) ?? [];
  const song = useEditor((s) => s.song);
  const times = useEditor((s) => s.view.times);
  if (borrows.length === 0 || !song) return null;
  const place = (borrow: BorrowOut): string => barText(sourceToSong(borrow.start_s, times), song);
  return (
    <>
      <Quiet>Borrowed on this version</Quiet>
      <Found aria-label="Borrowed on this version">
        {borrows.map((borrow) => (
          <li key={borrow.id}>
            {`${place(borrow)} from ${borrow.name}${borrow.clean ? "" : ", a border may be heard"} `}
            <PlainButton aria-label={`Give ${place(borrow)} back`} onPress={() => giveBack(borrow.id)}>
              <u>give back</u>
            </PlainButton>
          </li>
        ))}
      </Found>
    </>
  );
}

function OfferList(props: { offers: OfferOut[]; chosen: string | null; onChoose: (key: string | null) => void }) {
  return (
    <Offers
      aria-label="Places that are alike"
      items={props.offers.map((offer) => ({ ...offer, id: keyOf(offer) }))}
      selectionMode="single"
      selectedKeys={props.chosen === null ? [] : [props.chosen]}
      onSelectionChange={(keys) =>
        props.onChoose(keys === "all" ? null : (([...keys][0] as string | undefined) ?? null))
      }
    >
      {(offer: OfferOut) => (
        <OfferItem
          id={keyOf(offer)}
          textValue={`${offer.name}, ${Math.round(100 * offer.likeness)} % alike, ${offerText(offer)}`}
        >
          <span>{offer.name}</span>
          <b>{`${Math.round(100 * offer.likeness)} %`}</b>
          <small>{offerText(offer)}</small>
        </OfferItem>
      )}
    </Offers>
  );
}

const keyOf = (offer: OfferOut): string => `${offer.track_id}/${offer.note_ids.join("+")}`;

/** The offers for what is selected, asked for again once the selection or the version has changed and rests. */
function useOffers(noteIds: string[]): OfferOut[] | null {
  const step = useEditor((s) => s.content?.step_id);
  const [known, setKnown] = useState<{ asked: string | null; offers: OfferOut[] } | null>(null);
  const asked = noteIds.length === 0 ? null : `${step}/${noteIds.join()}`;
  useAsked(asked, SETTLE_MS, async () => ({ asked, offers: await loadBorrowOffers(noteIds) }), setKnown);
  return asked !== null && known?.asked === asked ? known.offers : null;
}

/** The same word from another place or take, heard in place before it is taken. */
export function BorrowWindow() {
  const selection = useEditor((s) => s.selection);
  const noteIds = [...selection];
  const offers = useOffers(noteIds);
  const [key, setKey] = useState<string | null>(null);
  const [length, setLength] = useState<NonNullable<Borrow["length"]>>("as here");
  const lead = useEditor(
    (s) => s.song?.tracks.find((track) => track.role === "lead" && track.id !== s.trackId)?.id ?? null,
  );
  const offer = offers?.find((one) => keyOf(one) === key) ?? null;
  const operation: Borrow | null = offer && {
    type: "borrow",
    note_ids: noteIds,
    from_track: offer.track_id,
    from_note_ids: offer.note_ids,
    length,
  };
  const tried = useTried(operation, lead);
  const rough = tried?.borrows.some((borrow) => !borrow.clean) ?? false;
  return (
    <SideWindow title="Borrow" onClose={() => showWindow(null)}>
      <Quiet>
        Where the same word was sung too. It comes with its notes, air and edits, and is edited like any other.
      </Quiet>
      {noteIds.length === 0 && <p role="status">Select the notes of a word first.</p>}
      {noteIds.length > 0 && offers === null && <p role="status">Looking for places that are alike…</p>}
      {offers?.length === 0 && (
        <p role="status">
          Nothing alike was found within a fifth. Bring in another take of the line to borrow from it.
        </p>
      )}
      {offers && offers.length > 0 && <OfferList offers={offers} chosen={key} onChoose={setKey} />}
      <Segments
        label="Length"
        options={[
          ["as here", "As long as here"],
          ["as there", "As long as there"],
        ]}
        value={length}
        onChange={setLength}
      />
      {rough && <p role="status">A border of it may be heard. Borrow the notes beside it as well, or another place.</p>}
      <Line>
        <MainButton
          isDisabled={!operation || !tried}
          onPress={() => operation && void takeBorrow(operation).then((done) => done && setKey(null))}
        >
          Take it
        </MainButton>
        <Button isDisabled={noteIds.length === 0} onPress={hearSelection}>
          {tried ? "Hear it in place" : "Hear what is there"}
        </Button>
      </Line>
      <BorrowList />
    </SideWindow>
  );
}
