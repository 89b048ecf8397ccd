"""Air found in the benchmark's voices, whose truth is exact: kinds, edges, voiced fricatives."""

import unittest
from dataclasses import replace
from functools import lru_cache

import numpy as np

from glass_thread.core.analysis.air import air_features, air_spectrum, find_air, high_level
from glass_thread.core.measure.evaluation import mask_f1
from glass_thread.core.signal.types import HOP_S, Analysis
from glass_thread.demo.score import Performance, SungAir
from glass_thread.demo.singer import VOICED_AIR
from glass_thread.demo.voices import random_performance
from tests.kept import analyse, sing
from tests.signals import RATE

SINGERS = ("tenor", "alto", "breathy", "rough")
EDGE_S = 0.015


@lru_cache(maxsize=1)
def takes() -> list[tuple[Performance, Analysis]]:
    performances = [random_performance(name, 11, duration_s=9.0) for name in SINGERS]
    return [(p, analyse(sing(p, RATE).audio, RATE)) for p in performances]


def mask(air, kind: str, n: int) -> np.ndarray:
    found = np.zeros(n, dtype=bool)
    for event in air:
        if event.kind == kind:
            found[round(event.start_s / HOP_S) : round(event.end_s / HOP_S)] = True
    return found


def voiced_fricatives(seed: int) -> Performance:
    """A line sung through with a z, v or zh between its notes, and voiceless sounds only after breaths."""
    taken = random_performance("alto", seed, duration_s=12.0)
    sounds = iter(("z", "v", "zh") * 20)
    air, notes = [], list(taken.notes)
    for event in taken.air:
        between = any(abs(note.end_s - event.start_s) < 1e-6 for note in notes)
        if event.kind == "breath" or not between:
            air.append(event)
            continue
        sound = next(sounds)
        air.append(replace(event, sound=sound, kind="consonant" if sound == "v" else "sibilant", level_db=-30.0))
        notes = [replace(n, start_s=event.start_s) if abs(n.start_s - event.end_s) < 1e-6 else n for n in notes]
    return replace(taken, notes=tuple(notes), air=tuple(air))


class DetectionTest(unittest.TestCase):
    def test_frames_of_sibilants_and_breaths(self) -> None:
        for kind, wanted in (("sibilant", 0.95), ("breath", 0.9)):
            truth, found = [], []
            for performance, analysis in takes():
                n = len(analysis.contour.midi)
                truth.append(mask(performance.air, kind, n))
                found.append(mask(analysis.air, kind, n))
            with self.subTest(kind):
                self.assertGreaterEqual(mask_f1(np.concatenate(found), np.concatenate(truth)), wanted)

    def test_edges_are_within_15_ms_for_most(self) -> None:
        for kind, wanted in (("sibilant", 0.95), ("consonant", 0.75), ("breath", 0.75)):
            near = []
            for performance, analysis in takes():
                for air in (a for a in performance.air if a.kind == kind):
                    found = [e for e in analysis.air if e.start_s < air.end_s and e.end_s > air.start_s]
                    for side in ("start_s", "end_s"):
                        best = min((abs(getattr(e, side) - getattr(air, side)) for e in found), default=1.0)
                        near.append(best <= EDGE_S + 1e-9)
            with self.subTest(kind):
                self.assertGreaterEqual(np.mean(near), wanted)

    def test_voiced_fricatives_are_told_from_voiceless(self) -> None:
        told = total = 0
        for seed in (3, 4, 5):
            performance = voiced_fricatives(seed)
            found = analyse(sing(performance, RATE).audio, RATE).air
            for air in (a for a in performance.air if a.kind != "breath"):
                near = [e for e in found if e.start_s < air.end_s - 0.02 and e.end_s > air.start_s + 0.02]
                if air.sound in VOICED_AIR:
                    total += 1
                    told += any(event.voiced for event in near)
                else:
                    self.assertFalse(any(event.voiced for event in near), air)
        self.assertGreater(total, 8)
        self.assertGreaterEqual(told, 0.75 * total)
        for _, analysis in takes():
            self.assertFalse(any(event.voiced for event in analysis.air))


