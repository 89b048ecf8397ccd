"""Words: notes that follow each other with their consonants; borrows: where their moments lie."""

import unittest

import numpy as np

from glass_thread.core.document.content import Content, EditedAir
from glass_thread.core.document.items.borrows import Borrow, Fade, in_layers, over, taken_over
from glass_thread.core.document.notes import EditedNote
from glass_thread.core.document.time.stretches import Stretch
from glass_thread.core.document.words import word_of
from glass_thread.core.plan.borrowed import with_borrows
from glass_thread.core.signal.errors import NotFoundError, ParameterError
from glass_thread.core.signal.types import HOP_S, AirEvent, Analysis, Contour, Note

FADE = Fade(0.015, "equal gain", clean=True)


def content() -> Content:
    """breath, s+n1, n2 sung on, t+n3 s; and a note far off."""
    notes = [("n1", 1.0, 1.4), ("n2", 1.4, 1.8), ("n3", 2.0, 2.5), ("n4", 4.0, 4.5)]
    air = [("a1", "breath", 0.5, 0.75), ("a2", "sibilant", 0.88, 1.0), ("a3", "consonant", 1.92, 2.0),
           ("a4", "sibilant", 2.5, 2.6)]  # fmt: skip
    return Content(
        {i: EditedNote(Note(i, a, b, 60.0 + k, 0.0, None, -20.0, 0)) for k, (i, a, b) in enumerate(notes)},
        {i: EditedAir(AirEvent(i, kind, a, b, -30.0)) for i, kind, a, b in air},  # type: ignore[arg-type]
    )


class WordTest(unittest.TestCase):
    def test_consonants_belong_to_it_and_breaths_do_not(self) -> None:
        word = word_of(content(), ["n1"])
        self.assertEqual((word.start_s, word.vowel_s, word.last_s, word.end_s), (0.88, 1.0, 1.4, 1.4))
        self.assertEqual([one.event.id for one in word.air], ["a2"])
        self.assertEqual(word.room_s, (0.75, 1.4))

    def test_several_notes_and_the_room_after(self) -> None:
        word = word_of(content(), ["n3", "n2"])
        self.assertEqual([one.note.id for one in word.notes], ["n2", "n3"])
        self.assertEqual((word.vowel_s, word.last_s, word.end_s), (1.4, 2.5, 2.6))
        self.assertEqual(word.room_s[1], 4.0)
        self.assertAlmostEqual(word.centre_midi, (0.4 * 61 + 0.5 * 62) / 0.9)

    def test_notes_with_others_between_are_no_word(self) -> None:
        with self.assertRaisesRegex(ParameterError, "follow each other"):
            word_of(content(), ["n1", "n3"])
        with self.assertRaises(NotFoundError):
            word_of(content(), ["nope"])
        with self.assertRaises(ParameterError):
            word_of(content(), [])


def borrow(name: str = "w0001", start: float = 2.0, end: float = 3.0, **more: object) -> Borrow:
    return Borrow(name, start, end, 7.0, "hash", "id", "phrase 9", FADE, FADE, **more)  # type: ignore[arg-type]


class BorrowTest(unittest.TestCase):
    def test_moments_there_and_back(self) -> None:
        stretched = borrow(stretches=(Stretch(7.2, 7.6, 0.6, "vowel"),))
        for laid in (borrow(), stretched):
            at = np.linspace(2.0, 3.0, 21)
            np.testing.assert_allclose(laid.places_of(laid.moments_at(at)), at, atol=1e-9)
        self.assertAlmostEqual(float(stretched.places_of(7.6)), 2.8)
        self.assertAlmostEqual(float(borrow().places_of(7.6)), 2.6)
        self.assertAlmostEqual(borrow().span_s[0], 2.0 - 0.0075)

    def test_which_are_taken_over_and_in_what_layers(self) -> None:
        one, two = borrow("w0002", 1.0, 2.1), borrow("w0001", 2.0, 3.0)
        self.assertEqual(taken_over([one, two], borrow("w0003", 1.4, 2.2)), [one])
        self.assertEqual(in_layers([one, two]), [two, one])
        self.assertEqual(over([one, two], 0.0, 0.9), [])
        self.assertEqual(over([one, two], 2.05, 2.06), [one, two])

    def test_the_curves_are_those_of_what_is_heard(self) -> None:
        def analysis(midi: float, level: float) -> Analysis:
            n = 2000
            curve = Contour(np.full(n, midi) + np.arange(n) / n, np.full(n, 0.9))
            return Analysis(8000, n * HOP_S, curve, (), (), (), (), 440.0, np.full(n, level), False, np.full(n, -70.0))

        mine, theirs = analysis(60.0, -20.0), analysis(50.0, -30.0)
        heard = with_borrows(mine, [borrow()], {"id": theirs})
        inside, rest = slice(400, 600), np.r_[0:400, 600:2000]
        np.testing.assert_allclose(heard.contour.midi[inside], theirs.contour.midi[1400:1600], atol=1e-9)
        self.assertTrue((heard.level_db[inside] == -30.0).all())
        np.testing.assert_array_equal(heard.contour.midi[rest], mine.contour.midi[rest])
        self.assertIs(heard.as_recorded, mine)
        self.assertIs(with_borrows(mine, [], {}), mine)
