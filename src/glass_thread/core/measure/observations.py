"""What is looked at of each sung note to tell what a singer tends to do: as it was sung, against what it should be."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ..document.gestures import note_frames, split_note
from ..document.notes import EditedNote
from ..signal.types import HOP_S, Analysis, Floats, Note

SHORTEST_S, HELD_S = 0.12, 0.75
_LEAST_CONFIDENCE = 0.5
_FREE_S = 0.04  # of nothing sung before a note, so that its start is not the way from the one before
_START_S, _END_S = (0.02, 0.08), 0.08
_FIRST_S, _SCOOPED_CENTS = 0.025, 15.0  # how far a scoop goes is seen where it begins; from how much on it is one
_FEWEST_CYCLES, _SMOOTH = 4, 5  # cycles; frames
_BREATH_S, _SILENT_DB = 0.15, -70.0
_ARRIVED_CENTS, _STAYS_S, _ARRIVES_WITHIN_S = 20.0, 0.06, 0.6


@dataclass(frozen=True)
class Observed:
    """One note: where it is in seconds of the recording, its target in MIDI, and what was sung of it; NaN where it does
    not say.

    Cents count up: `off` of the centre from the target, `start` and `end` of the note from its own centre; `sag` in
    cents a second; `interval` in semitones from the note before in the phrase; `late_ms` after the beat it belongs to,
    `after_lead_ms` after the lead that it sings along with; `vibrato_cents` to each side, `vibrato_uneven` the spread
    of its cycles' lengths in percent; `breath_db` how much nearer the sound above 5 kHz is to the whole at the end of
    the note than in its middle, which is of the same vowel; `confidence` of the reading, 0 to 1; `word`
    the one that begins with it, if that is known.
    """

    note_id: str
    start_s: float
    end_s: float
    target: float
    first: bool
    last: bool
    interval: float
    off: float
    start: float
    arrives_ms: float
    end: float
    sag: float
    vibrato_hz: float
    vibrato_cents: float
    vibrato_uneven: float
    breath_db: float
    level_db: float
    confidence: float
    late_ms: float = float("nan")
    after_lead_ms: float = float("nan")
    word: str = ""


def observe(
    notes: Sequence[EditedNote], targets: Mapping[str, float], analysis: Analysis, lines: Floats | None = None
) -> list[Observed]:
    """Look at notes in order of time; `targets` is what each should be in MIDI, `lines` the moments of the beat grid in
    seconds of the recording, if there is one.  Talk and notes too short or unsure to say anything are left out."""
    return [_observed(edited, before, after, targets, analysis, lines, sure)
            for before, edited, after in _with_neighbours(notes)
            if not edited.note.spoken and edited.note.end_s - edited.note.start_s >= SHORTEST_S
            and (sure := _confidence(edited, analysis)) >= _LEAST_CONFIDENCE]  # fmt: skip


def _with_neighbours(notes: Sequence[EditedNote]) -> Iterator[tuple[EditedNote | None, EditedNote, EditedNote | None]]:
    """Each note between those before and after it in its phrase."""
    for i, edited in enumerate(notes):
        before = notes[i - 1] if i and notes[i - 1].note.phrase == edited.note.phrase else None
        following = notes[i + 1] if i + 1 < len(notes) else None
        yield before, edited, following if following and following.note.phrase == edited.note.phrase else None


def _observed(
    edited: EditedNote, before: EditedNote | None, after: EditedNote | None, targets: Mapping[str, float],
    analysis: Analysis, lines: Floats | None, confidence: float,
) -> Observed:  # fmt: skip
    note = edited.note
    free = before is None or note.start_s - before.note.end_s >= _FREE_S
    sung = analysis.contour.midi[slice(*note_frames(note, len(analysis.contour.midi)))]
    cents = 100.0 * (sung - note.centre_midi)
    held = note.end_s - note.start_s >= HELD_S
    return Observed(
        note.id, note.start_s, note.end_s, targets[note.id], before is None, after is None,
        float("nan") if before is None else round(targets[note.id] - targets[before.note.id], 2),
        100.0 * (note.centre_midi - targets[note.id]),
        _comes_in(cents) if free else float("nan"),
        _arrival_ms(cents) if free else float("nan"),
        _middle(cents[-round(_END_S / HOP_S) :]) if after is None else float("nan"),
        note.drift_cents_per_s if held else float("nan"),
        *_vibrato(edited, analysis), _breath_db(note, analysis) if after is None and held else float("nan"),
        note.level_db, round(confidence, 3), _late_ms(note.start_s, lines),
    )  # fmt: skip


def _vibrato(edited: EditedNote, analysis: Analysis) -> tuple[float, float, float]:
    """Rate in Hz, extent to each side in cents, and the spread of its cycles' lengths in percent; NaN without any."""
    note = edited.note
    if note.vibrato is None:
        return float("nan"), float("nan"), float("nan")
    parts = split_note(analysis.contour, analysis.level_db, note)
    swing = np.convolve(parts.vibrato + parts.fine, np.ones(_SMOOTH) / _SMOOTH, mode="same")
    rising = np.flatnonzero((swing[:-1] < 0.0) & (swing[1:] >= 0.0))
    places = rising + swing[rising] / (swing[rising] - swing[rising + 1])  # between two frames
    cycles = np.diff(places) * HOP_S
    usual = 1.0 / note.vibrato.rate_hz
    whole = cycles[(cycles > 0.5 * usual) & (cycles < 1.6 * usual)]  # others are no cycle
    uneven = 100.0 * float(np.std(whole) / np.mean(whole)) if len(whole) >= _FEWEST_CYCLES else float("nan")
    return note.vibrato.rate_hz, note.vibrato.extent_cents, uneven


