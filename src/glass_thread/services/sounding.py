"""The notes and the pitch that sound in a version or comp, in the time of the track."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from ..core.document.comps import spans_of
from ..core.document.notes import EditedNote
from ..core.measure.verdicts import Verdict
from ..core.plan.plan import Plan
from ..core.signal.types import HOP_S, Floats
from .desk import Desk, Standing


@dataclass(frozen=True)
class SoundingNote:
    """A note as it sounds: its place in track seconds, what is asked of it and what is judged of it; `version` is the
    name of the version it comes from in a comp."""

    edited: EditedNote
    verdict: Verdict
    start_s: float
    end_s: float
    plan: Plan
    version: str = ""

    @property
    def level_db(self) -> float:
        """Level in dBFS."""
        return self.edited.note.level_db + self.edited.gesture.level_db


def _parts(desk: Desk, standing: Standing) -> Iterator[tuple[float, float, Standing, str]]:
    """What sounds when, with the names of versions in a comp."""
    if not standing.content.choices:
        yield -np.inf, np.inf, standing, ""
        return
    for start_s, end_s, choice in spans_of(standing.content.choices):
        name = desk.workspace.history.version(choice.version_id).name
        yield start_s, end_s, desk.at(standing.track.id, choice.step_id), name


def sounding_notes(desk: Desk, standing: Standing) -> list[SoundingNote]:
    """All notes of a standing in order of time; in a comp each belongs to where its middle lies."""
    found = []
    for start_s, end_s, part, version in _parts(desk, standing):
        plan, verdicts = desk.plan(part), desk.verdicts(part).notes
        for note_id, edited in part.content.notes.items():
            a, b = (float(at) for at in plan.times.source_to_track(edited.span_s))
            if start_s <= (a + b) / 2 < end_s:
                found.append(SoundingNote(edited, verdicts[note_id], a, b, plan, version))
    return sorted(found, key=lambda note: note.start_s)


def sounding_contour(desk: Desk, standing: Standing) -> tuple[Floats, Floats]:
    """Times in track seconds and tuned pitch in MIDI of every analysis frame that sounds, NaN unvoiced; shape (n,)."""
    times, pitches = [], []
    for start_s, end_s, part, _version in _parts(desk, standing):
        plan = desk.plan(part)
        at = plan.times.source_to_track(np.arange(len(plan.correction)) * HOP_S)
        here = (at >= start_s) & (at < end_s)
        times.append(at[here])
        pitches.append((plan.contour.midi + plan.correction)[here])
    return np.concatenate(times), np.concatenate(pitches)


def note_contour(note: SoundingNote) -> tuple[Floats, Floats]:
    """Times in track seconds and tuned pitch in MIDI of the voiced frames of a note."""
    a, b = (round(at / HOP_S) for at in note.edited.span_s)
    pitch = (note.plan.contour.midi + note.plan.correction)[a:b]
    voiced = np.isfinite(pitch)
    at = note.plan.times.source_to_track((np.arange(a, a + len(pitch)) * HOP_S)[voiced])
    return at, pitch[voiced]
