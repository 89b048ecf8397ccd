from glass_thread.core.signal.errors import ParameterError
from glass_thread.services.session.meters import keys_of, meters_of
from glass_thread.services.song.key_change import preview_keys
from glass_thread.services.song.song_steps import redo_song, undo_song
from glass_thread.services.song.songs import change_song
from tests.services.case import SongCase, TakeCase


class SongSettingsTest(SongCase):
    def test_all_or_nothing(self) -> None:
        bad = [
            {"title": " "},
            {"tempo": 0},
            {"tempo": float("nan")},
            {"reference_hz": 900},
            {"scale": "blue"},
            {"beat_unit": 3},
            {"beats_per_bar": 99},
            {"bar_one_s": 1e9},
        ]
        for values in bad:
            with self.subTest(values=values), self.assertRaises(ParameterError):
                change_song(self.work, self.song.id, {"title": "New", **values})
        self.assertEqual(self.work.songs.get(self.song.id), self.song)


class TempoChangesTest(SongCase):
    def change(self, **values: object) -> dict:
        return {"bar": 5, "beat": 1, "tempo": 90.0, "beats_per_bar": 3, "beat_unit": 4, **values}

    def test_they_are_kept_and_bars_follow_from_them(self) -> None:
        wanted = [self.change(), self.change(bar=7, beat=2, tempo=60.0)]
        song = change_song(self.work, self.song.id, {"tempo": 120.0, "bar_one_s": 1.0, "tempo_changes": wanted})
        self.assertEqual((song.tempo_changes, song.tempo_chosen), (wanted, True))
        first, second, third = meters_of(self.work.songs.get(self.song.id))
        self.assertEqual((first.start_s, second.start_s), (1.0, 1.0 + 4 * 4 * 0.5))
        self.assertAlmostEqual(third.start_s, second.start_s + (2 * 3 + 1) * 60 / 90)

    def test_what_cannot_follow_is_refused_whole(self) -> None:
        bad = [
            [self.change(bar=1)], [self.change(bar=0)], [self.change(), self.change()], [self.change(tempo=1.0)],
            [self.change(tempo=float("nan"))], [self.change(beats_per_bar=0)], [self.change(beat_unit=3)],
            [self.change(beat=3)], [self.change(), self.change(bar=6, beat=9)], [self.change(bar=10**400)],
            [self.change(bar=2 + i) for i in range(2001)],
        ]  # fmt: skip
        for changes in bad:
            with self.subTest(changes=str(changes)[:80]), self.assertRaises(ParameterError):
                change_song(self.work, self.song.id, {"title": "New", "tempo_changes": changes})
        self.assertEqual(self.work.songs.get(self.song.id), self.song)


class KeyTest(TakeCase):
    def setUp(self) -> None:
        super().setUp()
        self.song = change_song(self.work, self.song.id, {"tonic": 0, "scale": "major"})

    def test_another_key_moves_nothing_that_is_tuned_and_says_what_it_means(self) -> None:
        ways = (
            {"type": "tune", "note_ids": ["n0001"]},
            {"type": "set", "note_ids": ["n0002"], "values": {"pull": 0.5}},
            {"type": "nudge", "note_ids": ["n0003"], "values": {"pull": 0.5}},
            {"type": "copy_gestures", "from_ids": ["n0003"], "to_ids": ["n0004"], "targets": False},
        )
        for way in ways:
            self.do(**way)
        self.assertTrue(all(e.gesture.target_midi is not None for e in self.now().content.notes.values()))
        before = self.desk.plan(self.now())
        meant, places = preview_keys(self.desk, self.song.id, {"tonic": 1, "scale": "major"})
        self.assertEqual((meant.tuned, meant.untuned_moved), (4, 0))
        self.assertGreater(meant.tuned_elsewhere, 1)
        self.assertEqual(places[0].tuning.flats, True)
        stays = [one for one in meant.elsewhere if one.tuned]
        self.assertEqual(len(stays), meant.tuned_elsewhere)
        self.assertLessEqual({one.note_id for one in stays}, {"n0001", "n0002", "n0003", "n0004"})
        change_song(self.work, self.song.id, {"tonic": 1, "scale": "major"})
        after = self.desk.plan(self.now())
        self.assertEqual(before.correction.tolist(), after.correction.tolist())

    def test_a_change_of_key_is_taken_back_and_made_again(self) -> None:
        change_song(self.work, self.song.id, {"tonic": 6, "scale": "dorian", "reference_hz": 442.0})
        undo_song(self.desk, self.song.id)
        back = self.work.songs.get(self.song.id)
        self.assertEqual((back.tonic, back.scale, back.reference_hz), (0, "major", 440.0))
        self.assertEqual(keys_of(back)[0].tuning.classes, (0, 2, 4, 5, 7, 9, 11))
        redo_song(self.desk, self.song.id)
        again = self.work.songs.get(self.song.id)
        self.assertEqual((again.tonic, again.scale, again.reference_hz), (6, "dorian", 442.0))
