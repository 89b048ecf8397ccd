"""Followers and derived tracks that catch up: what was asked before is asked again, in one press or by itself."""

from __future__ import annotations

import soundfile as sf

from glass_thread.core.document.gestures import AS_SUNG
from glass_thread.core.document.operations.on_follow import Follow
from glass_thread.core.signal.errors import ParameterError
from glass_thread.services.history.edit import Done, edit, undo
from glass_thread.services.linked.catching_up import CaughtUp, catch_up, catch_up_followers
from glass_thread.services.linked.deriving import derive
from glass_thread.services.song.song_steps import redo_song, undo_song
from glass_thread.services.voices.following import alignment_shown, links_shown
from glass_thread.store.records import Track
from tests.services.case import TakeCase
from tests.signals import RATE, sung_short

THIRD = {"type": "harmony", "steps": 2, "human": 0.0}


class CatchingUpTest(TakeCase):
    def setUp(self) -> None:
        super().setUp()
        sf.write(str(self.folder / "double.wav"), 0.7 * sung_short(6)[1].audio, RATE)
        self.double = self.bring_in(self.folder / "double.wav", role="double")

    def on(self, track: Track, **operation: object) -> Done:
        return edit(self.desk, track.id, operation, base=str(self.desk.at(track.id).step_id))

    def behind(self, track: Track) -> bool:
        (link,) = links_shown(self.desk, self.desk.at(track.id))
        return link.behind

    def target(self, track: Track, note_id: str = "n0001") -> float | None:
        return self.desk.at(track.id).content.notes[note_id].gesture.target_midi

    def test_what_was_asked_before_is_asked_again_of_the_same_notes(self) -> None:
        names = list(self.desk.at(self.double.id).content.notes)
        anchors = [[0.5, 0.52]]
        self.on(self.double, type="follow", lead_track=self.track.id, note_ids=names[:2], pitch=1.0, timing=0.0,
                anchors=anchors)  # fmt: skip
        (link,) = self.desk.at(self.double.id).content.links.values()
        self.assertEqual((set(link.base), link.anchors), (set(names[:2]), ((0.5, 0.52),)))
        self.do(type="set", note_ids=["n0001"], values={"target_midi": 65.0, "pull": 1.0})
        self.assertTrue(self.behind(self.double))
        catch_up(self.desk, self.double.id, base=str(self.desk.at(self.double.id).step_id))
        self.assertFalse(self.behind(self.double))
        (link,) = self.desk.at(self.double.id).content.links.values()
        self.assertEqual((set(link.base), link.anchors), (set(names[:2]), ((0.5, 0.52),)))
        self.assertAlmostEqual(self.target(self.double) or 0.0, 65.0, places=6)
        with self.assertRaisesRegex(ParameterError, "follows no other"):
            catch_up(self.desk, self.track.id, base=self.head())

    def test_what_a_hand_set_before_it_followed_stays_a_hands(self) -> None:
        self.on(self.double, type="set", note_ids=["n0001"], values={"level_db": -3.0})
        asked = {"type": "follow", "lead_track": self.track.id, "timing": 0.0, "pitch": 1.0, "level": 1.0}
        self.on(self.double, **asked)
        for level_db in (2.0, 5.0):
            self.do(type="set", note_ids=["n0001", "n0002"], values={"level_db": level_db})
            catch_up(self.desk, self.double.id, base=str(self.desk.at(self.double.id).step_id))
            notes = self.desk.at(self.double.id).content.notes
            self.assertEqual(notes["n0001"].gesture.level_db, -3.0)
            self.assertNotEqual(notes["n0002"].gesture.level_db, 0.0)

    def test_making_and_leaving_a_link_are_steps_of_the_song(self) -> None:
        name, lead = self.double.name, self.track.name
        self.on(self.double, type="follow", lead_track=self.track.id, timing=0.0, pitch=1.0)
        self.do(type="set", note_ids=["n0001"], values={"target_midi": 65.0, "pull": 1.0})
        self.on(self.double, type="catch_up")
        self.on(self.double, type="set_link")
        self.on(self.double, type="unlink")
        told = [f"“{name}” follows “{lead}”", f"“{name}” caught up", f"“{name}” catches up by itself",
                f"“{name}” follows “{lead}” no longer"]  # fmt: skip
        self.assertEqual([step.label for step in self.work.log.all(self.song.id)][-4:], told)
        for label in reversed(told):
            self.assertEqual(undo_song(self.desk, self.song.id).step.label, label)
        self.assertEqual(self.desk.at(self.double.id).content.links, {})
        self.assertFalse(any(one.gesture != AS_SUNG for one in self.desk.at(self.double.id).content.notes.values()))
        redo_song(self.desk, self.song.id)
        self.assertEqual(len(self.desk.at(self.double.id).content.links), 1)

    def test_it_catches_up_by_itself_when_set_so(self) -> None:
        (third,) = derive(self.desk, self.track.id, THIRD)
        self.on(self.double, type="follow", lead_track=third.id, pitch=1.0, timing=0.0, interval="semitones")
        self.do(type="set", note_ids=["n0001"], values={"target_midi": 65.0, "pull": 1.0})
        self.assertEqual(catch_up_followers(self.desk, self.track.id), [])
        for track in (third, self.double):
            self.on(track, type="set_link")
        before = self.target(third)
        caught = catch_up_followers(self.desk, self.track.id)
        self.assertEqual(caught, [CaughtUp(third.id, third.name), CaughtUp(self.double.id, self.double.name)])
        self.assertFalse(self.behind(third) or self.behind(self.double))
        self.assertNotEqual(self.target(third), before)
        self.assertTrue(all(link.by_itself for track in (third, self.double)
                            for link in self.desk.at(track.id).content.links.values()))  # fmt: skip
        self.assertEqual(catch_up_followers(self.desk, self.track.id), [])

    def test_what_follows_two_catches_up_after_both(self) -> None:
        """The double follows the lead in time and a third in pitch, and comes before that third in the song."""
        (third,) = derive(self.desk, self.track.id, THIRD)
        self.on(self.double, type="follow", lead_track=self.track.id, timing=1.0, pitch=0.0)
        self.on(self.double, type="follow", lead_track=third.id, timing=0.0, pitch=1.0, interval="semitones")
        for track in (third, self.double):
            self.on(track, type="set_link")
        self.assertEqual(len(self.desk.at(self.double.id).content.links), 2)
        self.do(type="set", note_ids=["n0001"], values={"target_midi": 65.0, "pull": 1.0})
        caught = catch_up_followers(self.desk, self.track.id)
        self.assertEqual([one.track_id for one in caught], [third.id, self.double.id])
        links = links_shown(self.desk, self.desk.at(self.double.id))
        self.assertEqual([link.behind for link in links], [False, False])
        self.assertEqual(catch_up_followers(self.desk, self.track.id), [])

    def test_a_round_ends_and_what_cannot_follow_says_why(self) -> None:
        self.on(self.double, type="follow", lead_track=self.track.id)
        self.on(self.track, type="follow", lead_track=self.double.id)
        for track in (self.track, self.double):
            self.on(track, type="set_link")
        self.assertEqual([one.track_id for one in catch_up_followers(self.desk, self.track.id)], [self.double.id])
        self.on(self.double, type="unlink")
        (third,) = derive(self.desk, self.track.id, THIRD)
        self.on(third, type="set_link")
        self.on(self.track, type="make_air", note_ids=list(self.now().content.notes))
        (one,) = catch_up_followers(self.desk, self.track.id)
        self.assertEqual(one.track_id, third.id)
        self.assertTrue(one.trouble.endswith("."))
        self.assertTrue(self.behind(third))

    def test_being_set_so_is_a_step_that_can_be_undone(self) -> None:
        (third,) = derive(self.desk, self.track.id, THIRD)
        done = self.on(third, type="set_link")
        assert done.step is not None
        self.assertEqual(done.step.label, "Catch up by itself · 1 link")
        undo(self.desk, third.id, base=done.version.head_id)
        self.assertFalse(links_shown(self.desk, self.desk.at(third.id))[0].by_itself)
        self.assertIsNone(self.on(third, type="set_link", by_itself=False).step)

    def test_a_round_is_told_before_it_is_made(self) -> None:
        def told(follower: Track, lead: Track) -> bool:
            asked = Follow(lead_track=lead.id)
            return alignment_shown(self.desk, self.desk.at(follower.id), asked).in_a_round

        self.assertFalse(told(self.track, self.double))
        (third,) = derive(self.desk, self.track.id, THIRD)
        self.on(self.double, type="follow", lead_track=third.id, pitch=1.0, timing=0.0)
        self.assertTrue(told(self.track, self.double))  # which follows what is made of it
        self.assertTrue(told(third, self.double))
        self.assertFalse(told(self.double, self.track))
