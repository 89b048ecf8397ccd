"""Period doubling inside a note: cycles that differ by turns keep their subharmonics where they belong."""

import unittest

import numpy as np

from glass_thread.core.signal.types import HOP_S, Contour
from glass_thread.core.synthesis.render import render_whole
from glass_thread.core.synthesis.voice.doubling import by_turns, doubled_cycles

RATE, HZ = 44_100, 180.0
SUB_DB = -13.0


def voice(sub_db: float) -> np.ndarray:
    """Two seconds of harmonics, with odd multiples of half the pitch under them."""
    t = np.arange(2 * RATE) / RATE
    x = sum(np.sin(2 * np.pi * HZ * k * t + 0.3 * k * k) / k for k in range(1, 30))
    gain = 10 ** (sub_db / 20)
    x = x + sum(gain * np.sin(np.pi * HZ * k * t + 0.7 * k) / max(1, k / 2) for k in range(1, 40, 2))
    return 0.1 * x


def shifted(x: np.ndarray, cents: float) -> np.ndarray:
    n = int(2 / HOP_S) + 1
    midi = np.full(n, 69 + 12 * np.log2(HZ / 440))
    midi[:10] = midi[-10:] = np.nan
    correction = np.where(np.isfinite(midi), cents / 100, 0.0)
    return render_whole(x[np.newaxis], RATE, Contour(midi, np.ones(n)), correction)[0]


def level_db(x: np.ndarray, hz: float) -> float:
    spectrum = np.abs(np.fft.rfft(x[RATE // 2 : RATE // 2 + RATE] * np.hanning(RATE)))
    return float(20 * np.log10(spectrum[int(hz) - 3 : int(hz) + 5].max()))


class DoublingTest(unittest.TestCase):
    def test_subharmonics_stay_at_half_the_new_pitch(self) -> None:
        x = voice(SUB_DB)
        sung = [level_db(x, part * HZ) - level_db(x, HZ) for part in (0.5, 1.5)]
        for cents in (-300, -100, 50, 300):
            out, hz = shifted(x, cents), HZ * 2 ** (cents / 1200)
            for part, level in zip((0.5, 1.5), sung, strict=True):
                with self.subTest(cents=cents, part=part):
                    self.assertAlmostEqual(level_db(out, part * hz) - level_db(out, hz), level, delta=4.0)

    def test_it_is_told_from_a_plain_and_from_a_breathy_voice(self) -> None:
        marks = np.arange(0.0, 1.9 * RATE, RATE / HZ)
        rng = np.random.default_rng(5)
        odd = np.where(np.arange(len(marks)) % 2, 1.0, -1.0)
        alternating = np.interp(np.arange(2 * RATE), marks, odd)
        breath = rng.standard_normal(2 * RATE)
        self.assertTrue(doubled_cycles(alternating[np.newaxis], marks).all())
        self.assertTrue(doubled_cycles((alternating + 0.4 * breath)[np.newaxis], marks).all())
        self.assertLess(doubled_cycles(breath[np.newaxis], marks).mean(), 0.02)
        self.assertFalse(doubled_cycles(np.sin(np.arange(2 * RATE) / 900.0)[np.newaxis], marks).any())

    def test_a_plain_breathy_voice_is_rendered_as_before(self) -> None:
        sources = np.array([0, 1, 1, 2, 3, 3, 4])
        origins, marks = np.arange(7.0), np.arange(6.0)
        np.testing.assert_array_equal(by_turns(sources, origins, marks, np.zeros(6, dtype=bool)), sources)
        turns = by_turns(sources, origins * 0.7, marks, np.ones(6, dtype=bool))
        self.assertTrue((np.diff(turns) % 2 == 1).all())
        self.assertLessEqual(np.abs(turns - sources).max(), 1)
