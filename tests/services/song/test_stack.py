"""Edits of several tracks at once, taken back at once; what the stack has of each track; a track in small."""

from __future__ import annotations

import numpy as np
import soundfile as sf

from glass_thread.core.signal.errors import NotFoundError, ParameterError, StaleEditError
from glass_thread.services.history.comps import make_comp
from glass_thread.services.history.edit import edit, jump, redo, undo
from glass_thread.services.history.versions import as_heard, list_versions, make_version, remove_version
from glass_thread.services.prints.mixing import mix_data, request_mix
from glass_thread.services.song.in_small import OUTLINE_S, in_small
from glass_thread.services.song.songs import change_track
from glass_thread.services.song.stack import StackChange, edit_stack
from glass_thread.store.records import Track
from tests.services.case import TakeCase
from tests.signals import RATE, sung_short

BREATHS = {"type": "set_breaths", "values": {"muted": True}}


class StackCase(TakeCase):
    def setUp(self) -> None:
        super().setUp()
        sf.write(str(self.folder / "d.wav"), 0.7 * sung_short(6)[1].audio, RATE)
        self.double = self.bring_in(self.folder / "d.wav", role="double")

    def head_of(self, track: Track) -> str:
        return str(self.desk.at(track.id).step_id)

    def tune_both(self) -> list[StackChange]:
        both = [self.track.id, self.double.id]
        return edit_stack(self.desk, self.song.id, {"type": "tune"}, both)


class SeveralTracksTest(StackCase):
    def test_doubles_lose_their_breaths_and_the_lead_keeps_its_own(self) -> None:
        head = self.head()
        found = edit_stack(self.desk, self.song.id, BREATHS, [self.double.id])
        self.assertEqual(found, [StackChange(self.double.id, self.double.name, 1)])
        air = self.desk.at(self.double.id).content.air.values()
        self.assertEqual([e.muted for e in air if e.event.kind == "breath"], [True])
        self.assertFalse(any(e.muted for e in self.now().content.air.values()))
        self.assertEqual(self.head(), head)

    def test_one_step_is_taken_back_and_made_again_on_all(self) -> None:
        begun = {track.id: self.head_of(track) for track in (self.track, self.double)}
        self.assertTrue(all(one.changed > 0 for one in self.tune_both()))
        tuned = {track.id: self.head_of(track) for track in (self.track, self.double)}
        for track in (self.track, self.double):
            self.assertIn("on 2 tracks", self.work.history.step(self.head_of(track)).label)
        back = undo(self.desk, self.double.id, base=tuned[self.double.id])
        self.assertEqual(back.others, (self.track.id,))
        self.assertEqual({track.id: self.head_of(track) for track in (self.track, self.double)}, begun)
        again = redo(self.desk, self.track.id, base=begun[self.track.id])
        self.assertEqual(again.others, (self.double.id,))
        self.assertEqual({track.id: self.head_of(track) for track in (self.track, self.double)}, tuned)

    def test_a_track_that_went_on_holds_the_others_back_until_it_is_undone(self) -> None:
        self.tune_both()
        shared = self.head_of(self.track)
        note = next(iter(self.desk.at(self.double.id).content.notes))
        nudge = {"type": "set", "note_ids": [note], "values": {"level_db": 2.0}}
        edit(self.desk, self.double.id, nudge, base=self.head_of(self.double))
        went_on = self.head_of(self.double)
        with self.assertRaisesRegex(ParameterError, f"“{self.double.name}” was edited since"):
            undo(self.desk, self.track.id, base=shared)
        self.assertEqual((self.head_of(self.track), self.head_of(self.double)), (shared, went_on))
        undo(self.desk, self.double.id, base=went_on)
        self.assertEqual(undo(self.desk, self.track.id, base=shared).others, (self.double.id,))

    def test_a_jump_moves_one_track_alone_and_redo_says_so(self) -> None:
        begun = self.head()
        self.tune_both()
        jump(self.desk, self.track.id, base=self.head(), to=begun)
        with self.assertRaisesRegex(ParameterError, "stands elsewhere"):
            redo(self.desk, self.track.id, base=begun)
        # The double's step is no longer shared with anything that stands there, so it goes back alone.
        self.assertEqual(undo(self.desk, self.double.id, base=self.head_of(self.double)).others, ())

    def test_all_or_none(self) -> None:
        heads = self.head(), self.head_of(self.double)
        shift = {"type": "slip", "by_ms": -60000.0}
        with self.assertRaisesRegex(ParameterError, "^take: There is no room"):
            edit_stack(self.desk, self.song.id, shift, [self.track.id, self.double.id])
        # A lead cannot follow itself: nothing happens to the double either, which could.
        with self.assertRaises(ParameterError):
            edit_stack(self.desk, self.song.id, {"type": "follow", "lead_track": self.track.id},
                       [self.double.id, self.track.id])  # fmt: skip
        for operation, words in (
            ({"type": "choose"}, "one track at a time"),
            ({"type": "nonsense"}, "one of"),
            ({}, ""),
        ):
            with self.assertRaisesRegex(ParameterError, words):
                edit_stack(self.desk, self.song.id, operation, [self.track.id])
        with self.assertRaises(ParameterError):
            edit_stack(self.desk, self.song.id, BREATHS, [])
        with self.assertRaises(ParameterError):
            edit_stack(self.desk, self.song.id, BREATHS, ["none"])
        with self.assertRaises(NotFoundError):
            edit_stack(self.desk, "none", BREATHS, [self.track.id])
        self.assertEqual((self.head(), self.head_of(self.double)), heads)

    def test_nothing_to_change_leaves_no_step(self) -> None:
        edit_stack(self.desk, self.song.id, BREATHS, [self.track.id, self.double.id])
        heads = self.head(), self.head_of(self.double)
        found = edit_stack(self.desk, self.song.id, BREATHS, [self.track.id, self.double.id])
        self.assertEqual([one.changed for one in found], [0, 0])
        self.assertEqual((self.head(), self.head_of(self.double)), heads)
        with self.assertRaises(StaleEditError):
            undo(self.desk, self.track.id, base="older")


