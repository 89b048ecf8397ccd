"""What large shifts leave of two real voices (recordings/README.md): loudness, colour, pitch."""

import unittest
from pathlib import Path

import numpy as np

from glass_thread.bench.sound.real import compared, moved, read_clip

RECORDINGS = Path(__file__).parents[2] / "recordings"


class RealVoicesTest(unittest.TestCase):
    def test_loudness_and_colour_stay_and_the_pitch_is_the_wanted_one(self) -> None:
        for name, cents, brighter_db in (
            ("vocadito_10", 300, 1.0), ("vocadito_10", -700, 1.0), ("vocadito_14", 300, 1.5), ("vocadito_14", 700, 4.0),
            ("vocadito_14", 1200, 6.0),
        ):  # fmt: skip
            clip = read_clip(RECORDINGS / f"{name}.flac")
            with self.subTest(name, cents=cents):
                row = compared(clip, moved(clip, cents), cents)
                self.assertLess(abs(row["loudness"]), 0.5)  # ITU-R BS.1770; 1 LU is allowed
                bands = [value for key, value in row.items() if key.endswith("kHz")]
                self.assertEqual(len(bands), 3)
                self.assertLess(np.abs(bands).max(), brighter_db)
                self.assertLess(row["off"], 5.0)
