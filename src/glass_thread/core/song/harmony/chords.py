"""The chords of a backing, beat by beat.

Strengths of notes, averaged over each beat and folded into a treble and a bass octave, are compared with what each
chord would give; the likeliest way through the beats, on which chords rarely change inside a bar, is found by dynamic
programming (A. Sheh and D. P. W. Ellis, "Chord segmentation and recognition using EM-trained hidden Markov models",
ISMIR 2003; M. Mauch and S. Dixon, "Approximate note transcription …", ISMIR 2010).
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ...signal.types import Floats
from .chord_names import HEARD, QUALITIES, Chord
from .pitch_strength import FIRST, HOP_S, LAST

# MIDI: where the treble and the bass begin to count, count in full, and have ended.
_TREBLE, _BASS = (40.0, 67.0, 79.0, 105.0), (13.0, 56.0, 57.5, 65.0)
# All of these were drawn by chance around first guesses and kept when more was right on four seeds of the made backings
# of `bench chords`; other seeds, and the demo, were left out of that.
SURE = 10.0  # how much a better likeness counts
BASS_SHARE, BASS_IN_ALL = 0.36, 1.24
# What a change costs, at a bar, at its middle, and elsewhere.
CHANGE = (0.51, 2.76, 3.5)
# What a chord of each quality costs: richer ones always fit a little better.
_RARER = {"maj": 0.0, "min": 0.0, "7": 0.12, "maj7": 0.6, "min7": 0.12, "dim": 3.5}
NO_CHORD = 0.42  # likeness that no chord has to be beaten by
# How much of the root, third, fifth and seventh is to be expected, and of each in the bass.
PARTS_OF_CHORD = (0.82, 1.09, 0.73, 0.59)
PARTS_OF_BASS = (0.9, 0.41, 0.65, 0.055)
IN_THE_SONG = 0.074  # how much it counts that a chord's notes are usual in the song
POWER = 0.4  # to which strengths are raised: loud notes are not more of a chord
_FEWEST = 1e-9


@dataclass(frozen=True)
class HeardChord:
    """A chord from when to when in seconds, and how sure that is, 0 to 1: the share that it has against all others."""

    start_s: float
    end_s: float
    chord: Chord
    confidence: float


def find_chords(notes: Floats, beats_s: Sequence[float], places: Sequence[float]) -> list[HeardChord]:
    """The chords between beats.

    Parameters
    ----------
    notes : ndarray, shape (frames, notes)
        See `NoteStrength`.
    beats_s : sequence of n + 1 floats
        Where each beat begins, in seconds, and where the last one ends.
    places : sequence of n floats
        Which share of its bar is over where each begins, from 0.
    """
    if len(beats_s) < 2:
        return []
    states = [Chord(None)] + [Chord(root, quality) for quality in HEARD for root in range(12)]
    fits = SURE * _likeness(_by_beat(notes, beats_s), states)
    way = _way(fits, [_cost(place) for place in places])
    share = np.exp(fits - fits.max(axis=1, keepdims=True))
    share /= share.sum(axis=1, keepdims=True)
    found: list[HeardChord] = []
    begin = 0
    for beat in range(1, len(way) + 1):
        if beat < len(way) and way[beat] == way[begin]:
            continue
        sure = float(share[begin:beat, way[begin]].mean())
        found.append(HeardChord(float(beats_s[begin]), float(beats_s[beat]), states[way[begin]], sure))
        begin = beat
    return found


def _cost(place: float) -> float:
    if place == 0.0:
        return CHANGE[0]
    return CHANGE[1] if place == 0.5 else CHANGE[2]


def _by_beat(notes: Floats, beats_s: Sequence[float]) -> Floats:
    """Mean strengths over each beat, shape (beats, notes), of frames whose middle lies in it."""
    edges = [min(max(0, round(at / HOP_S)), len(notes)) for at in beats_s]
    return np.stack([notes[a : max(b, a + 1)].mean(axis=0) if a < len(notes) else np.zeros(notes.shape[1])
                     for a, b in itertools.pairwise(edges)])  # fmt: skip


def _folded(strength: Floats, part: tuple[float, float, float, float]) -> Floats:
    """Pitch classes of the notes in a part of the range, shape (beats, 12), each row of length 1 or 0."""
    midi = np.arange(FIRST, LAST + 1)
    weight = np.interp(midi, part, (0.0, 1.0, 1.0, 0.0))
    found = np.zeros((len(strength), 12))
    np.add.at(found.T, midi % 12, (strength**POWER * weight).T)
    return found / np.maximum(np.linalg.norm(found, axis=1, keepdims=True), _FEWEST)


def _likeness(strength: Floats, states: list[Chord]) -> Floats:
    """How like each chord each beat is, shape (beats, states)."""
    treble, bass = _folded(strength, _TREBLE), _folded(strength, _BASS)
    usual = treble.mean(axis=0) + BASS_IN_ALL * bass.mean(axis=0)
    usual /= max(usual.max(), _FEWEST)
    whole = treble + BASS_IN_ALL * bass
    whole /= np.maximum(np.linalg.norm(whole, axis=1, keepdims=True), _FEWEST)
    found = np.full((len(strength), len(states)), NO_CHORD)
    for number, chord in enumerate(states):
        if chord.root is None:
            continue
        steps = QUALITIES[chord.quality][0]
        template = np.zeros(12)
        template[list(chord.classes)] = PARTS_OF_CHORD[: len(steps)]
        low = np.zeros(12)
        low[list(chord.classes)] = PARTS_OF_BASS[: len(steps)]
        found[:, number] = whole @ (template / np.linalg.norm(template)) - _RARER[chord.quality] / SURE
        found[:, number] += BASS_SHARE * (bass @ low - 0.35)
        found[:, number] += IN_THE_SONG * (usual[list(chord.classes)].min() - 0.5)
    loud = strength.sum(axis=1)
    found[loud < 0.02 * np.percentile(loud, 90), 0] = 2.0
    return found


def _way(fits: Floats, costs: list[float]) -> list[int]:
    """The states of the likeliest way, one a beat."""
    total, back = fits[0], []
    for row, cost in zip(fits[1:], costs[1:], strict=True):
        best = int(np.argmax(total))
        moved = total[best] - cost
        stays = total >= moved
        back.append(np.where(stays, np.arange(len(total)), best))
        total = np.where(stays, total, moved) + row
    way = [int(np.argmax(total))]
    for step in reversed(back):
        way.append(int(step[way[-1]]))
    return way[::-1]
