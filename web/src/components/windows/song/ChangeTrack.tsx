import { useState } from "react";
import type { TrackOut } from "../../../document/schema";
import { store } from "../../../document/track/store";
import { PlainButton } from "../../ui/controls";
import { TrackWindow } from "./TrackWindow";

/** A button that opens what can be said of a track. */
export function ChangeTrack({ track }: { track: TrackOut }) {
  const [open, setOpen] = useState(false);
  const { song, songs } = store.getState();
  const home = song?.id === track.song_id ? song : songs?.find((one) => one.id === track.song_id);
  return (
    <>
      <PlainButton aria-label={`Name, role and place of ${track.name}`} onPress={() => setOpen(true)}>
        …
      </PlainButton>
      {open && home && <TrackWindow track={track} song={home} onClose={() => setOpen(false)} />}
    </>
  );
}
