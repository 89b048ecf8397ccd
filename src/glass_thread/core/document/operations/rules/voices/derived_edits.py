"""Edit operations that make another voice: ordinary gestures, from a rule and a seed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from .....signal.errors import ParameterError
from .....signal.types import Analysis
from .....signal.wander import Wander
from .....song.keys import KeyMap
from .....song.tuning import Tuning
from ....content import Content, ContentChange, Edited, EditedAir, air_change
from ....gestures import RANGES
from ....notes import EditedNote, current_targets, difference, selected
from ....time.give_way import give_way
from ....time.stretches import track_place
from ....voices.chord_notes import Chords, beside
from ....voices.melodies import match_melody
from ..moving import moved_where_it_fits
from ..time_edits import shifted

AIR_WAYS = ("kept", "lowered", "left out")
LOWERED_DB = -8.0
_TIME_S, _PITCH_S, _LEVEL_S = 1.2, 0.5, 0.9  # over which a voice wanders; common practice, no source
_HUMAN_MS, _HUMAN_CENTS, _HUMAN_DB = 12.0, 6.0, 0.6


def double(
    content: Content, keys: KeyMap, analysis: Analysis, *, seed: int = 1, note_ids: Sequence[str] = (),
    timing_ms: float = 16.0, pitch_cents: float = 9.0, level_db: float = 0.8, formant: float = 0.3,
    air: str = "lowered",
) -> ContentChange:  # fmt: skip
    """Wander in time, pitch and level by smooth noise whose spread is what was asked for."""
    chosen = _chosen(content, note_ids)
    centres = _tuned(content, keys)
    wanted = {edited.note.id: centres[edited.note.id] for edited in chosen}
    after = [_formant(edited, formant) for edited in chosen]
    return _voice(content, analysis, after, wanted, seed, (timing_ms, pitch_cents, level_db), air)


def harmony(
    content: Content, keys: KeyMap, analysis: Analysis, *, steps: int = 0, semitones: float = 0.0,
    melody: Sequence[Sequence[float]] = (), match: str = "time", exact: bool = True,
    chords: Sequence[Sequence[float]] = (), note_ids: Sequence[str] = (), lean: float = 0.12, seed: int = 1,
    human: float = 0.6, air: str = "lowered",
) -> ContentChange:  # fmt: skip
    """Notes on other pitches, humanised, with formants that lean with the interval."""
    chosen, centres = _chosen(content, note_ids), _tuned(content, keys)
    if melody:
        wanted = _on_melody(content, analysis, chosen, centres, melody, match, exact=exact)
    elif steps or semitones:
        targets = current_targets(content.notes, keys)
        wanted = {one.note.id: centres[one.note.id] + semitones if semitones
                  else _in_scale(keys.of(one.note), targets[one.note.id], steps)
                  for one in chosen}  # fmt: skip
        wanted = _on_chords(content, keys, analysis, chosen, wanted, chords)
    else:
        raise ParameterError("A harmony needs an interval, steps of the scale or semitones, or a melody.")
    sung = [one for one in chosen if one.note.id in wanted]
    after = [_formant(one, lean * (wanted[one.note.id] - centres[one.note.id])) for one in sung]
    spread = (human * _HUMAN_MS, human * _HUMAN_CENTS, human * _HUMAN_DB)
    return _voice(content, analysis, after, wanted, seed, spread, air)


def _on_chords(
    content: Content, keys: KeyMap, analysis: Analysis, chosen: Sequence[EditedNote], wanted: dict[str, float],
    rows: Sequence[Sequence[float]],
) -> dict[str, float]:  # fmt: skip
    """The wanted pitches moved to the nearest notes of the chords that sound at the middles of their notes."""
    if not rows:
        return wanted
    chords, targets = Chords(rows), current_targets(content.notes, keys)
    stretches = give_way(analysis, content).stretches
    return {one.note.id: beside(keys.of(one.note), targets[one.note.id], wanted[one.note.id],
                                chords.at(track_place(stretches, sum(one.span_s) / 2.0)))
            for one in chosen}  # fmt: skip


def _in_scale(tuning: Tuning, midi: float, steps: int) -> float:
    """The pitch of the scale that lies steps above or below its note nearest to a pitch."""
    return tuning.stepped(tuning.nearest(midi, "scale"), steps, "scale")


def sing_melody(
    content: Content, keys: KeyMap, analysis: Analysis, *, melody: Sequence[Sequence[float]],
    note_ids: Sequence[str] = (), lean: float = 0.0, exact: bool = True, match: str = "time",
) -> ContentChange:  # fmt: skip
    """Targets from a melody; notes that have none in it stay as they are."""
    chosen, centres = _chosen(content, note_ids), _tuned(content, keys)
    wanted = _on_melody(content, analysis, chosen, centres, melody, match, exact=exact)
    before = [one for one in chosen if one.note.id in wanted]
    after = [_formant(_on(one, midi), lean * (midi - centres[one.note.id]))
             for one, midi in ((one, wanted[one.note.id]) for one in before)]  # fmt: skip
    return difference(before, after)


def _on_melody(
    content: Content, analysis: Analysis, chosen: Sequence[EditedNote], centres: Mapping[str, float],
    melody: Sequence[Sequence[float]], match: str, *, exact: bool,
) -> dict[str, float]:  # fmt: skip
    """The pitch of the melody for each note that has one in it."""
    places = melody_places(content, analysis, chosen, melody, match)
    wanted = {}
    for one, place in zip(chosen, places, strict=True):
        if place < 0:
            continue
        midi = float(melody[place][2])
        wanted[one.note.id] = midi if exact else midi + 12.0 * round((centres[one.note.id] - midi) / 12.0)
    if not wanted:
        raise ParameterError("No note of this melody belongs to one of these.")
    return wanted


def melody_places(
    content: Content, analysis: Analysis, chosen: Sequence[EditedNote], melody: Sequence[Sequence[float]], match: str
) -> list[int]:
    """The place in a melody, in seconds of the track, of each of some notes; -1 for none."""
    stretches = give_way(analysis, content).stretches
    starts, ends = ([track_place(stretches, one.span_s[side]) for one in chosen] for side in (0, 1))
    pitches = [one.note.centre_midi for one in chosen]
    return match_melody(list(zip(starts, ends, pitches, strict=True)), melody, match)


def sung_by(content: Content, analysis: Analysis, rule: Any) -> set[str]:
    """The notes that a double or harmony sings; a melody leaves out what is not in it."""
    chosen = _chosen(content, rule.note_ids)
    melody = getattr(rule, "melody", ())
    if not melody:
        return {one.note.id for one in chosen}
    places = melody_places(content, analysis, chosen, melody, rule.match)
    return {one.note.id for one, place in zip(chosen, places, strict=True) if place >= 0}


def _chosen(content: Content, note_ids: Sequence[str]) -> list[EditedNote]:
    chosen = selected(content.notes, note_ids) if note_ids else list(content.notes.values())
    if not chosen:
        raise ParameterError("There is no note in this track that another voice could be made of.")
    return chosen


def _tuned(content: Content, keys: KeyMap) -> dict[str, float]:
    """Where each note is heard once it is tuned, in MIDI."""
    targets = current_targets(content.notes, keys)
    sung = {name: edited.note.centre_midi for name, edited in content.notes.items()}
    return {name: sung[name] + edited.gesture.pull * (targets[name] - sung[name])
            for name, edited in content.notes.items()}  # fmt: skip


def _on(edited: EditedNote, midi: float) -> EditedNote:
    low, high, _words = RANGES["target_midi"]
    target = float(np.clip(midi, low, high))
    return replace(edited, gesture=replace(edited.gesture, target_midi=target, pull=1.0, rounding="free"))


def _formant(edited: EditedNote, semitones: float) -> EditedNote:
    low, high, _words = RANGES["formant_shift"]
    shift = float(np.clip(edited.gesture.formant_shift + semitones, low, high))
    return replace(edited, gesture=replace(edited.gesture, formant_shift=round(shift, 3)))


def _voice(
    content: Content, analysis: Analysis, after: Sequence[EditedNote], wanted: dict[str, float], seed: int,
    spread: tuple[float, float, float], air: str,
) -> ContentChange:  # fmt: skip
    """Notes on the wanted pitches, wandering by a spread in ms, cents and dB."""
    wander = Wander(seed, analysis.duration_s)
    starts = np.array([edited.note.start_s for edited in after])
    middles = np.array([sum(edited.span_s) / 2.0 for edited in after])
    lowest_db, highest_db, _words = RANGES["level_db"]
    late, high, loud = (wander.line(slow, at) for slow, at in
                        ((_TIME_S, starts), (_PITCH_S, middles), (_LEVEL_S, middles)))  # fmt: skip
    placed = {}
    for edited in after:
        start_s, end_s = edited.span_s
        middle_s, gesture = (start_s + end_s) / 2.0, edited.gesture
        cents = [spread[1] * high.at(at) for at in (start_s, middle_s, end_s)]
        bent = replace(
            gesture, lean_in=round(gesture.lean_in + cents[0] - cents[1], 2),
            lean_out=round(gesture.lean_out + cents[2] - cents[1], 2),
            level_db=round(float(np.clip(gesture.level_db + spread[2] * loud.at(middle_s), lowest_db, highest_db)), 2),
        )  # fmt: skip
        here = _on(replace(edited, gesture=bent), wanted[edited.note.id] + cents[1] / 100.0)
        edges = zip(gesture.times_ms, edited.span_s, strict=True)
        start_ms, end_ms = (ms + spread[0] * late.at(at) for ms, at in edges)
        placed[edited.note.id] = shifted(here, start_ms, end_ms)
    moved = moved_where_it_fits(content, analysis, dict(placed), give_way(analysis, content)) if spread[0] else {}
    change: dict[str, tuple[Edited | None, Edited | None]] = {**moved}
    for name, edited in placed.items():
        kept = moved.get(name, (None, content.notes[name]))[1]
        assert isinstance(kept, EditedNote)
        start_ms, end_ms = kept.gesture.times_ms
        change[name] = (content.notes[name], shifted(edited, start_ms, end_ms))
    return {**change, **_quieter(content, air)}


def _quieter(content: Content, how: str) -> ContentChange:
    """Sibilants and breaths so that they do not pile up."""
    if how == "kept":
        return {}
    before = [one for one in content.air.values() if one.event.kind in ("sibilant", "breath")]
    low = RANGES["level_db"][0]
    after = [replace(one, muted=True) if how == "left out" or one.muted
             else EditedAir(one.event, max(one.level_db + LOWERED_DB, low)) for one in before]  # fmt: skip
    return air_change(before, after)
