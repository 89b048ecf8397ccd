"""Doubles, harmonies and melodies: spreads as asked, no comb, true to the scale, the same seed the same bytes."""

import unittest
from dataclasses import replace

import mido
import numpy as np
import soundfile as sf

from glass_thread.core.analysis.pitch.f0 import track_f0
from glass_thread.core.document.content import Content, apply_to_content, as_found
from glass_thread.core.document.notes import EditedNote
from glass_thread.core.document.operations.registry import Scene, parse_operation
from glass_thread.core.measure.evaluation import comb_of
from glass_thread.core.plan.plan import Plan, build_plan
from glass_thread.core.signal.errors import ParameterError
from glass_thread.core.signal.scale_steps import SCALES
from glass_thread.core.signal.types import HOP_S, Analysis, Note
from glass_thread.core.song.keys import KeyMap, make_tuning, one_key
from glass_thread.core.song.tuning import Tuning
from glass_thread.core.synthesis.render import render_whole
from glass_thread.demo.build import FOLDER
from glass_thread.demo.song import lead
from tests.command import Done, command
from tests.kept import analyse, sing
from tests.signals import RATE, FolderCase, analysed_short, apply_to, write_short

D_MINOR = one_key(make_tuning(2, "natural minor"))


def demo_lead() -> tuple[np.ndarray, Analysis]:
    """The demo's lead as sound, and its analysis."""
    audio, rate = sf.read(str(FOLDER / "lead.flac"))
    return audio, analyse(audio, rate)


def derived(found: Analysis, keys: KeyMap = D_MINOR, **operation: object) -> tuple[Content, Plan]:
    content = as_found(found)
    change = parse_operation(operation).change(Scene(content, keys, found))
    after = apply_to_content(content, change)
    return after, build_plan(found, after, keys)


def rendered(audio: np.ndarray, found: Analysis, plan: Plan) -> np.ndarray:
    """The sound of a plan, without its levels."""
    whole = render_whole(np.atleast_2d(audio), RATE, plan.contour, plan.correction, formant=plan.formant,
                         time_map=plan.moves(RATE))  # fmt: skip
    return whole[0]


class DoubleTest(unittest.TestCase):
    def test_spreads_are_as_asked(self) -> None:
        _audio, found = demo_lead()
        for timing, cents in ((16.0, 9.0), (25.0, 15.0)):
            content, _plan = derived(found, type="double", seed=4, timing_ms=timing, pitch_cents=cents, level_db=1.0)
            notes = list(content.notes.values())
            starts = [edited.gesture.start_shift_ms for edited in notes]
            off = [100.0 * (edited.gesture.target_midi - edited.note.centre_midi) for edited in notes]
            self.assertAlmostEqual(float(np.std(starts)), timing, delta=0.1 * timing)
            self.assertAlmostEqual(float(np.std(off)), cents, delta=0.1 * cents)
            self.assertAlmostEqual(float(np.std([e.gesture.level_db for e in notes])), 1.0, delta=0.1)

    def test_no_comb_in_the_mono_sum(self) -> None:
        """No steady spacing, and notches as those of the singer's own second takes; a copy that is late has both."""
        audio, found = demo_lead()
        line = np.atleast_2d(audio)[0]
        late = np.concatenate([np.zeros(round(0.016 * RATE)), line])
        self.assertLess(comb_of([line, late], RATE)[0], -11.0)
        self.assertGreater(comb_of([line, late], RATE)[1], 0.6)
        made = [rendered(audio, found, derived(found, type="double", seed=seed)[1]) for seed in (1, 2, 3)]
        takes = [sing(replace(lead(), seed=seed), RATE).audio for seed in (101, 102, 103)]
        ours, own = ([comb_of([line, one], RATE) for one in ones] for ones in (made, takes))
        self.assertLess(max(steady for _notch, steady in ours), 0.4)
        deepest, wanted = (float(np.median([notch for notch, _steady in ones])) for ones in (ours, own))
        self.assertGreater(deepest, max(-6.0, wanted - 2.0))
        self.assertGreater(comb_of([line, *made], RATE)[0], -6.0)

    def test_the_same_seed_wanders_the_same_way_and_air_does_not_pile_up(self) -> None:
        found = analysed_short()
        made = [derived(found, type="double", seed=seed)[0] for seed in (3, 3, 4)]
        self.assertEqual(made[0], made[1])
        self.assertNotEqual(made[0].notes, made[2].notes)
        low = [air for air in made[0].air.values() if air.event.kind in ("sibilant", "breath")]
        self.assertTrue(low and all(air.level_db == -8.0 for air in low))
        gone = derived(found, type="double", air="left out")[0]
        self.assertTrue(all(air.muted for air in gone.air.values() if air.event.kind in ("sibilant", "breath")))
        kept = derived(found, type="double", air="kept")[0]
        self.assertTrue(all(air.is_as_sung for air in kept.air.values()))


