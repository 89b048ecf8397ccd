"""``glass-thread bench follow``: a follower of known truth against its lead, and two plain warpings beside ours."""

from __future__ import annotations

import time
from dataclasses import replace
from typing import Any

import numpy as np

from ...core.alignment.timbre import performance as features_of
from ...core.alignment.timbre import timbre
from ...core.alignment.warping import align
from ...core.analysis.analysis import analyse
from ...core.document.content import apply_to_content, as_found
from ...core.document.items.links import LeadNow
from ...core.document.operations.registry import Scene, parse_operation
from ...core.plan.plan import build_plan
from ...core.signal.types import HOP_S, Floats
from ...core.song.keys import KeyMap
from ...demo.score import Performance, SungNote, SungVoice
from ...demo.singer import sing
from ...demo.song import lead
from ...services.files.tune_file import likely_keys
from ...services.voices.following import Side, followed
from .plain_warping import chroma_rows, pitch_rows, plain_warping

RATE = 44_100
LATE_S, OFF_CENTS = 0.12, 80.0
_PHRASE_S = 0.3  # of rest, after which somebody else comes in anew
MISSING, ADDED = 20, 30  # notes of the demo's lead that only one of the two sings
FOLLOWERS = (
    ("the same voice", SungVoice(), 0.0),
    ("another voice, breathier", SungVoice(formants=1.05, rd=1.6, breath_db=-22.0), 0.0),
    ("a man, an octave below", SungVoice(formants=0.95, rd=1.3, breath_db=-26.0), -12.0),
    ("a third above", SungVoice(formants=1.2, rd=0.9), 4.0),
    ("an octave above", SungVoice(formants=1.25, rd=1.0), 12.0),
)
Row = dict[str, Any]


def bench_follow(seed: int) -> list[Row]:
    """One row a kind of follower: milliseconds by which true onsets lie apart, in the median and at the 95th
    percentile, before, after following, and by two plain warpings; cents between centres; and unmatched words found."""
    whole = lead()
    sung = _without(whole, {ADDED})
    leader = _side(sung)
    rows = []
    for name, voice, octave in FOLLOWERS:
        take = follower_of(whole, seed, voice, octave)
        rows.append({"follower": name, **_scores(take, leader, whole, octave)})
    return [*rows, {"follower": "five minutes, aligned in seconds", "ours median": _five_minutes(leader.features)}]


def follower_of(whole: Performance, seed: int, voice: SungVoice, octave: float) -> Performance:
    """The same words by somebody else, up to `LATE_S` and `OFF_CENTS` off, without one of them."""
    rng = np.random.default_rng(seed)
    late, off = [], 0.0
    for i, note in enumerate(whole.notes):
        begins = i == 0 or note.start_s > whole.notes[i - 1].end_s + _PHRASE_S
        off = rng.uniform(-LATE_S, LATE_S) if begins else np.clip(off + rng.uniform(-0.04, 0.04), -LATE_S, LATE_S)
        late.append(float(off))
    notes = []
    for i, note in enumerate(whole.notes):
        tied = i + 1 < len(whole.notes) and whole.notes[i + 1].start_s < note.end_s + 0.02
        end = note.end_s + (late[i + 1] if tied else late[i])
        off = note.off + rng.uniform(-OFF_CENTS, OFF_CENTS)
        notes.append(replace(note, start_s=note.start_s + late[i], end_s=end, midi=note.midi + octave, off=off))
    starts = np.array([note.start_s for note in whole.notes])
    owners = [int(np.argmin(np.abs(starts - one.end_s))) for one in whole.air]
    air = [replace(one, start_s=one.start_s + late[i], end_s=one.end_s + late[i])
           for one, i in zip(whole.air, owners, strict=True)]  # fmt: skip
    ordered = tuple(sorted(air, key=lambda one: one.start_s))
    made = replace(whole, notes=tuple(notes), air=ordered, voice=voice, seed=seed)
    return _without(made, {MISSING})


