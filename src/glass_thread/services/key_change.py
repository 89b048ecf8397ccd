"""What another key or tuning would mean for a song, told before it is taken."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.document.notes import current_targets
from ..core.document.scales import make_key, round_pitch
from ..core.signal.types import Rounding
from .desk import Desk

SAME = 0.005  # semitones


@dataclass(frozen=True)
class KeyChange:
    """Counts over all vocals of a song: notes that are tuned and stay where they are; those of them that the new key
    would put elsewhere; and notes that are not tuned whose target moves."""

    tuned: int
    tuned_elsewhere: int
    untuned_moved: int


def preview_key(
    desk: Desk, song_id: str, *, tonic: int, scale: str, classes: list[int], reference_hz: float
) -> KeyChange:
    """Compare the song's key with another one, note by note; nothing is changed."""
    key = make_key(tonic, scale, classes=classes, reference_hz=reference_hz)
    tuned = elsewhere = moved = 0
    for track in desk.workspace.tracks.of_song(song_id):
        if not track.ready or track.analysis_id is None:
            continue
        standing = desk.at(track.id)
        old, new = (current_targets(standing.content.notes, one) for one in (standing.key, key))
        for note_id, edited in standing.content.notes.items():
            if edited.gesture.pull > 0.0:
                tuned += 1
                rounding: Rounding = "semitone" if edited.gesture.rounding == "semitone" else "scale"
                would = round_pitch(edited.note.centre_midi, key, rounding)
                elsewhere += edited.gesture.rounding != "free" and abs(would - old[note_id]) > SAME
            else:
                moved += abs(old[note_id] - new[note_id]) > SAME
    return KeyChange(tuned, elsewhere, moved)
