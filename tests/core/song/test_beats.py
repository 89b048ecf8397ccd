import unittest

import numpy as np

from glass_thread.core.song.beats import GRIDS, Meter, grid_lines


class GridTest(unittest.TestCase):
    def test_parts_of_beats_against_the_arithmetic_of_standard_midi_files(self) -> None:
        """Microseconds a quarter note (Standard MIDI Files 1.0, meta event 51): 120 bpm is 500,000, 84 is 714,286."""
        for bpm, microseconds in ((120.0, 500_000), (84.0, 714_286), (60.0, 1_000_000)):
            meter = (Meter(0.0, bpm),)
            for grid, quarters in (
                ("1/4", 1.0),
                ("1/8", 0.5),
                ("1/16", 0.25),
                ("1/8 triplet", 1 / 3),
                ("1/4 dotted", 1.5),
            ):
                lines = grid_lines(meter, grid, 0.0, 4 * 60.0 / bpm - 1e-6)
                self.assertAlmostEqual(lines[1] - lines[0], quarters * microseconds / 1e6, places=6)

    def test_a_beat_is_what_the_meter_says(self) -> None:
        six_eight = (Meter(1.0, 90.0, 6, 8),)
        np.testing.assert_allclose(np.diff(grid_lines(six_eight, "beat", 1.0, 4.0)), 60 / 90 / 2)
        np.testing.assert_allclose(np.diff(grid_lines(six_eight, "bar", 0.0, 9.0)), 6 * 60 / 90 / 2)

    def test_dotted_steps_begin_anew_with_every_bar(self) -> None:
        lines = grid_lines((Meter(0.0, 120.0),), "1/4 dotted", 0.0, 3.9)
        np.testing.assert_allclose(lines, [0.0, 0.75, 1.5, 2.0, 2.75, 3.5])

    def test_swing_moves_every_second_step(self) -> None:
        straight, swung = (grid_lines((Meter(0.0, 120.0),), "1/8", 0.0, 1.9, swing=share) for share in (0.5, 2 / 3))
        np.testing.assert_allclose(swung[::2], straight[::2])
        np.testing.assert_allclose(swung[1::2] - straight[::2], 2 / 3 * 0.5)

    def test_tempo_and_meter_change(self) -> None:
        meters = (Meter(0.0, 120.0), Meter(4.0, 60.0, 3, 4))
        lines = grid_lines(meters, "bar", -2.0, 10.0)
        np.testing.assert_allclose(lines, [-2.0, 0.0, 2.0, 4.0, 7.0, 10.0])

    def test_lines_rise_whatever_the_grid(self) -> None:
        rng = np.random.default_rng(1)
        for grid in GRIDS:
            for _ in range(20):
                starts = np.sort(rng.uniform(0, 30, 3))
                meters = tuple(Meter(float(s), float(rng.uniform(40, 220)), int(rng.integers(1, 9)), 4) for s in starts)
                lines = grid_lines(meters, grid, 0.0, 40.0, swing=float(rng.uniform(0.5, 0.75)))
                self.assertTrue((np.diff(lines) > -1e-9).all(), grid)
