"""What is written at once is there as a whole or not at all, also when the power goes."""

import unittest

from glass_thread.bench.hostile.attack import begin_with_two_takes
from glass_thread.bench.hostile.power import attack_with_power_cuts
from glass_thread.core.signal.errors import NotFoundError
from glass_thread.services.folder.workspace import open_workspace
from tests.services.case import TakeCase


class AtOnceTest(TakeCase):
    def test_a_thread_sees_what_it_wrote_and_others_do_not_until_all_is_there(self) -> None:
        other = open_workspace(self.folder / "data")
        self.addCleanup(other.close)
        with self.work.database.at_once():
            self.work.songs.change(self.song.id, {"done": ["x"]})
            with self.work.database.at_once():
                self.work.tracks.change(self.track.id, {"muted": True})
            self.assertEqual(self.work.songs.get(self.song.id).done, ["x"])
            self.assertFalse(other.tracks.get(self.track.id).muted)
        self.assertEqual(other.songs.get(self.song.id).done, ["x"])
        self.assertTrue(other.tracks.get(self.track.id).muted)

    def test_what_fails_leaves_nothing_of_it(self) -> None:
        with self.assertRaises(NotFoundError), self.work.database.at_once():
            self.work.songs.change(self.song.id, {"done": ["x"]})
            self.work.tracks.change("none", {"muted": True})
        self.assertEqual(self.work.songs.get(self.song.id).done, [])
        self.work.songs.change(self.song.id, {"done": ["y"]})  # and what comes after stands by itself
        self.assertEqual(self.work.songs.get(self.song.id).done, ["y"])


class PowerCutTest(unittest.TestCase):
    def test_a_folder_holds_what_was_acknowledged_and_nothing_by_halves(self) -> None:
        (found,) = attack_with_power_cuts(begin_with_two_takes, cuts=60)
        self.assertEqual((found["neither"], found["damaged"]), (0, 0))
        self.assertGreater(min(found["as before"], found["as after"]), 5)


if __name__ == "__main__":
    unittest.main()
