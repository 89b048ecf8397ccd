"""What is claimed of a singer: only what the notes carry, with the size it has."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np
import scipy

from glass_thread.bench.finding.singer import METER, PLANTED, habitual
from glass_thread.core.document.content import as_found
from glass_thread.core.document.notes import EditedNote, current_targets
from glass_thread.core.measure.habit_table import HABITS
from glass_thread.core.measure.habits import claims, interval, middle
from glass_thread.core.measure.observations import Observed, observe
from glass_thread.core.signal.types import HOP_S, Contour, Note, Vibrato
from glass_thread.core.song.beats import grid_lines
from glass_thread.core.song.keys import make_tuning, one_key
from glass_thread.demo.score import Performance
from tests.kept import analyse, sing
from tests.signals import NOTHING_FOUND, RATE

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
            float(rng.normal(5.8, 0.3)) if held else NAN, float(rng.normal(70, 15)) if held else NAN,
            abs(float(rng.normal(6, 3))) if held else NAN, float(rng.normal(0, 2)) if last else NAN,
            float(rng.normal(0, 2)), 0.9, float(rng.normal(0, 12)),
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

    def test_a_word_that_is_sung_low_is_named_and_no_other(self) -> None:
        words = ["the", "hold", "line", "till"]

        def worded(seed: int, low: str = "") -> list[Observed]:
            sung = [(note, words[i % 4]) for i, note in enumerate(take(seed))]
            return [replace(note, word=word, start=-60.0 if word == low else note.start,
                            off=note.off - 20.0 * (word == low)) for note, word in sung]  # fmt: skip

        told = {claim.name: claim for claim in claims(worded(3, "the")) if claim.kind == "fault"}
        self.assertEqual(set(told), {"word the", "starts of the"})
        self.assertAlmostEqual(told["word the"].size, -20.0, delta=6.0)
        self.assertEqual(told["starts of the"].words, "Starts of “the” come in 60 cents from below")
        wrong = sum(name.endswith(tuple(words)) for seed in range(40) for name in faults(worded(seed)))
        self.assertLess(wrong, 5)
        rare = [
            replace(note, word="rare" if i < 5 else "", off=note.off - 40.0 * (i < 5)) for i, note in enumerate(take(4))
        ]
        self.assertNotIn("word rare", faults(rare))

    def test_what_is_planted_is_found_with_its_size(self) -> None:
        for name, plant, size in (
            ("phrase starts", lambda n: replace(n, off=n.off - 25.0 * n.first), -25.0),
            ("held notes", lambda n: replace(n, sag=n.sag - 15.0), -15.0),
            ("leaps up", lambda n: replace(n, off=n.off + 20.0 * (n.interval >= 7)), 20.0),
            ("vibrato", lambda n: replace(n, vibrato_hz=n.vibrato_hz - 1.2), 4.6),
            ("timing", lambda n: replace(n, late_ms=n.late_ms + 35.0), 35.0),
            ("phrase ends", lambda n: replace(n, end=n.end - 60.0), -60.0),
            ("vibrato extent", lambda n: replace(n, vibrato_cents=n.vibrato_cents + 90.0), 160.0),
            ("vibrato regularity", lambda n: replace(n, vibrato_uneven=n.vibrato_uneven + 20.0), 26.0),
            ("breath at ends", lambda n: replace(n, breath_db=n.breath_db + 8.0), 8.0),
            ("tuning", lambda n: replace(n, off=n.off - 14.0), -14.0),
        ):
            sizes = [faults([plant(note) for note in take(seed)]).get(name, NAN) for seed in range(20)]
            with self.subTest(name):
                self.assertGreaterEqual(np.isfinite(sizes).sum(), 19)
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
                for words in (habit.above, habit.below) if habit.name != "vibrato regularity" else (habit.above,):
                    self.assertIn("{size}", words)
                self.assertTrue(all(one.endswith(".") for one in habit.practise))
                self.assertGreater(habit.over, 0.0)


class IntervalTest(unittest.TestCase):
    def test_against_a_reference_library(self) -> None:
        """The trimmed mean, and its interval by Tukey and McLaughlin (Sankhya 25, 1963), as SciPy has them: both leave
        the truth out about as often."""
        n, alpha = 41, 0.01
        rng = np.random.default_rng(8)
        widths, missed = [], 0
        for _ in range(60):
            values = rng.normal(0.0, 10.0, n)
            self.assertAlmostEqual(float(middle(values)), float(scipy.stats.trim_mean(values, 1 / 6)), places=9)
            low, high = interval(values)
            lower, higher = scipy.stats.mstats.trimmed_mean_ci(values, limits=(1 / 6, 1 / 6), alpha=alpha)
            widths.append((high - low) / (higher - lower))
            missed += not low <= 0.0 <= high
        self.assertAlmostEqual(float(np.median(widths)), 1.0, delta=0.2)
        self.assertLessEqual(missed, 3)


class ExplainedTest(unittest.TestCase):
    def test_low_notes_that_are_flat_because_they_begin_phrases_are_no_habit_of_their_own(self) -> None:
        notes = [
            replace(n, target=50.0 if n.first else max(n.target, 57.0), off=n.off - 30.0 * n.first) for n in take(4)
        ]
        self.assertEqual(set(faults(notes)), {"phrase starts"})

    def test_what_others_show_too_is_told_beside_it(self) -> None:
        notes = [replace(n, off=n.off - 30.0 * n.first - 25.0 * (n.target <= 57.0)) for n in take(4)]
        self.assertLessEqual({"phrase starts", "low notes"}, set(faults(notes)))


class VibratoTest(unittest.TestCase):
    def observed(self, uneven: float) -> Observed:
        """A held note whose vibrato's cycles vary by so many percent."""
        rng = np.random.default_rng(2)
        lengths = 1 / 5.5 * (1.0 + uneven / 100.0 * rng.normal(0, 1, 30))
        time = np.arange(0, 3.0, HOP_S)
        phase = np.interp(time, np.concatenate([[0.0], np.cumsum(lengths)]), np.arange(31.0))
        midi = 60.0 + 0.6 * np.sin(2 * np.pi * phase)
        note = Note("n1", 0.0, 3.0, 60.0, 0.0, Vibrato(5.5, 60.0, 0.0), -20.0, 0)
        level = np.full(len(midi), -20.0)
        analysis = replace(
            NOTHING_FOUND, contour=Contour(midi, np.ones(len(midi))), level_db=level, high_db=level - 30.0
        )
        return observe([EditedNote(note)], {"n1": 60.0}, analysis)[0]

    def test_extent_and_evenness(self) -> None:
        even, uneven = self.observed(0.0), self.observed(18.0)
        self.assertLess(even.vibrato_uneven, 4.0)
        self.assertAlmostEqual(uneven.vibrato_uneven, 18.0, delta=7.0)
        self.assertEqual(even.vibrato_cents, 60.0)
        self.assertAlmostEqual(even.breath_db, 0.0)


