"""What gestures do to the sound, read back by the tracker; figures as asked of a careful tuning."""

import unittest

import numpy as np
import scipy.signal as ss

from glass_thread.core.analysis.notes.contour import split_contour
from glass_thread.core.analysis.pitch.f0 import track_f0
from glass_thread.core.document.flags import abrupt_join
from glass_thread.core.document.gestures import Gesture
from glass_thread.core.document.notes import EditedNote
from glass_thread.core.plan.formant_plan import fill_formant
from glass_thread.core.plan.pitch.vibrato import added_vibrato
from glass_thread.core.signal.errors import ParameterError
from glass_thread.core.signal.types import HOP_S, Note
from glass_thread.core.song.keys import make_tuning, one_key
from glass_thread.core.synthesis.render import render_whole
from tests.signals import (
    RATE,
    analysed_short,
    apply_change,
    apply_operation,
    pitch_correction,
    sung_short,
    vibrato_midi,
)

KEY = one_key(make_tuning(0, "chromatic"))
LEVEL_DB = -20.0


def correction_of(gestures: dict[str, Gesture]) -> np.ndarray:
    """Correction of the short performance."""
    found = analysed_short()
    return pitch_correction(found.contour, found.notes, gestures, KEY, found.level_db)


def read_back(gestures: dict[str, Gesture]) -> np.ndarray:
    """The pitch of the tuned sound."""
    audio = sung_short()[1].audio[np.newaxis]
    out = render_whole(audio, RATE, analysed_short().contour, correction_of(gestures))
    return track_f0(out[0], RATE).midi


def parts_of(midi: np.ndarray, note: Note):
    a, b = round(note.start_s / HOP_S), round(note.end_s / HOP_S)
    return split_contour(midi[a:b], analysed_short().level_db[a:b])


class ReadBackTest(unittest.TestCase):
    notes = analysed_short().notes

    def test_as_sung_is_the_same_to_the_last_bit(self) -> None:
        self.assertFalse(correction_of({n.id: Gesture() for n in self.notes}).any())

    def test_full_pull_puts_the_centre_on_the_target(self) -> None:
        targets = {n.id: float(round(n.centre_midi)) for n in self.notes}
        read = read_back({i: Gesture(target_midi=t, pull=1.0) for i, t in targets.items()})
        off = [100 * abs(parts_of(read, n).centre - targets[n.id]) for n in self.notes]
        self.assertLess(np.median(off), 3.0)
        self.assertLess(max(off), 6.0)

    def test_drift_goes_and_vibrato_stays(self) -> None:
        note = self.notes[3]
        read = parts_of(read_back({note.id: Gesture(drift=0.0)}), note)
        self.assertLess(abs(read.drift_cents_per_s), 3.0)
        self.assertAlmostEqual(read.vibrato_found.extent_cents / note.vibrato.extent_cents, 1.0, delta=0.03)

    def test_vibrato_by_the_share_asked_for(self) -> None:
        note = self.notes[3]
        read = parts_of(read_back({note.id: Gesture(vibrato=0.3)}), note)
        self.assertAlmostEqual(read.vibrato_found.extent_cents / note.vibrato.extent_cents, 0.3, delta=0.04)
        self.assertAlmostEqual(read.vibrato_found.rate_hz, note.vibrato.rate_hz, delta=0.1)

    def test_no_vibrato_leaves_the_voice_its_fine_movement(self) -> None:
        note = self.notes[3]
        read = read_back({note.id: Gesture(vibrato=0.0)})
        a, b = round(note.start_s / HOP_S) + 20, round(note.end_s / HOP_S) - 20
        # Independent of our own split: a band-pass from scipy between 4 and 8 Hz.
        band = ss.sosfiltfilt(ss.butter(2, [4.0, 8.0], "band", fs=1 / HOP_S, output="sos"), 100 * read[a:b])
        self.assertLess(np.sqrt(2.0) * band[20:-20].std(), 4.0)
        self.assertGreater(np.std(np.diff(100 * read[a:b])), 0.05)

    def test_added_vibrato_reads_back(self) -> None:
        note = self.notes[3]
        asked = Gesture(vibrato=0.0, added_extent=40.0, added_rate_hz=6.0, added_onset_ms=150.0, added_seed=9)
        read = parts_of(read_back({note.id: asked}), note)
        self.assertAlmostEqual(read.vibrato_found.rate_hz, 6.0, delta=0.1)
        self.assertAlmostEqual(read.vibrato_found.extent_cents, 40.0, delta=4.0)

    def test_a_glide_makes_no_step_that_was_not_sung(self) -> None:
        found = analysed_short()
        change = correction_of({self.notes[0].id: Gesture(target_midi=60.0, pull=1.0)})
        tuned, sung = found.contour.midi + change, found.contour.midi
        step = np.abs(np.diff(100 * tuned)) - np.abs(np.diff(100 * sung))
        a, b = round(self.notes[0].start_s / HOP_S), round(self.notes[1].end_s / HOP_S)
        self.assertLess(np.nanmax(step[a + 1 : b - 1]), 15.0)

    def test_the_bend_of_a_glide(self) -> None:
        """From C4 up to E4: an early one has come further by the time the second note begins."""
        at, pitch = round(self.notes[1].start_s / HOP_S), {}
        for bend in (-1.0, 0.0, 1.0):
            change = correction_of({self.notes[1].id: Gesture(glide_ms=80.0, glide_bend=bend)})
            pitch[bend] = (analysed_short().contour.midi + change)[at]
        self.assertGreater(pitch[-1.0], pitch[0.0] + 0.3)
        self.assertGreater(pitch[0.0], pitch[1.0] + 0.3)


