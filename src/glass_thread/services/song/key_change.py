"""What other keys or another tuning would mean for a song, told before they are taken."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ...core.document.notes import EditedNote, current_targets
from ...core.signal.types import Rounding
from ...core.song.beats import bar_text
from ...core.song.keys import KeyMap
from ..session.desk import Desk, Standing
from ..session.keys import KeyPlace, key_map, key_places, key_values, merged_values
from ..session.meters import meters_of

SAME = 0.005  # semitones
MOST_TOLD = 200


@dataclass(frozen=True)
class Elsewhere:
    """A note that rounds elsewhere: its track, its place in bars, where it stands or would go now, where then, and by
    how many cents that is higher.

    `tuned` ones stay where they are.
    """

    track_id: str
    track: str
    note_id: str
    bar: str
    start_s: float
    now: str
    then: str
    cents: float
    tuned: bool


@dataclass(frozen=True)
class KeyChange:
    """Counts over all vocals of a song: notes that are tuned and stay where they are; those of them that the new keys
    would put elsewhere; and notes that are not tuned whose target moves.  The first of both are named."""

    tuned: int
    tuned_elsewhere: int
    untuned_moved: int
    elsewhere: tuple[Elsewhere, ...]


def preview_keys(desk: Desk, song_id: str, values: Mapping[str, Any]) -> tuple[KeyChange, list[KeyPlace]]:
    """Compare the song's keys and tuning with others, note by note, and say what they are; nothing is changed.

    Parameters
    ----------
    values
        Those of `services.keys.KEY_VALUES` that differ.

    Raises
    ------
    ParameterError, AudioError
        If the keys cannot be.
    """
    song = desk.workspace.songs.get(song_id)
    places = key_places(merged_values(key_values(song), values), meters_of(song))
    tuned, found = 0, list[Elsewhere]()
    for track in desk.workspace.tracks.of_song(song_id):
        if not track.ready or track.analysis_id is None:
            continue
        standing = desk.at(track.id)
        tuned += sum(one.gesture.pull > 0.0 for one in standing.content.notes.values())
        found += _elsewhere(standing, key_map(places, track.offset_s))
    stays = sum(one.tuned for one in found)
    return KeyChange(tuned, stays, len(found) - stays, tuple(found[:MOST_TOLD])), places


def _elsewhere(standing: Standing, then: KeyMap) -> list[Elsewhere]:
    """The notes of a track that other keys would put elsewhere."""
    notes, found = standing.content.notes, []
    old, new = (current_targets(notes, keys) for keys in (standing.keys, then))
    meters = meters_of(standing.song)
    for note_id, edited in notes.items():
        tuned = edited.gesture.pull > 0.0
        now, would = old[note_id], _rounded(edited, then) if tuned else new[note_id]
        if abs(now - would) <= SAME:
            continue
        start_s = edited.note.start_s + standing.track.offset_s
        found.append(Elsewhere(
            standing.track.id, standing.track.name, note_id, bar_text(meters, start_s), start_s,
            standing.keys.of(edited.note).label(now), then.of(edited.note).label(would),
            round(100.0 * (would - now), 1), tuned,
        ))  # fmt: skip
    return found


def _rounded(edited: EditedNote, keys: KeyMap) -> float:
    """Where a tuned note would go by its rounding; one that is free stays."""
    gesture = edited.gesture
    if gesture.rounding == "free" and gesture.target_midi is not None:
        return gesture.target_midi
    rounding: Rounding = "semitone" if gesture.rounding == "semitone" else "scale"
    return keys.of(edited.note).nearest(edited.note.centre_midi, rounding)
