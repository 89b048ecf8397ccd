import unittest

import mir_eval
import numpy as np

from glass_thread.core.measure.evaluation import (
    border_jump,
    cepstral_distance,
    harmonics_to_noise,
    mask_f1,
    match_notes,
    note_f1,
    pitch_scores,
    spectral_distance,
)
from glass_thread.core.signal.types import HOP_S
from glass_thread.core.signal.units import midi_to_hz
from glass_thread.demo.voices import VOICES, random_performance, with_vibrato
from tests.signals import RATE, harmonic_tone


class PitchScoresTest(unittest.TestCase):
    def test_by_hand(self) -> None:
        truth = np.r_[np.full(20, np.nan), np.full(80, 60.0), np.full(20, np.nan)]
        found = truth.copy()
        found[40:48] += 0.3  # 8 of 74 inner frames 30 cents off
        found[60:64] = np.nan
        found[6:8] = 50.0
        scores = pitch_scores(found, truth, margin=3)
        self.assertEqual((scores.within_50, scores.median_cents), (1.0, 0.0))
        self.assertAlmostEqual(scores.within_10, 1 - 8 / 70)
        self.assertAlmostEqual(scores.recall, 70 / 74)
        self.assertAlmostEqual(scores.false_alarm, 2 / 28, delta=0.02)
        self.assertEqual(scores.octave_s, 0.0)
        found[50:60] += 12.0
        self.assertAlmostEqual(pitch_scores(found, truth).octave_s, 0.05)

    def test_nothing_found(self) -> None:
        scores = pitch_scores(np.full(30, np.nan), np.full(30, 60.0))
        self.assertEqual((scores.within_50, scores.recall), (0.0, 0.0))


class NoteScoresTest(unittest.TestCase):
    def test_agrees_with_mir_eval_on_random_notes(self) -> None:
        # Reference library: mir_eval.transcription (Raffel et al., ISMIR 2014).
        rng = np.random.default_rng(5)
        for _ in range(40):
            start = np.cumsum(rng.uniform(0.2, 0.6, 12))
            truth = [
                (s, s + rng.uniform(0.1, 0.5), float(m)) for s, m in zip(start, rng.integers(50, 70, 12), strict=True)
            ]
            found = [
                (s + rng.normal(0, 0.04), e + rng.normal(0, 0.05), m + rng.normal(0, 0.4))
                for s, e, m in truth
                if rng.random() < 0.85
            ]
            found = [(s, max(e, s + 0.02), m) for s, e, m in found]
            for offsets in (False, True):
                ours = note_f1(found, truth, offsets=offsets)
                ri, ei = (np.array([n[:2] for n in notes]) for notes in (truth, found))
                rp, ep = (midi_to_hz([n[2] for n in notes]) for notes in (truth, found))
                ratio = 0.2 if offsets else None
                theirs = mir_eval.transcription.precision_recall_f1_overlap(ri, rp, ei, ep, offset_ratio=ratio)[2]
                self.assertAlmostEqual(ours, theirs, delta=1e-9)

    def test_each_note_is_matched_once(self) -> None:
        self.assertEqual(len(match_notes([(0, 1, 60), (0.01, 1, 60)], [(0, 1, 60)], offsets=False)), 1)
        self.assertEqual(note_f1([], []), 1.0)
        self.assertEqual(note_f1([(0, 1, 60)], []), 0.0)

    def test_masks(self) -> None:
        self.assertEqual(mask_f1(np.array([1, 1, 0], bool), np.array([1, 0, 0], bool)), 2 / 3)
        self.assertEqual(mask_f1(np.zeros(3, bool), np.zeros(3, bool)), 1.0)


class DistanceTest(unittest.TestCase):
    def test_level_and_equality(self) -> None:
        tone = harmonic_tone(np.full(RATE, 57.0), RATE, harmonics=60)
        self.assertEqual(spectral_distance(tone, tone, RATE), 0.0)
        self.assertEqual(cepstral_distance(tone, tone, RATE), 0.0)
        self.assertLess(cepstral_distance(tone, 0.5 * tone, RATE), 1.0)  # level alone moves only coefficient 0

    def test_a_filter_is_seen(self) -> None:
        rng = np.random.default_rng(1)
        noise = rng.standard_normal(RATE) * 0.1
        tilted = noise - 0.8 * np.r_[0, noise[:-1]]
        self.assertGreater(cepstral_distance(noise, tilted, RATE), 3.0)


class VoicesTest(unittest.TestCase):
    def test_takes_are_alike_by_seed_and_differ_between_seeds(self) -> None:
        for name in VOICES:
            self.assertEqual(random_performance(name, 3), random_performance(name, 3))
            self.assertNotEqual(random_performance(name, 3), random_performance(name, 4))

    def test_errors_keep_to_their_class(self) -> None:
        wrong = random_performance("tenor", 1, off=(100, 200))
        sizes = [abs(n.off) for n in wrong.notes if n.off]
        self.assertTrue(all(100 <= s <= 200 for s in sizes))
        self.assertTrue(all(n.off == 0 for n in wrong.in_tune().notes))
        scaled = with_vibrato(wrong, 0.3)
        self.assertAlmostEqual(scaled.notes[0].vibrato_cents, 0.3 * wrong.notes[0].vibrato_cents)


if __name__ == "__main__":
    unittest.main()


class HarmonicsToNoiseTest(unittest.TestCase):
    def test_a_tone_in_known_noise(self) -> None:
        # Boersma 1993, eq. 4: the ratio of periodic to noise power is what the correlation tells.
        midi = np.full(RATE, 57.0)
        tone = harmonic_tone(midi, RATE)
        noise = np.random.default_rng(3).standard_normal(RATE)
        noise *= np.sqrt(np.mean(tone**2)) / np.sqrt(np.mean(noise**2))
        grid = np.full(190, 57.0)
        for db in (10.0, 20.0, 30.0):
            read = harmonics_to_noise(tone + 10 ** (-db / 20) * noise, RATE, grid)
            self.assertAlmostEqual(read, db, delta=1.0)

    def test_a_pitch_that_moves_is_no_noise(self) -> None:
        moving = 45.0 + 0.5 * np.sin(2.0 * np.pi * 6.0 * np.arange(RATE) / RATE)
        tone = harmonic_tone(moving, RATE)
        noise = 0.1 * np.sqrt(np.mean(tone**2)) * np.random.default_rng(3).standard_normal(RATE)
        grid = moving[:: round(HOP_S * RATE)][:190]
        self.assertAlmostEqual(harmonics_to_noise(tone + noise, RATE, grid), 20.0, delta=1.0)


class BorderJumpTest(unittest.TestCase):
    def test_a_step_stands_out_and_the_untouched_does_not(self) -> None:
        tone = harmonic_tone(np.full(RATE, 57.0), RATE, harmonics=5)
        self.assertLessEqual(border_jump(tone, tone, RATE, [0.5]), 1.0)
        stepped = tone.copy()
        stepped[RATE // 2 :] += 0.2
        self.assertGreater(border_jump(tone, stepped, RATE, [0.5]), 3.0)
