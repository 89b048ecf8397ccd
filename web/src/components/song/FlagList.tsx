import { memo, useMemo } from "react";
import styled from "styled-components";
import { useShallow } from "zustand/react/shallow";
import { byHurt, countKinds, flagText, singerText } from "../../document/track/flags";
import type { NoteOut } from "../../document/track/model";
import { noteLabel, signed } from "../../document/music/pitch_names";
import { barText } from "../../document/time/time_text";
import { sourceToSong } from "../../document/time/times";
import { meanSo, showFlags } from "../../commands/notes/flags";
import { selectById } from "../../commands/notes/editing";
import { useEditor } from "../../session/useStore";
import { useBetter, useSung } from "../../hooks/useSyllables";
import { withClashes } from "../../commands/voices/clashes";
import { borrowBetter } from "../../commands/voices/borrowing";
import { CLASH } from "../../document/music/chord_place";
import type { BetterOut } from "../../document/schema";
import { Button, PlainButton, Quiet } from "../ui/controls";
import { Picker } from "../ui/Picker";
import { SideList } from "./side_list";

const Head = styled.div`
  padding: 0 8px 6px;
`;

const List = styled(SideList)`
  & li {
    border-radius: 7px;
    padding: 5px 8px;
  }
  & li[data-chosen] {
    background: var(--select-wash);
  }
  & .head {
    font-weight: 600;
  }
  & .why {
    display: block;
    color: var(--flag);
    font-size: 13px;
  }
  & li > button:last-child:not(:first-child) {
    font-size: 12px;
    min-height: 24px;
    margin-top: 3px;
  }
`;

interface ItemProps {
  note: NoteOut;
  kind: string | null;
  name: string;
  chosen: boolean;
  better: BetterOut | undefined;
}

const FlagItem = memo(function FlagItem({ note, kind, name, chosen, better }: ItemProps) {
  const shown = note.flags.filter((flag) => kind === null || flag.kind === kind);
  return (
    <li {...(chosen ? { "data-chosen": "" } : {})}>
      <PlainButton onPress={() => selectById(note.id)} aria-current={chosen}>
        <span className="head">{name}</span>
        {shown.map((flag) => (
          <span className="why" key={flag.kind}>
            {flagText(flag)}
          </span>
        ))}
      </PlainButton>
      {chosen && better && <SungBetter better={better} />}
      {chosen && shown.some((flag) => flag.kind !== CLASH) && (
        <Button onPress={() => meanSo(note, kind)}>Meant so</Button>
      )}
    </li>
  );
});

/** Where the same word is sung better; pressed, it can be borrowed from there. */
function SungBetter({ better }: { better: BetterOut }) {
  const song = useEditor((s) => s.song);
  if (!song) return null;
  return (
    <PlainButton onPress={() => borrowBetter(better)}>
      <u>{`Sung better in “${better.track}”, bar ${barText(better.start_s, song)}: ${signed(better.other_off_cents)} ct`}</u>
    </PlainButton>
  );
}

/** Every note that deserves an ear, the worst first; of one kind when wished. */
export function FlagList() {
  const found = useEditor((s) => s.content?.notes);
  const known = useEditor(
    useShallow(({ chords, showsChords, view, song: of }) => ({ chords, showsChords, times: view.times, song: of })),
  );
  const notes = useMemo(() => withClashes(found ?? [], known), [found, known]);
  const better = useBetter();
  const song = useEditor((s) => s.song);
  const singer = useEditor((s) => s.content?.singer);
  const kind = useEditor((s) => s.flagKind);
  const selection = useEditor((s) => s.selection);
  const times = useEditor((s) => s.view.times);
  const counts = useMemo(() => countKinds(notes), [notes]);
  const rows = useMemo(() => byHurt(notes, kind), [notes, kind]);
  const sung = useSung();
  if (!song) return null;
  return (
    <>
      <Head>
        <Picker
          label="Kind of flags"
          options={[["all", "every kind"], ...counts.map(([name, n]) => [name, `${name} · ${n}`] as const)]}
          value={kind ?? "all"}
          onChange={(chosen) => showFlags(chosen === "all" ? null : chosen)}
        />
      </Head>
      <Head>
        <Quiet>{singerText(singer?.usual_cents ?? 0, singer?.lean_cents ?? 0)}</Quiet>
      </Head>
      {rows.length === 0 && (
        <Head>
          <Quiet>No flags.</Quiet>
        </Head>
      )}
      <List aria-label="Flags, the worst first">
        {rows.map((note) => (
          <FlagItem
            key={note.id}
            note={note}
            kind={kind}
            name={`${sung.get(note.id) ? `“${sung.get(note.id)!.word}” ` : ""}${noteLabel(song, note, note.tuned_midi, times)} · bar ${barText(sourceToSong(note.start_s, times), song)}`}
            chosen={selection.has(note.id)}
            better={better.get(note.id)}
          />
        ))}
      </List>
    </>
  );
}
