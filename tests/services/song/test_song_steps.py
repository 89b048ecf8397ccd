"""The history of a song: what is in it, taken back and done again, and what is removed."""

from __future__ import annotations

import soundfile as sf

from glass_thread.core.signal.errors import ConflictError, NotFoundError, ParameterError
from glass_thread.services.history.edit import edit, undo
from glass_thread.services.linked.catching_up import catch_up
from glass_thread.services.linked.deriving import derive
from glass_thread.services.prints.handoff import link
from glass_thread.services.song.removed import (
    remove_song,
    remove_track,
    removed,
    restore_song,
    restore_track,
    sweep_removed,
)
from glass_thread.services.song.song_steps import redo_song, song_steps, undo_song
from glass_thread.services.song.songs import change_song, change_track, order_tracks
from glass_thread.services.song.stack import edit_stack
from glass_thread.store.records import Song, Track
from tests.services.case import TakeCase
from tests.signals import RATE, sung_short


class SongStepsTest(TakeCase):
    def setUp(self) -> None:
        super().setUp()
        sf.write(str(self.folder / "d.wav"), 0.7 * sung_short(6)[1].audio, RATE)
        self.double = self.bring_in(self.folder / "d.wav", role="double")

    def state(self) -> tuple[Song, list[Track], list[str]]:
        tracks = self.work.tracks.of_song(self.song.id)
        return self.work.songs.get(self.song.id), tracks, [str(self.desk.at(one.id).step_id) for one in tracks]

    def labels(self, state: str = "done") -> list[str]:
        return [step.label for step in song_steps(self.desk, self.song.id) if step.state == state]

    def test_everything_of_a_song_is_taken_back_and_done_again_in_its_order(self) -> None:
        lead, double, song = self.track.id, self.double.id, self.song.id
        begun = len(self.labels())
        stood = [self.state()]
        for change in (
            lambda: change_song(self.work, song, {"tonic": 6, "scale": "dorian"}),
            lambda: change_song(self.work, song, {"temperament": {"name": "just"}, "reference_hz": 442.0}),
            lambda: change_song(self.work, song, {"tempo": 90, "beats_per_bar": 3}),
            lambda: change_song(self.work, song, {"markers": [{"bar": 2, "beat": 1.0, "text": "Verse"}]}),
            lambda: change_song(self.work, song, {"title": "Other"}),
            lambda: change_track(self.work, lead, {"words": {"0": "ah"}}),
            lambda: change_track(self.work, lead, {"singer": "Mia", "level_db": -3.0}),
            lambda: change_track(self.work, double, {"role": "harmony"}),
            lambda: change_track(self.work, double, {"offset_s": 1.25}),
            lambda: change_track(self.work, double, {"name": "Low"}),
            lambda: order_tracks(self.work, song, [double, lead]),
            lambda: link(self.desk, song, "Studio", make=True),
            lambda: edit_stack(self.desk, song, {"type": "tune"}, [lead, double]),
            lambda: derive(self.desk, lead, {"type": "double"}, voices=2),
            lambda: remove_track(self.work, double),
        ):
            change()
            stood.append(self.state())
            self.assertEqual(len(self.labels()), begun + len(stood) - 1)
        level = self.work.tracks.get(lead).level_db
        for expected in reversed(stood[:-1]):
            undo_song(self.desk, song)
            self.assertEqual(self.with_level(self.state(), level), self.with_level(expected, level))
        for expected in stood[1:]:
            redo_song(self.desk, song)
            self.assertEqual(self.with_level(self.state(), level), self.with_level(expected, level))
        with self.assertRaisesRegex(ParameterError, "nothing to redo"):
            redo_song(self.desk, song)
        self.assertEqual(self.work.tracks.get(lead).level_db, -3.0)  # the mixer is no history

    def with_level(self, state: tuple[Song, list[Track], list[str]], level_db: float) -> object:
        """A state whatever the mixer's settings were."""
        song, tracks, heads = state
        shown = [vars(track) | {"level_db": level_db, "progress": None} for track in tracks]
        return song, sorted(shown, key=lambda one: (one["position"], one["id"])), sorted(heads)

    def test_taking_back_to_the_first_step_brings_nothing_in(self) -> None:
        while self.labels():
            undo_song(self.desk, self.song.id)
        self.assertEqual(self.work.tracks.of_song(self.song.id), [])
        with self.assertRaisesRegex(ParameterError, "nothing to undo"):
            undo_song(self.desk, self.song.id)
        redo_song(self.desk, self.song.id)
        self.assertEqual(len(self.work.tracks.of_song(self.song.id)), 1)

    def test_what_is_done_after_an_undo_leaves_the_rest_behind(self) -> None:
        change_song(self.work, self.song.id, {"tempo": 90})
        undo_song(self.desk, self.song.id)
        change_song(self.work, self.song.id, {"title": "New"})
        self.assertEqual(self.labels("left"), ["Tempo · 90, 4/4"])
        with self.assertRaisesRegex(ParameterError, "nothing to redo"):
            redo_song(self.desk, self.song.id)

    def test_the_same_again_is_no_step(self) -> None:
        song = change_song(self.work, self.song.id, {"tonic": 2, "scale": "major"})
        before = self.labels()
        change_song(self.work, self.song.id, {"title": song.title, "tonic": song.tonic, "scale": song.scale})
        change_track(self.work, self.track.id, {"name": self.track.name, "muted": True})
        self.assertEqual(self.labels(), before)

    def test_a_track_that_went_on_holds_the_song_until_it_is_undone(self) -> None:
        edit_stack(self.desk, self.song.id, {"type": "tune"}, [self.track.id, self.double.id])
        (note, *_) = self.now().content.notes
        self.do(type="nudge", note_ids=[note], values={"level_db": 1.0})
        head = self.head()
        with self.assertRaisesRegex(ParameterError, "edited since"):
            undo_song(self.desk, self.song.id)
        undo(self.desk, self.track.id, base=head)
        undo_song(self.desk, self.song.id)
        self.assertNotIn("Tune · 2 tracks", self.labels())

    def test_undo_in_a_track_takes_the_songs_step_along(self) -> None:
        edit_stack(self.desk, self.song.id, {"type": "tune"}, [self.track.id, self.double.id])
        change_song(self.work, self.song.id, {"tempo": 90})
        undo(self.desk, self.double.id, base=str(self.desk.at(self.double.id).step_id))
        self.assertEqual(self.labels("undone"), ["Tune · 2 tracks"])
        undo_song(self.desk, self.song.id)
        self.assertEqual(self.labels("undone"), ["Tempo · 90, 4/4", "Tune · 2 tracks"])
        redo_song(self.desk, self.song.id)
        redo_song(self.desk, self.song.id)
        self.assertEqual(self.labels("undone"), [])

    def test_catching_up_is_a_step_of_the_song(self) -> None:
        (third,) = derive(self.desk, self.track.id, {"type": "harmony", "steps": 2})
        (note, *_) = self.now().content.notes
        self.do(type="move", note_ids=[note], cents=200.0)
        before = self.state()
        catch_up(self.desk, third.id, base=str(self.desk.at(third.id).step_id))
        self.assertEqual(self.labels()[0], f"“{third.name}” caught up")
        undo_song(self.desk, self.song.id)
        self.assertEqual(self.state()[2], before[2])

    def test_order_comes_from_numbers_whatever_the_clock_says(self) -> None:
        change_song(self.work, self.song.id, {"tempo": 90})
        with self.clock_back(), self.subTest("the clock was set back an hour"):
            change_song(self.work, self.song.id, {"title": "Later"})
            undo_song(self.desk, self.song.id)
        song = self.work.songs.get(self.song.id)
        self.assertEqual((song.title, song.tempo), (self.song.title, 90.0))

    def clock_back(self):  # type: ignore[no-untyped-def]
        from time import time
        from unittest import mock

        return mock.patch("time.time", return_value=time() - 3600.0)

    def test_logged_values_change_through_the_log_alone(self) -> None:
        with self.assertRaisesRegex(ValueError, "tempo"):
            self.work.songs.change(self.song.id, {"tempo": 90.0})
        with self.assertRaisesRegex(ValueError, "name"):
            self.work.tracks.change(self.track.id, {"name": "x"})


