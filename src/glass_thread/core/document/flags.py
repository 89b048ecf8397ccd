"""Notes that deserve an ear, why, and how much it hurts.  The limits are common practice, no source.

What hurts is measured against the singer: a note is off by more than this singer's notes usually are, and of a take
that is uneven throughout about one note in six is marked, the worst ones (see `worst_in_six`).
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from ..signal.order import looked_up
from ..signal.types import HOP_S, Contour, Floats, Note
from .gestures import note_frames
from .surroundings import ALONE, Surroundings

FLAG_KINDS = (
    "off centre", "drifting", "wide vibrato", "uncertain pitch", "two pitches", "loud", "quiet", "harsh sibilant",
    "abrupt join",
)  # fmt: skip
LEAST_OFF_CENTS, MOST_OFF_CENTS = 15.0, 28.0
FEWEST_NOTES, OFF_SPREADS = 8, 2.0  # notes that tell what is usual; how many times the usual distance
UNEVEN_CENTS = (4.0, 10.0)  # from a precise singer to an uneven one
SHARE_SHOWN, ALWAYS_SHOWN = 1.0 / 6.0, 2.2  # of an uneven take; the hurt that is shown in any take
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
    """A reason to listen to a note; `reason` is shown to the user, `hurt` is 1 where an ear would just stop."""

    note_id: str
    kind: str
    reason: str
    hurt: float = 1.0


@dataclass(frozen=True)
class Singer:
    """What is usual in a take as it was sung: how far notes lie from where they all do, by how much that is to one side
    of their targets (both in cents), the level of its notes in dB, and from which hurt on a flag is shown."""

    usual_cents: float = 0.0
    lean_cents: float = 0.0
    level_db: float = 0.0
    shown_from: float = 1.0


ANY_SINGER = Singer()


def singer_of(notes: Sequence[Note], targets: Mapping[str, float], *, has_backing: bool = False) -> Singer:
    """What is usual in a take; `targets` in MIDI by note id.

    A voice alone sets its own pitch, so that notes that all lie a little to one side are none of them off; against a
    backing they are.
    """
    notes = [note for note in notes if not note.spoken]
    if len(notes) < FEWEST_NOTES:
        return Singer(level_db=_typical_level(notes))
    lengths = np.array([note.end_s - note.start_s for note in notes])
    off = np.array([100.0 * (note.centre_midi - targets[note.id]) for note in notes])
    lean = _middle(off, lengths)
    usual = _middle(np.abs(off - lean), lengths)
    return Singer(usual, 0.0 if has_backing else lean, _typical_level(notes))


def know_singer(
    notes: Sequence[Note], targets: Mapping[str, float], contour: Contour, around: Surroundings = ALONE,
    harsh: Mapping[str, Sequence[Flag]] | None = None,
) -> Singer:  # fmt: skip
    """What is usual in a take, with the hurt from which its flags are shown; notes and harsh sibilants as sung."""
    singer = singer_of(notes, targets, has_backing=around.has_backing)
    levels = level_flags(notes)
    hurts = []
    for note in notes:
        flags = [*own_flags(note, targets[note.id], contour, singer, around), *(harsh or {}).get(note.id, ())]
        flags += [levels[note.id]] if note.id in levels else []
        hurts.append(max((flag.hurt for flag in flags), default=0.0))
    return replace(singer, shown_from=worst_in_six(hurts, singer.usual_cents))


def find_flags(notes: Sequence[Note], targets: Mapping[str, float], contour: Contour) -> tuple[Flag, ...]:
    """Flags of a take as it was sung, without its air; `targets` in MIDI by note id."""
    singer = know_singer(notes, targets, contour)
    own = [flag for note in notes for flag in own_flags(note, targets[note.id], contour, singer)]
    return tuple(flag for flag in (*own, *level_flags(notes).values()) if flag.hurt >= singer.shown_from)


def _typical_level(notes: Sequence[Note]) -> float:
    levels = np.array([note.level_db for note in notes])
    return _middle(levels, np.array([note.end_s - note.start_s for note in notes])) if notes else 0.0


def worst_in_six(hurts: Sequence[float], usual_cents: float) -> float:
    """From which hurt on flags are shown, by the hurt of each note as sung and how far off notes usually are.

    Of an uneven take the worst sixth, and all that hurt much; of a precise one everything that an ear stops at.
    """
    if len(hurts) < FEWEST_NOTES:
        return 1.0
    always = float(np.interp(usual_cents, UNEVEN_CENTS, (1.0, ALWAYS_SHOWN)))
    return float(np.clip(np.quantile(hurts, 1.0 - SHARE_SHOWN), 1.0, always))


def off_centre_limit(length_s: float, usual_cents: float) -> float:
    """From how many cents off a note of some length is marked."""
    limit = min(max(OFF_SPREADS * usual_cents, LEAST_OFF_CENTS), MOST_OFF_CENTS)
    return limit * looked_up(length_s, LENGTHS_S, LENGTH_FACTORS)


def _middle(values: Iterable[float], weights: Iterable[float]) -> float:
    """Weighted median of a few values: for these, numpy takes longer than it saves."""
    ordered = sorted(zip(values, weights, strict=True))
    half, passed = sum(weight for _value, weight in ordered) / 2.0, 0.0
    for value, weight in ordered:
        passed += weight
        if passed >= half:
            return float(value)
    return float(ordered[-1][0])


def _usual_level(notes: Sequence[Note]) -> float:
    return _middle((note.level_db for note in notes), (note.end_s - note.start_s for note in notes))


def own_flags(
    note: Note, target: float, contour: Contour, singer: Singer = ANY_SINGER, around: Surroundings = ALONE
) -> list[Flag]:
    """Flags that follow from one note, as it will sound, and what it is heard against; `target` in MIDI."""
    if note.spoken:
        return []
    weight = around.weight(note, target, singer.level_db)
    a, b = int(note.start_s / contour.hop_s), int(note.end_s / contour.hop_s)
    midi, sureness = (np.asarray(one[a:b], dtype=np.float64).tobytes() for one in (contour.midi, contour.confidence))
    sure, apart = _as_sung(midi, sureness)
    found = [_off_centre(note, target, singer, weight), _drifting(note, weight)]
    if note.vibrato and note.vibrato.extent_cents >= WIDE_VIBRATO_CENTS:
        extent = note.vibrato.extent_cents
        found.append(Flag(note.id, "wide vibrato", f"±{extent:.0f} cents", weight * extent / WIDE_VIBRATO_CENTS))
    if b > a and sure < UNCERTAIN:
        hurt = weight * (1.0 + (UNCERTAIN - sure))
        found.append(Flag(note.id, "uncertain pitch", "the pitch is hard to tell here", hurt))
    if apart:
        hurt = weight * apart / TWO_PITCHES_CENTS
        found.append(Flag(note.id, "two pitches", f"{apart:.0f} cents apart: split it", hurt))
    return [flag for flag in found if flag is not None]


@lru_cache(maxsize=8192)  # told of a note again after every edit near it, whatever is asked of it
def _as_sung(midi: bytes, confidence: bytes) -> tuple[float, float]:
    """How sure the pitch of a note is on average, and how far apart in cents two pitches lie that it holds."""
    pitch = np.frombuffer(midi)
    certain = np.frombuffer(confidence)[np.isfinite(pitch)]
    return float(np.mean(certain)) if len(certain) else 0.0, two_pitches(pitch)[0]


def _off_centre(note: Note, target: float, singer: Singer, weight: float) -> Flag | None:
    cents = 100.0 * (note.centre_midi - target)
    off = min(abs(cents), abs(cents - singer.lean_cents))
    limit = off_centre_limit(note.end_s - note.start_s, singer.usual_cents)
    if off < limit:
        return None
    side = "sharp" if cents > 0 else "flat"
    return Flag(note.id, "off centre", f"{abs(cents):.0f} cents {side}", weight * off / limit)


def _drifting(note: Note, weight: float) -> Flag | None:
    length, drift = note.end_s - note.start_s, note.drift_cents_per_s
    limit = max(DRIFT_CENTS_PER_S, DRIFT_CENTS / max(length, 1e-3))
    if length <= DRIFT_MIN_S or abs(drift) < limit:
        return None
    reason = f"{'up' if drift > 0 else 'down'} {abs(drift):.0f} cents a second"
    return Flag(note.id, "drifting", reason, weight * min(abs(drift) / limit, 0.7 + 0.01 * abs(drift) * length))


def level_flags(notes: Sequence[Note]) -> dict[str, Flag]:
    """Notes that are loud or quiet for their phrase, by id; levels as they will sound.

    Phrases of a few notes are compared with the whole part.
    """
    notes = [note for note in notes if not note.spoken]
    if not notes:
        return {}
    phrases: dict[int, list[Note]] = {}
    for note in notes:
        phrases.setdefault(note.phrase, []).append(note)
    whole = _usual_level(notes)
    found: dict[str, Flag] = {}
    for own in phrases.values():
        alone = len(own) >= FEWEST_IN_PHRASE
        middle, name = (_usual_level(own), "phrase") if alone else (whole, "part")
        for note in own:
            over = note.level_db - middle
            if over > LOUD_DB:
                found[note.id] = Flag(note.id, "loud", f"{over:.0f} dB over the {name}", over / LOUD_DB)
            elif over < -QUIET_DB:
                found[note.id] = Flag(note.id, "quiet", f"{-over:.0f} dB under the {name}", -over / QUIET_DB)
    return found


def step_between(note: Note, contour: Contour) -> int | None:
    """The frame at which a note passes from one held pitch to another; None when it holds one."""
    a, b = note_frames(note, len(contour.midi))
    cents, place = two_pitches(contour.midi[a:b])
    return a + place if cents else None


def two_pitches(midi: Floats) -> tuple[float, int]:
    """How far apart in cents the two pitches lie that a note holds one after the other, 0 when it holds one; and the
    frame between them.

    `midi` has shape (n,) over the note.  Both must be held, so slow drift, vibrato and a scoop do not count.
    """
    known = _END_FRAMES + np.flatnonzero(np.isfinite(midi[_END_FRAMES : len(midi) - _END_FRAMES]))
    held = midi[known]
    n = len(held)
    cut = np.arange(_HELD_FRAMES + _STEP_FRAMES, n - _HELD_FRAMES - _STEP_FRAMES)
    if len(cut) == 0:
        return 0.0, 0
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
    if not apart.any():
        return 0.0, 0
    among = np.flatnonzero(apart >= 0.97 * apart.max())  # about as good all over the step
    return float(apart.max()), int(known[cut[round(among.mean())]])


def abrupt_join(before: Note, note: Note, change: float, glide_ms: float) -> Flag | None:
    """A note into which the correction jumps: more than 15 cents in 5 ms at the steepest place of the glide.

    `change` is by how many semitones more than the note before it the note is moved.
    """
    cents = 100.0 * abs(change)
    frames = min(glide_ms / 1000.0, note.end_s - note.start_s, before.end_s - before.start_s) / HOP_S
    if note.start_s - before.end_s < 2 * HOP_S and STEEPEST * cents / max(frames, 1.0) > ABRUPT_CENTS:
        reason = f"{cents:.0f} cents apart in {frames * HOP_S * 1000:.0f} ms"
        return Flag(note.id, "abrupt join", reason, ALWAYS_SHOWN)  # what the engineer's own edit did
    return None


def harsh_flags(found: Mapping[str, float], owners: Mapping[str, str | None]) -> dict[str, list[Flag]]:
    """Flags of notes whose sibilant stands out, by note; `found` says by how many dB, `owners` whose each event is."""
    flags: dict[str, list[Flag]] = {}
    for air_id, over in found.items():
        owner = owners[air_id]
        if owner is not None:
            reason = f"{over:.0f} dB over the track's typical one"
            flags.setdefault(owner, []).append(Flag(owner, "harsh sibilant", reason, 1.0 + over / 12.0))
    return flags
