import { useEffect, useState } from "react";
import type { NoteOut } from "../../../document/track/model";
import { sourceToSong } from "../../../document/time/times";
import { barText } from "../../../document/time/time_text";
import { otherVocals } from "../../../document/track/vocals";
import { revealNote } from "../../../commands/notes/editing";
import { type Anchor, anchorAtCursor, type Follow, showAlignment } from "../../../commands/voices/following";
import { type ReachName, useReach } from "../../../commands/notes/reach";
import { useEditor } from "../../../session/useStore";
import { showWindow } from "../../../session/view";
import { CheckBox } from "../../ui/CheckBox";
import { Button, PlainButton, Quiet } from "../../ui/controls";
import { Picker } from "../../ui/Picker";
import { FollowStrengths, useFollowStrengths } from "./FollowStrengths";
import { Links } from "./Links";
import { Found, HearIt, Line, ReachChoice, TakeLine, useTried } from "../PassParts";
import { SideWindow } from "../SideWindow";

const MOST_NAMED = 6;

/** That the two would lead each other. */
function Round() {
  const round = useEditor((s) => s.alignment?.in_a_round ?? false);
  if (!round) return null;
  return (
    <p role="status">
      The lead follows this track already: each would move the other. Neither catches up by itself in a round; catch up
      by hand, or let the lead go first.
    </p>
  );
}

/** Notes that only one of the two sings, which are left alone. */
function SungByOne() {
  const alignment = useEditor((s) => s.alignment);
  const song = useEditor((s) => s.song);
  const notes = useEditor((s) => s.content?.notes) ?? [];
  const times = useEditor((s) => s.view.times);
  if (!alignment || !song || alignment.alone.length + alignment.lead_alone.length === 0) return null;
  const own = notes.filter((note: NoteOut) => alignment.alone.includes(note.id));
  return (
    <>
      <Quiet>Sung by one only, and left alone</Quiet>
      <Found aria-label="Sung by one only">
        {own.map((note) => (
          <li key={note.id}>
            <PlainButton onPress={() => revealNote(note.id, note.start_s, note.end_s)}>
              {`${barText(sourceToSong(note.start_s, times), song)} here`}
            </PlainButton>
          </li>
        ))}
        {alignment.lead_alone.length > MOST_NAMED ? (
          <li>{`${alignment.lead_alone.length} notes in the lead`}</li>
        ) : (
          alignment.lead_alone.map((one) => <li key={one.start_s}>{`${barText(one.start_s, song)} in the lead`}</li>)
        )}
      </Found>
    </>
  );
}

function Anchors(props: { lead: string; anchors: readonly Anchor[]; onChange: (anchors: Anchor[]) => void }) {
  const { anchors, onChange } = props;
  const some = useEditor((s) => s.selection.size > 0);
  return (
    <Line>
      <Button
        isDisabled={!some}
        onPress={() => {
          const made = anchorAtCursor(props.lead);
          if (made) onChange([...anchors, made]);
        }}
      >
        The selected note belongs to the cursor
      </Button>
      {anchors.length > 0 && (
        <Button onPress={() => onChange([])}>{`Let ${anchors.length === 1 ? "it" : "them"} go`}</Button>
      )}
    </Line>
  );
}

/** Time, pitch and level of another track, as far as wanted. */
export function FollowWindow() {
  const song = useEditor((s) => s.song);
  const trackId = useEditor((s) => s.trackId);
  const step = useEditor((s) => s.content?.step_id);
  const some = useEditor((s) => s.selection.size > 0);
  const known = useEditor((s) => s.content?.links[0]);
  const others = otherVocals(song, trackId);
  const first = others.find((track) => track.role === "lead") ?? others[0];
  const [lead, setLead] = useState(known?.lead_track ?? first?.id ?? "");
  const { values, set, strengths } = useFollowStrengths(known);
  const [keep, setKeep] = useState(true);
  const [anchors, setAnchors] = useState<Anchor[]>([]);
  const [reach, setReach] = useState<ReachName>("track");
  useEffect(() => void showAlignment(lead || null, anchors), [lead, anchors, step]);
  useEffect(() => () => void showAlignment(null, []), []);
  const chosen = useReach(reach === "selection" && !some ? "phrase" : reach);
  const operation: Follow | null =
    lead && chosen && chosen.noteIds.length > 0 && values.timing + values.pitch + values.level > 0
      ? {
          type: "follow",
          lead_track: lead,
          note_ids: reach === "track" ? [] : chosen.noteIds,
          ...strengths,
          keep_edited: keep,
          anchors: anchors.map(([a, b]) => [a, b]),
        }
      : null;
  const tried = useTried(operation, lead);
  return (
    <SideWindow title="Follow" onClose={() => showWindow(null)}>
      {others.length === 0 ? (
        <p role="status">There is no other vocal in this song that could lead.</p>
      ) : (
        <Line>
          <span>Lead</span>
          <Picker label="Lead" options={others.map((t) => [t.id, t.name] as const)} value={lead} onChange={setLead} />
        </Line>
      )}
      <FollowStrengths values={values} onChange={set} />
      <CheckBox checked={keep} onChange={setKeep}>
        Keep what was edited by hand
      </CheckBox>
      <ReachChoice selection={some} value={reach} onChange={setReach} />
      <Anchors lead={lead} anchors={anchors} onChange={setAnchors} />
      <SungByOne />
      <Round />
      {tried && <p aria-live="polite">{`${tried.changed_notes} notes follow.`}</p>}
      <Links />
      <TakeLine operation={operation} nothing={!tried?.changed_notes}>
        <HearIt />
      </TakeLine>
    </SideWindow>
  );
}
