import type { TrackOut } from "../../../document/schema";
import { store } from "../../../document/track/store";
import { useEditor } from "../../../session/useStore";
import { PlainButton } from "../../ui/controls";
import { TrackWindow } from "./TrackWindow";

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
