"""What is said with less confidence: what the room, or another voice, may sound in place of the singer."""

import unittest

import numpy as np
import soundfile as sf

from glass_thread.core.analysis.pitch.confidence import doubted
from glass_thread.core.signal.types import Contour, Floats
from tests.kept import analyse
from tests.signals import REAL_TAKE


def take(*parts: tuple[int, float, float]) -> tuple[Contour, Floats]:
    """Parts of (frames, MIDI or NaN, dB) one after the other, all said with 0.97."""
    midi = np.concatenate([np.full(n, pitch) for n, pitch, _ in parts])
    level = np.concatenate([np.full(n, db) for n, _, db in parts])
    return Contour(midi, np.where(np.isfinite(midi), 0.97, 0.0)), level


REST = (60, np.nan, -80.0)


class DoubtTest(unittest.TestCase):
    def said(self, *parts: tuple[int, float, float]) -> list[float]:
        """The confidence in the middle of every part that has a pitch."""
        found = doubted(*take(*parts))
        ends = np.cumsum([n for n, _, _ in parts])
        middles = [end - n // 2 for end, (n, _, _) in zip(ends, parts, strict=True)]
        return [float(found.confidence[m]) for m, (_, pitch, _) in zip(middles, parts, strict=True) if pitch == pitch]

    def test_a_soft_part_among_loud_ones_is_doubted_and_a_soft_phrase_is_not(self) -> None:
        loud, soft = (100, 60.0, -20.0), (100, 64.0, -38.0)
        self.assertLess(self.said(loud, REST, soft, REST, loud)[1], 0.2)
        self.assertEqual(self.said(loud, REST, loud, REST, soft, REST, soft, REST, soft), [0.97] * 5)
        self.assertEqual(self.said(loud, REST, (100, 64.0, -30.0), REST, loud), [0.97] * 3)
        self.assertEqual(self.said(soft), [0.97])

    def test_short_parts_and_the_little_at_either_end_are_doubted_sooner(self) -> None:
        loud = (100, 60.0, -20.0)
        self.assertLess(self.said(loud, (24, 64.0, -31.0), loud)[1], 0.4)
        self.assertEqual(self.said(loud, (60, 64.0, -31.0), loud)[1], 0.97)
        self.assertLess(self.said(loud, REST, loud, REST, (100, 64.0, -36.0))[2], 0.2)
        self.assertLess(self.said((100, 64.0, -36.0), REST, loud)[0], 0.2)
        self.assertEqual(self.said(loud, REST, (250, 64.0, -36.0)), [0.97] * 2)  # a second and more is sung

    def test_nothing_sung_and_nothing_at_all(self) -> None:
        for n in (0, 50):
            empty = Contour(np.full(n, np.nan), np.zeros(n))
            self.assertFalse(doubted(empty, np.full(n, -60.0)).confidence.any())

    def test_real_singers_are_hardly_doubted(self) -> None:
        for path in (REAL_TAKE, REAL_TAKE.with_name("vocadito_14.flac"), REAL_TAKE.with_name("sung_score_2.flac")):
            audio, rate = sf.read(path, always_2d=True)
            found = analyse(audio.T, rate)
            again = doubted(found.contour, found.level_db)
            lowered = again.confidence < 0.7 * found.contour.confidence
            self.assertLess(lowered[found.contour.voiced].mean(), 0.04, path.stem)


if __name__ == "__main__":
    unittest.main()
