"""The document of a track: what was found, with every step in force applied."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from ..core.document.content import Content, apply_to_content, as_found
from ..core.document.edits import EditedNote, current_targets
from ..core.document.flags import Flag, find_abrupt_joins, find_flags, find_harsh
from ..core.document.scales import Key
from ..core.signal.errors import ParameterError
from ..core.signal.types import Analysis, Note
from ..formats.documents import change_from_data
from ..store.records import Song, Step, Track
from .songs import song_key
from .workspace import Workspace


@dataclass(frozen=True)
class TrackDocument:
    """Track, analysis, key, steps and what is edited as it stands."""

    track: Track
    song: Song
    key: Key
    analysis: Analysis
    steps: list[Step]
    content: Content

    @property
    def notes(self) -> Mapping[str, EditedNote]:
        """The notes as they stand."""
        return self.content.notes

    def targets(self) -> dict[str, float]:
        """Target of every note in MIDI."""
        return current_targets(self.notes, self.key)

    def flags(self) -> tuple[Flag, ...]:
        """Flags that are left: notes as they will sound, judged against their targets."""
        targets = self.targets()
        tuned = [_as_it_will_sound(edited, targets[note_id]) for note_id, edited in self.notes.items()]
        edited = self.notes.items()
        shifts = {i: e.gesture.pull * (targets[i] - e.note.centre_midi) for i, e in edited}
        glides = {i: e.gesture.glide_ms for i, e in edited}
        joins = find_abrupt_joins([e.note for e in self.notes.values()], shifts, glides)
        return find_flags(tuned, targets, self.analysis.contour) + joins + find_harsh(self.content)


def _as_it_will_sound(edited: EditedNote, target: float) -> Note:
    note, gesture = edited.note, edited.gesture
    vibrato = note.vibrato
    if vibrato is not None:
        vibrato = replace(vibrato, extent_cents=vibrato.extent_cents * gesture.vibrato)
    return replace(
        note,
        centre_midi=note.centre_midi + gesture.pull * (target - note.centre_midi),
        drift_cents_per_s=note.drift_cents_per_s * gesture.drift,
        vibrato=vibrato,
        level_db=note.level_db + gesture.level_db,
    )


def load_document(workspace: Workspace, track_id: str, *, after_step: int | None = None) -> TrackDocument:
    """The document of a ready vocal track as it stands, or as it was after step `after_step`."""
    track = workspace.tracks.get(track_id)
    analysis = workspace.analyses.load(track.audio_hash) if track.ready else None
    if analysis is None:
        raise ParameterError("This track has no notes: it is a backing, or it is still being analysed.")
    song = workspace.songs.get(track.song_id)
    steps = workspace.tracks.steps(track_id)
    content = as_found(analysis)
    cursor = track.cursor if after_step is None else max(after_step, 0)
    for step in steps[:cursor]:
        content = apply_to_content(content, change_from_data(step.change))
    return TrackDocument(track, song, song_key(song), analysis, steps, content)
