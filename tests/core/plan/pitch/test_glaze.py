"""Glaze: when it arrives, what it leaves alone, and what it must not bring in."""

import itertools
import unittest
from dataclasses import replace

import numpy as np
import soundfile as sf

from glass_thread.core.document.content import Content, as_found
from glass_thread.core.document.gestures import Gesture
from glass_thread.core.document.items.glazes import PRESETS, Glaze
from glass_thread.core.document.notes import EditedNote
from glass_thread.core.plan.pitch.glaze import settled
from glass_thread.core.plan.plan import Plan, build_plan, changed_plan
from glass_thread.core.signal.signal_tools import runs
from glass_thread.core.signal.types import HOP_S, Contour, Floats, Note
from glass_thread.core.song.keys import KeyMap, Temper, make_tuning, one_key
from glass_thread.formats.scala import read_scale
from tests.core.test_temperaments import NINETEEN
from tests.kept import analyse
from tests.signals import NOTHING_FOUND, REAL_TAKE, analysed_short, plan_over

SEMITONES = one_key(make_tuning(0, "chromatic"))
RECORDINGS = (REAL_TAKE, REAL_TAKE.with_name("vocadito_14.flac"), REAL_TAKE.with_name("sung_score_1.flac"))


def glazed(midi: Floats, borders: list[int], glaze: Glaze, gestures: dict[str, Gesture] | None = None) -> Plan:
    """The plan of one voiced run, cut into notes at some frames, under a glaze."""
    edges = [0, *borders, len(midi)]
    notes = {}
    for i, (a, b) in enumerate(itertools.pairwise(edges)):
        name = f"n{i:04d}"
        note = Note(name, a * HOP_S, b * HOP_S, float(np.mean(midi[a:b])), 0.0, None, -20.0, 0)
        notes[name] = EditedNote(note, (gestures or {}).get(name, Gesture()))
    contour = Contour(midi, np.ones(len(midi)))
    return plan_over(contour, np.full(len(midi), -20.0), Content(notes, glazes={glaze.id: glaze}), SEMITONES)


def over(midi: Floats, **values: object) -> Glaze:
    return Glaze("z0001", 0.0, len(midi) * HOP_S, **{"tolerance_cents": 0.0, **values})  # type: ignore[arg-type]


def fast_movement(midi: Floats) -> float:
    """Modulation energy between 8 and 20 Hz, over all voiced runs that are long enough to tell."""
    total = 0.0
    for a, b in runs(np.isfinite(midi)):
        if b - a >= 40:
            moves = midi[a:b] - np.linspace(midi[a], midi[b - 1], b - a)
            power = np.abs(np.fft.rfft(moves * np.hanning(b - a))) ** 2
            hz = np.fft.rfftfreq(b - a, HOP_S)
            total += float(power[(hz >= 8.0) & (hz <= 20.0)].sum()) / (b - a)
    return total


class TuningTest(unittest.TestCase):
    def test_it_pulls_to_the_steps_of_any_tuning_and_to_the_key_at_the_note(self) -> None:
        """Nineteen steps above C4, then just intonation on D from the second note on, by hand."""
        steps = make_tuning(0, "chromatic", temper=Temper("scala", read_scale(NINETEEN)))
        just = make_tuning(2, "major", temper=Temper("just"))
        midi = np.concatenate([np.full(200, 62.3), np.full(200, 66.2)])
        notes = {name: EditedNote(Note(name, a * HOP_S, b * HOP_S, float(midi[a]), 0.0, None, -20.0, 0))
                 for name, a, b in (("n0001", 0, 200), ("n0002", 200, 400))}  # fmt: skip
        glaze = over(midi, settle_ms=20.0)
        content = Content(notes, glazes={glaze.id: glaze})
        plan = plan_over(Contour(midi, np.ones(400)), np.full(400, -20.0), content, KeyMap((steps, just), (1.0,)))
        heard = midi + plan.correction
        self.assertAlmostEqual(float(np.median(heard[60:180])), 60 + 4 * 12 / 19, places=2)
        self.assertAlmostEqual(float(np.median(heard[260:380])), 69 + 12 * np.log2(2 / 3 * 5 / 4), places=2)


