"""What gives way when notes are moved, on a take made by hand: every length is known."""

import unittest
from dataclasses import replace

import numpy as np

from glass_thread.core.document.content import Content, Pin, as_found
from glass_thread.core.document.time.give_way import NOTHING, Giving, give_way, squeezed
from glass_thread.core.document.time.stretches import track_anchors, track_place
from glass_thread.core.signal.signal_tools import mapped
from glass_thread.core.signal.types import HOP_S, AirEvent, Analysis, Contour, Note

# note A 1.0-1.6, sung through into B 1.6-2.2, silence with a breath 2.5-2.9, consonant 3.1-3.2, note C 3.2-4.0
SUNG = ((1.0, 1.6), (1.6, 2.2), (3.2, 4.0))
AIR = (AirEvent("a1", "breath", 2.5, 2.9, -40.0), AirEvent("a2", "sibilant", 3.1, 3.2, -30.0))
DURATION_S = 6.0


def take() -> Analysis:
    n = round(DURATION_S / HOP_S)
    midi, level = np.full(n, np.nan), np.full(n, -70.0)
    notes = []
    for number, (start, end) in enumerate(SUNG):
        part = slice(round(start / HOP_S), round(end / HOP_S))
        midi[part], level[part] = 60.0 + 2 * number, -20.0
        notes.append(Note("ABC"[number], start, end, 60.0 + 2 * number, 0.0, None, -20.0, number // 2))
    for event in AIR:
        level[round(event.start_s / HOP_S) : round(event.end_s / HOP_S)] = event.level_db
    contour = Contour(midi, np.where(np.isfinite(midi), 1.0, 0.0))
    return Analysis(44_100, DURATION_S, contour, tuple(notes), AIR, (), (), 440.0, level)


def giving(shifts: dict[str, tuple[float, float]], pins: tuple[Pin, ...] = ()) -> Giving:
    return give_way(take(), content(shifts, pins))


def content(shifts: dict[str, tuple[float, float]], pins: tuple[Pin, ...] = ()) -> Content:
    made = as_found(take())
    notes = {
        key: replace(e, gesture=replace(e.gesture, start_shift_ms=shifts[key][0], end_shift_ms=shifts[key][1]))
        if key in shifts else e
        for key, e in made.notes.items()
    }  # fmt: skip
    return replace(made, notes=notes, pins={pin.id: pin for pin in pins})


class GiveWayTest(unittest.TestCase):
    def places(self, given: Giving, *at: float) -> list[float]:
        return [round(track_place(given.stretches, moment), 6) for moment in at]

    def test_nothing_asked_nothing_given(self) -> None:
        self.assertEqual(giving({}), NOTHING)
        pinned = giving({}, (Pin("p1", 1.0, 1.0),))
        self.assertEqual((pinned.stretches, pinned.short), ((), []))

    def test_silence_gives_way_before_anything_else(self) -> None:
        given = giving({"C": (-50.0, -50.0)})
        self.assertEqual({one.kind for one in given.stretches}, {"silence"})
        self.assertEqual(self.places(given, 3.2, 4.0, 4.3, 2.2, 5.0), [3.15, 3.95, 4.25, 2.2, 5.0])
        self.assertEqual(given.short, [])

    def test_a_consonant_goes_with_its_note_and_keeps_its_length(self) -> None:
        start, end = self.places(giving({"C": (80.0, 80.0)}), 3.1, 3.2)
        self.assertEqual((start, end), (3.18, 3.28))

    def test_breaths_shorten_when_the_silence_is_used_up_and_never_grow(self) -> None:
        tight = giving({"C": (-600.0, -600.0)})
        kinds = {one.kind: one for one in tight.stretches}
        self.assertLess(kinds["breath"].added_s, -0.01)
        self.assertGreaterEqual(kinds["breath"].length_s, 0.4 * (kinds["breath"].end_s - kinds["breath"].start_s))
        later = giving({"C": (400.0, 400.0)})
        self.assertNotIn("breath", {one.kind for one in later.stretches})

    def test_a_note_sung_through_gives_way_with_its_vowel_and_holds_its_far_edge(self) -> None:
        given = giving({"A": (60.0, 60.0), "B": (60.0, 0.0)})
        self.assertEqual(self.places(given, 1.0, 1.6, 2.2, 2.5), [1.06, 1.66, 2.2, 2.5])
        vowel = next(one for one in given.stretches if one.kind == "vowel")
        self.assertAlmostEqual(vowel.added_s, -0.06)
        self.assertGreater(vowel.start_s, 1.6 + 0.04)  # the glide into it keeps its shape
        self.assertLess(vowel.end_s, 2.2 - 0.01)

    def test_the_neighbour_across_too_little_silence_gives_way_too(self) -> None:
        given = giving({"C": (-900.0, -900.0)})
        self.assertEqual(self.places(given, 1.6, 3.2), [1.6, 2.3])
        self.assertIn("vowel", {one.kind for one in given.stretches})

    def test_what_cannot_be_is_said_with_its_place(self) -> None:
        for shifts, words in (
            ({"C": (-1500.0, -1500.0)}, "no room between"),
            ({"A": (0.0, 400.0), "B": (400.0, 400.0), "C": (-900.0, -900.0)}, "no room between"),
            ({"C": (0.0, 1990.0)}, "no room between"),
        ):
            said = squeezed(NOTHING, giving(shifts))
            self.assertIsNotNone(said)
            self.assertIn(words, str(said))
        self.assertIsNone(squeezed(NOTHING, giving({"C": (-100.0, 60.0)})))
        before = giving({"C": (-1500.0, -1500.0)})
        self.assertIsNone(squeezed(before, before))

    def test_a_vowel_is_held_four_times_as_long_at_most(self) -> None:
        far = Pin("end", DURATION_S, DURATION_S + 4.0)
        self.assertIsNone(squeezed(NOTHING, giving({"C": (0.0, 2000.0)}, (far,))))
        self.assertIn("too little vowel", str(squeezed(NOTHING, giving({"C": (0.0, 3000.0)}, (far,)))))

    def test_a_vowel_keeps_its_ways_in_and_out_while_its_middle_is_enough(self) -> None:
        pins = (Pin("a", 3.2, 3.2), Pin("end", DURATION_S, DURATION_S + 4.0))
        for longer_ms, kept_s in ((200.0, 0.09), (1800.0, 0.09), (2150.0, 0.03), (2230.0, 0.015)):
            vowels = [one for one in giving({"C": (0.0, longer_ms)}, pins).stretches if one.kind == "vowel"]
            with self.subTest(longer_ms=longer_ms):
                self.assertEqual(
                    [(round(v.start_s, 3), round(v.end_s, 3)) for v in vowels],
                    [(round(3.21 + kept_s, 3), round(4.0 - kept_s, 3))],
                )
        for shorter_ms, kept_s in ((-300.0, 0.09), (-480.0, 0.06), (-520.0, 0.03), (-560.0, 0.015)):
            pin = Pin("b", 4.2, 4.2 + shorter_ms / 1000.0)
            vowels = [one for one in giving({"C": (0.0, shorter_ms)}, (pin,)).stretches if one.kind == "vowel"]
            with self.subTest(shorter_ms=shorter_ms):
                self.assertEqual(
                    [(round(v.start_s, 3), round(v.end_s, 3)) for v in vowels],
                    [(round(3.21 + kept_s, 3), round(4.0 - kept_s, 3))],
                )

    def test_a_join_that_is_sung_through_keeps_its_shape_however_much_gives_way(self) -> None:
        for shorter_s in (0.2, 0.35, 0.38, 0.4):
            given = giving({}, (Pin("a", 1.0, 1.0), Pin("b", 1.6, 1.6 - shorter_s)))
            self.assertEqual(given.short, [])
            vowels = [one for one in given.stretches if one.end_s < 1.6]
            self.assertEqual([one.kind for one in vowels], ["vowel"])
            self.assertLessEqual(vowels[0].end_s, 1.55 + 1e-9, shorter_s)

    def test_a_pin_stops_what_gives_way(self) -> None:
        free, held = giving({"C": (-50.0, -50.0)}), giving({"C": (-50.0, -50.0)}, (Pin("p1", 2.95, 2.95),))
        self.assertNotEqual(self.places(free, 2.5), [2.5])
        self.assertEqual(self.places(held, 2.5, 2.9, 3.2), [2.5, 2.9, 3.15])

    def test_between_pins_everything_gives_way(self) -> None:
        given = giving({}, (Pin("p1", 0.9, 0.9), Pin("p2", 2.3, 2.6)))
        self.assertEqual(self.places(given, 0.9, 2.3), [0.9, 2.6])
        self.assertNotEqual(self.places(given, 1.6), [1.6])

    def test_time_never_runs_backwards_whatever_is_asked(self) -> None:
        rng = np.random.default_rng(8)
        for _ in range(300):
            shifts = {key: tuple(rng.uniform(-3000, 3000, 2)) for key in rng.choice(list("ABC"), 2, replace=False)}
            given = giving(shifts)
            at = mapped(np.arange(0.0, DURATION_S, 0.01), *track_anchors(given.stretches))
            self.assertGreater(np.diff(at).min(), 0.0)

    def test_sections_that_are_far_from_a_change_are_taken_over(self) -> None:
        first = giving({"A": (-20.0, 10.0), "B": (10.0, 0.0)})
        both = content({"A": (-20.0, 10.0), "B": (10.0, 0.0), "C": (30.0, 30.0)})
        again = give_way(take(), both, first, [(3.2, 4.0)])
        self.assertEqual(again, give_way(take(), both))
        section = next(iter(first.sections))
        self.assertIs(again.sections[section], first.sections[section])
