"""How far tracks are, their order, and the tempo a song is offered."""

from unittest.mock import patch

import numpy as np
import soundfile as sf

from glass_thread.core.signal.errors import ParameterError
from glass_thread.core.song.chroma import harmony
from glass_thread.demo.backing import play
from glass_thread.services.session.desk import Desk
from glass_thread.services.song.estimates.tempo_offer import offer_tempo
from glass_thread.services.song.progress import progress_of
from glass_thread.services.song.songs import change_song, order_tracks
from tests.services.case import TakeCase


class ProgressTest(TakeCase):
    def test_flags_done_marks_and_the_last_step_are_told_and_kept(self) -> None:
        first = progress_of(self.desk, self.track.id)
        self.assertEqual((first.changed, first.done_s, first.worked_at), (0, 0.0, None))
        self.assertGreater(first.flags, 0)
        phrases = self.now().analysis.phrases
        self.assertAlmostEqual(first.sung_s, sum(p.end_s - p.start_s for p in phrases), delta=0.01)
        kept = self.work.tracks.get(self.track.id).progress
        self.assertEqual(progress_of(self.desk, self.track.id), first)
        self.assertEqual(self.work.tracks.get(self.track.id).progress, kept)
        self.do(type="tune", note_ids=list(self.now().content.notes))
        marks = [f"{self.track.id}:{phrases[0].index}", f"{self.track.id}:x", "other:0"]
        change_song(self.work, self.song.id, {"done": marks})
        after = progress_of(self.desk, self.track.id)
        self.assertEqual(after.changed, len(self.now().content.notes))
        self.assertLess(after.flags, first.flags)
        self.assertAlmostEqual(after.done_s, phrases[0].end_s - phrases[0].start_s, delta=0.01)
        self.assertGreater(after.worked_at, 1.7e9)

    def test_a_flag_that_is_meant_stays_off_until_it_is_wanted_again(self) -> None:
        verdicts = self.desk.verdicts(self.now()).notes
        note_id, flag = next((i, v.flags[0]) for i, v in verdicts.items() if v.flags)
        self.do(type="mean_so", note_ids=[note_id], kinds=[flag.kind])
        kinds = {f.kind for f in self.desk.verdicts(self.now()).notes[note_id].flags}
        self.assertNotIn(flag.kind, kinds)
        self.do(type="set", note_ids=[note_id], values={"drift": 0.5})
        self.assertEqual(self.now().content.notes[note_id].meant, (flag.kind,))
        self.assertFalse(progress_of(self.desk, self.track.id).flags > len(verdicts))
        self.do(type="mean_so", note_ids=[note_id], meant=False)
        again = self.desk.verdicts(self.now()).notes[note_id].flags
        self.assertIn(flag.kind, {f.kind for f in again})
        for bad in ([], ["loud", "odd"], "loud"):
            with self.assertRaisesRegex(ParameterError, "kinds"):
                self.do(type="mean_so", note_ids=[note_id], kinds=bad)

    def test_tracks_are_put_in_order(self) -> None:
        sf.write(str(self.folder / "b.wav"), np.random.default_rng(1).normal(0, 0.1, 20_000), 44_100)
        other = self.bring_in(self.folder / "b.wav", role="backing")
        ordered = order_tracks(self.work, self.song.id, [other.id, self.track.id])
        self.assertEqual([track.id for track in ordered], [other.id, self.track.id])
        for bad in ([other.id], [other.id, other.id], [other.id, self.track.id, "x"]):
            with self.assertRaisesRegex(ParameterError, "once"):
                order_tracks(self.work, self.song.id, bad)


class TempoOfferTest(TakeCase):
    def test_the_backing_is_heard_before_the_voice_and_on_the_songs_clock(self) -> None:
        alone = offer_tempo(self.desk, self.song.id)
        self.assertIn(alone.heard_in, (None, self.track.name))
        sf.write(str(self.folder / "band.flac"), play(44_100).T[: 44_100 * 30], 44_100)
        self.bring_in(self.folder / "band.flac", role="backing", offset_s=1.5)
        found = offer_tempo(self.desk, self.song.id)
        self.assertEqual(found.heard_in, "band")
        self.assertAlmostEqual(found.tempos[0].bpm, 84.0, delta=0.42)
        bar_s = 4 * 60 / 84
        off = (found.tempos[0].bar_one_s - 1.5 + bar_s / 2) % bar_s - bar_s / 2
        self.assertLess(abs(off), 0.04)
        first = self.now().content.notes["n0001"].note.start_s + self.track.offset_s
        for tempo in (*found.tempos, *alone.tempos):  # nobody sings before bar 1
            self.assertLessEqual(tempo.bar_one_s, first)
            self.assertGreater(tempo.bar_one_s + tempo.beats_per_bar * 60 / tempo.bpm, 0.0)
        self.assertFalse(self.work.songs.get(self.song.id).tempo_chosen)
        self.assertTrue(change_song(self.work, self.song.id, {"tempo": 84}).tempo_chosen)

    def test_a_backing_is_listened_to_only_for_flags_and_once(self) -> None:
        sf.write(str(self.folder / "band.flac"), play(44_100).T[: 44_100 * 4], 44_100)
        self.bring_in(self.folder / "band.flac", role="backing")
        with patch("glass_thread.services.sound.heard.harmony", wraps=harmony) as listened:
            self.desk.plan(self.now())  # all that sound and prints want
            self.assertEqual(listened.call_count, 0)
            progress_of(self.desk, self.track.id)
            self.do(type="tune", note_ids=list(self.now().content.notes))
            self.assertEqual(listened.call_count, 1)
        with patch("glass_thread.services.sound.heard.harmony") as listened:
            progress_of(self.desk, self.track.id)
            again = Desk(self.work)  # as after a restart: what is known of the track is kept
            self.assertEqual(progress_of(again, self.track.id), progress_of(self.desk, self.track.id))
            self.assertEqual(listened.call_count, 0)

    def test_the_songs_beat_and_backing_are_what_a_note_is_heard_against(self) -> None:
        self.assertFalse(self.desk.heard.surroundings(self.now().setting).has_backing)
        sf.write(str(self.folder / "band.flac"), play(44_100).T[: 44_100 * 8], 44_100)
        self.bring_in(self.folder / "band.flac", role="backing")
        change_song(self.work, self.song.id, {"tempo": 90, "beats_per_bar": 3, "beat_unit": 8, "bar_one_s": 0.25})
        setting = self.now().setting
        self.assertEqual(setting, self.now().setting)
        self.assertNotEqual(setting, setting._replace(begins_s=1.0))
        around = self.desk.heard.surroundings(setting)
        self.assertEqual(around.bar_s, (0.25, 1.0))
        self.assertAlmostEqual(len(around.harmony) * around.hop_s, 8.0, delta=0.5)
        chord = around.harmony[2:10].mean(axis=0)  # D minor
        self.assertEqual(set(np.argsort(chord)[-3:].tolist()), {2, 5, 9})
