/**
 * Moments in a recording, in its track and in the song; the only place that converts between them.
 *
 * Source seconds count from the start of the recording, track seconds from there after the track's time map, song
 * seconds on the song's timeline.  The twin of the core's module of the same name.
 */

export interface TrackTimes {
  /** where the track's own zero lies in the song */
  offset_s: number;
  /** anchors of the time map, increasing; none: nothing is moved */
  source_s: readonly number[];
  track_s: readonly number[];
}

export const UNMOVED: TrackTimes = { offset_s: 0, source_s: [], track_s: [] };

/** Anchors of a track's time map. */
export type Anchors = Pick<TrackTimes, "source_s" | "track_s">;

/** How the moments of a track lie in the song; without anchors nothing is moved within it. */
export function timesOf(track: { offset_s: number } | undefined, anchors: Anchors = UNMOVED): TrackTimes {
  return { offset_s: track?.offset_s ?? 0, source_s: anchors.source_s, track_s: anchors.track_s };
}

/** Anchors after a change that keeps the first `head` and the last `tail` of them. */
export function withAnchors(old: Anchors, change: (Anchors & { head: number; tail: number }) | null): Anchors {
  if (!change) return old;
  const joined = (were: readonly number[], fresh: readonly number[]): number[] => [
    ...were.slice(0, change.head),
    ...fresh,
    ...were.slice(were.length - change.tail),
  ];
  return {
    source_s: joined(old.source_s, change.source_s),
    track_s: joined(old.track_s, change.track_s),
  };
}

function mapped(at: number, given: readonly number[], wanted: readonly number[]): number {
  const last = given.length - 1;
  if (last < 0) return at;
  if (at <= given[0]!) return wanted[0]! + at - given[0]!;
  if (at >= given[last]!) return wanted[last]! + at - given[last]!;
  let low = 0;
  let high = last;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (given[middle]! <= at) low = middle;
    else high = middle;
  }
  const share = (at - given[low]!) / (given[high]! - given[low]!);
  return wanted[low]! + share * (wanted[high]! - wanted[low]!);
}

export function sourceToTrack(source_s: number, times: TrackTimes): number {
  return mapped(source_s, times.source_s, times.track_s);
}

export function trackToSource(track_s: number, times: TrackTimes): number {
  return mapped(track_s, times.track_s, times.source_s);
}

export function trackToSong(track_s: number, times: TrackTimes): number {
  return track_s + times.offset_s;
}

export function songToTrack(song_s: number, times: TrackTimes): number {
  return song_s - times.offset_s;
}

export function sourceToSong(source_s: number, times: TrackTimes): number {
  return trackToSong(sourceToTrack(source_s, times), times);
}

export function songToSource(song_s: number, times: TrackTimes): number {
  return trackToSource(songToTrack(song_s, times), times);
}