class HandCurveTest(unittest.TestCase):
    document = {n.id: EditedNote(n) for n in analysed_short().notes}  # noqa: RUF012

    def drawn(self, **more: object) -> tuple[dict[str, EditedNote], np.ndarray]:
        note = analysed_short().notes[3]
        points = [[note.start_s + 0.2, 66.0], [note.start_s + 0.7, 67.0]]
        change = apply_operation(self.document, KEY, {"type": "draw", "points": points, **more})
        after = apply_change(self.document, change)
        return after, correction_of({i: e.gesture for i, e in after.items()})

    def test_the_line_is_followed_and_blended(self) -> None:
        _, change = self.drawn(keep_fine=False)
        note = analysed_short().notes[3]
        place = np.arange(round((note.start_s + 0.26) / HOP_S), round((note.start_s + 0.64) / HOP_S))
        wanted = 66.0 + (place * HOP_S - note.start_s - 0.2) / 0.5
        np.testing.assert_allclose((analysed_short().contour.midi + change)[place], wanted, atol=0.02)
        self.assertFalse(change[round(note.end_s / HOP_S) - 30 :].any())

    def test_the_fine_movement_is_kept_unless_the_line_is_exact(self) -> None:
        _, plain = self.drawn(keep_fine=False)
        _, fine = self.drawn()
        note = analysed_short().notes[3]
        place = slice(round((note.start_s + 0.3) / HOP_S), round((note.start_s + 0.6) / HOP_S))
        rough = [np.std(np.diff((analysed_short().contour.midi + c)[place], 2)) for c in (plain, fine)]
        self.assertGreater(rough[1], 5 * rough[0] + 1e-6)

    def test_rubbing_out_gives_the_sung_one_back(self) -> None:
        after, _ = self.drawn()
        change = apply_operation(after, KEY, {"type": "rub_out", "start_s": 0.0, "end_s": 10.0})
        self.assertEqual(dict(apply_change(after, change)), self.document)

    def test_a_line_over_two_notes_has_no_blend_between_them(self) -> None:
        points = [[0.6, 62.0], [1.2, 62.0]]
        change = apply_operation(self.document, KEY, {"type": "draw", "points": points, "keep_fine": False})
        after = apply_change(self.document, change)
        tuned = analysed_short().contour.midi + correction_of({i: e.gesture for i, e in after.items()})
        np.testing.assert_allclose(tuned[round(0.66 / HOP_S) : round(1.14 / HOP_S)], 62.0, atol=1e-6)