def _without(performance: Performance, places: set[int]) -> Performance:
    return replace(performance, notes=tuple(n for i, n in enumerate(performance.notes) if i not in places))


def _side(performance: Performance, keys: KeyMap | None = None) -> Side:
    audio = sing(performance, RATE).audio
    found = analyse(audio, RATE)
    content, chosen = as_found(found), keys or likely_keys(found)
    rows = timbre(audio if audio.ndim == 1 else audio.mean(axis=0), RATE, found.contour, found.level_db)
    return Side(found, content, build_plan(found, content, chosen), chosen,
                features_of(rows, found.contour, found.level_db, found.high_db))  # fmt: skip


def _scores(take: Performance, leader: Side, whole: Performance, octave: float) -> Row:
    side = _side(take, leader.keys)
    asked = parse_operation({"type": "follow", "lead_track": "lead", "timing": 1.0, "pitch": 1.0,
                             "interval": "semitones"})  # fmt: skip
    found = followed(side, leader, asked)  # type: ignore[arg-type]
    change = asked.change(Scene(side.content, side.keys, side.analysis, lead=LeadNow("now", found.notes)))
    times = build_plan(side.analysis, apply_to_content(side.content, change), side.keys).times
    both = [i for i in range(len(whole.notes)) if i not in (MISSING, ADDED)]
    places = [i for i in range(len(whole.notes)) if i != MISSING]
    sung = np.array([take.notes[places.index(i)].start_s for i in both])
    wanted = np.array([whole.notes[i].start_s for i in both])
    leads = {note.id: note for note in leader.analysis.notes}
    cents = [100.0 * abs(found.notes[m.note_id].target_midi - leads[m.lead_id].centre_midi - octave)
             for m in found.matching.pairs if m.lead_id]  # fmt: skip
    plain = {"chroma": _plain(chroma_rows, take, leader, whole), "f0": _plain(pitch_rows, take, leader, whole)}
    ways = {"before": sung, "ours": times.source_to_track(sung), **{k: warp(sung) for k, warp in plain.items()}}
    row: Row = {}
    for name, moments in ways.items():
        off = 1000.0 * np.abs(moments - wanted)
        row |= {f"{name} median": float(np.median(off)), f"{name} 95 %": float(np.percentile(off, 95))}
    added = [side.content.notes[name].note.start_s for name in found.matching.alone]
    missing = [leads[name].start_s for name in found.matching.lead_alone]
    return row | {"centres ct": float(np.median(cents)), "added found": _named(added, take.notes[places.index(ADDED)]),
                  "missing found": _named(missing, whole.notes[MISSING])}  # fmt: skip


def _named(starts: list[float], wanted: SungNote) -> str:
    """Whether just one word was found, and the right one."""
    right = sum(abs(at - wanted.start_s) < 0.1 for at in starts)
    return f"{right} of 1, {len(starts) - right} false"


def _plain(rows_of: Any, take: Performance, leader: Side, whole: Performance) -> Any:
    """A plain warping of a take on the lead, as a function from the take's moments to the lead's."""
    sounds = [sing(one, RATE).audio for one in (take, _without(whole, {ADDED}))]
    contours = [analyse(sounds[0], RATE).contour, leader.analysis.contour]
    pairs = zip(sounds, contours, strict=True)
    (mine, hop_s), (theirs, _same) = (rows_of(np.atleast_2d(sound)[0], RATE, contour) for sound, contour in pairs)
    return plain_warping(mine, theirs, hop_s)


def _five_minutes(features: Floats) -> float:
    """Seconds that the alignment of five minutes takes."""
    frames = round(300.0 / HOP_S)
    long = np.resize(features, (frames, features.shape[1]))
    began = time.perf_counter()
    align(long, np.roll(long, 12, axis=0))
    return time.perf_counter() - began