class HeardTest(StackCase):
    def hear(self, version_id: str | None) -> None:
        """Choose what the stack has of the lead."""
        change_track(self.work, self.track.id, {"heard_version": version_id})

    def test_a_version_or_comp_is_chosen_for_the_stack_and_the_mix(self) -> None:
        self.assertEqual(as_heard(self.desk, self.track.id).step_id, self.head())
        version = make_version(self.desk, self.track.id, "Loose")
        self.hear(version.id)
        self.do(type="tune", note_ids=list(self.now().content.notes))
        self.assertEqual(as_heard(self.desk, self.track.id).step_id, version.head_id)
        self.assertNotEqual(as_heard(self.desk, self.track.id).step_id, self.head())
        comp = make_comp(self.desk, self.track.id, "Best", version_id=version.id)
        self.hear(comp.id)
        task = request_mix(self.desk, self.song.id, {})
        self.assertEqual(task.wanted["mix"][self.track.id], comp.head_id)
        parts, _length, _channels = mix_data(self.desk, task)
        self.assertTrue(parts[0]["parts"])
        self.hear(None)
        self.assertEqual(as_heard(self.desk, self.track.id).step_id, self.head())

    def test_a_removed_version_is_heard_no_more(self) -> None:
        version = make_version(self.desk, self.track.id, "Loose")
        self.hear(version.id)
        self.do(type="tune", note_ids=list(self.now().content.notes))
        remove_version(self.desk, self.track.id, version.id)
        self.assertEqual(as_heard(self.desk, self.track.id).step_id, self.head())
        with self.assertRaisesRegex(ParameterError, "removed"):
            self.hear(version.id)
        with self.assertRaises(ParameterError):
            change_track(self.work, self.double.id, {"heard_version": list_versions(self.desk, self.track.id)[0].id})


class InSmallTest(StackCase):
    def test_notes_and_outline_are_where_and_how_loud_they_sound(self) -> None:
        first = next(iter(self.now().content.notes.values()))
        before = in_small(self.desk, self.track.id, None)
        self.assertEqual(len(before.notes), len(self.now().content.notes))
        self.assertAlmostEqual(before.notes[0][0], first.span_s[0])
        self.do(type="set", note_ids=[first.note.id], values={"target_midi": 64.0, "pull": 1.0, "level_db": -6.0})
        after = in_small(self.desk, self.track.id, None)
        self.assertAlmostEqual(after.notes[0][2], 64.0, places=2)
        middle = round(sum(first.span_s) / 2 / OUTLINE_S)
        self.assertAlmostEqual(20 * np.log10(after.outline[middle] / before.outline[middle]), -6.0, delta=0.5)
        self.do(type="slip", note_ids=list(self.now().content.notes), by_ms=100.0)
        self.assertAlmostEqual(in_small(self.desk, self.track.id, None).notes[0][0] - after.notes[0][0], 0.1, places=3)

    def test_a_comp_shows_what_it_chose(self) -> None:
        self.do(type="tune", note_ids=list(self.now().content.notes))
        comp = make_comp(self.desk, self.track.id, "Best")
        of_comp = in_small(self.desk, self.track.id, comp.head_id)
        self.assertEqual(of_comp.notes, in_small(self.desk, self.track.id, self.head()).notes)

    def test_a_backing_has_an_outline_alone(self) -> None:
        sf.write(str(self.folder / "b.wav"), 0.5 * np.ones(RATE), RATE)
        backing = self.bring_in(self.folder / "b.wav", role="backing")
        small = in_small(self.desk, backing.id, None)
        self.assertEqual(small.notes, [])
        self.assertAlmostEqual(len(small.outline) * OUTLINE_S, 1.0, delta=OUTLINE_S + 1e-9)
        self.assertEqual(small.outline[5], 64)
