"""What is claimed of a singer: only what the notes carry, with the size it has."""

from __future__ import annotations

import math
import unittest
from dataclasses import replace

import numpy as np

from glass_thread.cli.bench_singer import METER, PLANTED, habitual
from glass_thread.core.document.content import as_found
from glass_thread.core.document.notes import current_targets
from glass_thread.core.measure.habit_table import HABITS
from glass_thread.core.measure.habits import claims, interval
from glass_thread.core.measure.observations import Observed, observe
from glass_thread.core.song.beats import grid_lines
from glass_thread.core.song.keys import make_tuning, one_key
from tests.kept import analyse, sing
from tests.signals import RATE

NAN = float("nan")


def take(seed: int, count: int = 72) -> list[Observed]:
    """Notes of a singer without a habit: uneven in everything by chance alone."""
    rng = np.random.default_rng(seed)
    found = []
    for i in range(count):
        first, last, held = i % 6 == 0, i % 6 == 5, i % 3 == 0
        found.append(Observed(
            f"n{i:04d}", float(i), i + 0.8, float(rng.integers(55, 72)), first, last,
            NAN if first else float(rng.choice([-7, -2, 0, 2, 7, 7])), float(rng.normal(0, 8)),
            float(rng.normal(0, 15)) if first else NAN, float(rng.uniform(0, 120)) if first else NAN,
            float(rng.normal(0, 15)) if last else NAN, float(rng.normal(0, 4)) if held else NAN,
            float(rng.normal(5.8, 0.3)) if held else NAN, float(rng.normal(0, 2)), float(rng.normal(0, 12)),
        ))  # fmt: skip
    return found


def faults(notes: list[Observed]) -> dict[str, float]:
    return {claim.name: claim.size for claim in claims(notes) if claim.kind == "fault"}


class ClaimsTest(unittest.TestCase):
    def test_nothing_is_claimed_of_a_singer_without_habits(self) -> None:
        """A hundred singers: each habit is claimed of fewer than five of them."""
        wrong: dict[str, int] = {}
        for seed in range(100):
            for name in faults(take(seed)):
                wrong[name] = wrong.get(name, 0) + 1
        self.assertLess(max(wrong.values(), default=0), 5, wrong)

    def test_what_is_planted_is_found_with_its_size(self) -> None:
        for name, plant, size in (
            ("phrase starts", lambda n: replace(n, off=n.off - 25.0 * n.first), -25.0),
            ("held notes", lambda n: replace(n, sag=n.sag - 15.0), -15.0),
            ("leaps up", lambda n: replace(n, off=n.off + 20.0 * (n.interval >= 7)), 20.0),
            ("vibrato", lambda n: replace(n, vibrato_hz=n.vibrato_hz - 1.2), 4.6),
            ("timing", lambda n: replace(n, late_ms=n.late_ms + 35.0), 35.0),
            ("phrase ends", lambda n: replace(n, end=n.end - 60.0), -60.0),
            ("tuning", lambda n: replace(n, off=n.off - 14.0), -14.0),
        ):
            found = sum(name in faults([plant(note) for note in take(seed)]) for seed in range(20))
            with self.subTest(name):
                self.assertGreaterEqual(found, 19)
                sizes = [faults([plant(note) for note in take(seed)]).get(name, NAN) for seed in range(20)]
                self.assertAlmostEqual(float(np.nanmedian(sizes)), size, delta=0.2 * abs(size))

    def test_few_notes_carry_nothing_and_praise_needs_more_than_a_fault(self) -> None:
        self.assertEqual(claims([]), [])
        self.assertEqual(faults([replace(note, off=note.off - 30.0) for note in take(1, 4)]), {})
        praised = {claim.name for claim in claims(take(3)) if claim.kind == "praise"}
        self.assertIn("tuning", praised)
        self.assertNotIn("tuning", {claim.name for claim in claims(take(3, 20)) if claim.of < 24})

    def test_a_claim_says_how_many_and_shows_the_clearest(self) -> None:
        notes = [replace(note, late_ms=40.0 + i % 3) for i, note in enumerate(take(5))]
        notes[7] = replace(notes[7], late_ms=90.0)
        notes[11] = replace(notes[11], late_ms=-30.0)
        claim = next(one for one in claims(notes) if one.name == "timing")
        self.assertEqual((claim.count, claim.of, claim.clearest[0]), (71, 72, 7))
        self.assertEqual(claim.words, "Notes come 41 ms after the beat")
        self.assertTrue(claim.practise.endswith("."))
        self.assertLessEqual(claim.low, claim.size)
        self.assertGreaterEqual(claim.high, claim.size)

    def test_the_weightiest_comes_first_and_praise_last(self) -> None:
        notes = [replace(note, late_ms=note.late_ms + 60.0, sag=note.sag - 11.0) for note in take(2)]
        found = claims(notes)
        self.assertEqual([one.name for one in found if one.kind == "fault"][:2], ["timing", "held notes"])
        kinds = [one.kind for one in found]
        self.assertEqual(kinds, sorted(kinds))  # faults before praise, as the words happen to stand

    def test_every_habit_says_what_it_says(self) -> None:
        self.assertEqual(len({habit.name for habit in HABITS}), len(HABITS))
        for habit in HABITS:
            with self.subTest(habit.name):
                for words in (habit.above, habit.below):
                    self.assertIn("{size}", words)
                self.assertTrue(all(one.endswith(".") for one in habit.practise))
                self.assertGreater(habit.over, 0.0)


class IntervalTest(unittest.TestCase):
    def test_against_the_interval_from_order_statistics(self) -> None:
        """The interval for a median that follows from the binomial distribution (Conover, Practical Nonparametric
        Statistics, from memory): both leave the median out about as often."""
        n, alpha = 41, 0.01
        below = [sum(math.comb(n, j) for j in range(k + 1)) / 2**n for k in range(n)]
        rank = max(k for k in range(n) if below[k] <= alpha / 2)
        rng = np.random.default_rng(8)
        widths, missed = [], 0
        for _ in range(60):
            values = rng.normal(0.0, 10.0, n)
            low, high = interval(values)
            ordered = np.sort(values)
            widths.append((high - low) / (ordered[n - 1 - rank] - ordered[rank]))
            missed += not low <= 0.0 <= high
        self.assertAlmostEqual(float(np.median(widths)), 1.0, delta=0.2)
        self.assertLessEqual(missed, 3)


class SungTest(unittest.TestCase):
    def found(self, planted: frozenset[str]) -> tuple[dict[str, float], list[Observed]]:
        performance = habitual(1, planted)
        analysis = analyse(sing(performance, RATE).audio, RATE)
        content = as_found(analysis)
        lines = grid_lines((METER,), "1/8", 0.0, performance.duration_s)
        notes = observe(
            list(content.notes.values()),
            current_targets(content.notes, one_key(make_tuning(0, "major"))),
            analysis,
            lines,
        )
        return faults(notes), notes

    def test_from_the_sound_of_a_singer_with_habits(self) -> None:
        found, notes = self.found(frozenset(PLANTED))
        self.assertEqual(set(found), {name for name, _size in PLANTED.values()})
        for name, size in PLANTED.values():
            with self.subTest(name):
                self.assertAlmostEqual(found[name], size, delta=0.25 * abs(size))
        self.assertTrue(all(np.isnan(note.interval) == note.first for note in notes))

    def test_from_the_sound_of_one_without(self) -> None:
        self.assertEqual(self.found(frozenset())[0], {})
