"""Strain against measured damage and by its parts; Kept; and the words that go with them."""

import unittest
from dataclasses import replace

import numpy as np
from scipy.stats import spearmanr

from glass_thread.bench.finding.strain import damaged_notes
from glass_thread.core.document.strain import Asked, advice, asked_of, damage, kept, strain
from glass_thread.core.signal.types import HOP_S
from tests.signals import analysed_short

NOTHING = Asked(0.0, 0.0, 0.0, 0.0, 0.0, 60.0, -40.0)


def asked(**values: float) -> Asked:
    return replace(NOTHING, **values)


class StrainTest(unittest.TestCase):
    def test_nothing_asked_is_no_strain(self) -> None:
        self.assertEqual(strain(NOTHING), 0.0)

    def test_it_grows_with_everything_that_is_asked(self) -> None:
        for name, values in {
            "shift": (0.1, 0.5, 1.0, 3.0, 7.0, 12.0),
            "formant": (0.2, 1.0, 3.0, 6.0),
            "bend": (0.02, 0.1, 0.2),
            "steepness": (2.0, 8.0, 20.0),
            "stretch": (0.1, 0.5, 1.0),
        }.items():
            told = [strain(asked(**{name: value})) for value in values]
            with self.subTest(name):
                self.assertTrue((np.diff(told) >= 0).all() and told[-1] > told[0])
                self.assertTrue(min(told) >= 0.0 and max(told) <= 100.0)
        self.assertGreater(strain(asked(shift=1.0, breath_db=-15.0)), strain(asked(shift=1.0)))
        self.assertGreater(strain(asked(shift=1.0, pitch=79.0)), strain(asked(shift=1.0)))

    def test_direction_counts(self) -> None:
        self.assertNotEqual(damage(asked(shift=2.0)), damage(asked(shift=-2.0)))
        self.assertGreater(strain(asked(formant=3.0)), strain(asked(formant=-3.0)))

    def test_it_ranks_notes_as_the_measured_damage_does(self) -> None:
        notes = [n for n in damaged_notes(["tenor", "alto", "breathy"], 21) if n.damage_db > 0.0]
        self.assertGreater(len(notes), 60)
        rank = float(spearmanr([n.damage_db for n in notes], [strain(n.asked) for n in notes])[0])
        self.assertGreaterEqual(rank, 0.8)

    def test_what_is_asked_is_read_off_the_correction(self) -> None:
        analysis = analysed_short()
        n = len(analysis.contour.midi)
        note = analysis.notes[2]
        ramp = np.linspace(0.0, n * HOP_S, n)  # one semitone a second
        found = asked_of(note, analysis, ramp, np.full(n, -1.5), stretch=2.0)
        self.assertAlmostEqual(found.shift, (note.start_s + note.end_s) / 2, delta=0.02)
        self.assertAlmostEqual(found.steepness, 1.0, delta=0.01)
        self.assertEqual((found.formant, found.stretch, found.pitch), (-1.5, 1.0, note.centre_midi))


class KeptTest(unittest.TestCase):
    def setUp(self) -> None:
        t = np.arange(200) * HOP_S
        self.sung = 60 + 0.5 * np.sin(2 * np.pi * 5.5 * t)

    def test_a_plain_shift_keeps_everything(self) -> None:
        self.assertEqual(kept(self.sung, np.zeros(200)), 100.0)
        self.assertAlmostEqual(kept(self.sung, np.full(200, 3.0)), 100.0)

    def test_movement_taken_away_by_half_keeps_half(self) -> None:
        own = self.sung - self.sung.mean()
        for share in (1.0, 0.75, 0.5, 0.0):
            with self.subTest(share):
                self.assertAlmostEqual(kept(self.sung, -(1 - share) * own), 100 * share, places=6)
        self.assertEqual(kept(self.sung, own), 100.0)  # more than all of it is still all of it

    def test_unvoiced_frames_and_straight_notes(self) -> None:
        self.sung[50:60] = np.nan
        own = np.nan_to_num(self.sung - np.nanmean(self.sung))
        self.assertAlmostEqual(kept(self.sung, -own), 0.0, places=6)
        self.assertEqual(kept(np.full(50, 60.0), np.linspace(0, 1, 50)), 100.0)
        self.assertEqual(kept(np.full(50, np.nan), np.ones(50)), 100.0)


class AdviceTest(unittest.TestCase):
    def test_words_for_each_cause(self) -> None:
        for values, two, words in (
            ({"shift": 2.5}, False, "sung again"),
            ({"shift": 0.2, "formant": 3.0}, False, "formants less"),
            ({"shift": 0.8}, True, "Split"),
            ({"shift": 0.4, "steepness": 20.0, "bend": 0.3}, False, "end back as sung"),
            ({"shift": 0.6}, False, "Pull less"),
        ):
            with self.subTest(words):
                self.assertIn(words, advice(asked(**values), two_pitches=two))
        self.assertEqual(advice(NOTHING), "")
