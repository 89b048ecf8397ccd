import unittest

import numpy as np

from glass_thread.core.analysis.air import air_features, find_air
from glass_thread.core.analysis.key import estimate_keys, estimate_reference, sung_tuning
from glass_thread.core.signal.levels import level_contour, mean_level
from glass_thread.core.signal.scale_steps import SCALES
from glass_thread.core.signal.types import Note
from tests.signals import RATE, analysed_short, short_performance


def melody(pitches: list[float], length: float = 0.5) -> list[Note]:
    return [Note(f"n{i}", i * length, (i + 1) * length, p, 0.0, None, -20.0, 0) for i, p in enumerate(pitches)]


class AirTest(unittest.TestCase):
    def test_kinds_and_edges_of_the_singer(self) -> None:
        found = analysed_short().air
        for truth in short_performance().air:
            near = [event for event in found if abs(event.start_s - truth.start_s) < 0.04]
            with self.subTest(truth.kind):
                self.assertEqual([event.kind for event in near], [truth.kind])
                self.assertAlmostEqual(near[0].end_s, truth.end_s, delta=0.03)

    def test_silence_has_none(self) -> None:
        features = air_features(np.zeros(RATE), RATE, 200)
        self.assertEqual(find_air(features, np.zeros(200, bool), np.full(200, -120.0)), ())

    def test_nothing_is_shorter_than_a_hop(self) -> None:
        self.assertTrue(all(event.end_s - event.start_s >= 0.015 for event in analysed_short().air))


class KeyEstimateTest(unittest.TestCase):
    def test_scales_with_their_tonic_held(self) -> None:
        for tonic in (0, 2, 7, 9):
            for name in ("major", "natural minor"):
                degrees = [SCALES[name][i] for i in (0, 1, 2, 4, 3, 2, 4, 5, 4, 2, 1, 0, 0)]
                first = estimate_keys(melody([60 + tonic + d for d in degrees]))[:3]
                with self.subTest(tonic=tonic, scale=name):
                    self.assertIn((tonic, name), [(key.tonic, key.scale) for key in first])

    def test_confidences_are_shares(self) -> None:
        keys = estimate_keys(melody([60, 64, 67, 60]))
        self.assertTrue(0 < sum(key.confidence for key in keys) <= 1.0 + 1e-9)
        self.assertEqual(estimate_keys([]), ())

    def test_reference_pitch(self) -> None:
        rng = np.random.default_rng(2)
        for hz in (432.0, 440.0, 444.0):
            offset = 12 * np.log2(hz / 440)
            notes = melody(
                [60 + offset + d + e for d, e in zip([0, 2, 4, 5, 7] * 8, rng.normal(0, 0.08, 40), strict=True)]
            )
            self.assertLess(abs(1200 * np.log2(estimate_reference(notes) / hz)), 3.0)

    def test_how_far_off_it_is_sung_and_how_sure_that_is(self) -> None:
        rng = np.random.default_rng(5)
        for cents, spread, sure in ((25.0, 0.05, (0.999, 1.0)), (-30.0, 0.1, (0.999, 1.0)), (10.0, 5.0, (0.0, 0.9))):
            notes = melody(
                [60 + cents / 100 + d + e for d, e in zip([0, 2, 4, 5, 7] * 8, rng.normal(0, spread, 40), strict=True)]
            )
            found = sung_tuning(notes)
            with self.subTest(cents=cents, spread=spread):
                self.assertTrue(sure[0] <= found.certainty <= sure[1], found)
                if spread < 1.0:
                    self.assertAlmostEqual(found.cents, cents, delta=5.0)
        self.assertEqual(sung_tuning([]), (0.0, 0.0))
        # n notes that agree wholly: 1 - exp(-n)
        self.assertAlmostEqual(sung_tuning(melody([60.2] * 3)).certainty, 1.0 - np.exp(-3.0))

    def test_too_few_notes_mean_standard_pitch(self) -> None:
        self.assertEqual(estimate_reference(melody([60.4])), 440.0)


class LevelTest(unittest.TestCase):
    def test_a_sine_of_known_level(self) -> None:
        tone = 0.5 * np.sin(2 * np.pi * 1000 * np.arange(RATE) / RATE)
        contour = level_contour(tone, RATE, 200)
        np.testing.assert_allclose(contour[5:-5], 20 * np.log10(0.5 / np.sqrt(2)), atol=0.05)

    def test_mean_is_of_power(self) -> None:
        self.assertAlmostEqual(mean_level(np.array([-10.0, -100.0])), -13.01, places=2)


class AnalysisTest(unittest.TestCase):
    def test_notes_of_the_singer(self) -> None:
        found = analysed_short()
        truth = short_performance().notes
        self.assertEqual(len(found.notes), len(truth))
        for note, sung in zip(found.notes, truth, strict=True):
            self.assertAlmostEqual(note.start_s, sung.start_s, delta=0.05)
            self.assertAlmostEqual(note.centre_midi, sung.midi + sung.off / 100, delta=0.05)
        self.assertEqual([note.phrase for note in found.notes], [0, 0, 0, 1])
        self.assertFalse(found.polyphonic)
        vibrato = found.notes[3].vibrato
        assert vibrato is not None
        self.assertAlmostEqual(vibrato.rate_hz, 5.6, delta=0.15)
