import unittest

import numpy as np

from glass_thread.core.analysis.notes.note_parts import note_parts
from tests.signals import frames


def scooped(depth: float = 1.5, length: float = 0.1, seconds: float = 0.9) -> np.ndarray:
    """A note at 60 that begins `depth` semitones low and comes up within `length` seconds."""
    t = frames(seconds)
    along = np.clip(t / length, 0.0, 1.0)
    return 60.0 - depth * (1.0 - along * along * (3.0 - 2.0 * along))


class NotePartsTest(unittest.TestCase):
    def test_they_add_up_whatever_the_note(self) -> None:
        rng = np.random.default_rng(4)
        for n in (3, 5, 9, 20, 41, 120, 400):
            midi = 60.0 + np.cumsum(rng.standard_normal(n)) * 0.05
            parts = note_parts(midi, 60.0)
            whole = parts.centre + parts.scoop + parts.fall + parts.drift + parts.vibrato + parts.fine
            with self.subTest(n=n):
                np.testing.assert_allclose(whole, midi, atol=1e-10)

    def test_irregular_movement_is_movement_not_fine(self) -> None:
        """Wander between 0.7 and 7 Hz that no detector takes for a vibrato: only a few cents of it are fine."""
        rng = np.random.default_rng(5)
        spectrum = np.fft.rfft(rng.standard_normal(600))
        hz = np.fft.rfftfreq(600, 0.005)
        spectrum[(hz < 0.7) | (hz > 7.0)] = 0.0
        wander = np.fft.irfft(spectrum, 600)
        wander *= 0.38 / wander.std()
        parts = note_parts(60.0 + wander[100:400], 60.0)
        inner = slice(60, 240)
        self.assertLess(100 * parts.fine[inner].std(), 3.0)
        self.assertGreater(100 * (parts.drift + parts.vibrato)[inner].std(), 30.0)

    def test_drift_and_vibrato_are_told_apart_to_the_ends(self) -> None:
        t = frames(1.0)
        for hz in (4.5, 5.5, 6.5):
            for phase in (0.0, 1.5, 3.0, 4.5):
                slow, swing = 0.3 * (t - 0.5), 0.5 * np.sin(2 * np.pi * hz * t + phase)
                parts = note_parts(60.0 + slow + swing, 60.0)
                with self.subTest(hz=hz, phase=phase):
                    self.assertLess(100 * np.abs(parts.drift - slow)[30:-30].max(), 7.0)
                    self.assertLess(100 * np.abs(parts.drift - slow).max(), 20.0)
                    self.assertLess(100 * np.abs(parts.vibrato - swing)[30:-30].max(), 8.0)

    def test_a_scoop_is_no_drift_and_joins_a_flat_body_without_a_corner(self) -> None:
        midi = scooped()
        parts = note_parts(midi, 60.0)
        self.assertAlmostEqual(100 * parts.scoop[0], -150.0, delta=15.0)
        self.assertFalse(parts.fall.any())
        flat = parts.centre + parts.scoop + parts.fine  # what movement at 0 leaves
        self.assertLess(100 * np.abs(flat[40:] - 60.0).max(), 1.0)
        self.assertLess(100 * (flat - 60.0).max(), 3.0)  # it does not shoot over
        sung, left = (np.abs(np.diff(curve, 2)).max() for curve in (midi, flat))
        self.assertLess(left, 2.5 * sung)

    def test_a_fall_is_its_mirror(self) -> None:
        there, back = note_parts(scooped(), 60.0), note_parts(scooped()[::-1], 60.0)
        np.testing.assert_allclose(back.fall[::-1], there.scoop, atol=1e-9)
        self.assertFalse(back.scoop.any())

    def test_a_wide_vibrato_and_a_long_slide_are_no_scoops(self) -> None:
        t = frames(1.2)
        for name, midi in {
            "vibrato": 60 + 0.8 * np.sin(2 * np.pi * 5 * t - 1.2),
            "slide": 60 + 1.5 * np.clip(t / 0.9, 0, 1),
            "in tune": np.full(240, 60.0),
        }.items():
            parts = note_parts(midi, 60.0)
            with self.subTest(name):
                self.assertFalse(parts.scoop.any())
                self.assertFalse(parts.fall.any())

    def test_unvoiced_frames_are_bridged(self) -> None:
        midi = np.full(80, 60.0)
        midi[30:34] = np.nan
        parts = note_parts(midi, 60.0)
        np.testing.assert_allclose(parts.body, 0.0, atol=1e-9)
