"""Songs in other tunings, and songs that change key: rounding, flags, passes, glazes, harmony, MIDI, prints follow."""

import io
import json

import mido
import numpy as np

from glass_thread.core.document.notes import current_targets
from glass_thread.core.signal.errors import AudioError, ParameterError
from glass_thread.core.signal.types import HOP_S
from glass_thread.formats.audio import read_audio
from glass_thread.services.linked.deriving import derive
from glass_thread.services.prints.interchange import melody, note_rows
from glass_thread.services.prints.printing import request_print
from glass_thread.services.report.tuning_sheet import tuning_sheet
from glass_thread.services.session.meters import keys_of
from glass_thread.services.song.key_change import preview_keys
from glass_thread.services.song.songs import change_song, change_track
from glass_thread.services.voices.melodies import melody_of_midi
from glass_thread.services.work.here import run_task
from tests.command import command
from tests.core.test_temperaments import DIATONIC, NINETEEN, WHITE_KEYS
from tests.services.case import TakeCase
from tests.signals import REAL_TAKE

# The take's notes were sung at 59.6, 64.0, 62.3 (drifting) and 65.2, the last in bar 2.
E_IN_BAR_TWO = {"bar": 2, "beat": 1.0, "tonic": 4, "scale": "major", "classes": []}


class TuningCase(TakeCase):
    def setUp(self) -> None:
        super().setUp()
        change_song(self.work, self.song.id, {"tonic": 0, "scale": "major", "tempo": 120})

    def retune(self, **values: object) -> None:
        change_song(self.work, self.song.id, values)

    def targets(self) -> list[float]:
        """Where the notes round to now, tuned ones where they are."""
        now = self.now()
        return [round(midi, 4) for midi in current_targets(now.content.notes, now.keys).values()]

    def ids(self) -> list[str]:
        return list(self.now().content.notes)


