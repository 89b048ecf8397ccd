import { useEffect, useState } from "react";
import { CheckboxButton, CheckboxField } from "react-aria-components";
import styled from "styled-components";
import type { TrackOut } from "../../document/schema";
import { goTo } from "../../session/address";
import { heardChoices } from "../../commands/stack";
import { changeTrack, toggleSolo } from "../../listening/stack_levels";
import { useEditor } from "../../session/useStore";
import { Button, PlainButton, Quiet } from "../ui/controls";
import { ChangeTrack } from "../windows/song/TrackWindow";
import { Picker } from "../ui/Picker";
import { FaderAndField } from "../ui/ValueRow";
import { RoleShape } from "./RoleShape";

const Head = styled.div`
  display: grid;
  gap: 4px;
  align-content: center;
  width: 100%;
  min-width: 0;
  font-size: 13px;
  & .line {
    display: flex;
    align-items: center;
    gap: 7px;
    min-width: 0;
  }
  & .name {
    font-weight: 600;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  & .open {
    color: var(--select);
  }
  & .room {
    flex: 1;
  }
  & .grip {
    color: var(--muted);
    cursor: grab;
    padding: 0 3px;
  }
  & .track {
    width: 62px;
  }
  & button {
    min-height: 24px;
    padding: 1px 7px;
  }
  & input {
    min-height: 24px;
    padding: 1px 6px;
    width: 62px;
    flex: none;
  }
  & .chosen {
    display: grid;
    place-items: center;
    width: 15px;
    height: 15px;
    border: 1.5px solid var(--edge-strong);
    border-radius: 4px;
    background: var(--control);
    color: var(--on-tuned);
    font-size: 11px;
    line-height: 1;
    &[data-selected] {
      background: var(--tuned);
      border-color: var(--tuned);
    }
    &[data-focus-visible] {
      outline: 2px solid var(--select);
      outline-offset: 1px;
    }
  }
`;

const WORKED_ON = "";

/** Which version or comp of a track the stack has. */
function HeardPicker({ track }: { track: TrackOut }) {
  const [choices, setChoices] = useState<[string, string][]>([]);
  useEffect(() => void heardChoices(track.id).then(setChoices), [track.id, track.version_id]);
  const name = choices.find(([id]) => id === track.version_id)?.[1] ?? "the open one";
  return (
    <Picker
      label={`Heard of ${track.name}`}
      options={[[WORKED_ON, `Open: ${name}`], ...choices]}
      value={track.heard_version ?? WORKED_ON}
      onChange={(id) => void changeTrack(track.id, { heard_version: id === WORKED_ON ? null : id })}
    />
  );
}

/** A value with a fader and a field beside it, kept within what the fader shows. */
function Value(props: {
  label: string;
  unit: string;
  value: number;
  min: number;
  max: number;
  step: number;
  onCommit: (value: number) => void;
}) {
  const commit = (value: number): void => props.onCommit(Math.min(Math.max(value, props.min), props.max));
  return <FaderAndField {...props} silent onCommit={commit} onChangeBy={(amount) => commit(props.value + amount)} />;
}

/** Its role where the name does not say it, and whether it is made of another one. */
function facts(track: TrackOut): string {
  const role = track.name.toLowerCase().includes(track.role) ? [] : [track.role];
  return [...role, ...(track.derived_from ? ["made"] : [])].join(", ");
}

/** What a row of the stack says of its track, and what can be set there. */
export function TrackHead({ track, open, songId }: { track: TrackOut; open: boolean; songId: string }) {
  const solo = useEditor((s) => s.soloed.has(track.id));
  const vocal = track.role !== "backing";
  return (
    <Head>
      <div className="line">
        <PlainButton slot="drag" className="grip" aria-label={`Move ${track.name}`}>
          ⠿
        </PlainButton>
        {vocal && (
          <CheckboxField slot="selection" aria-label={`Choose ${track.name}`}>
            <CheckboxButton className="chosen">{({ isSelected }) => <>{isSelected ? "✓" : ""}</>}</CheckboxButton>
          </CheckboxField>
        )}
        <RoleShape role={track.role} />
        {vocal && track.ready ? (
          <PlainButton
            className={open ? "name open" : "name"}
            onPress={() => goTo(`/song/${songId}/track/${track.id}`)}
            aria-label={`Open ${track.name}`}
          >
            {track.name}
          </PlainButton>
        ) : (
          <span className="name">{track.name}</span>
        )}
        <Quiet>{facts(track)}</Quiet>
        <span className="room" />
        <ChangeTrack track={track} />
        <Button
          aria-pressed={track.muted}
          onPress={() => void changeTrack(track.id, { muted: !track.muted })}
          aria-label={`Mute ${track.name}`}
        >
          Mute
        </Button>
        {vocal && (
          <Button aria-pressed={solo} onPress={() => toggleSolo(track.id)} aria-label={`Solo ${track.name}`}>
            Solo
          </Button>
        )}
      </div>
      <div className="line">
        {vocal && track.ready ? <HeardPicker track={track} /> : <Quiet>as recorded</Quiet>}
        <span className="room" />
        <TrackValues track={track} />
      </div>
    </Head>
  );
}

function TrackValues({ track }: { track: TrackOut }) {
  return (
    <>
      <Value
        label={`Level of ${track.name}`}
        unit="dB"
        value={track.level_db}
        min={-30}
        max={12}
        step={0.5}
        onCommit={(level_db) => void changeTrack(track.id, { level_db })}
      />
      <Value
        label={`Place of ${track.name}`}
        unit="%"
        value={Math.round(100 * track.pan)}
        min={-100}
        max={100}
        step={1}
        onCommit={(pan) => void changeTrack(track.id, { pan: pan / 100 })}
      />
    </>
  );
}
