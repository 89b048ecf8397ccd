"""What the benchmark measures of singer notes: habits planted in synthetic singers, found again from their sound."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from ...core.analysis.analysis import analyse
from ...core.document.content import as_found
from ...core.document.notes import current_targets
from ...core.measure.habits import Claim, claims
from ...core.measure.observations import observe
from ...core.song.beats import Meter, grid_lines
from ...core.song.keys import make_tuning, one_key
from ...demo.build import SAMPLE_RATE
from ...demo.score import Performance, SungAir, SungNote, SungVoice
from ...demo.singer import sing

Table = list[dict[str, Any]]
# Of each habit: what it is called among the claims, and its size with its sign.
PLANTED: dict[str, tuple[str, float]] = {
    "starts low": ("phrase starts", -25.0),
    "held notes sag": ("held notes", -15.0),
    "leaps sharp": ("leaps up", 20.0),
    "slow vibrato": ("vibrato", 4.6),
    "late": ("timing", 35.0),
}
METER = Meter(0.0, 90.0)
PHRASES, _OF_PHRASE = 12, 6
_LATE_SD_S, _OFF_SD = 0.012, 7.0  # how unevenly the singers sing otherwise
_VOICES = ((55, SungVoice(1.14, 1.0, -30)), (48, SungVoice(1.05, 0.85, -32)), (60, SungVoice(1.2, 1.1, -32)))
_AGAIN = SungVoice(1.08, 1.5, -26)
_SCALE = (0, 2, 4, 5, 7, 9, 11, 12, 14, 16, 17, 19)


def habitual(seed: int, planted: frozenset[str], *, again: bool = False) -> Performance:
    """A singer's take on an invented line in C major with some habits, everything else uneven without a tendency;
    `again` by another voice."""
    rng = np.random.default_rng([seed, 77])
    lowest, voice = _VOICES[seed % len(_VOICES)]
    lowest -= lowest % 12
    notes, air = list[SungNote](), list[SungAir]()
    for phrase in range(PHRASES):
        begin = METER.beat_s * (4 + 8 * phrase)
        air.append(SungAir("breath", "breath", begin - 0.6, begin - 0.2, -33.0))
        notes += _phrase(rng, begin, lowest, planted)
    length = METER.beat_s * (4 + 8 * PHRASES)
    return Performance(length, tuple(notes), tuple(air), voice=_AGAIN if again else voice, seed=seed + again)


def _phrase(rng: np.random.Generator, begin: float, lowest: int, planted: frozenset[str]) -> list[SungNote]:
    """Six notes over six beats: a held one, a leap up of a fifth or more, and steps."""
    place = int(rng.integers(1, 5))
    beats, places = (1.0, 0.5, 0.5, 2.0, 0.5, 1.5), [place]
    for k in range(1, 6):
        step = int(rng.integers(4, 6)) if k == 2 else int(rng.choice([-2, -1, 1, 2]))
        places.append(int(np.clip(places[-1] + step, 0, len(_SCALE) - 1)))
    found, at = list[SungNote](), begin
    for k, (length, degree) in enumerate(zip(beats, places, strict=True)):
        rise = _SCALE[degree] - _SCALE[places[k - 1]] if k else 0
        off = float(rng.normal(0.0, _OFF_SD))
        off += PLANTED["starts low"][1] * (k == 0 and "starts low" in planted)
        off += PLANTED["leaps sharp"][1] * (rise >= 7 and "leaps sharp" in planted)
        late = float(rng.normal(0.0, _LATE_SD_S)) + PLANTED["late"][1] / 1000.0 * ("late" in planted)
        held = length * METER.beat_s >= 0.9
        drift = float(rng.normal(0.0, 2.0)) + PLANTED["held notes sag"][1] * (held and "held notes sag" in planted)
        vowel = str(rng.choice(list("aeo")))
        rate = (4.6 if "slow vibrato" in planted else 5.8) * float(rng.uniform(0.97, 1.03))
        found.append(SungNote(
            at + late, at + length * METER.beat_s, lowest + _SCALE[degree], vowel, off=off, drift=drift,
            vibrato_cents=30.0 if held else 0.0, vibrato_hz=rate, glide_s=0.05,
        ))  # fmt: skip
        at += length * METER.beat_s
    ends = [one.start_s for one in found[1:]] + [at - 0.15]
    return [replace(one, end_s=end) for one, end in zip(found, ends, strict=True)]


def sung(performance: Performance, name: str) -> float:
    """The size of a habit as this take has it, chance and all, from what the singer was asked to sing."""
    notes = performance.notes
    first = [i % _OF_PHRASE == 0 for i in range(len(notes))]
    leap = [not first[i] and notes[i].midi - notes[i - 1].midi >= 7 for i in range(len(notes))]
    held = [note for note in notes if note.vibrato_cents]
    if name in ("starts low", "leaps sharp"):
        chosen = first if name == "starts low" else leap
        ours, others = (
            [note.off for note, one in zip(notes, chosen, strict=True) if one == way] for way in (True, False)
        )
        return float(np.mean(ours) - np.median(others))
    if name == "late":
        lines = grid_lines((METER,), "1/8", 0.0, performance.duration_s)
        return 1000.0 * float(
            np.mean([note.start_s - lines[np.argmin(np.abs(lines - note.start_s))] for note in notes])
        )
    return float(np.mean([note.drift if name == "held notes sag" else note.vibrato_hz for note in held]))


def claimed(performance: Performance) -> list[Claim]:
    """What is claimed of a performance from its sound alone."""
    found = analyse(sing(performance, SAMPLE_RATE).audio, SAMPLE_RATE)
    content = as_found(found)
    keys = one_key(make_tuning(0, "major"))
    lines = grid_lines((METER,), "1/8", 0.0, performance.duration_s)
    notes = list(content.notes.values())
    return claims(observe(notes, current_targets(content.notes, keys), found, lines))


def bench_singer(seeds: int = 100) -> Table:
    """Every singer has each habit or not, by chance: how often it is found where it is planted, how often claimed where
    not, and how far sizes are off; beside them all other claims that were made."""
    found: dict[str, list[bool]] = {name: [] for name in PLANTED}
    wrong: dict[str, list[bool]] = {name: [] for name in PLANTED}
    sizes: dict[str, list[float]] = {name: [] for name in PLANTED}
    really: dict[str, list[float]] = {name: [] for name in PLANTED}
    others: dict[str, int] = {}
    for seed in range(seeds):
        rng = np.random.default_rng([seed, 5])
        planted = frozenset(name for name in PLANTED if rng.random() < 0.5)
        take = habitual(seed, planted)
        made = {claim.name: claim for claim in claimed(take) if claim.kind == "fault"}
        for name, (called, size) in PLANTED.items():
            claim = made.pop(called, None)
            usual = 6.0 if called == "vibrato" else 0.0
            right = claim is not None and (claim.size > usual) == (size > usual)
            (found if name in planted else wrong)[name].append(right if name in planted else claim is not None)
            if name in planted and right and claim is not None:
                sizes[name].append(abs(claim.size / size - 1.0))
                really[name].append(abs(claim.size / sung(take, name) - 1.0))
        for called in made:
            others[called] = others.get(called, 0) + 1
    rows: Table = [{"habit": name, "planted in": len(found[name]), "found %": 100.0 * float(np.mean(found[name])),
                    "claimed without %": 100.0 * float(np.mean(wrong[name])),
                    "95 % of sizes off by %": _most(sizes[name]),
                    "and from what was sung by %": _most(really[name])}
                   for name in PLANTED]  # fmt: skip
    rows += [{"habit": f"({called}, planted in none)", "planted in": 0, "found %": np.nan,
              "claimed without %": 100.0 * count / seeds, "95 % of sizes off by %": np.nan,
              "and from what was sung by %": np.nan}
             for called, count in sorted(others.items())]  # fmt: skip
    return rows


def _most(shares: list[float]) -> float:
    """The percentage within which 95 of 100 lie."""
    return 100.0 * float(np.percentile(shares, 95)) if shares else np.nan
