"""Random performances of several voices, for measuring; every seed is another singer's take."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from .score import Performance, SungAir, SungNote, SungVoice

# name: (lowest and highest MIDI, seconds a note, vibrato in cents, voice)
VOICES: dict[str, tuple[int, int, float, float, SungVoice]] = {
    "bass": (41, 55, 0.55, 0.0, SungVoice(1.0, 1.0, -30)),
    "tenor": (50, 67, 0.6, 35.0, SungVoice(1.05, 0.85, -32)),
    "alto": (55, 73, 0.6, 30.0, SungVoice(1.14, 1.0, -30)),
    "soprano": (67, 81, 0.8, 55.0, SungVoice(1.2, 1.1, -32)),
    "breathy": (53, 69, 0.5, 0.0, SungVoice(1.12, 2.1, -14, jitter_cents=2.5)),
    "rough": (43, 55, 0.5, 0.0, SungVoice(1.0, 0.7, -26, jitter_cents=6.0, shimmer_db=0.5)),
    "runs": (55, 71, 0.16, 0.0, SungVoice(1.1, 1.0, -32)),
}
HARD_VOICES = {  # measured by themselves
    "fast runs": (55, 71, 0.09, 0.0, SungVoice(1.1, 1.0, -32)),
    "all breath": (53, 69, 0.5, 0.0, SungVoice(1.12, 2.4, -3, jitter_cents=2.5)),
}
_VOWELS = ("a", "e", "i", "o", "u", "er")


def random_performance(
    name: str, seed: int, *, off: tuple[float, float] = (20, 50), duration_s: float = 10.0
) -> Performance:
    """Phrases of a few notes with errors of `off` cents either way; each second phrase is in tune."""
    low, high, length, vibrato, voice = {**VOICES, **HARD_VOICES}[name]
    rng = np.random.default_rng([seed, sum(map(ord, name))])
    notes: list[SungNote] = []
    air: list[SungAir] = []
    at, phrase = 0.2, 0
    count = 8 if length < 0.3 else 3
    while at + 0.6 + count * length * 1.3 < duration_s:
        air.append(SungAir("breath", "breath", at, at + 0.3, -34.0))
        at += 0.34
        pitch = int(rng.integers(low, high + 1))
        for k in range(count):
            if k == 0 or (rng.random() < 0.35 and length > 0.3):
                sound = str(rng.choice(["s", "sh", "f", "t"]))
                kind = "sibilant" if sound in ("s", "sh") else "consonant"
                air.append(SungAir(kind, sound, at, at + 0.1, -26.0 if kind == "sibilant" else -32.0))
                at += 0.1
            step = int(rng.choice([-4, -3, -2, 2, 3, 4]))
            pitch += step if low <= pitch + step <= high else -step
            end = at + length * float(rng.uniform(0.85, 1.2))
            wrong = float(rng.uniform(*off) * rng.choice([-1, 1])) if phrase % 2 == 0 else 0.0
            extent = vibrato * float(rng.uniform(0.8, 1.2))
            notes.append(SungNote(at, end, pitch, str(rng.choice(_VOWELS)), off=wrong, vibrato_cents=extent,
                                  vibrato_onset_s=0.15, glide_s=min(0.05, 0.35 * length)))  # fmt: skip
            at = end
        at += 0.2
        phrase += 1
    return Performance(duration_s, tuple(notes), tuple(air), voice=voice, seed=seed)


def with_vibrato(performance: Performance, share: float) -> Performance:
    """The same performance with its vibrato scaled."""
    scaled = tuple(replace(n, vibrato_cents=n.vibrato_cents * share) for n in performance.notes)
    return replace(performance, notes=scaled)
