/** Which songs are shown, and in which order. */

import type { SongOut } from "./schema";

export const SONG_ORDERS = ["last worked", "newest", "title", "most flags"] as const;
export type SongOrder = (typeof SONG_ORDERS)[number];

/** When a song was last worked on, or else made; seconds since 1970. */
export function lastWorked(song: Pick<SongOut, "tracks" | "created_at">): number {
  return Math.max(song.created_at, ...song.tracks.map((track) => track.progress?.worked_at ?? 0));
}

/** Whether a song or one of its tracks has a name that holds what is searched. */
export function isCalled(song: Pick<SongOut, "tracks" | "title">, search: string): boolean {
  const wanted = search.trim().toLowerCase();
  return [song.title, ...song.tracks.map((track) => track.name)].some((name) => name.toLowerCase().includes(wanted));
}

/** Songs in an order; songs that are alike in it stay the newest first. */
export function ordered(songs: readonly SongOut[], order: SongOrder): SongOut[] {
  const flags = (song: SongOut): number => song.tracks.reduce((sum, track) => sum + (track.progress?.flags ?? 0), 0);
  const by: Record<SongOrder, (a: SongOut, b: SongOut) => number> = {
    "last worked": (a, b) => lastWorked(b) - lastWorked(a),
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
