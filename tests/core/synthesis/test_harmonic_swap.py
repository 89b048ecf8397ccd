import unittest

import numpy as np

from glass_thread.core.synthesis.voice.cycle_harmonics import cycle_grid, grid_points, measure_harmonics, play_cycles
from glass_thread.core.synthesis.voice.cycles import cycle_phase
from glass_thread.core.synthesis.voice.glottal import lf_pulse
from glass_thread.core.synthesis.voice.harmonic_swap import swap_harmonics
from glass_thread.core.synthesis.voice.overlap_add import overlap_add
from tests.signals import RATE

PERIOD = 200.0


def voice(n: int = 8000) -> np.ndarray:
    """Harmonics 1 to 20 of RATE / 200 Hz, starting at phase 0."""
    t = np.arange(n) / PERIOD
    return sum(np.cos(2 * np.pi * k * t + 0.3 * k) / k for k in range(1, 21))


MARKS = np.arange(0.0, 8000.0, PERIOD)


class MeasureTest(unittest.TestCase):
    def test_steady_harmonics_are_read_exactly(self) -> None:
        found = measure_harmonics(voice(), cycle_grid(MARKS, 8, 30, grid_points(MARKS), 6))
        for k in (1, 5, 20):
            np.testing.assert_allclose(2 * np.abs(found[:, k]), 1 / k, rtol=2e-3)
        self.assertLess(np.max(np.abs(found[:, 22:40])), 2e-3)

    def test_the_grid_holds_the_longest_cycle(self) -> None:
        self.assertEqual(grid_points(np.array([0.0, 100.0, 350.0])), 512)


class FirstResonanceTest(unittest.TestCase):
    def fundamental_db(self, ratio: float, second_db: float) -> float:
        """The new fundamental's level over the new second harmonic's of a voice whose second harmonic and all above lie
        `second_db` under its first."""
        spectrum = np.full((9, 20), 10 ** (second_db / 20), dtype=complex)
        spectrum[:, 0], spectrum[:, 1] = 0.0, 1.0
        ones = np.ones(9)
        new = swap_harmonics(spectrum, ratio * ones, formant=ones, cycle_hz=400.0 * ones, nyquist_hz=22_050.0)
        return float(20 * np.log10(np.abs(new[4, 1]) / np.abs(new[4, 2])))

    def test_a_fundamental_far_above_it_takes_it_along(self) -> None:
        """What is let fall is 12 dB; below that, and up to three semitones, the envelope stays where it is."""
        self.assertAlmostEqual(self.fundamental_db(2.0, -20.0), 20.0 - 20.0 * np.log10(4.0), places=6)
        self.assertAlmostEqual(self.fundamental_db(2.0, -10.0), 0.0, places=6)
        for ratio in (1.0, 1.19):
            kept = self.fundamental_db(ratio, -20.0)
            self.assertAlmostEqual(kept, self.fundamental_db(ratio, -10.0) * 2.0, delta=0.5)


class PlayTest(unittest.TestCase):
    def test_measured_cycles_play_back_as_they_were(self) -> None:
        found = measure_harmonics(voice(), cycle_grid(MARKS, 8, 30, grid_points(MARKS), 6))
        n = np.arange(int(MARKS[9]), int(MARKS[29]))
        out = play_cycles(found, grid_points(MARKS), cycle_phase(MARKS, n) - 8)
        np.testing.assert_allclose(out, voice()[n], atol=5e-3)


class SwapTest(unittest.TestCase):
    spectrum = measure_harmonics(voice(), cycle_grid(MARKS, 8, 30, 256, 6))

    def swap(
        self, ratio: float, formant: float = 1.0, spectrum: np.ndarray = spectrum, source_share: float = 0.0
    ) -> np.ndarray:
        n = len(spectrum)
        hz = np.full(n, RATE / PERIOD)
        return swap_harmonics(
            spectrum, np.full(n, ratio), formant=np.full(n, formant), cycle_hz=hz, nyquist_hz=RATE / 2,
            source_share=source_share,
        )  # fmt: skip

    def test_ratio_one_changes_nothing(self) -> None:
        np.testing.assert_allclose(self.swap(1.0)[:, 1:20], self.spectrum[:, 1:20], atol=1e-9)

    def test_a_modal_source_in_a_tube_without_resonances_keeps_its_harmonics(self) -> None:
        source = np.abs(np.fft.rfft(lf_pulse(1.0)))[:129]
        for ratio in (0.75, 1.2, 2.0):
            swapped = np.abs(self.swap(ratio, spectrum=np.tile(source, (3, 1)).astype(complex), source_share=1.0))
            shape = swapped[:, 2:40] / swapped[:, 2:3]
            np.testing.assert_allclose(shape, np.tile(source[2:40] / source[2], (3, 1)), rtol=0.03)

    def test_the_spectrum_over_frequency_stays_and_the_power_too(self) -> None:
        number = np.arange(129)
        smooth = np.where(number > 0, 1.0 / (1.0 + (number / 12.0) ** 2), 0.0)
        for ratio in (0.75, 1.5, 2.0):
            swapped = np.abs(self.swap(ratio, spectrum=np.tile(smooth, (9, 1)).astype(complex)))[4]
            inside = number[2:20]
            gain = swapped[inside] * (1.0 + (inside * ratio / 12.0) ** 2)
            np.testing.assert_allclose(gain / gain[0], 1.0, rtol=0.02)  # one gain for all frequencies
            self.assertAlmostEqual(np.sum(swapped**2) / np.sum(smooth**2), 1.0, delta=0.15)

    def test_a_resonance_stays_with_the_pitch_and_moves_with_the_formant(self) -> None:
        number = np.arange(129)
        source = np.abs(np.fft.rfft(lf_pulse(1.0)))[:129]
        bump = 1.0 + 9.0 * np.exp(-(((number - 24.0) / 4.0) ** 2))
        spectrum = np.tile(source * bump, (3, 1)).astype(complex)
        for ratio, formant, peak in ((1.2, 1.0, 20), (1.0, 1.25, 30), (1.5, 0.75, 12)):
            swapped = np.abs(self.swap(ratio, formant, spectrum, source_share=1.0))[1] / source
            with self.subTest(ratio=ratio, formant=formant):
                self.assertEqual(int(np.argmax(swapped[1:60])) + 1, peak)

    def test_nothing_aliases(self) -> None:
        swapped = self.swap(2.0)
        top = int(0.98 * RATE / 2 / (2 * RATE / PERIOD))
        self.assertFalse(swapped[:, top + 1 :].any())


class OverlapAddTest(unittest.TestCase):
    def test_grains_at_their_own_marks_add_up_to_the_signal(self) -> None:
        x = np.random.default_rng(1).standard_normal(8000)
        index = np.arange(len(MARKS))
        out = overlap_add(x, MARKS, index, MARKS.copy(), np.ones(len(MARKS)), 8000)
        np.testing.assert_allclose(out[200:7800], x[200:7800], atol=1e-9)

    def test_a_fraction_of_a_sample_later(self) -> None:
        x = np.sin(2 * np.pi * 0.02 * np.arange(8000))
        out = overlap_add(x, MARKS, np.arange(len(MARKS)), MARKS + 0.4, np.ones(len(MARKS)), 8000)
        want = np.sin(2 * np.pi * 0.02 * (np.arange(8000) - 0.4))
        np.testing.assert_allclose(out[300:7700], want[300:7700], atol=1e-4)
