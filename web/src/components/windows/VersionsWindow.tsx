import { useState } from "react";
import styled from "styled-components";
import type { VersionOut } from "../../document/track/model";
import { noteLabel, signed } from "../../document/music/pitch_names";
import { barText } from "../../document/time/time_text";
import { sourceToSong } from "../../document/time/times";
import { revealNote } from "../../commands/notes/editing";
import { useEditor } from "../../session/useStore";
import {
  changeVersion,
  hearVersion,
  makeVersion,
  removeVersion,
  restoreVersion,
  setMatchLoudness,
  showGhost,
  switchTo,
  useCompared,
} from "../../commands/versions/versions";
import { showWindow } from "../../session/view";
import { Button, Field, MainButton, PlainButton, Quiet } from "../ui/controls";
import { TypedField } from "../ui/TypedField";
import { CheckBox } from "../ui/CheckBox";
import { Picker } from "../ui/Picker";
import { Found, Line } from "./PassParts";
import { SideWindow } from "./SideWindow";

const Card = styled.li<{ $open: boolean }>`
  display: grid;
  gap: 4px;
  padding: 6px 8px;
  border: 1px solid ${(p) => (p.$open ? "var(--select)" : "var(--edge)")};
  border-radius: 8px;
  background: ${(p) => (p.$open ? "var(--select-wash)" : "transparent")};
  & .head {
    display: flex;
    gap: 8px;
    align-items: baseline;
    justify-content: flex-start;
  }
  & .head b {
    flex: 1;
  }
  & .place {
    min-width: 18px;
    color: var(--muted);
    font-weight: 650;
  }
  & small {
    color: var(--muted);
    font-size: 12.5px;
  }
  & button {
    min-height: 24px;
    padding: 1px 8px;
  }
`;

const List = styled.ol`
  list-style: none;
  display: grid;
  gap: 5px;
  margin: 0;
  padding: 0;
`;

/** Make, name, switch, hear and compare versions. */
export function VersionsWindow() {
  const versions = useEditor((s) => s.versions);
  const removed = useEditor((s) => s.removedVersions);
  const match = useEditor((s) => s.matchLoudness);
  return (
    <SideWindow title="Versions" onClose={() => showWindow(null)}>
      <List aria-label="Versions of this track">
        {versions.map((version, index) => (
          <VersionCard key={version.id} version={version} place={index + 1} />
        ))}
      </List>
      {removed.length > 0 && (
        <Line>
          <Quiet>Removed:</Quiet>
          {removed.map((version) => (
            <Button key={version.id} onPress={() => void restoreVersion(version.id)}>
              {`Bring back “${version.name}”`}
            </Button>
          ))}
        </Line>
      )}
      <NewVersion />
      <CheckBox checked={match} onChange={setMatchLoudness}>
        Compare at the same loudness
      </CheckBox>
      <Compared />
    </SideWindow>
  );
}

function VersionCard({ version, place }: { version: VersionOut; place: number }) {
  const open = useEditor((s) => s.content?.version.id === version.id);
  const heard = useEditor((s) => s.listening === "version" && s.heardVersion === version.id);
  const ghost = useEditor((s) => s.ghost?.versionId === version.id);
  const [editing, setEditing] = useState(false);
  const stands = version.read_only
    ? "as it was recorded, read only"
    : version.head_number === 0
      ? "nothing changed yet"
      : `${version.head_number === 1 ? "1 step" : `${version.head_number} steps`}, last: ${version.head_label}`;
  const named = (text: string): string => `${text} ${version.name}`;
  return (
    <Card $open={open} aria-current={open}>
      <span className="head">
        <span className="place">{place <= 9 ? place : ""}</span>
        <b>{version.name}</b>
        {open && <Quiet>open</Quiet>}
      </span>
      <small>{stands}</small>
      {version.note && !editing && <small>{version.note}</small>}
      {editing && <Names version={version} onDone={() => setEditing(false)} />}
      <Line>
        {!open && (
          <Button aria-label={named("Work on it:")} onPress={() => void switchTo(version.id)}>
            Work on it
          </Button>
        )}
        <Button aria-label={named("Hear")} aria-pressed={heard} onPress={() => hearVersion(place)}>
          Hear
        </Button>
        {!open && (
          <Button aria-label={named("Ghost of")} aria-pressed={ghost} onPress={() => void showGhost(version)}>
            Ghost
          </Button>
        )}
        {!version.read_only && (
          <Button aria-label={named("Name and note of")} aria-pressed={editing} onPress={() => setEditing(!editing)}>
            Name…
          </Button>
        )}
        {version.kind === "made" && (
          <Button aria-label={named("Remove")} onPress={() => void removeVersion(version.id)}>
            Remove
          </Button>
        )}
      </Line>
    </Card>
  );
}