class KeyMapTest(TuningCase):
    def test_each_note_rounds_in_its_own_key(self) -> None:
        """By hand: 65.2 lies nearest to F (65) in C major and to F♯ (66) in E major."""
        self.assertEqual(self.targets(), [60, 64, 62, 65])
        self.retune(key_changes=[E_IN_BAR_TWO])
        self.assertEqual(self.targets(), [60, 64, 62, 66])
        names = [row["pitch"] for row in note_rows(self.desk, self.now())]
        self.assertEqual(names, ["C4", "E4", "D4", "F♯4"])
        change_track(self.work, self.track.id, {"offset_s": -1.0})  # the note now lies in bar 1
        self.assertEqual(self.targets(), [60, 64, 62, 65])

    def test_changing_it_later_moves_no_tuned_note_and_says_which_would_go_elsewhere(self) -> None:
        self.do(type="tune", note_ids=self.ids())
        before = self.desk.plan(self.now()).correction.tolist()
        meant, _places = preview_keys(self.desk, self.song.id, {"key_changes": [E_IN_BAR_TWO]})
        told = [(one.note_id, one.bar, one.now, one.then, one.tuned) for one in meant.elsewhere]
        self.assertEqual(told, [(self.ids()[3], "2.2", "F4", "F♯4", True)])
        self.assertEqual((meant.tuned, meant.tuned_elsewhere, meant.untuned_moved), (4, 1, 0))
        self.retune(key_changes=[E_IN_BAR_TWO])
        self.assertEqual(self.desk.plan(self.now()).correction.tolist(), before)
        self.assertEqual(self.targets(), [60, 64, 62, 65])
        self.do(type="tune", note_ids=self.ids())
        self.assertEqual(self.targets(), [60, 64, 62, 66])

    def test_flags_passes_and_steps_use_the_key_at_the_note(self) -> None:
        last = self.ids()[3]
        self.retune(key_changes=[E_IN_BAR_TWO])
        self.assertIn("off centre", [flag.kind for flag in self.desk.verdicts(self.now()).notes[last].flags])
        self.do(type="tune_pass", note_ids=self.ids())
        self.assertEqual(self.targets()[3], 66)
        self.do(type="move", note_ids=[last], steps=1)
        self.assertEqual(self.targets()[3], 68)  # G♯, the next of E major
        self.do(type="move", note_ids=[self.ids()[0]], steps=-1)
        self.assertEqual(self.targets()[0], 59)
        self.do(type="set", note_ids=[last], values={"target": "Ab4 -10"})
        self.assertAlmostEqual(self.targets()[3], 67.9)

    def test_a_glaze_pulls_to_the_key_at_the_note(self) -> None:
        self.retune(key_changes=[E_IN_BAR_TWO])
        self.do(type="glaze", values={"settle_ms": 20.0, "tolerance_cents": 0.0})
        now = self.now()
        plan = self.desk.plan(now)
        note = now.content.notes[self.ids()[3]].note
        inside = slice(round((note.start_s + 0.4) / HOP_S), round((note.end_s - 0.1) / HOP_S))
        heard = plan.contour.midi[inside] + plan.correction[inside]
        self.assertAlmostEqual(float(np.nanmean(heard)), 66.0, delta=0.1)

    def test_a_harmony_keeps_to_the_key_at_the_note(self) -> None:
        self.retune(key_changes=[E_IN_BAR_TWO])
        (third,) = derive(self.desk, self.track.id, {"type": "harmony", "steps": 2, "human": 0.0, "air": "kept"})
        made = self.desk.at(third.id)
        tuned = [round(midi) for midi in current_targets(made.content.notes, made.keys).values()]
        self.assertEqual(tuned, [64, 67, 65, 69])  # E, G, F in C major; A in E major

    def test_the_key_map_is_written_to_midi_and_read_from_it(self) -> None:
        self.retune(key_changes=[E_IN_BAR_TWO, {**E_IN_BAR_TWO, "bar": 4, "tonic": 9, "scale": "natural minor"}])
        data = melody(self.desk, self.now())
        file = mido.MidiFile(file=io.BytesIO(data))
        at, found = 0, []
        for message in file.tracks[0]:
            at += message.time
            if message.type == "key_signature":
                found.append((at / file.ticks_per_beat, message.key))
        self.assertEqual(found, [(0.0, "C"), (4.0, "E"), (12.0, "Am")])

    def test_what_cannot_be_is_refused_whole(self) -> None:
        for changes, words in (
            ([E_IN_BAR_TWO, E_IN_BAR_TWO], "bar 2 must come after"), ([{**E_IN_BAR_TWO, "bar": 0}], "The bar"),
            ([{**E_IN_BAR_TWO, "beat": float("nan")}], "The beat"), ([{**E_IN_BAR_TWO, "scale": "sad"}], "not a scale"),
            ([{**E_IN_BAR_TWO, "scale": "custom"}], "at least one step"), ([{**E_IN_BAR_TWO, "tonic": 12}], "tonic"),
            ([{**E_IN_BAR_TWO, "bar": 2 + i} for i in range(600)], "at most 500"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaisesRegex(ParameterError, words):
                self.retune(title="No", key_changes=changes)
        self.assertEqual(self.work.songs.get(self.song.id).title, "Test")
        self.assertEqual(self.work.songs.get(self.song.id).key_changes, [])

    def test_changes_follow_tempo_and_meter(self) -> None:
        self.retune(key_changes=[E_IN_BAR_TWO], tempo=60)
        self.assertEqual([place.start_s for place in keys_of(self.work.songs.get(self.song.id))[1:]], [4.0])
        self.assertEqual(self.targets()[3], 65)  # sung before bar 2 begins now


class OtherTuningTest(TuningCase):
    def test_just_intonation(self) -> None:
        """On C with A4 = 440 Hz by hand: C 264, E 330, D 297, F 352 Hz; 69 + 12 log2(Hz / 440) in MIDI."""
        self.retune(temperament={"name": "just"})
        self.assertEqual(self.targets(), [60.1564, 64.0196, 62.1955, 65.1369])
        self.do(type="tune", note_ids=self.ids())
        data = melody(self.desk, self.now(), bend_range=2)
        self.assertEqual([m.note for m in mido.MidiFile(file=io.BytesIO(data)).tracks[1] if m.type == "note_on"],
                         [60, 64, 62, 65])  # fmt: skip
        heard = melody_of_midi(io.BytesIO(data), keys_of(self.work.songs.get(self.song.id))[0].tuning)
        np.testing.assert_allclose([midi for _, _, midi in heard], self.targets(), atol=0.12)  # with vibrato and drift

    def test_a_scala_scale_of_nineteen_steps(self) -> None:
        """1/1 on C4: by hand 59.6 is nearest to step −1 (59.368), 64.0 to 6 (63.789), 62.3 to 4 (62.526), 65.2 to 8."""
        self.retune(temperament={"name": "scala", "scl": NINETEEN}, scale="chromatic")
        wanted = [60 + step * 12 / 19 for step in (-1, 6, 4, 8)]
        np.testing.assert_allclose(self.targets(), wanted, atol=1e-3)
        self.do(type="tune", note_ids=self.ids())
        rows = note_rows(self.desk, self.now())
        self.assertEqual([row["pitch"] for row in rows], ["19°3", "7°4", "5°4", "9°4"])
        self.do(type="move", note_ids=self.ids()[:1], steps=2)
        self.assertAlmostEqual(self.targets()[0], 60 + 12 / 19, places=3)
        data = melody(self.desk, self.now(), bend_range=2)
        heard = melody_of_midi(io.BytesIO(data), keys_of(self.work.songs.get(self.song.id))[0].tuning)
        np.testing.assert_allclose([midi for _, _, midi in heard], self.targets(), atol=0.12)
        plain = mido.MidiFile(file=io.BytesIO(melody(self.desk, self.now())))  # keys that play the scale, one each
        self.assertEqual([m.note for m in plain.tracks[1] if m.type == "note_on"], [61, 66, 64, 68])
        sheet = tuning_sheet(self.desk, self.now(), "as found")
        self.assertIn("2°4", [row.what for phrase in sheet.phrases for row in phrase.rows])

    def test_named_scales_need_twelve_steps(self) -> None:
        with self.assertRaisesRegex(ParameterError, "What works with it: every step"):
            self.retune(temperament={"name": "scala", "scl": NINETEEN})
        self.retune(temperament={"name": "scala", "scl": NINETEEN}, scale="custom", classes=[0, 3, 6, 8, 11, 14, 17])
        self.assertEqual(keys_of(self.work.songs.get(self.song.id))[0].tuning.classes, (0, 3, 6, 8, 11, 14, 17))

    def test_a_mapping_is_given_later_and_the_scale_is_kept(self) -> None:
        self.retune(temperament={"name": "scala", "scl": DIATONIC}, scale="chromatic")
        self.retune(temperament={"name": "scala", "kbm": WHITE_KEYS})
        stored = self.work.songs.get(self.song.id).temperament
        self.assertEqual((stored["scl"], stored["kbm"]), (DIATONIC, WHITE_KEYS))
        with self.assertRaisesRegex(AudioError, "Line 3"):
            self.retune(temperament={"name": "scala", "scl": "x\n1\nfifth\n"})
        with self.assertRaisesRegex(ParameterError, "needs the text"):
            self.retune(temperament={"name": "equal"})
            self.retune(temperament={"name": "scala"})

    def test_a_print_by_a_worker_is_what_is_heard(self) -> None:
        self.retune(temperament={"name": "scala", "scl": NINETEEN}, scale="chromatic", key_changes=[
            {"bar": 2, "beat": 1.0, "tonic": 2, "scale": "chromatic", "classes": []}])  # fmt: skip
        self.do(type="glaze", values={})  # rounds where it is rendered
        task = request_print(self.desk, self.track.id, {"container": "wav", "bits": 24})
        run_task(self.work, task.id)
        done = self.work.tasks.get(task.id)
        self.assertEqual(done.state, "done", done.message)
        printed, _ = read_audio(self.work.audio.print_path(done.result["file"]))
        now = self.now()
        heard = self.desk.sound.span(
            self.desk.sound.source(now.track.audio_hash), self.desk.plan(now), 0, printed.shape[1]
        )
        np.testing.assert_allclose(printed, heard, atol=2**-22)


class CommandTest(TuningCase):
    def test_a_real_voice_in_nineteen_steps(self) -> None:
        scl, out = self.folder / "19.scl", self.folder / "out.wav"
        scl.write_text(NINETEEN)
        done = command("tune", REAL_TAKE, out, "--key", "C chromatic", "--tuning", scl)
        self.assertEqual(done.returncode, 0, done.stderr)
        command("analyse", out, "--json", self.folder / "out.json")
        found = json.loads((self.folder / "out.json").read_text())
        steps = np.array([(note["centre_midi"] - 60) * 19 / 12 for note in found["notes"]
                          if note["end_s"] - note["start_s"] > 0.15])  # fmt: skip
        off = np.abs(steps - np.round(steps)) * 1200 / 19
        self.assertGreater(len(off), 5)
        self.assertLess(float(np.median(off)), 6.0)  # cents, read again by our own analysis; 16 would be chance

    def test_a_harmony_of_a_real_voice_keeps_to_just_intonation(self) -> None:
        """Thirds above in C major lie on the just scale: 264 Hz times 1, 9/8, 5/4, 4/3, 3/2, 5/3, 15/8."""
        out, told = self.folder / "third.wav", self.folder / "third.json"
        done = command("harmony", REAL_TAKE, out, "--key", "C major", "--tuning", "just", "--steps", 2,
                            "--human", 0)  # fmt: skip
        self.assertEqual(done.returncode, 0, done.stderr)
        command("analyse", out, "--json", told)
        scale = 69 + 12 * np.log2(0.6 * np.array([1, 9 / 8, 5 / 4, 4 / 3, 3 / 2, 5 / 3, 15 / 8]))
        found = json.loads(told.read_text())["notes"]
        held = np.array([note["centre_midi"] for note in found if note["end_s"] - note["start_s"] > 0.2])
        off = np.abs((held[:, None] - scale + 6.0) % 12.0 - 6.0).min(axis=1)
        self.assertGreater(len(held), 4)
        self.assertLess(float(np.median(off)), 0.08)

    def test_what_is_wrong_is_said_in_a_sentence(self) -> None:
        bad = self.folder / "bad.scl"
        bad.write_text("x\n1\nfifth\n")
        for given, words in (
            (("--tuning", bad), "Line 3"), (("--tuning", "none.scl"), "cannot be read"),
            (("--keyboard", bad), "needs a Scala scale"), (("--reference", "1000"), "380 and 500"),
        ):  # fmt: skip
            done = command("tune", REAL_TAKE, self.folder / "out.wav", *given)
            with self.subTest(words):
                self.assertEqual(done.returncode, 2)
                self.assertIn(words, done.stderr)
                self.assertFalse((self.folder / "out.wav").exists())
