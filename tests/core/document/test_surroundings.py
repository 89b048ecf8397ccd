import unittest
from dataclasses import replace

import numpy as np

from glass_thread.core.document.flags import Singer, know_singer, own_flags, singer_of, worst_in_six
from glass_thread.core.document.surroundings import ALONE, Surroundings
from glass_thread.core.signal.types import Contour, Note

NOTE = Note("n", 4.0, 4.5, 60.3, 0.0, None, -20.0, 0)
CERTAIN = Contour(np.full(8000, 60.0), np.ones(8000))


def hurt(note: Note = NOTE, around: Surroundings = ALONE, singer: Singer | None = None) -> float:
    found = own_flags(note, 60.0, CERTAIN, singer or Singer(level_db=-20.0), around)
    return max((flag.hurt for flag in found), default=0.0)


class WeightTest(unittest.TestCase):
    def test_what_is_louder_held_or_on_a_strong_beat_hurts_more(self) -> None:
        plain = hurt()
        self.assertGreater(hurt(replace(NOTE, level_db=-12.0)), plain)
        self.assertLess(hurt(replace(NOTE, level_db=-34.0)), plain)
        self.assertGreater(hurt(replace(NOTE, end_s=6.0)), plain)
        self.assertGreater(hurt(replace(NOTE, centre_midi=60.4)), plain)
        on, off = Surroundings(bar_s=(-2.0, 2.0)), Surroundings(bar_s=(-1.0, 2.0))
        self.assertGreater(hurt(around=on), plain)
        self.assertEqual(hurt(around=off), plain)
        self.assertEqual(hurt(around=Surroundings(bar_s=(0.03, 2.0))), hurt(around=on))

    def test_a_pitch_that_the_backing_holds_is_clashed_with(self) -> None:
        rows = np.zeros((20, 12))
        rows[8:10, [0, 4, 7]] = 1 / 3  # C major from 4.0 s to 5.0 s
        plain = hurt()
        self.assertGreater(hurt(around=Surroundings(harmony=rows, hop_s=0.5)), plain)
        self.assertEqual(hurt(around=Surroundings(harmony=np.roll(rows, 1, axis=1), hop_s=0.5)), plain)
        self.assertEqual(hurt(around=Surroundings(harmony=rows, hop_s=0.5, harmony_from_s=3.0)), plain)


class SingerTest(unittest.TestCase):
    def notes(self, off_cents: np.ndarray) -> tuple[list[Note], dict[str, float]]:
        notes = [replace(NOTE, id=f"n{i}", start_s=0.3 * i, end_s=0.3 * i + 0.3, centre_midi=60.0 + off / 100)
                 for i, off in enumerate(off_cents)]  # fmt: skip
        return notes, dict.fromkeys((note.id for note in notes), 60.0)

    def test_a_voice_alone_sets_its_own_pitch_and_with_a_backing_it_does_not(self) -> None:
        notes, targets = self.notes(np.random.default_rng(2).normal(27.0, 3.0, 60))
        for has_backing, flagged in ((False, 0), (True, 60)):
            singer = singer_of(notes, targets, has_backing=has_backing)
            marked = [n for n in notes if own_flags(n, 60.0, CERTAIN, singer)]
            self.assertEqual(len(marked), flagged)
        self.assertAlmostEqual(singer_of(notes, targets).lean_cents, 27.0, delta=2.0)

    def test_one_in_six_of_an_uneven_take_and_all_of_a_precise_one(self) -> None:
        rng = np.random.default_rng(4)
        for spread, planted, low, high in ((25.0, 0, 0.1, 0.2), (2.0, 25, 0.25, 0.25)):
            off = rng.normal(0.0, spread, 100)
            off[:planted] = 40.0
            notes, targets = self.notes(off)
            singer = know_singer(notes, targets, CERTAIN, Surroundings(harmony=np.zeros((1, 12))))
            shown = [n for n in notes for f in own_flags(n, 60.0, CERTAIN, singer) if f.hurt >= singer.shown_from]
            self.assertTrue(low <= len(shown) / 100 <= high, (spread, len(shown)))

    def test_too_few_notes_tell_nothing(self) -> None:
        self.assertEqual(worst_in_six([9.0] * 5, 30.0), 1.0)
        self.assertEqual(singer_of([], {}).usual_cents, 0.0)