class SettleTest(unittest.TestCase):
    def test_sixty_three_per_cent_of_a_step_after_the_settle_time(self) -> None:
        for settle_ms in (20.0, 50.0, 100.0, 400.0):
            arrived = settled(np.ones(400), settle_ms)
            at = np.interp(settle_ms / 1000.0, (np.arange(400) + 1) * HOP_S, arrived)
            self.assertAlmostEqual(at, 1.0 - np.exp(-1.0), delta=0.005)
        self.assertTrue((settled(np.ones(10), 0.0) == 1.0).all())

    def test_a_note_after_silence_and_one_sung_through_both_settle_so(self) -> None:
        first = np.full(200, 60.0)
        second = np.full(200, 61.6)
        for midi, borders, start in ((second, [], 0), (np.concatenate((first, second)), [200], 200)):
            pull = glazed(midi, borders, over(midi, settle_ms=100.0)).glaze
            self.assertAlmostEqual(pull[start + 20] / 0.4, 1.0 - np.exp(-1.0), delta=0.05)
            self.assertAlmostEqual(pull[-1], 0.4, delta=0.002)

    def test_in_a_stretched_note_it_settles_in_the_time_of_the_track(self) -> None:
        twice = settled(np.ones(200), 100.0, np.arange(200) * 2.0)
        self.assertAlmostEqual(twice[9], 1.0 - np.exp(-1.0), delta=0.03)


class VibratoTest(unittest.TestCase):
    def wave(self, rate_hz: float) -> Floats:
        return 60.3 + 0.5 * np.sin(2.0 * np.pi * rate_hz * np.arange(400) * HOP_S)

    def test_it_keeps_its_extent_at_any_settle_time(self) -> None:
        for rate_hz in (5.0, 6.0, 7.0):
            for settle_ms in (0.0, 30.0, 80.0, 400.0):
                midi = self.wave(rate_hz)
                tuned = midi + glazed(midi, [], over(midi, settle_ms=settle_ms)).correction
                kept = np.ptp((tuned - np.linspace(tuned[0], tuned[-1], 400))[150:350]) / 1.0
                self.assertGreater(kept, 0.95, f"{rate_hz} Hz, {settle_ms} ms")

    def test_it_goes_when_it_is_not_kept_and_the_pull_is_quick(self) -> None:
        midi = self.wave(5.5)
        tuned = midi + glazed(midi, [], over(midi, settle_ms=0.0, keep_vibrato=False)).correction
        self.assertLess(np.ptp(tuned[100:300]), 0.1)


class LeftAloneTest(unittest.TestCase):
    def test_a_note_tuned_by_hand_within_the_tolerance_is_untouched_to_the_bit(self) -> None:
        midi = np.concatenate((np.full(120, 60.35), np.full(120, 62.3), np.full(120, 64.4)))
        by_hand = {"n0001": Gesture(target_midi=62.0, pull=1.0)}
        with_it = glazed(midi, [120, 240], over(midi, settle_ms=60.0, tolerance_cents=10.0), by_hand)
        without = glazed(midi, [120, 240], replace(over(midi), strength=0.0), by_hand)
        inner = slice(120, 240)
        self.assertTrue((with_it.correction[inner] == without.correction[inner]).all())
        self.assertGreater(np.abs(with_it.glaze[:120]).max(), 0.2)
        self.assertGreater(np.abs(with_it.glaze[240:]).max(), 0.2)

    def test_only_what_lies_beyond_the_tolerance_moves(self) -> None:
        midi = np.full(300, 60.4)
        self.assertAlmostEqual(glazed(midi, [], over(midi, tolerance_cents=15.0)).glaze[-1], -0.25, delta=0.01)

    def test_a_pitch_counts_from_the_shortest_note_on(self) -> None:
        midi = np.concatenate((np.full(100, 60.2), np.full(16, 62.3), np.full(100, 60.2)))
        for shortest_ms, wanted in ((100.0, -0.2), (50.0, -0.3)):
            pull = glazed(midi, [100, 116], over(midi, settle_ms=0.0, shortest_ms=shortest_ms)).glaze
            self.assertAlmostEqual(pull[108], wanted, delta=0.05)

    def test_outside_its_range_there_is_nothing(self) -> None:
        midi = np.full(300, 60.4)
        pull = glazed(midi, [], replace(over(midi), start_s=0.5, end_s=1.0)).glaze
        self.assertFalse(pull[:100].any() or pull[200:].any())
        self.assertLess(np.abs(np.diff(pull)).max(), 0.06)  # it comes and goes without a step