class RemovedTest(TakeCase):
    def test_a_removed_track_comes_back_with_its_edits(self) -> None:
        self.do(type="tune", note_ids=list(self.now().content.notes))
        content = self.now().content
        remove_track(self.work, self.track.id)
        with self.assertRaises(NotFoundError):
            edit(self.desk, self.track.id, {"type": "clear_gaps"}, base=self.work.history.root_of(self.track.id))
        self.assertEqual([one.name for one in removed(self.work)], [self.track.name])
        restore_track(self.work, self.track.id)
        self.assertEqual((self.now().content, removed(self.work)), (content, []))

    def test_a_recording_may_be_brought_in_again_while_its_track_is_removed(self) -> None:
        remove_track(self.work, self.track.id)
        again = self.bring_in(self.folder / "take.wav")
        with self.assertRaisesRegex(ConflictError, "brought in anew"):
            restore_track(self.work, self.track.id)
        remove_track(self.work, again.id)
        restore_track(self.work, self.track.id)
        self.assertEqual([one.id for one in self.work.tracks.of_song(self.song.id)], [self.track.id])

    def test_swept_is_gone_from_the_steps_too(self) -> None:
        change_track(self.work, self.track.id, {"name": "Gone"})
        change_song(self.work, self.song.id, {"tempo": 90})
        remove_track(self.work, self.track.id)
        sweep_removed(self.work)
        self.assertEqual(song_steps(self.desk, self.song.id)[0].label, "Tempo · 90, 4/4")
        self.assertFalse([one for one in song_steps(self.desk, self.song.id) if "Gone" in one.label])
        undo_song(self.desk, self.song.id)

    def test_a_removed_song_comes_back(self) -> None:
        remove_song(self.work, self.song.id)
        self.assertEqual((self.work.songs.all(), [one.kind for one in removed(self.work)]), ([], ["song"]))
        restore_song(self.work, self.song.id)
        self.assertEqual(len(self.work.songs.all()), 1)
        with self.assertRaises(NotFoundError):
            restore_song(self.work, self.song.id)
