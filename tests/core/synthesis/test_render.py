import unittest
from unittest.mock import patch

import numpy as np

from glass_thread.core.analysis.pitch.f0 import track_f0
from glass_thread.core.plan.pitch.curve import curve_correction
from glass_thread.core.signal.interpolation import read_between
from glass_thread.core.signal.types import HOP_S, Contour
from glass_thread.core.synthesis.render import Patch, apply_patches, render_part, render_run, voiced_runs
from glass_thread.core.synthesis.voice.cycles import cycle_phase
from glass_thread.core.synthesis.voice.layout import lay_out, prepare_run
from glass_thread.core.synthesis.voice.marks.pitch_marks import pitch_marks
from glass_thread.core.synthesis.voice.marks.synthesis_marks import place_marks
from tests.signals import RATE, analysed_short, harmonic_tone, sung_short


def tuned(audio: np.ndarray, correction: np.ndarray) -> np.ndarray:
    """The short performance with a correction on the analysis grid."""
    contour = analysed_short().contour
    patches: list[Patch] = []
    for first, last in voiced_runs(contour):
        run = prepare_run(audio, RATE, contour, first, last)
        patches += render_run(audio, lay_out(run, RATE, correction))
    return apply_patches(audio, patches, 0)


def over(note: int, semitones: float) -> np.ndarray:
    """A constant correction over one note of the short performance."""
    found = analysed_short()
    target = found.notes[note]
    correction = np.zeros(len(found.contour.midi))
    correction[round(target.start_s / HOP_S) : round(target.end_s / HOP_S)] = semitones
    return np.where(found.contour.voiced, correction, 0.0)


class InterpolationTest(unittest.TestCase):
    def test_whole_positions_are_exact_and_fractions_follow_a_sine(self) -> None:
        x = np.sin(2 * np.pi * 0.11 * np.arange(400))
        np.testing.assert_allclose(read_between(x, np.arange(40.0, 300.0)), x[40:300], atol=1e-12)
        at = np.arange(50.0, 300.0) + 0.37
        np.testing.assert_allclose(read_between(x, at), np.sin(2 * np.pi * 0.11 * at), atol=1e-4)

    def test_outside_is_silence(self) -> None:
        self.assertEqual(read_between(np.ones(10), np.array([-100.0, 200.0])).tolist(), [0.0, 0.0])


class MarksTest(unittest.TestCase):
    def test_one_mark_a_cycle_between_samples(self) -> None:
        midi = np.full(RATE, 57.3)
        tone = harmonic_tone(midi, RATE)
        contour = track_f0(tone, RATE)
        first, last = voiced_runs(contour)[0]
        marks = pitch_marks(tone[np.newaxis], RATE, contour.midi[first:last], first)
        period = RATE / (440 * 2 ** ((57.3 - 69) / 12))
        inner = np.diff(marks)[5:-5]
        np.testing.assert_allclose(inner, period, atol=0.02)

    def test_phase_counts_marks(self) -> None:
        marks = np.array([10.0, 20.5, 30.25, 41.0])
        np.testing.assert_allclose(cycle_phase(marks, marks), np.arange(4), atol=1e-12)
        self.assertTrue((np.diff(cycle_phase(marks, np.arange(10, 41))) > 0).all())

    def test_synthesis_marks_without_a_change_are_the_analysis_marks(self) -> None:
        marks = np.cumsum(np.random.default_rng(1).uniform(99, 101, 50))
        placed = place_marks(marks, np.ones(50))
        np.testing.assert_allclose(placed.positions, marks, atol=1e-9)

    def test_after_a_change_marks_are_displaced_by_whole_samples(self) -> None:
        marks = np.cumsum(np.random.default_rng(1).uniform(99, 101, 60))
        ratio = np.where((np.arange(60) > 10) & (np.arange(60) < 30), 1.03, 1.0)
        placed = place_marks(marks, ratio)
        after = placed.positions[-10:] - marks[placed.sources[-10:]]
        np.testing.assert_allclose(after, round(after[0]), atol=1e-6)
        self.assertLessEqual(abs(after[0]), 51)