class RealVoiceTest(unittest.TestCase):
    def test_no_octave_jump_and_no_warble(self) -> None:
        """Two sung recordings and a score sung by a package's voice, under every preset."""
        for path in RECORDINGS:
            audio, rate = sf.read(path, always_2d=True)
            found = analyse(audio.T, rate)
            key = make_tuning(found.keys[0].tonic, found.keys[0].scale)
            for preset in PRESETS:
                glaze = Glaze("z0001", 0.0, found.duration_s, preset.settle_ms, preset.strength, "scale",
                              preset.tolerance_cents, preset.shortest_ms, preset.keep_vibrato)  # fmt: skip
                plan = build_plan(found, replace(as_found(found), glazes={"z0001": glaze}), one_key(key))
                sung = plan.contour.midi
                tuned = sung + plan.correction
                allowed = key.pitches("scale")
                nearest = np.abs(np.nan_to_num(sung)[:, None] - allowed[None]).argmin(axis=1)
                plain = np.where(np.isfinite(sung), allowed[nearest], np.nan)
                with self.subTest(path.stem, preset=preset.name):
                    self.assertLess(np.abs(plan.correction).max(), 2.5)
                    # 0.989 to 1.000 times the sung one's was measured
                    self.assertLess(fast_movement(tuned), 1.002 * fast_movement(sung))
                    self.assertLess(fast_movement(tuned), 0.6 * fast_movement(plain))


class WindowTest(unittest.TestCase):
    def test_a_plan_that_is_changed_equals_one_that_is_built(self) -> None:
        found = analysed_short()
        content = as_found(found)
        plan = build_plan(found, content, SEMITONES)
        for glaze in (Glaze("z0001", 0.3, 1.4), None, Glaze("z0001", 0.0, found.duration_s, settle_ms=0.0)):
            after = replace(content, glazes={} if glaze is None else {"z0001": glaze})
            change = {"z0001": (content.glazes.get("z0001"), glaze)}
            plan, _windows = changed_plan(plan, found, after, change, SEMITONES)
            content = after
            whole = build_plan(found, content, SEMITONES)
            self.assertTrue((plan.correction == whole.correction).all())
            self.assertTrue((plan.glaze == whole.glaze).all())

    def test_where_the_voice_sets_in_before_its_first_note(self) -> None:
        """As a borrowed word may: what is heard there is laid in with all its voice, and its notes begin later."""
        rng = np.random.default_rng(7)
        for trial in range(12):
            midi = np.full(700, np.nan)
            notes = {}
            for i, start in enumerate((20, 250, 480)):
                length, head = 180, int(rng.integers(0, 40))
                midi[start : start + length] = 60.0 + 2 * i + 0.4 * np.cumsum(rng.normal(0, 0.15, length))
                a, b = (start + head) * HOP_S, (start + length - int(rng.integers(0, 25))) * HOP_S
                note = Note(f"n{i}", a, b, float(np.nanmean(midi[start : start + length])), 0.0, None, -20.0, i)
                notes[note.id] = EditedNote(note, Gesture())
            contour, level = Contour(midi, np.ones(700)), np.full(700, -20.0)
            found = replace(NOTHING_FOUND, contour=contour, level_db=level)
            glaze = Glaze("z0001", 0.0, 700 * HOP_S, settle_ms=105.9)
            content = Content(notes, glazes={"z0001": glaze})
            plan = build_plan(found, content, SEMITONES)
            for name in ("n1", "n2", "n0", "n1"):
                gesture = Gesture(pull=float(rng.uniform(0, 1)), target_midi=float(rng.uniform(59, 67)),
                                  movement=float(rng.uniform(0, 2)), edition=2)  # fmt: skip
                edited = replace(content.notes[name], gesture=gesture)
                after = replace(content, notes={**content.notes, name: edited})
                plan, _windows = changed_plan(plan, found, after, {name: (content.notes[name], edited)}, SEMITONES)
                content = after
                whole = build_plan(found, content, SEMITONES)
                with self.subTest(trial=trial, note=name):
                    np.testing.assert_array_equal(plan.glaze, whole.glaze)
                    np.testing.assert_array_equal(plan.correction, whole.correction)


if __name__ == "__main__":
    unittest.main()