function Names({ version, onDone }: { version: VersionOut; onDone: () => void }) {
  return (
    <>
      <TypedField
        label={`New name of ${version.name}`}
        text={version.name}
        onCommit={(name) => changeVersion(version.id, { name })}
      />
      <TypedField
        label={`Note on ${version.name}`}
        text={version.note || "note"}
        onCommit={(note) => {
          onDone();
          return changeVersion(version.id, { note });
        }}
      />
    </>
  );
}

function NewVersion() {
  const versions = useEditor((s) => s.versions);
  const open = useEditor((s) => s.content?.version.id) ?? "";
  const [name, setName] = useState("");
  const [from, setFrom] = useState<string | null>(null);
  const options = versions.map(
    (v) => [v.id, v.id === open ? `from ${v.name}, as it is now` : `from ${v.name}`] as const,
  );
  const make = (): void => {
    void makeVersion({ name: name.trim(), from_version: from ?? open }).then((done) => done && setName(""));
  };
  return (
    <Line>
      <Field
        aria-label="Name of the new version"
        placeholder="Name of a new version"
        value={name}
        onChange={(event) => setName(event.target.value)}
        onKeyDown={(event) => event.key === "Enter" && name.trim() && make()}
      />
      <Picker label="Where the new version begins" options={options} value={from ?? open} onChange={setFrom} />
      <MainButton isDisabled={!name.trim()} onPress={make}>
        Make
      </MainButton>
    </Line>
  );
}

/** Notes that two versions treat differently, before and after. */
function Compared() {
  const versions = useEditor((s) => s.versions);
  const open = useEditor((s) => s.content?.version);
  const song = useEditor((s) => s.song);
  const times = useEditor((s) => s.view.times);
  const [chosen, setChosen] = useState<string | null>(null);
  const others = versions.filter((version) => version.id !== open?.id);
  const other = others.find((version) => version.id === chosen) ?? others[0] ?? null;
  const notes = useCompared(other);
  if (!other || !open || !song) return null;
  const name = (note: { start_s: number; end_s: number }, midi: number | null | undefined): string =>
    midi === null || midi === undefined ? "–" : noteLabel(song, note, midi, times);
  return (
    <>
      <Line>
        <span>{`${open.name} against`}</span>
        <Picker
          label="Compare with"
          options={others.map((version) => [version.id, version.name])}
          value={other.id}
          onChange={setChosen}
        />
        <Quiet aria-live="polite">
          {notes === null ? "…" : notes.length === 1 ? "1 note differs" : `${notes.length} notes differ`}
        </Quiet>
      </Line>
      {notes !== null && notes.length > 0 && (
        <Found as="table" aria-label={`Notes that differ between ${other.name} and ${open.name}`}>
          <thead>
            <tr>
              <th>Bar</th>
              <th>{other.name}</th>
              <th>{open.name}</th>
              <th>Apart</th>
            </tr>
          </thead>
          <tbody>
            {notes.map((note) => (
              <tr key={note.note_id}>
                <td>
                  <PlainButton onPress={() => revealNote(note.note_id, note.start_s, note.end_s)}>
                    {barText(sourceToSong(note.start_s, times), song)}
                  </PlainButton>
                </td>
                <td>{name(note, note.tuned_first)}</td>
                <td>{name(note, note.tuned_second)}</td>
                <td>{apart(note)}</td>
              </tr>
            ))}
          </tbody>
        </Found>
      )}
    </>
  );
}

/** How far apart two versions put a note, or what else differs. */
function apart(note: { tuned_first?: number | null; tuned_second?: number | null; cut_differently: boolean }): string {
  const [first, second] = [note.tuned_first ?? null, note.tuned_second ?? null];
  if (first === null || second === null) return "only in one";
  const cents = Math.round(100 * (second - first));
  if (cents !== 0) return `${signed(cents)} ct`;
  return note.cut_differently ? "cut differently" : "shape, level or time";
}
