"""Where syllables may begin, by what is heard between one note and the next."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ...signal.types import AirEvent, Floats, Note
from .laying import Place

# Weights of the log odds, set on 330 borders in scores sung by the package pysinsy.
_BASE, _DIP, _DEEPEST_DB = -1.0, 0.2, 12.0
_SHORT_S, _LESS_WHEN_SHORT = 0.1, 1.5
_SILENT_S = 0.03  # without pitch between two notes for longer: a consonant that was not told as one
_BEFORE_S, _AFTER_S, _NEAR_S, _BESIDE_S = 0.04, 0.06, 0.05, 0.12


def places_of(notes: Sequence[Note], air: Sequence[AirEvent], level_db: Floats, hop_s: float) -> list[Place]:
    """Notes in order of time as syllables see them.

    `level_db` is the level of the recording every `hop_s` seconds.
    """
    sounds = sorted((one.start_s, one.end_s) for one in air if one.kind != "breath")
    starts = np.array([start for start, _end in sounds])
    made = []
    for number, note in enumerate(notes):
        before = notes[number - 1] if number and notes[number - 1].phrase == note.phrase else None
        near = int(np.searchsorted(starts, note.start_s + _AFTER_S))
        since = note.start_s - _BESIDE_S if before is None else before.end_s - _NEAR_S
        noisy = any(end > since for _start, end in sounds[max(0, near - 3) : near])
        noisy |= before is not None and note.start_s - before.end_s > _SILENT_S
        opens = 1.0 if before is None else _chance(before, note, level_db, hop_s)
        made.append(Place(note.start_s, note.end_s, note.phrase, opens, noisy))
    return made


def _chance(before: Note, note: Note, level_db: Floats, hop_s: float) -> float:
    """The chance that a note begins a syllable by the dip of level before it."""
    short = note.end_s - note.start_s < _SHORT_S
    logit = _BASE + _DIP * min(_dip(before, note, level_db, hop_s), _DEEPEST_DB) - _LESS_WHEN_SHORT * short
    return float(1.0 / (1.0 + np.exp(-logit)))


def _dip(before: Note, note: Note, level_db: Floats, hop_s: float) -> float:
    """By how many dB the level falls between two notes under what is beside it, on the softer side."""

    def level(start_s: float, end_s: float) -> Floats:
        first = min(max(0, int(start_s / hop_s)), max(0, len(level_db) - 1))
        return level_db[first : max(first + 1, int(end_s / hop_s))]

    if len(level_db) == 0:
        return 0.0
    between = level(before.end_s - _BEFORE_S, note.start_s + _AFTER_S)
    beside = level(before.end_s - _BESIDE_S, before.end_s), level(note.start_s, note.start_s + _BESIDE_S)
    return float(min(one.max() for one in beside) - between.min())
