"""In a high voice the harmonics are far apart: what lies between them stays as it was sung."""

import unittest
from unittest import mock

import numpy as np
import scipy

from glass_thread.core.document.time.stretches import Stretch
from glass_thread.core.plan.time_map import sample_map
from glass_thread.core.signal.types import HOP_S, Contour, Floats
from glass_thread.core.synthesis.render import render_whole
from glass_thread.core.synthesis.voice import cycle_harmonics
from glass_thread.core.synthesis.voice.cycle_harmonics import window_cycles
from glass_thread.core.synthesis.voice.marks import pitch_marks
from tests.signals import RATE

HZ, LENGTH_S = 660.0, 2.4
BEGIN, END = round(0.4 * RATE), round(2.0 * RATE)
FRAMES = round(LENGTH_S / HOP_S)
CONTOUR = Contour(np.full(FRAMES, 69.0 + 12.0 * np.log2(HZ / 440.0)), np.ones(FRAMES))


def breathy_voice() -> Floats:
    """Steady harmonics, and breath that is strong around 1 kHz, as a first formant passes it."""
    time = np.arange(round(LENGTH_S * RATE)) / RATE
    noise = np.random.default_rng(5).standard_normal(len(time))
    breath = scipy.signal.sosfiltfilt(scipy.signal.butter(2, [880, 1120], "band", fs=RATE, output="sos"), noise)
    tone = sum(np.sin(2 * np.pi * HZ * k * time + k) * level for k, level in ((1, 0.3), (2, 1.0), (3, 0.05), (4, 0.03)))
    return 0.3 * tone + 0.002 * breath / breath.std() + 0.0002 * noise


def rendered(factor: float, cents: float) -> Floats:
    """The middle of the voice, held and tuned otherwise."""
    held = sample_map((Stretch(0.3, 2.1, 1.8 * factor, "vowel"),), RATE)
    whole = render_whole(breathy_voice()[None], RATE, CONTOUR, np.full(FRAMES, cents / 100.0), time_map=held)[0]
    return whole[round(held.to_target(BEGIN)) : round(held.to_target(END))]


def gap_db(sound: Floats, gap: int, cents: float = 0.0) -> float:
    """Level in the middle between harmonics `gap` and the next."""
    hz, power = scipy.signal.welch(sound, RATE, "hann", 4096)
    place = hz / (HZ * 2.0 ** (cents / 1200.0)) - gap
    return float(10.0 * np.log10(power[(place > 0.35) & (place < 0.65)].mean()))


class HighVoiceTest(unittest.TestCase):
    CASES = ((0.5, 0.0), (1.4, 0.0), (2.0, 0.0), (1.0, 30.0))

    def test_a_gap_with_breath_keeps_it_and_one_without_gets_none(self) -> None:
        sung = breathy_voice()[BEGIN:END]
        for factor, cents in self.CASES:
            made = rendered(factor, cents)
            with self.subTest(factor=factor, cents=cents):
                self.assertAlmostEqual(gap_db(made, 1, cents), gap_db(sung, 1), delta=1.5)
                self.assertLess(gap_db(made, 2, cents), gap_db(sung, 2) + 4.0)

    def test_that_takes_marks_and_means_over_more_than_a_few_cycles(self) -> None:
        sung_db = gap_db(breathy_voice()[BEGIN:END], 2)
        for module, name, was in ((pitch_marks, "_SPAN_S", 0.0), (cycle_harmonics, "_MOST", 6)):
            with mock.patch.object(module, name, was):
                self.assertGreater(gap_db(rendered(1.4, 0.0), 2), sung_db + 5.0)

    def test_as_many_cycles_as_take_28_ms(self) -> None:
        for hz, cycles in ((80.0, 6), (220.0, 6), (290.0, 8), (350.0, 10), (440.0, 12), (1000.0, 12)):
            self.assertEqual(window_cycles(np.full(20, hz)), cycles)
        slow_at_times = np.where(np.arange(20) < 4, 220.0, 440.0)
        self.assertEqual(window_cycles(slow_at_times), 6)


if __name__ == "__main__":
    unittest.main()
