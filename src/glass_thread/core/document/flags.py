"""Notes that deserve an ear, and why.  The limits are common practice, no source.

Off centre follows the singer: a note is marked when it lies further off than this singer's notes usually do, so that
the flags of an uneven take are the places where an ear would stop, not the whole take.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ..signal.types import HOP_S, Contour, Floats, Note

LEAST_OFF_CENTS, MOST_OFF_CENTS = 15.0, 28.0
FEWEST_NOTES, OFF_SPREADS = 8, 2.0  # notes that tell what is usual; how many times the usual distance
# An ear is slow to find a short note off, and quick on a held one: length in seconds and factor on the limit.
LENGTHS_S, LENGTH_FACTORS = (0.12, 0.3, 0.8, 1.5), (1.7, 1.0, 0.9, 0.75)
DRIFT_CENTS_PER_S, DRIFT_CENTS, DRIFT_MIN_S = 30.0, 20.0, 0.5
FEWEST_IN_PHRASE = 4  # notes of a phrase whose levels are compared with each other
WIDE_VIBRATO_CENTS = 70.0
LOUD_DB, QUIET_DB = 4.0, 7.0
UNCERTAIN = 0.8
TWO_PITCHES_CENTS = 60.0
_SETTLED = 5.0  # two pitches lie this many times further apart than either moves
_END_FRAMES, _STEP_FRAMES = 8, 8  # left out at the ends of a note, and on both sides of the step
_HELD_FRAMES = 24  # how long each pitch is held at least
STEEPEST = 1.5  # of a glide, over its mean slope
ABRUPT_CENTS = 15.0  # between neighbouring 5 ms frames


@dataclass(frozen=True)
class Flag:
    """A reason to listen to a note; `reason` is shown to the user."""

    note_id: str
    kind: str
    reason: str


def find_flags(notes: Sequence[Note], targets: dict[str, float], contour: Contour) -> tuple[Flag, ...]:
    """Flags of all notes as they will sound; `targets` in MIDI by note id."""
    usual = usual_distance(notes, targets)
    own = [flag for note in notes for flag in own_flags(note, targets[note.id], contour, usual)]
    return (*own, *level_flags(notes).values())


def usual_distance(notes: Sequence[Note], targets: Mapping[str, float]) -> float:
    """How far in cents a singer's notes lie from their targets: the median by length; 0 when there are too few."""
    off = np.array([100.0 * abs(note.centre_midi - targets[note.id]) for note in notes])
    return _middle(off, np.array([note.end_s - note.start_s for note in notes])) if len(off) >= FEWEST_NOTES else 0.0


def off_centre_limit(length_s: float, usual_cents: float) -> float:
    """From how many cents off a note of some length is marked."""
    limit = min(max(OFF_SPREADS * usual_cents, LEAST_OFF_CENTS), MOST_OFF_CENTS)
    return limit * float(np.interp(length_s, LENGTHS_S, LENGTH_FACTORS))


def _middle(values: Floats, weights: Floats) -> float:
    """Weighted median."""
    order = np.argsort(values)
    place = int(np.searchsorted(np.cumsum(weights[order]), weights.sum() / 2))
    return float(values[order[min(place, len(values) - 1)]])


def own_flags(note: Note, target: float, contour: Contour, usual_cents: float = 0.0) -> list[Flag]:
    """Flags that follow from one note, as it will sound, and the singer; `target` in MIDI, see `usual_distance`."""
    found: list[Flag] = []
    cents = 100.0 * (note.centre_midi - target)
    length = note.end_s - note.start_s
    if abs(cents) >= off_centre_limit(length, usual_cents):
        side = "sharp" if cents > 0 else "flat"
        found.append(Flag(note.id, "off centre", f"{abs(cents):.0f} cents {side}"))
    if length > DRIFT_MIN_S and abs(note.drift_cents_per_s) >= max(DRIFT_CENTS_PER_S, DRIFT_CENTS / length):
        way = "up" if note.drift_cents_per_s > 0 else "down"
        found.append(Flag(note.id, "drifting", f"{way} {abs(note.drift_cents_per_s):.0f} cents a second"))
    if note.vibrato and note.vibrato.extent_cents >= WIDE_VIBRATO_CENTS:
        found.append(Flag(note.id, "wide vibrato", f"±{note.vibrato.extent_cents:.0f} cents"))
    a, b = int(note.start_s / contour.hop_s), int(note.end_s / contour.hop_s)
    certain = contour.confidence[a:b][contour.voiced[a:b]]
    if b > a and (len(certain) == 0 or float(np.mean(certain)) < UNCERTAIN):
        found.append(Flag(note.id, "uncertain pitch", "the pitch is hard to tell here"))
    apart = second_pitch(contour.midi[a:b])
    if apart:
        found.append(Flag(note.id, "two pitches", f"{apart:.0f} cents apart: split it"))
    return found


