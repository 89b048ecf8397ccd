"""A vibrato keeps its rate where its note is stretched; what is irregular is stretched with it."""

import unittest

import numpy as np

from glass_thread.core.analysis.notes.note_parts import note_parts
from glass_thread.core.document.gestures import Gesture
from glass_thread.core.plan.pitch.pitch_plan import note_correction
from glass_thread.core.plan.pitch.vibrato import at_its_rate
from glass_thread.core.signal.types import HOP_S
from tests.signals import frames


def rate_of(curve: np.ndarray) -> float:
    """Hertz, from the spacing of rising zero crossings of a curve on the 5 ms grid."""
    at = np.flatnonzero((curve[:-1] < 0.0) & (curve[1:] >= 0.0))
    exact = at + curve[at] / (curve[at] - curve[at + 1])
    return float(1.0 / (np.polyfit(np.arange(len(exact)), exact, 1)[0] * HOP_S))


class RateTest(unittest.TestCase):
    def test_it_is_kept_from_half_to_twice_as_long(self) -> None:
        for hz in (4.7, 5.5, 6.3):
            for seconds in (1.2, 2.0):
                vibrato = 0.4 * np.sin(2 * np.pi * hz * frames(seconds) + 0.4)
                for factor in (0.5, 0.75, 1.3, 1.5, 2.0):
                    track = np.arange(len(vibrato)) * factor
                    heard = np.interp(np.arange(track[-1]), track, at_its_rate(vibrato, track))
                    inner = heard[12:-20]
                    with self.subTest(hz=hz, seconds=seconds, factor=factor):
                        self.assertAlmostEqual(rate_of(inner) / hz, 1.0, delta=0.02)

    def test_the_note_ends_as_it_was_sung(self) -> None:
        vibrato = 0.4 * np.sin(2 * np.pi * 5.3 * frames(0.9))
        kept = at_its_rate(vibrato, np.arange(len(vibrato)) * 1.37)
        self.assertAlmostEqual(kept[-1], vibrato[-1])
        self.assertLess(np.abs(np.diff(kept - vibrato)[-14:]).max(), 0.16)

    def test_irregular_movement_goes_with_the_note(self) -> None:
        rng = np.random.default_rng(3)
        midi = 60.0 + 0.3 * np.convolve(rng.standard_normal(260), np.hanning(40) / 8.0, "valid")
        parts = note_parts(midi, 60.0)
        change = note_correction(parts, Gesture(), 60.0, np.arange(len(midi)) * 1.5, regular=False)
        np.testing.assert_array_equal(change, 0.0)
