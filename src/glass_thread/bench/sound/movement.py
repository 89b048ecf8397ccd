"""``glass-thread bench movement``: what faders of movement and glides leave in the printed sound.

Every take is printed and read again by an independent tracker (Praat's autocorrelation) inside the middle 60 % of its
notes over 180 ms: on real clips, which no method was fitted to, and on singers of our own whose notes wander
irregularly.  The references are given the same tuned contour.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import replace
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np

from ...core.analysis.analysis import analyse
from ...core.document.content import Content, apply_to_content, as_found
from ...core.document.gestures import note_frames
from ...core.document.operations.registry import Scene, parse_operation
from ...core.measure import evaluation as ev
from ...core.plan.plan import Plan, build_plan
from ...core.signal.types import HOP_S, Floats, Note
from ...core.song.keys import KeyMap, make_tuning, one_key
from ...core.synthesis.render import render_whole
from ...demo.singer import sing
from ...demo.voices import random_performance
from .real import Clip, read_clip
from .references import reference_renderers, reference_trackers
from .rendering import RATE

Row = dict[str, Any]
WANDERING, WANDER_CENTS, SEED_OF_NONE = ("bass", "tenor", "alto"), 38.0, 90
SHORTEST_S, EDGE = 0.18, 0.2  # notes that are read, and what is left out of them at both ends
ASKED: dict[str, dict[str, float]] = {
    "movement 0": {"movement": 0.0},
    "drift 0, vibrato 0": {"drift": 0.0, "vibrato": 0.0},
    "50 and 50": {"drift": 0.5, "vibrato": 0.5},
    "movement 200": {"movement": 2.0},
}
GLIDES_MS = (20.0, 60.0, 120.0, 240.0)
MOVED_CENTS = 37.0
LEAST_INTERVAL = 0.8  # semitones
TRACKER = "parselmouth autocorrelation"


@lru_cache(maxsize=4)
def _wandering(seed: int) -> tuple[Clip, ...]:
    takes = []
    for name in WANDERING:
        performance = random_performance(name, SEED_OF_NONE + seed)
        performance = replace(performance, voice=replace(performance.voice, wander_cents=WANDER_CENTS))
        audio = sing(performance, RATE).audio
        takes.append(Clip(f"{name}, wandering", audio, RATE, analyse(audio, RATE)))
    return tuple(takes)


def takes_of(clips: Sequence[Path], seed: int) -> list[Clip]:
    """The clips, then three singers of our own that wander."""
    return [*map(read_clip, clips), *_wandering(seed)]


def chromatic() -> KeyMap:
    """Every semitone is allowed."""
    return one_key(make_tuning(0, "chromatic"))


def edited(clip: Clip, *operations: dict[str, Any], content: Content | None = None) -> Plan:
    """The plan of a clip after some edits; ``"all"`` names every note."""
    now, keys = content or as_found(clip.found), chromatic()
    for data in operations:
        named = {"note_ids": list(now.notes)} if data.get("note_ids") == "all" else {}
        change = parse_operation({**data, **named}).change(Scene(now, keys, clip.found))
        now = apply_to_content(now, change)
    return build_plan(clip.found, now, keys)


def printed(clip: Clip, plan: Plan) -> Floats:
    """The sound of a plan."""
    return render_whole(clip.audio[np.newaxis], clip.rate, plan.contour, plan.correction)[0]


def read_by_tracker(sound: Floats, rate: int) -> Floats:
    """Pitch of a sound in MIDI on the analysis grid, NaN unvoiced, by a tracker that is not ours."""
    return reference_trackers()[TRACKER](sound, rate)


def left_in_notes(midi: Floats, notes: Sequence[Note]) -> Floats:
    """Standard deviation of the pitch in the middle of each long enough note, in cents; NaN where none is read."""
    found = []
    for note in notes:
        length = note.end_s - note.start_s
        if length >= SHORTEST_S:
            a, b = (round(at / HOP_S) for at in (note.start_s + EDGE * length, note.end_s - EDGE * length))
            inner = midi[a:b][np.isfinite(midi[a:b])]
            found.append(100.0 * float(inner.std()) if len(inner) > 4 else np.nan)
    return np.array(found)


def bench_movement(clips: Sequence[Path], seed: int) -> list[Row]:
    """Cents left in notes and their share of what was sung, by take, what was asked, and method."""
    rows = []
    for clip in takes_of(clips, seed):
        sung = left_in_notes(read_by_tracker(clip.audio, clip.rate), clip.found.notes)
        for asked, values in ASKED.items():
            plan = edited(clip, {"type": "tune_pass", "note_ids": "all", "pull": 1.0, **values})
            for method, sound in _by_methods(clip, plan).items():
                left = left_in_notes(read_by_tracker(sound, clip.rate), clip.found.notes)
                rows.append({"take": clip.name, "asked": asked, "method": method,
                             "sung_ct": float(np.nanmedian(sung)), "left_ct": float(np.nanmedian(left)),
                             "left_p90_ct": float(np.nanpercentile(left, 90)),
                             "share": float(np.nanmedian(left / sung)), **_sound(clip, plan, sound)})  # fmt: skip
        same = printed(clip, edited(clip, {"type": "tune_pass", "note_ids": "all", "pull": 0.0}))
        rows.append({**dict.fromkeys(rows[-1], np.nan), "take": clip.name, "asked": "100, pull 0", "method": "ours",
                     "share": float((same == clip.audio).mean())})  # fmt: skip
    return rows


def _by_methods(clip: Clip, plan: Plan) -> dict[str, Floats]:
    sung = clip.found.contour.midi
    wanted = np.where(np.isfinite(plan.contour.midi), plan.contour.midi + plan.correction, np.nan)
    found = {"ours": printed(clip, plan)}
    for method, correct in reference_renderers().items():
        found[method.split(",")[0]] = correct(clip.audio, clip.rate, sung, wanted)
    return found


def _sound(clip: Clip, plan: Plan, sound: Floats) -> Row:
    """Harmonics to noise, and how uneven cycles are from one to the next, less those of the clip, in dB."""
    wanted = plan.contour.midi + plan.correction
    pairs = ((clip.audio, plan.contour.midi), (sound, wanted))
    noise = [ev.harmonics_to_noise(x, clip.rate, midi) for x, midi in pairs]
    rough = [roughness(x, clip.rate, midi, clip.found.notes) for x, midi in pairs]
    return {"noise_ratio_db": noise[1] - noise[0], "roughness_db": 20.0 * float(np.log10(rough[1] / rough[0]))}


def roughness(audio: Floats, rate: int, midi: Floats, notes: Sequence[Note]) -> float:
    """Standard deviation in dB of the level of single cycles over that of those around, in a fortieth of a second: what
    modulates the voice between 20 Hz and half its pitch; mean over notes."""
    found = []
    for note in notes:
        a, b = note_frames(note, len(midi))
        inner = midi[a:b]
        if (b - a) * HOP_S < SHORTEST_S or not np.isfinite(inner).all():
            continue
        hz = 440.0 * np.exp2((np.repeat(inner, round(HOP_S * rate)) - 69.0) / 12.0)
        edges = np.flatnonzero(np.diff(np.floor(np.cumsum(hz) / rate)))
        part = audio[a * round(HOP_S * rate) :][: len(hz)]
        if len(edges) < 12 or len(part) < len(hz):
            continue
        energy = np.add.reduceat(part * part, edges)[:-1] / np.diff(edges)
        level = 10.0 * np.log10(energy + 1e-12)
        width = max(3, round(float(np.median(hz)) / 40.0) | 1)
        smooth = np.convolve(level, np.ones(width) / width, "same")
        found.append(float(np.std((level - smooth)[width:-width])) if len(level) > 3 * width else np.nan)
    return float(np.nanmean(found))


def bench_glides(clips: Sequence[Path], seed: int) -> list[Row]:
    """How long 15 to 85 % of the way between two notes takes, as asked and in the printed sound; notes as sung, and
    put on their targets without movement."""
    rows = []
    still = {"type": "tune_pass", "note_ids": "all", "pull": 1.0, "movement": 0.0}
    for clip in takes_of(clips, seed):
        for notes, first in (("as sung", []), ("still", [still])):
            for asked in GLIDES_MS:
                fits = [(a, b) for a, b in _joins(clip) if min(_length(a), _length(b)) > 2.1 * asked / 1000.0]
                if fits:
                    rows.append(_glide_row(clip, notes, first, asked, fits))
    return rows


def _length(note: Note) -> float:
    return note.end_s - note.start_s


def _glide_row(clip: Clip, notes: str, first: list[dict[str, Any]], asked: float, fits: list[tuple[Note, Note]]) -> Row:
    before = edited(clip, *first)
    ids = [right.id for _left, right in fits]
    plan = edited(clip, *first, {"type": "set", "note_ids": ids, "values": {"glide_ms": asked}})
    read = [read_by_tracker(printed(clip, one), clip.rate) for one in (before, plan)]
    line = clip.found.contour.midi + before.correction if first else None
    took = np.array([[glide_ms(midi, *pair, line) for midi in read] for pair in fits])
    got = took[np.isfinite(took[:, 1]), 1]
    return {"take": clip.name, "notes": notes, "asked_ms": asked, "joins": len(fits), "read": len(got),
            "before_ms": float(np.nanmedian(took[:, 0])), "got_ms": float(np.median(got)) if len(got) else np.nan,
            "within_15_ms": float(np.mean(np.abs(got - asked) <= 15.0)) if len(got) else np.nan}  # fmt: skip


def _joins(clip: Clip) -> list[tuple[Note, Note]]:
    """Notes that are sung through, about a semitone apart or more."""
    midi, found = clip.found.contour.midi, []
    for a, b in itertools.pairwise(clip.found.notes):
        near = b.start_s - a.end_s < 2 * HOP_S and abs(b.centre_midi - a.centre_midi) > LEAST_INTERVAL
        if near and np.isfinite(midi[round(a.start_s / HOP_S) + 4 : round(b.end_s / HOP_S) - 4]).all():
            found.append((a, b))
    return found


def glide_ms(midi: Floats, left: Note, right: Note, asked: Floats | None = None) -> float:
    """Milliseconds between 15 and 85 % of the way from one note's pitch to the other's in what was read, NaN where it
    is not; the notes lie where they were sung, or where they were `asked` to be, shape (n_frames,)."""
    a, b = round(left.start_s / HOP_S), round(right.end_s / HOP_S)
    low, high = (n.centre_midi if asked is None else _level(asked, n) for n in (left, right))
    known = np.isfinite(midi[a:b])
    if known.mean() < 0.9 or low == high:
        return float("nan")
    pitch = np.interp(np.arange(b - a), np.flatnonzero(known), midi[a:b][known])
    along = (pitch - low) / (high - low)
    over = np.flatnonzero((along[:-1] < 0.5) & (along[1:] >= 0.5))
    if len(over) == 0:
        return float("nan")
    first = last = int(over[np.argmin(np.abs(over - (round(right.start_s / HOP_S) - a)))])
    while first > 0 and along[first] > 0.15:
        first -= 1
    while last < len(along) - 1 and along[last] < 0.85:
        last += 1
    if along[first] > 0.15 or along[last] < 0.85:
        return float("nan")
    begin = first + (0.15 - along[first]) / (along[first + 1] - along[first])
    end = last - 1 + (0.85 - along[last - 1]) / (along[last] - along[last - 1])
    return 1000.0 * HOP_S * float(end - begin)


def _level(midi: Floats, note: Note) -> float:
    edge = EDGE * _length(note)
    return float(np.nanmedian(midi[round((note.start_s + edge) / HOP_S) : round((note.end_s - edge) / HOP_S)]))


def bench_neighbours(clips: Sequence[Path], seed: int) -> list[Row]:
    """One note after the other moved alone: how far beyond its correction samples differ, and how far its pitch is off
    what was asked."""
    rows = []
    for clip in takes_of(clips, seed):
        beyond, off = [], []
        sung = read_by_tracker(clip.audio, clip.rate)
        for note in clip.found.notes:
            if note.end_s - note.start_s < SHORTEST_S:
                continue
            plan = edited(clip, {"type": "move", "note_ids": [note.id], "cents": MOVED_CENTS})
            sound = printed(clip, plan)
            touched, differs = np.flatnonzero(plan.correction), np.flatnonzero(sound != clip.audio) / clip.rate
            beyond.append(max(touched[0] * HOP_S - differs[0], differs[-1] - touched[-1] * HOP_S))
            edge = EDGE * (note.end_s - note.start_s)
            inner = slice(round((note.start_s + edge) / HOP_S), round((note.end_s - edge) / HOP_S))
            off.append(100.0 * float(np.nanmedian((read_by_tracker(sound, clip.rate) - sung)[inner])) - MOVED_CENTS)
        rows.append({"take": clip.name, "notes": len(beyond), "beyond_s": float(np.median(beyond)),
                     "within_60_ms": float(np.mean(np.array(beyond) <= 0.06)), "longest_s": float(np.max(beyond)),
                     "f0_off_ct": float(np.nanmedian(np.abs(off))),
                     "f0_off_p90_ct": float(np.nanpercentile(np.abs(off), 90))})  # fmt: skip
    return rows


def bench_ideal(seed: int) -> list[Row]:
    """Wandering singers made still against the same who never wandered: cepstral and spectral distance in dB."""
    rows = []
    for name in WANDERING:
        calm = random_performance(name, SEED_OF_NONE + seed, off=(0, 0))
        calm = replace(calm, voice=replace(calm.voice, flutter_cents=0.0),
                       notes=tuple(replace(note, vibrato_cents=0.0) for note in calm.notes))  # fmt: skip
        restless = replace(calm, voice=replace(calm.voice, wander_cents=WANDER_CENTS))
        audio, ideal = (sing(one, RATE).audio for one in (restless, calm))
        clip = Clip(name, audio, RATE, analyse(audio, RATE))
        plan = edited(clip, {"type": "tune_pass", "note_ids": "all", "pull": 1.0, "movement": 0.0})
        for method, sound in _by_methods(clip, plan).items():
            parts = [slice(int((n.start_s + 0.04) * RATE), int((n.end_s - 0.04) * RATE)) for n in calm.notes]
            pairs = [(sound[p], ideal[p]) for p in parts if p.stop - p.start > 4096]
            apart = {"cepstral_db": ev.cepstral_distance, "spectral_db": ev.spectral_distance}
            scores = {key: float(np.mean([one(a, b, RATE) for a, b in pairs])) for key, one in apart.items()}
            rows.append({"voice": name, "method": method, **scores})
    return rows
