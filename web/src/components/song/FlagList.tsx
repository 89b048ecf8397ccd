import { memo, useMemo } from "react";
import styled from "styled-components";
import { byHurt, countKinds, flagText, singerText } from "../../document/track/flags";
import type { NoteOut } from "../../document/track/model";
import { noteLabel } from "../../document/music/pitch_names";
import { barText } from "../../document/time/time_text";
import { sourceToSong } from "../../document/time/times";
import { meanSo, showFlags } from "../../commands/notes/flags";
import { selectById } from "../../commands/notes/editing";
import { useEditor } from "../../session/useStore";
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
}

const FlagItem = memo(function FlagItem({ note, kind, name, chosen }: ItemProps) {
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
      {chosen && <Button onPress={() => meanSo(note, kind)}>Meant so</Button>}
    </li>
  );
});

/** Every note that deserves an ear, the worst first; of one kind when wished. */
export function FlagList() {
  const notes = useEditor((s) => s.content?.notes);
  const song = useEditor((s) => s.song);
  const singer = useEditor((s) => s.content?.singer);
  const kind = useEditor((s) => s.flagKind);
  const selection = useEditor((s) => s.selection);
  const times = useEditor((s) => s.view.times);
  const counts = useMemo(() => countKinds(notes ?? []), [notes]);
  const rows = useMemo(() => byHurt(notes ?? [], kind), [notes, kind]);
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
            name={`${noteLabel(song, note, note.tuned_midi, times)} · bar ${barText(sourceToSong(note.start_s, times), song)}`}
            chosen={selection.has(note.id)}
          />
        ))}
      </List>
    </>
  );
}