class OtherGesturesTest(unittest.TestCase):
    def test_copying_to_a_repeated_phrase_gives_the_same_targets(self) -> None:
        notes = [Note(f"n{i}", i * 0.5, i * 0.5 + 0.4, 60.0 + i % 3 + 0.2, 0.0, None, -20.0, i // 3) for i in range(6)]
        document = {n.id: EditedNote(n) for n in notes}
        first = [n.id for n in notes[:3]]
        document = apply_change(document, apply_operation(document, KEY, {"type": "tune", "note_ids": first}))
        copy = {"type": "copy_gestures", "from_ids": first, "to_ids": [n.id for n in notes[3:]]}
        after = apply_change(document, apply_operation(document, KEY, copy))
        for i in range(3):
            self.assertEqual(after[f"n{i + 3}"].gesture, after[f"n{i}"].gesture)

    def test_copied_gestures_go_on_over_again(self) -> None:
        notes = [Note(f"n{i}", i * 0.5, i * 0.5 + 0.4, 60.0, 0.0, None, -20.0, 0) for i in range(7)]
        document = {n.id: EditedNote(n) for n in notes}
        for i, drift in enumerate((0.2, 0.7)):
            document[f"n{i}"] = EditedNote(notes[i], Gesture(drift=drift))
        copy = {"type": "copy_gestures", "from_ids": ["n0", "n1"], "to_ids": ["n2", "n3", "n4", "n5"]}
        after = apply_change(document, apply_operation(document, KEY, copy))
        self.assertEqual([after[f"n{i}"].gesture.drift for i in range(2, 6)], [0.2, 0.7, 0.2, 0.7])
        with self.assertRaisesRegex(ParameterError, "2 notes were copied and 3 are selected"):
            apply_operation(document, KEY, {**copy, "to_ids": ["n2", "n3", "n4"]})

    def test_nudging_keeps_each_notes_own_start_and_the_range(self) -> None:
        notes = [Note(f"n{i}", i * 0.5, i * 0.5 + 0.4, 60.0, 0.0, None, -20.0, 0) for i in range(2)]
        document = {"n0": EditedNote(notes[0], Gesture(drift=0.5)), "n1": EditedNote(notes[1], Gesture(drift=1.9))}
        nudge = {"type": "nudge", "note_ids": ["n0", "n1"], "values": {"drift": 0.3}}
        after = apply_change(document, apply_operation(document, KEY, nudge))
        self.assertAlmostEqual(after["n0"].gesture.drift, 0.8)
        self.assertEqual(after["n1"].gesture.drift, 2.0)

    def test_straighten_keeps_the_level_of_one_end(self) -> None:
        found = analysed_short()
        document = {n.id: EditedNote(n) for n in found.notes}
        note = found.notes[2]  # drifts upwards
        targets = {}
        for side in ("in", "out"):
            operation = {"type": "straighten", "note_ids": [note.id], "side": side}
            targets[side] = apply_change(document, apply_operation(document, KEY, operation, found))[note.id].gesture
        self.assertLess(targets["in"].target_midi, targets["out"].target_midi)
        self.assertEqual(targets["in"].drift, 0.0)

    def test_soft_joins_follow_interval_and_length(self) -> None:
        spans = ((0.0, 0.5), (0.5, 1.0), (1.0, 1.5), (1.5, 1.58))
        notes = [
            Note(f"n{i}", *span, p, 0.0, None, -20.0, 0)
            for i, (span, p) in enumerate(zip(spans, (60, 62, 69, 70), strict=False))
        ]
        document = {n.id: EditedNote(n) for n in notes}
        after = apply_change(
            document, apply_operation(document, KEY, {"type": "soften_joins", "note_ids": list(document)})
        )
        glides = [after[f"n{i}"].gesture.glide_ms for i in range(4)]
        self.assertLess(glides[1], glides[2])
        self.assertLess(glides[3], 0.4 * 80 + 1)

    def test_soft_joins_leave_no_abrupt_one(self) -> None:
        notes = [Note(f"n{i}", 0.6 * i, 0.6 * i + 0.6, 60.0, 0.0, None, -20.0, 0) for i in range(2)]
        pulled = Gesture(pull=1.0, target_midi=61.0, rounding="free", glide_ms=20.0)
        document = {"n0": EditedNote(notes[0], pulled), "n1": EditedNote(notes[1], Gesture(glide_ms=20.0))}
        self.assertIsNotNone(abrupt_join(*notes, -1.0, 20.0))
        change = apply_operation(document, KEY, {"type": "soften_joins", "note_ids": ["n1"]})
        softened = apply_change(document, change)["n1"].gesture.glide_ms
        self.assertIsNone(abrupt_join(*notes, -1.0, softened))

    def test_added_vibrato_is_gentle_and_repeatable(self) -> None:
        gesture = Gesture(added_extent=30.0, added_onset_ms=100.0, added_seed=4)
        wave = added_vibrato(300, gesture)
        self.assertFalse(wave[:20].any())
        self.assertLess(np.abs(np.diff(wave))[:30].max(), 0.05)
        self.assertLess(abs(wave[-1]), 0.05)
        np.testing.assert_array_equal(wave, added_vibrato(300, gesture))

    def test_neighbours_with_one_formant_shift_have_no_dip_between(self) -> None:
        notes = [Note("a", 0.0, 0.5, 60.0, 0.0, None, -20.0, 0), Note("b", 0.5, 1.0, 62.0, 0.0, None, -20.0, 0)]
        shift = np.zeros(220)
        fill_formant(shift, [EditedNote(note, Gesture(formant_shift=2.0)) for note in notes])
        np.testing.assert_array_equal(shift[20:180], 2.0)
        self.assertFalse(shift[200:].any())


class CentreTest(unittest.TestCase):
    def test_vibrato_tones_are_heard_at_their_mean_whatever_the_phase_at_the_ends(self) -> None:
        # J. I. Shonle, K. E. Horan, "The pitch of vibrato tones", J. Acoust. Soc. Am. 67, 1980;
        # J. Sundberg, "Effects of the vibrato and the singing formant on pitch", 1978: near the mean of the cycles.
        for start in range(0, 40, 7):
            midi = vibrato_midi(1.3, 200, centre=64.0, hz=5.7, cents=60.0)[start:]
            self.assertAlmostEqual(split_contour(midi, np.full(len(midi), LEVEL_DB)).centre, 64.0, delta=0.03)

    def test_drift_agrees_with_a_low_pass_from_scipy(self) -> None:
        t = np.arange(300) * HOP_S
        midi = 60.0 + 0.3 * np.sin(2 * np.pi * 0.7 * t) + 0.4 * np.sin(2 * np.pi * 5.6 * t)
        parts = split_contour(midi, np.full(300, LEVEL_DB))
        slow = ss.sosfiltfilt(ss.butter(4, 2.5, fs=200, output="sos"), midi)
        np.testing.assert_allclose((parts.centre + parts.drift)[50:-50], slow[50:-50], atol=0.05)
        np.testing.assert_allclose(parts.centre + parts.drift + parts.vibrato + parts.fine, midi, atol=1e-12)

    def test_an_added_vibrato_lies_within_what_singers_do(self) -> None:
        # E. Prame, "Measurements of the vibrato rate of ten singers", J. Acoust. Soc. Am. 96, 1994: means of singers
        # between about 5 and 7 Hz, and within a tone a variation of some percent (both from memory).
        self.assertTrue(5.0 <= Gesture().added_rate_hz <= 7.0)
        for seed in range(5):
            wave = added_vibrato(800, Gesture(added_extent=40.0, added_onset_ms=0.0, added_seed=seed))
            turns = np.flatnonzero(np.diff(np.signbit(wave)))[2:-2]
            lengths = 2 * np.diff(turns)[::2] * HOP_S
            with self.subTest(seed):
                self.assertAlmostEqual(float(1 / lengths.mean()), Gesture().added_rate_hz, delta=0.3)
                self.assertTrue(0.005 < lengths.std() / lengths.mean() < 0.1)
