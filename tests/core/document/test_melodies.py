"""Which note of a melody a sung note belongs to: by time, by order, by following, table by table."""

from __future__ import annotations

import unittest

import numpy as np

from glass_thread.core.document.voices.melodies import WAYS, match_melody
from glass_thread.core.signal.errors import ParameterError

# An invented line: starts in beats, lengths, pitches, with two rests and a repeated note.
LINE = (
    (0.0, 1.0, 62), (1.0, 0.5, 65), (1.5, 0.5, 64), (2.0, 2.0, 62), (5.0, 1.0, 69), (6.0, 0.5, 67), (6.5, 0.5, 65),
    (7.0, 1.0, 64), (8.0, 1.0, 64), (9.0, 2.0, 62), (12.0, 0.5, 60), (12.5, 0.5, 62), (13.0, 1.5, 65), (14.5, 1.5, 64),
    (16.0, 3.0, 62),
)  # fmt: skip


def played(beat_s: float, begin_s: float = 0.0, up: float = 0.0, without: tuple[int, ...] = ()) -> list[list[float]]:
    return [[begin_s + start * beat_s, begin_s + (start + length) * beat_s, midi + up]
            for i, (start, length, midi) in enumerate(LINE) if i not in without]  # fmt: skip


def sung(seed: int, beat_s: float, **settings: object) -> list[tuple[float, float, float]]:
    """The line as a singer has it: 40 ms off in the mean, a third of a semitone off, lengths a fifth off."""
    rng, found = np.random.default_rng(seed), []
    for start, end, midi in played(beat_s, **settings):  # type: ignore[arg-type]
        late = rng.normal(0.0, 0.04)
        found.append((start + late, start + late + (end - start) * rng.uniform(0.75, 1.0), midi + rng.normal(0.0, 0.3)))
    return found


class MelodiesTest(unittest.TestCase):
    def test_by_time_the_one_that_sounds_longest(self) -> None:
        voice = [(0.0, 1.0, 60.0), (1.0, 2.0, 62.0), (5.0, 6.0, 64.0)]
        self.assertEqual(match_melody(voice, [[0.1, 0.9, 70], [0.9, 2.2, 72]], "time"), [0, 1, -1])
        self.assertEqual(match_melody(voice, [[0.8, 1.2, 70]], "time"), [-1, -1, -1])  # too little of either

    def test_by_order_first_to_first(self) -> None:
        voice = [(0.0, 1.0, 60.0), (1.0, 2.0, 62.0), (5.0, 6.0, 64.0)]
        self.assertEqual(match_melody(voice, [[50, 51, 70], [51, 52, 71]], "order"), [0, 1, -1])
        self.assertEqual(match_melody(voice[:1], [[50, 51, 70], [51, 52, 71]], "order"), [0])

    def test_following_needs_neither_tempo_nor_place_nor_pitch(self) -> None:
        everything = list(range(len(LINE)))
        for beat_s, begin_s, up in (
            (0.5, 0.0, 0.0),
            (0.62, 8.0, 0.0),
            (0.4, 3.0, 12.0),
            (0.5, 0.0, 4.0),
            (0.71, 30.0, -5.0),
        ):
            for seed in range(4):
                with self.subTest(beat_s=beat_s, begin_s=begin_s, up=up, seed=seed):
                    found = match_melody(sung(seed, 0.5), played(beat_s, begin_s, up), "following")
                    self.assertEqual(found, everything)

    def test_following_leaves_out_what_only_one_has(self) -> None:
        for seed in range(6):
            with self.subTest(seed=seed):
                found = match_melody(sung(seed, 0.5, without=(5,)), played(0.55, 4.0, without=(11,)), "following")
                wanted = [i - (i > 11) if i != 11 else -1 for i in range(len(LINE)) if i != 5]
                self.assertEqual(found, wanted)

    def test_following_another_voice_that_goes_its_own_way(self) -> None:
        rng = np.random.default_rng(3)
        other = [[a, b, midi + float(rng.choice((3, 4, 5)))] for a, b, midi in played(0.6, 2.0)]
        self.assertEqual(match_melody(sung(1, 0.5), other, "following"), list(range(len(LINE))))

    def test_empty_and_endless(self) -> None:
        for way in WAYS:
            self.assertEqual(match_melody([], [[0, 1, 60]], way), [])
            self.assertEqual(match_melody([(0.0, 1.0, 60.0)], [], way), [-1])
            self.assertEqual(match_melody([(0.0, 1.0, 60.0)], [[0.0, 1.0, 72.0]], way), [0])
        many = [(float(i), i + 0.5, 60.0) for i in range(5000)]
        with self.assertRaisesRegex(ParameterError, "choose a phrase"):
            match_melody(many, [list(one) for one in many], "following")
