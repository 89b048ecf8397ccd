"""What was asked under release 0.1 sounds as it did, until one of its values is set anew."""

import json
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np

from glass_thread.core.document.content import Content
from glass_thread.core.plan.plan import build_plan
from glass_thread.core.signal.types import AirEvent, Contour
from glass_thread.core.song.keys import one_key, parse_key
from glass_thread.formats.plain_data import content_from_data, content_to_data, note_from_data
from tests.signals import NOTHING_FOUND, apply_change, apply_operation

# Written by release 0.1: what it found in a real take, an edited content of it, and the correction it planned.
PLAN = Path(__file__).parent / "release_0_1_plan.npz"


class EditionTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        with np.load(PLAN) as kept:
            cls.document = json.loads(str(kept["document"]))
            contour = Contour(kept["midi"], kept["confidence"])
            cls.analysis = replace(NOTHING_FOUND, contour=contour, level_db=kept["level_db"],
                                   notes=tuple(map(note_from_data, cls.document["notes"])),
                                   air=tuple(AirEvent(**one) for one in cls.document["air"]))  # fmt: skip
            cls.correction = kept["correction"]
        cls.keys = one_key(parse_key(cls.document["key"]))
        cls.content = content_from_data(cls.document["content"])

    def correction_of(self, content: Content) -> np.ndarray:
        return build_plan(self.analysis, content, self.keys).correction

    def test_it_plans_what_it_planned(self) -> None:
        np.testing.assert_allclose(self.correction_of(self.content), self.correction, rtol=0.0, atol=1e-9)
        self.assertGreater(np.abs(self.correction).max(), 0.5)

    def test_it_does_so_after_it_was_stored_again(self) -> None:
        again = content_from_data(json.loads(json.dumps(content_to_data(self.content))))
        np.testing.assert_array_equal(self.correction_of(again), self.correction_of(self.content))

    def test_what_was_not_bent_is_of_now(self) -> None:
        gestures = [edited.gesture for edited in self.content.notes.values()]
        self.assertEqual({g.edition for g in gestures if g.is_as_sung}, {2})
        self.assertEqual({g.glide_ms for g in gestures if g.is_as_sung}, {None})
        self.assertEqual({g.edition for g in gestures if g.bends_pitch}, {1})

    def test_a_value_that_is_set_anew_means_what_it_means_now(self) -> None:
        name, old = next((i, e) for i, e in self.content.notes.items() if e.gesture.drift < 1.0)
        set_drift = {"type": "set", "note_ids": [name], "values": {"drift": 0.1}}
        now = apply_change(self.content.notes, apply_operation(self.content.notes, self.keys, set_drift))[name].gesture
        self.assertEqual((now.edition, now.drift, now.vibrato, now.pull),
                         (2, 0.1, old.gesture.vibrato, old.gesture.pull))  # fmt: skip
        pulled = {"type": "set", "note_ids": [name], "values": {"pull": 0.5}}
        kept = apply_change(self.content.notes, apply_operation(self.content.notes, self.keys, pulled))[name].gesture
        self.assertEqual(kept.edition, 1)


if __name__ == "__main__":
    unittest.main()