class RenderTest(unittest.TestCase):
    audio = sung_short()[1].audio[np.newaxis]

    def test_nothing_asked_is_the_source(self) -> None:
        np.testing.assert_array_equal(tuned(self.audio, np.zeros(len(analysed_short().contour.midi))), self.audio)

    def test_an_edit_touches_only_its_run(self) -> None:
        out = tuned(self.audio, over(2, 0.4))
        changed = np.flatnonzero((out != self.audio).any(axis=0)) / RATE
        note = analysed_short().notes[2]
        self.assertGreater(changed.min(), note.start_s - 0.01)
        self.assertLess(changed.max(), note.end_s + 0.02)

    def test_air_is_bit_identical_whatever_the_pitch(self) -> None:
        out = tuned(self.audio, sum(over(i, 3.0) for i in range(4)))
        for event in analysed_short().air:
            a, b = int((event.start_s + 0.01) * RATE), int((event.end_s - 0.015) * RATE)
            np.testing.assert_array_equal(out[:, a:b], self.audio[:, a:b])

    def test_the_pitch_follows(self) -> None:
        for semitones in (-2.0, -0.4, 0.3, 1.5, 4.0):
            out = tuned(self.audio, over(3, semitones))
            read = track_f0(out[0], RATE).midi
            before = analysed_short().contour.midi
            note = analysed_short().notes[3]
            inner = slice(round(note.start_s / HOP_S) + 12, round(note.end_s / HOP_S) - 12)
            off = 100 * (read[inner] - before[inner] - semitones)
            with self.subTest(semitones=semitones):
                self.assertLess(abs(np.nanmedian(off)), 1.5)
                self.assertLess(np.nanpercentile(np.abs(off), 95), 8.0)

    def test_a_note_sung_through_after_an_edit_is_the_same_wave_displaced(self) -> None:
        out = tuned(self.audio, over(0, 0.7))
        note = analysed_short().notes[1]
        a, b = int((note.start_s + 0.1) * RATE), int((note.end_s - 0.1) * RATE)
        period = RATE / 329
        best = min(
            (np.max(np.abs(out[0, a:b] - self.audio[0, a - d : b - d])), d) for d in range(-int(period), int(period))
        )
        self.assertEqual(best[0], 0.0)
        self.assertLessEqual(abs(best[1]), period / 2 + 1)

    def test_no_click_at_splices(self) -> None:
        for semitones in (-1.0, 0.5, 3.0):
            out = tuned(self.audio, over(2, semitones))[0]
            note = analysed_short().notes[2]
            inside = np.max(np.abs(np.diff(self.audio[0, int(note.start_s * RATE) : int(note.end_s * RATE)])))
            for edge in (note.start_s, note.end_s):
                near = slice(int((edge - 0.03) * RATE), int((edge + 0.03) * RATE))
                allowed = max(inside, np.max(np.abs(np.diff(self.audio[0, near]))))
                self.assertLessEqual(np.max(np.abs(np.diff(out[near]))), 1.05 * allowed)

    def test_stereo_keeps_its_image(self) -> None:
        both = np.stack((self.audio[0], 0.5 * self.audio[0]))
        out = tuned(both, over(3, 1.0))
        np.testing.assert_allclose(out[1], 0.5 * out[0], atol=1e-9)

    def test_any_span_is_the_slice_of_the_whole(self) -> None:
        contour = analysed_short().contour
        correction = over(0, 0.5) + over(3, -1.2)
        patches: list[Patch] = []
        for first, last in voiced_runs(contour):
            run = prepare_run(self.audio, RATE, contour, first, last)
            patches += render_run(self.audio, lay_out(run, RATE, correction))
        whole = apply_patches(self.audio, patches, 0)
        rng = np.random.default_rng(8)
        for _ in range(30):
            a, b = sorted(rng.integers(0, self.audio.shape[1], 2))
            np.testing.assert_array_equal(apply_patches(self.audio[:, a:b], patches, a), whole[:, a:b])

    def test_parts_join_as_if_they_were_one(self) -> None:
        """Whatever the length of the parts."""
        correction = over(0, 0.5) + over(1, 0.7) + over(2, 9.0) + over(3, -1.2)
        with patch("glass_thread.core.synthesis.voice.layout.PART_S", 60.0):
            whole = tuned(self.audio, correction)
        for length_s in (0.05, 0.31, 0.25, 1.0):
            with patch("glass_thread.core.synthesis.voice.layout.PART_S", length_s), self.subTest(length_s=length_s):
                np.testing.assert_allclose(tuned(self.audio, correction), whole, atol=1e-9)

    def test_of_a_long_run_only_what_is_asked_for_is_rendered(self) -> None:
        audio = harmonic_tone(np.full(12 * RATE, 55.35), RATE)[np.newaxis]
        contour = Contour(np.full(round(12.0 / HOP_S), 55.35), np.ones(round(12.0 / HOP_S)))
        run = prepare_run(audio, RATE, contour, 2, len(contour.midi) - 2)
        layout = lay_out(run, RATE, np.full(len(contour.midi), 0.4))
        self.assertGreater(len(layout.parts), 20)
        begin, end = 5 * RATE, 5 * RATE + RATE // 4
        asked = list(layout.parts_over(begin, end))
        self.assertLessEqual(len(asked), 2)
        self.assertLessEqual(asked[0][0], begin)
        self.assertGreaterEqual(asked[-1][1], end)
        read = []

        def reading(a: int, b: int) -> np.ndarray:
            read.append((a, b))
            return audio[:, a:b]

        render_part(reading, layout, asked[0])
        self.assertLess(max(b for _, b in read) - min(a for a, b in read if b > 0), RATE)

    def test_the_same_input_gives_the_same_output(self) -> None:
        np.testing.assert_array_equal(tuned(self.audio, over(1, 0.8)), tuned(self.audio, over(1, 0.8)))

    def test_the_source_is_not_written(self) -> None:
        source = self.audio.copy()
        source.flags.writeable = False
        tuned(source, over(2, 1.0))

    def test_nearer_to_the_singer_in_tune_than_the_source_is(self) -> None:
        # The singer's own render of the right pitch is what an ideal correction gives.
        from glass_thread.demo.singer import sing

        ideal = sing(sung_short()[0].in_tune(), RATE).audio
        note = analysed_short().notes[3]
        a, b = int((note.start_s + 0.1) * RATE), int((note.end_s - 0.1) * RATE)

        def spectra(x: np.ndarray) -> np.ndarray:
            view = np.lib.stride_tricks.sliding_window_view(x[a:b], 2048)[::512] * np.hanning(2048)
            level = 20 * np.log10(np.abs(np.fft.rfft(view, axis=1))[:, :370] + 0.3)
            return level - level.mean()

        out = tuned(self.audio, over(3, -0.2))[0]
        error = np.sqrt(np.mean((spectra(out) - spectra(ideal)) ** 2))
        self.assertLess(error, 0.5 * np.sqrt(np.mean((spectra(self.audio[0]) - spectra(ideal)) ** 2)))


class CurveTest(unittest.TestCase):
    def test_notes_on_the_curve_are_left_and_others_follow(self) -> None:
        found = analysed_short()
        target = found.contour.midi.copy()
        note = found.notes[3]
        a, b = round(note.start_s / HOP_S), round(note.end_s / HOP_S)
        target[a:b] -= 0.5
        correction = curve_correction(found.contour, found.notes, target)
        self.assertFalse(correction[: a - 20].any())
        np.testing.assert_allclose(correction[a + 20 : b - 20], -0.5, atol=1e-9)

    def test_unvoiced_and_unasked_frames_stay(self) -> None:
        found = analysed_short()
        target = np.full(len(found.contour.midi), np.nan)
        self.assertFalse(curve_correction(found.contour, found.notes, target).any())
