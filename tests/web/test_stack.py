"""Names of intervals and factors of places, table by table; places are the same in a mix that is printed."""

import numpy as np

from glass_thread.services.prints.mix import pan_gains
from tests.web.modules import ModuleCase


class StackTest(ModuleCase):
    def test_intervals(self) -> None:
        """Names by semitones are those of any handbook of harmony."""
        for low, high, name in (
            (60.0, 60.2, "unison"),
            (60.0, 63.0, "minor third above"),
            (60.0, 64.1, "major third above"),
            (67.0, 60.0, "fifth below"),
            (60.0, 72.0, "octave above"),
            (72.0, 48.0, "2 octaves below"),
            (60.0, 76.0, "octave and major third above"),
            (60.4, 66.6, "tritone above"),
        ):
            self.assertEqual(self.call("intervals", "intervalName", low, high), name)

    def test_places(self) -> None:
        for pan in (-1.0, -0.4, 0.0, 0.25, 1.0):
            for channels in (1, 2):
                gains = self.call("pan", "panGains", pan, channels)
                np.testing.assert_allclose(gains, pan_gains(pan, channels), atol=1e-12)
            left, right = pan_gains(pan, 1)
            self.assertAlmostEqual(left**2 + right**2, 2.0)  # as loud wherever it is
        self.assertEqual(pan_gains(0.0, 2), (1.0, 1.0))

    def test_rows_fill_what_there_is_within_bounds(self) -> None:
        for height, count, row in ((600, 6, 100), (600, 3, 120), (600, 12, 78), (600, 0, 120), (0, 5, 78), (599, 6, 99)):
            self.assertEqual(self.call("stack_rows", "stackRow", height, count), row)

    def test_pitches_of_a_row_have_room_and_are_never_too_few(self) -> None:
        for pitches, wanted in (
            ([60, 80], [59, 81]),
            ([60, 64], [55, 69]),
            ([], [53, 67]),
            ([62.5], [55.5, 69.5]),
        ):
            notes = [{"midi": midi} for midi in pitches]
            self.assertEqual(self.call("stack_rows", "pitchesOf", notes), wanted)

    def test_what_a_drawn_line_asks_of_a_note(self) -> None:
        rising = [[0.0, 60.0], [1.0, 64.0]]
        for lines, start, end, wanted in (
            ([rising], 0.0, 1.0, 62.0),
            ([rising], 0.5, 1.0, 63.0),
            ([rising], 0.9, 1.4, None),  # too little of it is drawn
            ([rising, [[0.0, 70.0], [1.0, 70.0]]], 0.0, 1.0, 70.0),  # the later line stands
            ([], 0.0, 1.0, None),
            ([[[0.2, 61.0], [0.2, 65.0], [0.9, 65.0]]], 0.3, 0.8, 65.0),
        ):
            found = self.call("melody_line", "lineAt", lines, start, end)
            if wanted is None:
                self.assertIsNone(found)
            else:
                self.assertAlmostEqual(found, wanted, places=6)

    def test_what_is_dropped_among_others(self) -> None:
        for moved, to, after, wanted in (
            (["c"], "a", False, "cabd"),
            (["a"], "c", True, "bcad"),
            (["a", "c"], "d", True, "bdac"),
        ):
            found = self.call("song_order", "reordered", list("abcd"), moved, to, after)
            self.assertEqual("".join(found), wanted)
