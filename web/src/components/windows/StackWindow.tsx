import styled from "styled-components";
import type { TrackOut } from "../../document/schema";
import { goTo } from "../../hooks/address";
import { toggleBeneath } from "../../hooks/beneath";
import { setOthers } from "../../hooks/playing";
import { changeTrack, toggleSolo } from "../../hooks/stack_levels";
import { useEditor } from "../../hooks/useStore";
import { showWindow } from "../../hooks/view";
import { TrackOutline } from "../songs/TrackOutline";
import { CheckBox } from "../ui/CheckBox";
import { Button, PlainButton, Quiet } from "../ui/controls";
import { ValueRow } from "../ui/ValueRow";
import { SideWindow } from "./SideWindow";

const Rows = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  display: flex;
  flex-direction: column;
  gap: 10px;
  & li {
    border: 1px solid var(--edge);
    border-radius: 8px;
    padding: 6px 10px;
  }
  & .head {
    display: grid;
    grid-template-columns: minmax(90px, auto) 1fr auto auto auto;
    gap: 10px;
    align-items: center;
  }
  & .name {
    font-weight: 600;
  }
  & .open {
    color: var(--select);
  }
`;

function Row({ track, open, songId }: { track: TrackOut; open: boolean; songId: string }) {
  const beneath = useEditor((s) => s.beneath?.trackId === track.id);
  const solo = useEditor((s) => s.soloed.has(track.id));
  return (
    <li>
      <div className="head">
        <span>
          <PlainButton
            className={open ? "name open" : "name"}
            onPress={() => goTo(`/song/${songId}/track/${track.id}`)}
            aria-label={open ? `${track.name}, open` : `Open ${track.name}`}
          >
            {track.name}
          </PlainButton>
          <br />
          <Quiet>{track.derived_from ? `${track.role}, made` : track.role}</Quiet>
        </span>
        <TrackOutline track={track} />
        {!open && (
          <Button
            aria-pressed={beneath}
            onPress={() => void toggleBeneath(track.id)}
            aria-label={`Notes of ${track.name} behind`}
          >
            Notes
          </Button>
        )}
        <CheckBox
          checked={track.muted}
          onChange={(muted) => void changeTrack(track.id, { muted })}
          aria-label={`Mute ${track.name}`}
        >
          Mute
        </CheckBox>
        <Button aria-pressed={solo} onPress={() => toggleSolo(track.id)} aria-label={`Solo ${track.name}`}>
          Solo
        </Button>
      </div>
      <ValueRow
        label="Level"
        unit="dB"
        value={track.level_db}
        min={-30}
        max={12}
        step={0.5}
        onCommit={(level_db) => void changeTrack(track.id, { level_db })}
      />
      <ValueRow
        label="Place"
        unit="%"
        value={Math.round(100 * track.pan)}
        min={-100}
        max={100}
        step={1}
        onCommit={(pan) => void changeTrack(track.id, { pan: pan / 100 })}
      />
    </li>
  );
}

/** All vocals of the song: how loud and where each is, heard together. */
export function StackWindow() {
  const song = useEditor((s) => s.song);
  const trackId = useEditor((s) => s.trackId);
  const others = useEditor((s) => s.others);
  if (!song) return null;
  const tracks = song.tracks.filter((track) => track.ready && track.role !== "backing");
  return (
    <SideWindow title="Levels and places" onClose={() => showWindow(null)} wide>
      <Quiet>For listening and for a mix; prints of single tracks stay at unity and in their place.</Quiet>
      <CheckBox checked={others} onChange={setOthers}>
        Hear the whole stack
      </CheckBox>
      <Rows aria-label="Vocals of the song">
        {tracks.map((track) => (
          <Row key={track.id} track={track} open={track.id === trackId} songId={song.id} />
        ))}
      </Rows>
    </SideWindow>
  );
}