class HarmonyTest(unittest.TestCase):
    def steps(self, tuning: Tuning, steps: int, pitches: list[float]) -> list[float]:
        """Targets of a harmony over notes that were sung on some pitches."""
        notes = {}
        for i, midi in enumerate(pitches):
            name = f"n{i:04d}"
            notes[name] = EditedNote(Note(name, i * 1.0, i + 0.8, midi, 0.0, None, -20.0, 0))
        change = apply_to(
            Content(notes), one_key(tuning), {"type": "harmony", "steps": steps, "human": 0.0, "air": "kept"}
        )
        return [round(after.gesture.target_midi, 3) for _before, after in change.values()]

    def test_a_table_worked_out_by_hand(self) -> None:
        c_major, d_minor = make_tuning(0, "major"), D_MINOR.first
        self.assertEqual(self.steps(c_major, 2, [60, 62, 64, 65, 67, 69, 71]), [64, 65, 67, 69, 71, 72, 74])
        self.assertEqual(self.steps(c_major, -2, [60, 62, 64]), [57, 59, 60])
        self.assertEqual(self.steps(d_minor, 2, [62, 64, 65, 67, 69, 70, 72]), [65, 67, 69, 70, 72, 74, 76])
        self.assertEqual(self.steps(c_major, 7, [60.3, 63.8]), [72, 76])  # an octave, from notes that are off

    def test_true_to_every_scale_and_any_set_of_classes(self) -> None:
        sung = list(np.linspace(50.0, 74.0, 49))
        keys = [make_tuning(tonic, scale) for scale in SCALES for tonic in (0, 5, 11)]
        keys += [make_tuning(0, "custom", classes=classes) for classes in ((0,), (1, 6), (0, 1, 4, 8))]
        for key in keys:
            for steps in (-3, 2, 5) if len(key.classes) > 2 else (-1, 1):
                with self.subTest(key=key, steps=steps):
                    self.assertLessEqual({round(midi) % 12 for midi in self.steps(key, steps, sung)}, set(key.classes))

    def test_its_pitch_is_where_it_should_be(self) -> None:
        audio, found = demo_lead()
        content, plan = derived(found, type="harmony", steps=2, human=0.0)
        midi = track_f0(rendered(audio, found, plan), RATE).midi
        off = []
        for edited in content.notes.values():
            a, b = round((edited.note.start_s + 0.12) / HOP_S), round((edited.note.end_s - 0.08) / HOP_S)
            if b - a > 30 and abs(edited.note.drift_cents_per_s) < 8 and edited.note.vibrato is None:
                off.append(100.0 * abs(np.nanmedian(midi[a:b]) - edited.gesture.target_midi))
        self.assertGreater(len(off), 8)
        self.assertLess(float(np.median(off)), 3.0, off)

    def test_formants_lean_by_a_share(self) -> None:
        found = analysed_short()
        content, _plan = derived(found, type="harmony", semitones=7.0, lean=0.2, human=0.0)
        for edited in content.notes.values():
            self.assertAlmostEqual(edited.gesture.formant_shift, 1.4, delta=0.01)
        with self.assertRaisesRegex(ParameterError, "needs an interval"):
            derived(found, type="harmony")


class MelodyTest(FolderCase):
    def test_each_note_takes_the_one_that_sounds_longest(self) -> None:
        found = analysed_short()
        melody = [[0.3, 0.85, 67.0], [0.85, 1.5, 69.0], [2.0, 4.0, 60.0]]
        content, _plan = derived(found, type="melody", melody=melody)
        targets = [edited.gesture.target_midi for edited in content.notes.values()]
        self.assertEqual(targets, [67.0, 69.0, None, 60.0])
        near, _plan = derived(found, type="melody", melody=[[0.0, 4.0, 77.0]], exact=False)
        self.assertEqual({edited.gesture.target_midi for edited in near.notes.values()}, {65.0})
        with self.assertRaisesRegex(ParameterError, "No note of this melody"):
            derived(found, type="melody", melody=[[9.0, 10.0, 60.0]])

    def run_verb(self, *arguments: str) -> Done:
        return command(*arguments, folder=self.folder)

    def test_on_the_command_line(self) -> None:
        write_short(self.folder)
        for name in ("a.wav", "b.wav"):
            done = self.run_verb("double", "take.wav", name, "--seed", "5", "--voices", "2")
            self.assertEqual(done.returncode, 0, done.stderr)
        self.assertEqual((self.folder / "a.wav").read_bytes(), (self.folder / "b.wav").read_bytes())
        file = mido.MidiFile(ticks_per_beat=480)
        track = mido.MidiTrack([mido.Message("note_on", note=69, velocity=80, time=0),
                                mido.Message("note_off", note=69, time=480 * 9)])  # fmt: skip
        file.tracks.append(track)
        file.save(self.folder / "line.mid")
        done = self.run_verb("harmony", "take.wav", "line.wav", "--midi", "line.mid")
        self.assertEqual(done.returncode, 0, done.stderr)
        samples, rate = sf.read(self.folder / "line.wav")
        self.assertAlmostEqual(float(np.nanmedian(track_f0(samples, rate).midi)), 69.0, delta=0.05)
        self.assertEqual(self.run_verb("harmony", "take.wav", "h.wav", "--steps", "2").returncode, 0)

    def test_what_is_refused(self) -> None:
        write_short(self.folder)
        (self.folder / "bad.mid").write_bytes(b"MThd" + bytes(40))
        to = ("take.wav", "o.wav")
        for wrong in (
            ("double", *to, "--voices", "5"), ("double", *to, "--timing", "900"), ("harmony", *to, "--steps", "0"),
            ("harmony", "take.wav", "take.wav", "--steps", "2"), ("harmony", *to, "--midi", "bad.mid"),
            ("harmony", *to, "--midi", "none.mid"), ("harmony", *to, "--steps", "2", "--key", "H minor"),
            ("double", "take.wav", "nowhere/o.wav"), ("double", "take.wav", "nowhere/o.wav", "--voices", "2"),
        ):  # fmt: skip
            done = self.run_verb(*wrong)
            with self.subTest(wrong):
                self.assertEqual((done.returncode, done.stderr.count("\n")), (2, 1), done.stderr)
                self.assertFalse((self.folder / "o.wav").exists())
