/** Which songs are shown, and in which order. */

import type { ProgressOut, SongOut, TrackOut } from "../schema";

export const SONG_ORDERS = ["last worked", "newest", "title", "most flags"] as const;
export type SongOrder = (typeof SONG_ORDERS)[number];

/** How far tracks are by now, by id; of others the list of songs knows how far they were. */
export type Known = Readonly<Record<string, ProgressOut>>;

/** How far a track is, as far as that is known. */
export function progressOf(track: Pick<TrackOut, "id" | "progress">, known: Known): ProgressOut | null {
  return known[track.id] ?? track.progress;
}

/** When a song was last worked on, or else made; seconds since 1970. */
function lastWorked(song: SongOut, known: Known): number {
  return Math.max(song.created_at, ...song.tracks.map((track) => progressOf(track, known)?.worked_at ?? 0));
}

/** Whether a song or one of its tracks has a name that holds what is searched. */
export function isCalled(song: Pick<SongOut, "tracks" | "title">, search: string): boolean {
  const wanted = search.trim().toLowerCase();
  return [song.title, ...song.tracks.map((track) => track.name)].some((name) => name.toLowerCase().includes(wanted));
}

/** Songs in an order; songs that are alike in it stay the newest first. */
export function ordered(songs: readonly SongOut[], order: SongOrder, known: Known): SongOut[] {
  const flags = (song: SongOut): number =>
    song.tracks.reduce((sum, track) => sum + (progressOf(track, known)?.flags ?? 0), 0);
  const by: Record<SongOrder, (a: SongOut, b: SongOut) => number> = {
    "last worked": (a, b) => lastWorked(b, known) - lastWorked(a, known),
    newest: (a, b) => b.created_at - a.created_at,
    title: (a, b) => a.title.localeCompare(b.title, undefined, { numeric: true, sensitivity: "base" }),
    "most flags": (a, b) => flags(b) - flags(a),
  };
  return [...songs].sort((a, b) => by[order](a, b) || b.created_at - a.created_at);
}

/** A moment as one would say it today: the time, the weekday within a week, else the date. */
export function whenText(at_s: number, now_s: number): string {
  const at = new Date(1000 * at_s);
  const midnight = new Date(1000 * now_s).setHours(0, 0, 0, 0);
  const clock = at.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
  if (at.getTime() >= midnight) return `today ${clock}`;
  if (at.getTime() >= midnight - 6 * 86_400_000) return at.toLocaleDateString("en-GB", { weekday: "long" });
  return at.toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" });
}

/** Ids in the order after some of them were dropped before or after another one. */
export function reordered(ids: readonly string[], moved: Iterable<unknown>, to: unknown, after: boolean): string[] {
  const gone = new Set(moved);
  const rest = ids.filter((id) => !gone.has(id));
  const at = rest.indexOf(String(to)) + (after ? 1 : 0);
  return [...rest.slice(0, at), ...ids.filter((id) => gone.has(id)), ...rest.slice(at)];
}

/**
 * What is known of tracks beyond the list of songs: of those of which it does not say how far they are, and what came
 * since the list was `asked` for, when so much was known.
 */
export function beyond(songs: readonly SongOut[], known: Known, asked: Known): Known {
  const stays = ({ id, progress }: TrackOut): boolean => progress === null || known[id] !== asked[id];
  const tracks = songs.flatMap((song) => song.tracks.filter(stays));
  return Object.fromEntries(tracks.flatMap(({ id }) => (known[id] ? [[id, known[id]]] : [])));
}

/** Songs as they came, but those in which nothing has changed as they were: what shows them has nothing to do. */
export function keptWhereAlike(before: readonly SongOut[], now: readonly SongOut[]): SongOut[] {
  const old = new Map(before.map((song) => [JSON.stringify(song), song]));
  return now.map((song) => old.get(JSON.stringify(song)) ?? song);
}
