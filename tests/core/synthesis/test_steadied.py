"""A vowel that is held shorter is no rougher than it was."""

import unittest
from unittest import mock

import numpy as np
import scipy

from glass_thread.core.document.time.stretches import Stretch
from glass_thread.core.plan.time_map import TimeMap, sample_map
from glass_thread.core.signal.types import HOP_S, Contour, Floats
from glass_thread.core.synthesis.render import render_whole
from glass_thread.core.synthesis.voice import layout
from glass_thread.core.synthesis.voice.steadied import how_steady, steadied, steadied_cycles
from tests.signals import RATE

HZ, LENGTH_S = 220.0, 3.0
BEGIN, END = round(0.5 * RATE), round(2.5 * RATE)


def uneven_voice() -> Floats:
    """Harmonics that are a little louder and softer, up to sixty times a second."""
    time = np.arange(round(LENGTH_S * RATE)) / RATE
    noise = np.random.default_rng(3).standard_normal(len(time))
    sway = scipy.signal.sosfiltfilt(scipy.signal.butter(2, [20, 60], "band", fs=RATE, output="sos"), noise)
    tone = sum(np.sin(2 * np.pi * HZ * k * time) / k for k in range(1, 12))
    return 0.2 * tone * (1.0 + 0.02 * sway / sway.std())


def held(factor: float) -> TimeMap:
    """The middle takes `factor` times as long."""
    return sample_map((Stretch(0.5, 2.5, 2.0 * factor, "vowel"),), RATE)


def rendered(factor: float) -> Floats:
    """The middle of the voice, held otherwise."""
    frames = round(LENGTH_S / HOP_S)
    contour = Contour(np.full(frames, 69.0 + 12.0 * np.log2(HZ / 440.0)), np.ones(frames))
    whole = render_whole(uneven_voice()[None], RATE, contour, np.zeros(frames), time_map=held(factor))[0]
    return whole[BEGIN : BEGIN + round(factor * (END - BEGIN))]


def gaps_db(sound: Floats) -> float:
    """Level half way between harmonics, against the harmonics."""
    hz, power = scipy.signal.welch(sound, RATE, "hann", 8192)
    place = hz / HZ % 1.0
    low = (hz > HZ / 2) & (hz < 10 * HZ)
    between, at = low & (np.abs(place - 0.5) < 0.2), low & (np.abs(place - 0.5) > 0.4)
    return float(10.0 * np.log10(power[between].sum() / power[at].sum()))


class SteadiedTest(unittest.TestCase):
    def test_gaps_between_harmonics_are_not_filled(self) -> None:
        sung = gaps_db(uneven_voice()[BEGIN:END])
        for factor, rise_db in ((0.5, 6.0), (0.7, 3.0)):
            with mock.patch.object(layout, "how_steady", lambda positions, *_: np.zeros(len(positions))):
                self.assertGreater(gaps_db(rendered(factor)), sung + rise_db)
            self.assertLess(gaps_db(rendered(factor)), sung + 1.0)

    def test_the_faster_time_goes_the_more(self) -> None:
        positions = np.arange(0.0, 10_000.0, 200.0)
        for speed, share in ((0.5, 0.0), (1.0, 0.0), (1.25, 0.5), (2.0, 1.0), (3.5, 1.0)):
            stretched = np.arange(len(positions)) % 40 < 20
            found = how_steady(positions, speed * positions, stretched)
            np.testing.assert_allclose(found, np.where(stretched, share, 0.0), atol=1e-12)

    def test_what_does_not_move_stays(self) -> None:
        still = np.tile(np.array([0.0, 1.0 + 2.0j, 0.3j]), (30, 1))
        np.testing.assert_allclose(steadied(still, 9), still, atol=1e-12)
        slow = still * (1.0 + 0.01 * np.arange(30))[:, None]
        np.testing.assert_allclose(steadied(slow, 9)[6:-6], slow[6:-6], atol=1e-12)
        by_turns = still * (1.0 + 0.1 * (-1.0) ** np.arange(30))[:, None]
        np.testing.assert_allclose(steadied(by_turns, 9)[6:-6], still[6:-6], atol=5e-3)

    def test_cycles_over_the_same_time_whatever_the_pitch(self) -> None:
        self.assertEqual([steadied_cycles(np.full(9, hz)) for hz in (90.0, 220.0, 440.0)], [5, 9, 17])


if __name__ == "__main__":
    unittest.main()