class SungTest(unittest.TestCase):
    def found(
        self, planted: frozenset[str], performance: Performance | None = None
    ) -> tuple[dict[str, float], list[Observed]]:
        performance = performance or habitual(1, planted)
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

    def test_scoops_and_wide_swings_are_told_at_their_size(self) -> None:
        plain = habitual(4, frozenset())
        for cents in (40.0, 60.0, 120.0):
            notes = (replace(one, scoop=cents * (i % 6 == 0)) for i, one in enumerate(plain.notes))
            found, _ = self.found(frozenset(), replace(plain, notes=tuple(notes)))
            with self.subTest(scoop=cents):
                self.assertEqual(set(found), {"phrase onsets"})
                self.assertAlmostEqual(-found["phrase onsets"] / cents, 1.0, delta=0.08)
        wide = (replace(one, vibrato_cents=118.0) if one.vibrato_cents else one for one in plain.notes)
        found, _ = self.found(frozenset(), replace(plain, notes=tuple(wide)))
        self.assertEqual(set(found), {"vibrato extent"})
        self.assertAlmostEqual(found["vibrato extent"], 118.0, delta=4.0)

    def test_from_the_sound_of_a_singer_with_habits(self) -> None:
        found, notes = self.found(frozenset(PLANTED))
        self.assertEqual(set(found), {name for name, _size in PLANTED.values()})
        for name, size in PLANTED.values():
            with self.subTest(name):
                self.assertAlmostEqual(found[name], size, delta=0.25 * abs(size))
        self.assertTrue(all(np.isnan(note.interval) == note.first for note in notes))

    def test_from_the_sound_of_one_without(self) -> None:
        self.assertEqual(self.found(frozenset())[0], {})