def _breath_db(note: Note, analysis: Analysis) -> float:
    """How much more of the sound lies above 5 kHz at the end of a note than in its middle."""
    a, b = note_frames(note, len(analysis.level_db))
    above = analysis.high_db[a:b] - analysis.level_db[a:b]
    voiced = np.isfinite(analysis.contour.midi[a:b]) & (analysis.level_db[a:b] > _SILENT_DB)
    third, end = len(above) // 3, round(_BREATH_S / HOP_S)
    parts = [above[span][voiced[span]] for span in (slice(third, 2 * third), slice(len(above) - end, None))]
    if min(len(part) for part in parts) < end // 2:
        return float("nan")
    return float(np.median(parts[1]) - np.median(parts[0]))


def _confidence(edited: EditedNote, analysis: Analysis) -> float:
    found = analysis.contour.confidence[slice(*note_frames(edited.note, len(analysis.contour.midi)))]
    return float(np.mean(found)) if len(found) else 0.0


def _middle(cents: Floats) -> float:
    known = cents[np.isfinite(cents)]
    return float(np.median(known)) if len(known) >= 3 else float("nan")


def _comes_in(cents: Floats) -> float:
    """Cents from which a note comes in: where it is soon after it has begun or, when that is off, where it began."""
    soon = _middle(cents[round(_START_S[0] / HOP_S) : round(_START_S[1] / HOP_S)])
    first = _middle(cents[: round(_FIRST_S / HOP_S)])
    further = abs(soon) > _SCOOPED_CENTS and first * soon > soon * soon
    return first if further else soon


def _arrival_ms(cents: Floats) -> float:
    """When the pitch is near its centre and stays; NaN when it does not in time."""
    near = np.abs(cents[: round(_ARRIVES_WITHIN_S / HOP_S)]) < _ARRIVED_CENTS
    stay = round(_STAYS_S / HOP_S)
    for at in range(len(near) - stay):
        if near[at : at + stay].all():
            return 1000.0 * at * HOP_S
    return float("nan")


def _late_ms(start_s: float, lines: Floats | None) -> float:
    if lines is None or len(lines) < 2:
        return float("nan")
    return float(1000.0 * (start_s - lines[int(np.argmin(np.abs(lines - start_s)))]))