class SpectrumTest(unittest.TestCase):
    def test_a_band_of_noise_shows_in_its_band(self) -> None:
        rng = np.random.default_rng(1)
        t = np.arange(RATE) / RATE
        audio = 0.1 * np.sin(2 * np.pi * 1000 * t) + 1e-6 * rng.standard_normal(RATE)
        picture = air_spectrum(audio, RATE, 200)
        self.assertEqual((picture.shape, picture.dtype), ((200, 24), np.uint8))
        loudest = int(np.median(picture[20:180].argmax(axis=1)))
        # Mel of O'Shaughnessy (1987), from memory: 2595 log10(1 + f / 700), 24 bands from 80 Hz to 16 kHz.
        mel = 2595 * np.log10(1 + np.array([80.0, 1000.0, 16_000.0]) / 700)
        self.assertAlmostEqual(loudest, 24 * (mel[1] - mel[0]) / (mel[2] - mel[0]), delta=1.5)
        self.assertFalse(air_spectrum(np.zeros(RATE), RATE, 200).any())

    def test_level_above_5_khz_of_tones_below_and_above(self) -> None:
        t = np.arange(RATE) / RATE
        for hz, expected in ((8000.0, 20 * np.log10(0.1 / np.sqrt(2))), (500.0, -60.0)):
            features = air_features(0.1 * np.sin(2 * np.pi * hz * t), RATE, 200)
            high = float(np.median(high_level(features)))
            with self.subTest(hz):
                if hz > 5000:
                    self.assertAlmostEqual(high, expected, delta=0.7)
                else:
                    self.assertLess(high, expected)

    def test_an_f_between_vowels_is_a_consonant_and_an_s_a_sibilant(self) -> None:
        taken = random_performance("alto", 8, duration_s=6.0)
        for sound, kind in (("f", "consonant"), ("s", "sibilant"), ("sh", "sibilant")):
            air = tuple(a if a.kind == "breath" else SungAir(kind, sound, a.start_s, a.end_s, -28.0) for a in taken.air)  # type: ignore[arg-type]
            audio = sing(replace(taken, air=air), RATE).audio
            found = [e for e in analyse(audio, RATE).air if e.kind != "breath"]
            with self.subTest(sound):
                self.assertTrue(found)
                self.assertGreater(np.mean([e.kind == kind for e in found]), 0.8)

    def test_a_long_f_inside_a_word_is_no_breath_and_a_breath_in_a_rest_is_one(self) -> None:
        rng = np.random.default_rng(4)
        n = 2 * RATE
        noise = 0.01 * rng.standard_normal(n)
        for sound_s, rest_s, kind in ((0.17, 0.0, "consonant"), (0.17, 0.06, "breath"), (0.3, 0.0, "breath")):
            t = np.arange(n) / RATE
            a, b = 0.8, 0.8 + sound_s
            audio = np.where((t >= a) & (t < b), noise, 1e-5 * rng.standard_normal(n))
            voiced_t = (t > 0.3) & ((t < a - rest_s) | (t >= b + rest_s))  # and a floor of silence before
            audio = audio + np.where(voiced_t, 0.1 * np.sin(2 * np.pi * 200 * t), 0.0)
            features = air_features(audio, RATE, 400)
            grid = np.arange(400) * 0.005
            voiced = (grid > 0.3) & ((grid < a - rest_s) | (grid >= b + rest_s))
            found = find_air(features, voiced, np.full(400, -30.0))
            with self.subTest(sound_s=sound_s, rest_s=rest_s):
                inside = [e.kind for e in found if e.start_s < a + sound_s / 2 < e.end_s]
                self.assertEqual(inside, [kind])

    def test_noise_alone_is_no_sibilant(self) -> None:
        audio = 1e-3 * np.random.default_rng(2).standard_normal(2 * RATE)
        features = air_features(audio, RATE, 400)
        self.assertEqual(find_air(features, np.zeros(400, bool), np.full(400, -60.0)), ())
