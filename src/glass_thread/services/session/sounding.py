"""The notes and the pitch that sound in a version or comp, in the time of the track."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from ...core.document.items.comps import spans_of
from ...core.document.notes import EditedNote
from ...core.measure.verdicts import Verdict
from ...core.plan.plan import Plan
from ...core.signal.types import HOP_S, Floats
from ...core.synthesis.guide import guide_tone
from .desk import Desk, Standing


@dataclass(frozen=True)
class SoundingNote:
    """A note as it sounds: its place in track seconds, what is asked of it and what is judged of it; `part` is the
    standing it comes from, in a comp one of those that were chosen, and `version` that one's name."""

    edited: EditedNote
    verdict: Verdict
    start_s: float
    end_s: float
    plan: Plan
    part: Standing
    version: str = ""

    @property
    def level_db(self) -> float:
        """Level in dBFS."""
        return self.edited.note.level_db + self.edited.gesture.level_db


def parts_of(desk: Desk, standing: Standing) -> Iterator[tuple[float, float, Standing, str | None]]:
    """What sounds from when to when in track seconds, in a comp with the ids of the versions."""
    chosen = desk.chosen(standing)
    if not chosen:
        yield -np.inf, np.inf, standing, None
    for start_s, end_s, choice in spans_of(standing.content.choices) if chosen else ():
        yield start_s, end_s, chosen[choice.step_id], choice.version_id


def sounding_notes(desk: Desk, standing: Standing) -> list[SoundingNote]:
    """All notes of a standing in order of time; in a comp each belongs to where its middle lies."""
    found, names = [], dict[str | None, str]()
    for start_s, end_s, part, version_id in parts_of(desk, standing):
        if version_id and version_id not in names:
            names[version_id] = desk.workspace.history.version(version_id).name
        plan, verdicts = desk.plan(part), desk.verdicts(part).notes
        for note_id, edited in part.content.notes.items():
            a, b = (float(at) for at in plan.times.source_to_track(edited.span_s))
            if start_s <= (a + b) / 2 < end_s:
                found.append(SoundingNote(edited, verdicts[note_id], a, b, plan, part, names.get(version_id, "")))
    return sorted(found, key=lambda note: note.start_s)


def melody_tone(desk: Desk, standing: Standing, begin: int, end: int) -> Floats:
    """Samples [begin, end) of a soft tone on the pitch that each note has once it is tuned, shape (1, n)."""
    notes = [(note.start_s, note.end_s, note.verdict.tuned_midi) for note in sounding_notes(desk, standing)]
    return guide_tone(notes, begin, end, standing.track.sample_rate)[None, :]


def sounding_contour(desk: Desk, standing: Standing) -> tuple[Floats, Floats]:
    """Times in track seconds and tuned pitch in MIDI of every analysis frame that sounds, NaN unvoiced; shape (n,)."""
    times, pitches = [], []
    for start_s, end_s, part, _version_id in parts_of(desk, standing):
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
