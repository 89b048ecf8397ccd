"""Time edits through the services: quantising, how far notes can go, prints, and what is refused."""

from dataclasses import replace

import numpy as np
import soundfile as sf

from glass_thread.core.document.operations.on_time import ShiftEdge, Slip
from glass_thread.core.document.time.stretches import track_place
from glass_thread.core.signal.errors import ParameterError
from glass_thread.services.history.edit import edit
from glass_thread.services.history.time_room import time_room
from glass_thread.services.prints.printing import print_summary
from glass_thread.services.report.loudness import track_loudness
from glass_thread.services.song.songs import change_song, change_track
from tests.services.case import TakeCase
from tests.signals import RATE, sung_short

BEAT_S = 0.5


class TimingCase(TakeCase):
    def starts(self) -> list[float]:
        """Where the notes start now, in track seconds."""
        now = self.now()
        stretches = self.desk.plan(now).stretches
        return [track_place(stretches, edited.note.start_s) for edited in now.content.notes.values()]

    def names(self) -> list[str]:
        return list(self.now().content.notes)


class QuantiseTest(TimingCase):
    def setUp(self) -> None:
        super().setUp()
        change_song(self.work, self.song.id, {"tempo": 60 / BEAT_S, "bar_one_s": 0.0})

    def test_vowels_start_on_the_grid_or_the_asked_share_of_the_way(self) -> None:
        before = np.array(self.starts())
        for strength in (1.0, 0.9, 0.5):
            self.do(type="quantise", note_ids=self.names(), grid="1/8", strength=strength)
            lines = np.round(before / (BEAT_S / 2)) * BEAT_S / 2
            np.testing.assert_allclose(self.starts(), before + strength * (lines - before), atol=1e-5)
            self.do(type="put_back", note_ids=self.names(), aspect="timing")
            np.testing.assert_allclose(self.starts(), before, atol=1e-9)

    def test_only_those_further_off_and_none_across_a_pin(self) -> None:
        before = self.starts()
        off = [abs(at / (BEAT_S / 2) - round(at / (BEAT_S / 2))) * BEAT_S / 2 for at in before]
        limit = 1000 * sorted(off)[1] + 0.5
        self.do(type="quantise", note_ids=self.names(), grid="1/8", beyond_ms=limit)
        moved = [abs(a - b) > 1e-9 for a, b in zip(self.starts(), before, strict=True)]
        self.assertEqual(moved, [1000 * x > limit for x in off])

    def test_a_pin_is_never_crossed(self) -> None:
        before = self.starts()
        target = round(before[3] / BEAT_S) * BEAT_S
        self.do(type="pin", at_s=(target + before[3]) / 2)
        self.do(type="quantise", note_ids=self.names()[3:], grid="beat")
        self.assertAlmostEqual(self.starts()[3], before[3], places=6)

    def test_onto_the_notes_of_another_track(self) -> None:
        sung = sung_short()[1]
        path = self.folder / "other.wav"
        sf.write(path, np.concatenate((sung.audio, np.zeros(100))), RATE, subtype="PCM_24")
        other = self.bring_in(path)
        change_track(self.work, other.id, {"offset_s": 0.03})
        self.do(type="quantise", note_ids=self.names(), onto=other.id)
        starts = [n.note.start_s + 0.03 for n in self.desk.at(other.id).content.notes.values()]
        np.testing.assert_allclose(self.starts(), starts, atol=1e-5)
        with self.assertRaisesRegex(ParameterError, "another track"):
            self.do(type="quantise", note_ids=self.names(), onto=self.track.id)

    def test_without_a_tempo_there_is_a_sentence(self) -> None:
        self.work.log.change(self.song.id, "No tempo", {"song.tempo_chosen": False})
        with self.assertRaisesRegex(ParameterError, "no tempo yet"):
            self.do(type="quantise", note_ids=self.names())


