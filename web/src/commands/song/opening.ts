/** Opening a track in the editor, and leaving it. */

import { api } from "../../api/client";
import { ApiError } from "../../api/errors";
import type { AnalysisOut } from "../../document/schema";
import { NEWLY_OPENED, store } from "../../document/track/store";
import { timesOf } from "../../document/time/times";
import { vocalsOf } from "../../document/track/vocals";
import { clampView, fitStretch } from "../../geometry/viewport";
import { applyListening } from "../../listening/playing";
import { restoreView } from "../../session/address";
import { settled } from "../../session/changes";
import { beginSession } from "../../session/editor_session";
import { Question } from "../../document/question";
import { report, say } from "../../session/report";
import { loadCurves } from "../notes/editing";
import { loadOffers } from "./offers";

const opening = new Question();

/** Open a track in the editor; without one, the first vocal that is ready.  The last one asked for is the one shown. */
export async function openTrack(songId: string, trackId: string | null, query: URLSearchParams): Promise<void> {
  const asked = opening.ask();
  await report(async () => {
    await settled(); // what was asked for before is in what is read now
    const song = await api.song(songId);
    const vocals = vocalsOf(song);
    const track = vocals.find((candidate) => candidate.id === trackId) ?? vocals[0];
    if (!track) throw new ApiError("This song has no vocal that is ready yet. Bring one in first.", 404);
    const [content, analysis, versions] = await Promise.all([
      api.content(track.id),
      api.analysis(track.id),
      api.versions(track.id),
    ]);
    const curves = await loadCurves(track.id, content.step_id, analysis.frames, analysis.hop_s);
    if (asked.aborted) return;
    beginSession();
    const { song: before, cursor_s, window } = store.getState();
    const view = { ...store.getState().view, times: timesOf(track, content.times) };
    // In one go: nothing of another track is asked of this one.
    store.setState({
      ...NEWLY_OPENED,
      // the place and the window of another song mean nothing here
      ...(before?.id === song.id ? { cursor_s, window } : { cursor_s: 0, window: null }),
      song,
      trackId: track.id,
      content,
      analysis,
      curves,
      view,
      versions: versions.versions,
      removedVersions: versions.removed,
      stepsTurn: store.getState().stepsTurn + 1,
    });
    applyListening(); // what plays goes on with this track
    if (!restoreView(query)) showPhrase(content.notes[0]?.phrase ?? 0);
    history.replaceState(null, "", `#/song/${song.id}/track/${track.id}?${query.toString()}`);
    loadOffers(song, track.id);
    sayWhatIsUncertain(analysis);
  });
}

function sayWhatIsUncertain({ polyphonic, band_limited }: AnalysisOut): void {
  if (polyphonic) say("This does not sound like one voice; notes and pitches are uncertain.", "trouble", "");
  else if (band_limited) {
    say("Nothing above 5 kHz was recorded: sibilants cannot be told from other consonants here.", "trouble", "");
  }
}

export function showPhrase(index: number): void {
  const { content, analysis, view } = store.getState();
  const phrase = analysis?.phrases.find((candidate) => candidate.index === index);
  if (!phrase || !content || !analysis) return;
  const notes = content.notes.filter((note) => note.phrase === index);
  const pitches = notes.flatMap((note) => [note.centre_midi, note.target_midi]);
  store.setState({ view: clampView(fitStretch(phrase.start_s, phrase.end_s, pitches, view), analysis.duration_s) });
}

/** Leave the editor. */
export function closeTrack(): void {
  opening.callOff();
  beginSession();
  store.setState({
    song: null,
    trackId: null,
    content: null,
    analysis: null,
    curves: null,
    ahead: null,
    ghost: null,
    versions: [],
    selection: new Set(),
  });
}
