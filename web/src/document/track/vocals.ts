import type { SongOut, TrackOut } from "../schema";

/** A vocal that can be worked on: what was found in it is there, and it is no backing. */
export function isVocal(track: TrackOut): boolean {
  return track.ready && track.role !== "backing";
}

/** The vocals of a song that can be worked on, in its order. */
export function vocalsOf(song: SongOut | null): TrackOut[] {
  return song?.tracks.filter(isVocal) ?? [];
}

/** All of them but one. */
export function otherVocals(song: SongOut | null, trackId: string | null): TrackOut[] {
  return vocalsOf(song).filter((track) => track.id !== trackId);
}