class RoomTest(TimingCase):
    def test_what_is_said_to_fit_fits_and_a_little_more_does_not(self) -> None:
        for edge in ("both", "start", "end"):
            for number in (1, 2, 3):
                ids = (self.names()[number],)
                asked = Slip(note_ids=ids, by_ms=0) if edge == "both" else ShiftEdge(note_ids=ids, by_ms=0, edge=edge)
                for by in time_room(self.desk, self.now(), asked):
                    data = {**asked.to_data(), "by_ms": by}
                    moved = edit(self.desk, self.track.id, data, base=self.head())
                    self.assertEqual(moved.moved.plans[1].giving.short, [])
                    if moved.step:
                        self.do(type="put_back", note_ids=self.names(), aspect="timing")
                    with self.assertRaisesRegex(ParameterError, "no room|too little vowel"):
                        self.do(**{**data, "by_ms": by + np.sign(by or -1) * 2.5})

    def test_a_refused_move_leaves_no_step(self) -> None:
        head = self.head()
        with self.assertRaises(ParameterError):
            self.do(type="slip", note_ids=self.names()[:1], by_ms=-3000.0)
        self.assertEqual(self.head(), head)


class EverythingFollowsTest(TimingCase):
    def test_the_print_says_what_is_in_place_moved_and_rendered(self) -> None:
        self.do(type="slip", note_ids=self.names()[3:], by_ms=60.0)
        summary, _info = print_summary(self.desk, self.now())
        self.assertGreater(summary.moved_share, 0.2)
        self.assertGreater(summary.untouched_share, 0.4)
        self.assertGreater(summary.untouched_share + summary.moved_share, 0.97)
        self.assertEqual(summary.notes_changed, 1)

    def test_loudness_is_measured_where_the_sound_is_now(self) -> None:
        note = list(self.now().content.notes.values())[3].note
        self.do(type="slip", note_ids=self.names()[3:], by_ms=250.0)
        sung, tuned = track_loudness(self.desk, self.now(), note.start_s, note.start_s + 0.24)
        self.assertLess(tuned.true_peak_dbtp, sung.true_peak_dbtp - 20.0)

    def test_level_edits_go_with_the_note(self) -> None:
        name = self.names()[3]
        self.do(type="set", note_ids=[name], values={"level_db": -12.0})
        still = self.heard()
        self.do(type="slip", note_ids=[name], by_ms=100.0)
        note = self.now().content.notes[name].note
        rate = self.track.sample_rate
        a, b, by = round(note.start_s * rate), round(note.end_s * rate), round(0.1 * rate)
        np.testing.assert_allclose(self.heard()[:, a + by : b + by], still[:, a:b], atol=1e-9)

    def heard(self) -> np.ndarray:
        source = self.desk.sound.source(self.track.audio_hash)
        return self.desk.sound.span(source, self.desk.plan(self.now()), 0, source.frames)

    def test_a_tune_pass_leaves_timing_alone_and_copying_carries_it_when_asked(self) -> None:
        first, second = self.names()[2:4]
        self.do(type="slip", note_ids=[second], by_ms=40.0)
        self.do(type="tune_pass", note_ids=self.names())
        gesture = self.now().content.notes[second].gesture
        self.assertEqual((gesture.start_shift_ms, gesture.pull), (40.0, 1.0))
        self.do(type="copy_gestures", from_ids=[second], to_ids=[first])
        self.assertFalse(self.now().content.notes[first].gesture.moves_time)
        self.do(type="copy_gestures", from_ids=[second], to_ids=[first], timing=True)
        self.assertEqual(self.now().content.notes[first].gesture.start_shift_ms, 40.0)

    def test_cutting_a_moved_note_leaves_it_where_it_is(self) -> None:
        name = self.names()[3]
        self.do(type="slip", note_ids=[name], by_ms=80.0)
        before = self.heard()
        note = self.now().content.notes[name].note
        self.do(type="split", note_id=name, at_s=(note.start_s + note.end_s) / 2, exact=True)
        np.testing.assert_array_equal(self.heard(), before)
        halves = self.names()[3:]
        self.do(type="join", note_ids=halves)
        self.assertEqual(self.now().content.notes[name].gesture.end_shift_ms, 80.0)

    def test_moved_there_and_back_is_as_sung_to_the_bit(self) -> None:
        before = self.heard()
        for by in (12.345, -7.1, -5.245):
            self.do(type="slip", note_ids=self.names()[1:2], by_ms=by)
        self.assertEqual(self.desk.plan(self.now()).stretches, ())
        np.testing.assert_array_equal(self.heard(), before)
        self.assertTrue(all(replace(e.gesture).is_as_sung for e in self.now().content.notes.values()))
