"""The merge of what is linked: facet by facet, what a hand changed against what is given now."""

import unittest
from dataclasses import replace
from typing import Any

from glass_thread.core.document.content import Content, EditedAir
from glass_thread.core.document.gestures import AS_SUNG
from glass_thread.core.document.items.links import mark_of
from glass_thread.core.document.linked.three_way import FACETS, base_of, bases_of, caught_up, renewed_base, still_given
from glass_thread.core.document.notes import EditedNote
from glass_thread.core.signal.types import AirEvent, Note

NOTE = Note("n1", 1.0, 1.5, 60.0, 0.0, None, -20.0, 0)
GIVEN = EditedNote(NOTE, replace(AS_SUNG, target_midi=64.0, pull=1.0, level_db=-2.0, formant_shift=0.4))
BREATH = EditedAir(AirEvent("a1", "breath", 0.2, 0.6, -40.0), -8.0)
BY_HAND: dict[str, dict[str, Any]] = {
    "time": {"start_shift_ms": 20.0}, "pitch": {"target_midi": 63.0}, "level": {"level_db": -5.0},
    "rest": {"drift": 0.2},
}  # fmt: skip
NOW = replace(AS_SUNG, target_midi=65.0, pull=0.9, level_db=-3.0, formant_shift=0.5, start_shift_ms=-10.0)


def content(*items: EditedNote | EditedAir) -> Content:
    notes = {one.note.id: one for one in items if isinstance(one, EditedNote)}
    return Content(notes, {one.event.id: one for one in items if isinstance(one, EditedAir)})


def with_values(edited: EditedNote, **values: Any) -> EditedNote:
    return replace(edited, gesture=replace(edited.gesture, **values))


class ThreeWayTest(unittest.TestCase):
    def test_every_facet_that_a_hand_changed_is_told(self) -> None:
        base = base_of(GIVEN)
        self.assertEqual(tuple(still_given(base, GIVEN)), FACETS)
        for facet, values in BY_HAND.items():
            with self.subTest(facet):
                self.assertEqual(set(FACETS) - set(still_given(base, with_values(GIVEN, **values))), {facet})
        self.assertEqual(len(still_given(base, replace(GIVEN, meant=("drift",), by_pass=("pull",)))), len(FACETS))

    def test_what_a_hand_changed_stays_and_the_rest_is_as_given_now(self) -> None:
        now = EditedNote(replace(NOTE, level_db=-21.0), NOW)
        for facet, values in BY_HAND.items():
            mine = with_values(GIVEN, **values)
            ((old, merged),) = caught_up(content(mine), bases_of(content(GIVEN)), content(now)).values()
            with self.subTest(facet):
                self.assertEqual(old, mine)
                assert isinstance(merged, EditedNote)
                kept = set(values) | ({"formant_shift"} if facet == "rest" else set())
                for name in ("start_shift_ms", "target_midi", "level_db", "drift", "formant_shift"):
                    whose = mine if name in kept else now
                    self.assertEqual(getattr(merged.gesture, name), getattr(whose.gesture, name), name)
                self.assertEqual(merged.note, NOTE if facet == "rest" else now.note)

    def test_added_removed_and_whole_things(self) -> None:
        other = replace(GIVEN, note=replace(NOTE, id="n2", start_s=2.0, end_s=2.5))
        base = bases_of(content(GIVEN, BREATH))
        louder = replace(BREATH, level_db=-2.0)
        now = content(EditedNote(NOTE, NOW), replace(BREATH, muted=True))
        self.assertEqual(caught_up(content(GIVEN, other), base, now).keys(), {"n1"})  # what a hand took away stays away
        self.assertNotIn("a1", caught_up(content(GIVEN, louder), base, now))
        self.assertEqual(caught_up(content(GIVEN, BREATH), base, content(BREATH)), {"n1": (GIVEN, None)})
        self.assertEqual(caught_up(content(BREATH), bases_of(content(BREATH)), content(GIVEN, BREATH)),
                         {"n1": (None, GIVEN)})  # fmt: skip
        mine = with_values(GIVEN, level_db=-5.0)
        self.assertEqual(caught_up(content(mine), bases_of(content(GIVEN)), content()), {})

    def test_marks_of_an_earlier_release_hold_for_the_whole_note(self) -> None:
        base = {"n1": mark_of(GIVEN)}
        self.assertEqual(caught_up(content(GIVEN), base, content(EditedNote(NOTE, NOW))).keys(), {"n1"})
        self.assertEqual(caught_up(content(with_values(GIVEN, drift=0.2)), base, content(EditedNote(NOTE, NOW))), {})

    def test_only_facets_that_are_given_anew_are_marked_anew(self) -> None:
        base, now = base_of(GIVEN), EditedNote(NOTE, NOW)
        renewed = renewed_base(base, ("pitch",), NOW)
        self.assertEqual(still_given(renewed, now), ["pitch"])
        self.assertEqual(still_given(renewed, GIVEN), ["time", "level", "rest"])


if __name__ == "__main__":
    unittest.main()
