import { type SyntheticEvent, useState } from "react";
import styled from "styled-components";
import type { SongOut, TrackChangeIn, TrackOut } from "../../../document/schema";
import { store } from "../../../document/track/store";
import { useEditor } from "../../../session/useStore";
import { changeTrackOf, removeTrack } from "../../../commands/song/tracks";
import { Button, Field, MainButton, PlainButton, Quiet } from "../../ui/controls";
import { Picker } from "../../ui/Picker";
import { Window } from "../../ui/Window";

const Grid = styled.form`
  display: grid;
  grid-template-columns: 110px 1fr;
  gap: 8px 12px;
  align-items: center;
  width: min(440px, 84vw);
  & .wide {
    grid-column: 2;
  }
  & .end {
    grid-column: 1 / 3;
    display: flex;
    gap: 8px;
    padding-top: 8px;
  }
  & .room {
    flex: 1;
  }
`;

const ROLES = ["lead", "double", "harmony", "backing"] as const;
type Role = (typeof ROLES)[number];

function seconds(typed: string): number {
  return Number(typed.replace(",", ".").replace("−", "-"));
}

/** What a track is called, its part, where it begins in the song, who sings it; and its removal. */
function TrackWindow({ track, song, onClose }: { track: TrackOut; song: SongOut; onClose: () => void }) {
  const [base] = useState(song.turn);
  const [name, setName] = useState(track.name);
  const [role, setRole] = useState(track.role as Role);
  const [place, setPlace] = useState(String(track.offset_s));
  const [singer, setSinger] = useState(track.singer);
  const wanted: TrackChangeIn = {
    ...(name !== track.name ? { name } : {}),
    ...(role !== track.role ? { role } : {}),
    ...(seconds(place) !== track.offset_s ? { offset_s: seconds(place) } : {}),
    ...(singer.trim() !== track.singer ? { singer: singer.trim() } : {}),
  };
  const wrong = !Number.isFinite(seconds(place)) || !name.trim();
  const submit = async (event: SyntheticEvent): Promise<void> => {
    event.preventDefault();
    if (Object.keys(wanted).length === 0 || (await changeTrackOf(track.id, wanted, base))) onClose();
  };
  return (
    <Window title={`Track “${track.name}”`} open onClose={onClose}>
      <Grid onSubmit={(event) => void submit(event)}>
        <label htmlFor="track-name">Name</label>
        <Field id="track-name" autoFocus value={name} onChange={(event) => setName(event.target.value)} />
        <span>Role</span>
        <Picker
          label="Role"
          options={ROLES.map((one) => [one, one] as const)}
          value={role}
          onChange={(one) => setRole(one as Role)}
        />
        <label htmlFor="track-place">Begins at (s)</label>
        <Field id="track-place" inputMode="decimal" value={place} onChange={(event) => setPlace(event.target.value)} />
        {!Number.isFinite(seconds(place)) && <Quiet className="wide">A number of seconds, such as 12.5.</Quiet>}
        <label htmlFor="track-singer">Singer</label>
        <Field id="track-singer" value={singer} onChange={(event) => setSinger(event.target.value)} />
        <span className="end">
          <Button onPress={() => void removeTrack(track.id, track.name).then((done) => done && onClose())}>
            Remove from the song
          </Button>
          <span className="room" />
          <Button onPress={onClose}>Cancel</Button>
          <MainButton type="submit" isDisabled={wrong}>
            Save
          </MainButton>
        </span>
      </Grid>
    </Window>
  );
}

const look = (changing: string | null): void => store.setState({ changing });

/** A button that opens what can be said of a track. */
export function ChangeTrack({ track }: { track: TrackOut }) {
  return (
    <PlainButton aria-label={`Name, role and place of ${track.name}`} onPress={() => look(track.id)}>
      …
    </PlainButton>
  );
}

/** The window that it opens; kept out of the list, whose rows come and go. */
export function ChangedTrack() {
  const id = useEditor((s) => s.changing);
  const song = useEditor((s) => s.song);
  const songs = useEditor((s) => s.songs);
  const home = [...(song ? [song] : []), ...(songs ?? [])].find((one) => one.tracks.some((track) => track.id === id));
  const track = home?.tracks.find((one) => one.id === id);
  return home && track ? <TrackWindow key={id} track={track} song={home} onClose={() => look(null)} /> : null;
}