def level_flags(notes: Sequence[Note]) -> dict[str, Flag]:
    """Notes that are loud or quiet for their phrase, by id; levels as they will sound.

    Phrases of a few notes are compared with the whole part.
    """
    if not notes:
        return {}
    levels = np.array([note.level_db for note in notes])
    lengths = np.array([note.end_s - note.start_s for note in notes])
    phrases = np.array([note.phrase for note in notes])
    found: dict[str, Flag] = {}
    for phrase in np.unique(phrases):
        own = np.flatnonzero(phrases == phrase)
        among, name = (own, "phrase") if len(own) >= FEWEST_IN_PHRASE else (np.arange(len(notes)), "part")
        middle = _middle(levels[among], lengths[among])
        for i in map(int, own):
            over = float(levels[i]) - middle
            if over > LOUD_DB:
                found[notes[i].id] = Flag(notes[i].id, "loud", f"{over:.0f} dB over the {name}")
            elif over < -QUIET_DB:
                found[notes[i].id] = Flag(notes[i].id, "quiet", f"{-over:.0f} dB under the {name}")
    return found


def second_pitch(midi: Floats) -> float:
    """How far apart in cents the two pitches lie that a note holds one after the other, 0 when it holds one.

    `midi` has shape (n,) over the note.  Both must be held, so slow drift, vibrato and a scoop do not count.
    """
    held = midi[_END_FRAMES : len(midi) - _END_FRAMES]
    held = held[np.isfinite(held)]
    n = len(held)
    cut = np.arange(_HELD_FRAMES + _STEP_FRAMES, n - _HELD_FRAMES - _STEP_FRAMES)
    if len(cut) == 0:
        return 0.0
    total = np.concatenate(([0.0], np.cumsum(held - held.mean())))
    square = np.concatenate(([0.0], np.cumsum((held - held.mean()) ** 2)))
    means, spreads = [], []
    for first, last in ((np.zeros_like(cut), cut - _STEP_FRAMES), (cut + _STEP_FRAMES, np.full_like(cut, n))):
        mean = (total[last] - total[first]) / (last - first)
        means.append(mean)
        spreads.append((square[last] - square[first]) / (last - first) - mean**2)
    apart = 100.0 * np.abs(means[1] - means[0])
    spread = 100.0 * np.sqrt(np.maximum(np.maximum(*spreads), 0.0))
    apart[(apart < TWO_PITCHES_CENTS) | (apart < _SETTLED * spread)] = 0.0
    return float(apart.max())


def abrupt_join(before: Note, note: Note, change: float, glide_ms: float) -> Flag | None:
    """A note into which the correction jumps: more than 15 cents in 5 ms at the steepest place of the glide.

    `change` is by how many semitones more than the note before it the note is moved.
    """
    cents = 100.0 * abs(change)
    frames = min(glide_ms / 1000.0, note.end_s - note.start_s, before.end_s - before.start_s) / HOP_S
    if note.start_s - before.end_s < 2 * HOP_S and STEEPEST * cents / max(frames, 1.0) > ABRUPT_CENTS:
        return Flag(note.id, "abrupt join", f"{cents:.0f} cents apart in {frames * HOP_S * 1000:.0f} ms")
    return None


def harsh_flags(found: Mapping[str, float], owners: Mapping[str, str | None]) -> dict[str, list[Flag]]:
    """Flags of notes whose sibilant stands out, by note; `found` says by how many dB, `owners` whose each event is."""
    flags: dict[str, list[Flag]] = {}
    for air_id, over in found.items():
        owner = owners[air_id]
        if owner is not None:
            reason = f"{over:.0f} dB over the track's typical one"
            flags.setdefault(owner, []).append(Flag(owner, "harsh sibilant", reason))
    return flags
