import unittest
from dataclasses import replace
from unittest.mock import patch

import numpy as np
import parselmouth
import soundfile as sf

from glass_thread.core.analysis.pitch.f0 import track_f0
from glass_thread.core.document.content import Content, Pin, as_found
from glass_thread.core.plan.plan import Plan, build_plan, displaced_spans
from glass_thread.core.plan.time_map import sample_map, unmoved
from glass_thread.core.signal.recording import held
from glass_thread.core.signal.signal_tools import frame_rms
from glass_thread.core.signal.types import HOP_S
from glass_thread.core.song.keys import make_tuning, one_key
from glass_thread.core.synthesis.render import render_part
from glass_thread.services.sound.recordings import CachedRecording
from glass_thread.services.sound.sound import Renderer
from glass_thread.store.byte_cache import ByteCache
from tests.kept import analyse
from tests.signals import RATE, REAL_TAKE, analysed_short, sung_short

KEY = one_key(make_tuning(0, "chromatic"))
AUDIO = sung_short()[1].audio[np.newaxis]
SOURCE = CachedRecording("short", held(AUDIO, RATE), ByteCache(1 << 28, lambda block: block.nbytes))
N = AUDIO.shape[1]


def moved(shifts: dict[int, tuple[float, float]], content: Content | None = None) -> Content:
    """The short take with notes, by number, that start and end so many ms later."""
    content = content or as_found(analysed_short())
    notes = dict(content.notes)
    for number, (start, end) in shifts.items():
        edited = list(notes.values())[number]
        timed = replace(edited.gesture, start_shift_ms=start, end_shift_ms=end)
        notes[edited.note.id] = replace(edited, gesture=timed)
    return replace(content, notes=notes)


def planned(shifts: dict[int, tuple[float, float]]) -> Plan:
    return build_plan(analysed_short(), moved(shifts), KEY)


def heard(plan: Plan, begin: int = 0, end: int = N, renderer: Renderer | None = None) -> np.ndarray:
    return (renderer or Renderer()).span(SOURCE, plan, begin, end)


class MapTest(unittest.TestCase):
    def test_unmoved_moves_nothing(self) -> None:
        self.assertEqual(unmoved().to_target(123.25), 123.25)
        self.assertEqual((unmoved().shift_at(99.0), unmoved().moves), (0, False))
        self.assertIs(unmoved().around(500, 900), unmoved())

    def test_rigid_pieces_lie_within_half_a_sample_of_their_place_however_many_there_are(self) -> None:
        plan = planned({0: (13.3, 21.7), 1: (21.7, 8.1), 2: (-11.9, 30.3), 3: (40.9, 40.9)})
        samples = sample_map(plan.stretches, RATE)
        for at in (0.41, 1.41, 1.5, 2.11, 2.2, 3.0, 3.9):
            if not any(one.start_s < at < one.end_s for one in plan.stretches):
                wanted = float(plan.times.source_to_track(at)) * RATE
                self.assertLessEqual(abs(samples.to_target(at * RATE) - wanted), 0.51, at)
        self.assertTrue((np.diff(samples.target) > 0).all())

    def test_there_and_back(self) -> None:
        samples = sample_map(planned({2: (-60.0, 0.0)}).stretches, RATE)
        at = np.arange(0.0, N, 997.0)
        there = np.array([samples.to_target(x) for x in at])
        np.testing.assert_allclose(samples.to_source(there), at, atol=1e-4)

    def test_a_run_that_is_only_displaced_has_the_map_that_moves_nothing(self) -> None:
        plan = planned({3: (40.0, 40.0)})
        samples = sample_map(plan.stretches, RATE)
        note = analysed_short().notes[3]
        inner = samples.around(round((note.start_s + 0.02) * RATE), round((note.end_s - 0.02) * RATE))
        self.assertIs(inner, unmoved())


class SoundTest(unittest.TestCase):
    EDITS = ({0: (30.0, 30.0)}, {1: (40.0, 40.0)}, {2: (0.0, 100.0)}, {2: (-60.0, 0.0)}, {3: (200.0, 200.0)},
             {3: (-80.0, 150.0)}, {0: (0.0, -90.0), 1: (-90.0, 0.0)})  # fmt: skip

    def test_any_span_is_that_slice_of_the_whole(self) -> None:
        for edit in self.EDITS:
            plan = planned(edit)
            whole = heard(plan)
            parts = np.concatenate([heard(plan, a, a + 7001) for a in range(0, N, 7001)], axis=1)
            np.testing.assert_array_equal(parts, whole)

    def test_nothing_is_different_outside_what_is_said_to_be_displaced(self) -> None:
        still = planned({})
        for edit in self.EDITS:
            plan = planned(edit)
            away = np.ones(N, dtype=bool)
            for a, b in displaced_spans(still, plan):
                away[max(0, round(a * RATE)) : round(b * RATE)] = False
            np.testing.assert_array_equal(heard(plan)[:, away], AUDIO[:, away])

    def test_nor_on_a_real_voice_that_is_sung_on(self) -> None:
        """After a stretched vowel the voice may be off its place by part of a cycle until it stops, no longer."""
        audio, rate = sf.read(str(REAL_TAKE), always_2d=True)
        audio = audio.T[:1]
        found = analyse(audio, rate)
        take = CachedRecording("real", held(audio, rate), ByteCache(1 << 28, lambda block: block.nbytes))
        still = build_plan(found, as_found(found), KEY)
        for number in (4, 6, 17, 20):
            plan = build_plan(found, moved({number: (-20.0, 20.0)}, as_found(found)), KEY)
            tuned = Renderer().span(take, plan, 0, audio.shape[1])
            away = np.ones(audio.shape[1], dtype=bool)
            for a, b in displaced_spans(still, plan):
                away[max(0, round(a * rate)) : round(b * rate)] = False
            with self.subTest(note=number):
                np.testing.assert_array_equal(tuned[:, away], audio[:, away])
                self.assertGreater(np.mean(away), 0.5)

    def test_what_is_moved_whole_is_the_same_samples_at_their_new_place(self) -> None:
        plan = planned({3: (200.0, 200.0)})
        note = analysed_short().notes[3]
        a, b, by = round(note.start_s * RATE), round(note.end_s * RATE), round(0.2 * RATE)
        np.testing.assert_array_equal(heard(plan)[:, a + by : b + by], AUDIO[:, a:b])

    def test_consonants_beside_a_moved_note_keep_their_samples(self) -> None:
        air = next(event for event in analysed_short().air if event.kind == "sibilant")
        plan = planned({2: (60.0, 0.0)})
        a, b, by = round(air.start_s * RATE), round(air.end_s * RATE), round(0.06 * RATE)
        np.testing.assert_array_equal(heard(plan)[:, a + by : b + by], AUDIO[:, a:b])

    def test_no_jump_at_any_border_over_the_sound_around_it(self) -> None:
        allowed = np.abs(np.diff(AUDIO[0])).max()
        for edit in self.EDITS:
            self.assertLessEqual(np.abs(np.diff(heard(planned(edit))[0])).max(), 1.05 * allowed)

    def test_what_is_only_displaced_is_not_rendered_again(self) -> None:
        renderer = Renderer()
        with patch("glass_thread.services.sound.sound.render_part", wraps=render_part) as rendered:
            heard(planned({3: (0.0, 100.0)}), renderer=renderer)
            before = rendered.call_count
            self.assertGreater(before, 0)
            later = planned({3: (50.0, 150.0)})
            again = heard(later, renderer=renderer)
            self.assertEqual(rendered.call_count, before)
        np.testing.assert_array_equal(again, heard(later))


class StretchTest(unittest.TestCase):
    def stretched(self, factor: float, **values: float) -> tuple[Plan, np.ndarray]:
        found = analysed_short()
        note = found.notes[3]
        more = (factor - 1.0) * (note.end_s - note.start_s)
        pins = {"a": Pin("a", note.start_s, note.start_s), "b": Pin("b", note.end_s, note.end_s + more),
                "c": Pin("c", found.duration_s, found.duration_s + more)}  # fmt: skip
        content = replace(as_found(found), pins=pins)
        for name, value in values.items():
            edited = content.notes[note.id]
            with_value = replace(edited, gesture=replace(edited.gesture, **{name: value}))
            content = replace(content, notes={**content.notes, note.id: with_value})
        plan = build_plan(found, content, KEY)
        return plan, heard(plan, 0, N + round(more * RATE))

    def test_pitch_stays_and_a_vibrato_keeps_its_rate(self) -> None:
        """An independent reading of the print: the track's own mean, and the vibrato's rate from its zero crossings."""
        note = analysed_short().notes[3]
        sung = analysed_short().contour.midi
        for factor in (0.7, 1.4, 2.0):
            plan, out = self.stretched(factor)
            read = track_f0(out[0], RATE).midi
            a, b = (
                round(float(plan.times.source_to_track(t)) / HOP_S) for t in (note.start_s + 0.45, note.end_s - 0.1)
            )
            a0, b0 = (round(t / HOP_S) for t in (note.start_s + 0.45, note.end_s - 0.1))
            with self.subTest(factor=factor):
                self.assertLess(100 * abs(np.nanmean(read[a:b]) - np.nanmean(sung[a0:b0])), 3.0)
                self.assertAlmostEqual(rate_of(read[a:b]), rate_of(sung[a0:b0]), delta=0.09 * rate_of(sung[a0:b0]))

    def test_time_and_pitch_are_one_render(self) -> None:
        note = analysed_short().notes[3]
        plan, out = self.stretched(1.4, target_midi=note.centre_midi + 1.0, pull=1.0)
        read = track_f0(out[0], RATE).midi
        a, b = (round(float(plan.times.source_to_track(t)) / HOP_S) for t in (note.start_s + 0.2, note.end_s - 0.2))
        wanted = plan.contour.midi + plan.correction
        there = plan.times.track_to_source(np.arange(a, b) * HOP_S) / HOP_S
        off = 100 * (read[a:b] - np.interp(there, np.arange(len(wanted)), wanted))
        self.assertLess(abs(np.nanmedian(off)), 2.0)
        self.assertLess(np.nanpercentile(np.abs(off), 90), 8.0)

    def test_an_added_vibrato_keeps_the_rate_that_was_asked_for(self) -> None:
        plan, out = self.stretched(1.6, vibrato=0.0, added_extent=60.0, added_rate_hz=6.0, added_onset_ms=0.0)
        note = analysed_short().notes[3]
        a, b = (round(float(plan.times.source_to_track(t)) / HOP_S) for t in (note.start_s + 0.2, note.end_s - 0.2))
        self.assertAlmostEqual(rate_of(track_f0(out[0], RATE).midi[a:b]), 6.0, delta=0.4)


def rate_of(midi: np.ndarray) -> float:
    """Hertz of a vibrato, by where it crosses its own slow course."""
    known = midi[np.isfinite(midi)]
    wide = np.convolve(np.pad(known, 20, mode="edge"), np.ones(41) / 41, "valid")
    crossings = np.flatnonzero(np.diff(np.sign(known - wide)) > 0)
    return (len(crossings) - 1) / ((crossings[-1] - crossings[0]) * HOP_S)


class VowelTest(unittest.TestCase):
    def test_formants_stay_within_three_percent(self) -> None:
        """By Praat's own measurement (Burg's method, five formants to 5500 Hz), in the middle of a held note."""
        found = analysed_short()
        note = found.notes[3]
        middle = (note.start_s + note.end_s) / 2
        for factor in (0.5, 0.7, 1.4, 2.0):
            more = (factor - 1.0) * (note.end_s - note.start_s)
            pins = [Pin("a", note.start_s, note.start_s), Pin("b", note.end_s, note.end_s + more),
                    Pin("c", found.duration_s, found.duration_s + more)]  # fmt: skip
            plan = build_plan(found, replace(as_found(found), pins={pin.id: pin for pin in pins}), KEY)
            out = heard(plan, 0, N + round(more * RATE))
            there = float(plan.times.source_to_track(middle))
            for number in (1, 2, 3):
                sung, stretched = formant(AUDIO[0], middle, number), formant(out[0], there, number)
                with self.subTest(factor=factor, formant=number):
                    self.assertLess(abs(stretched / sung - 1.0), 0.03)

    def test_the_level_goes_with_the_voice(self) -> None:
        """Loudness over time is stretched like the note: within 1 dB of the sung one in the middle of it."""
        found = analysed_short()
        note = found.notes[3]
        for factor in (0.7, 1.6):
            more = (factor - 1.0) * (note.end_s - note.start_s)
            pins = [Pin("a", note.start_s, note.start_s), Pin("b", note.end_s, note.end_s + more),
                    Pin("c", found.duration_s, found.duration_s + more)]  # fmt: skip
            plan = build_plan(found, replace(as_found(found), pins={pin.id: pin for pin in pins}), KEY)
            out = heard(plan, 0, N + round(more * RATE))
            moments = np.linspace(note.start_s + 0.15, note.end_s - 0.15, 40)
            sung = frame_rms(AUDIO[0], RATE, moments, 0.06)
            now = frame_rms(out[0], RATE, plan.times.source_to_track(moments), 0.06)
            with self.subTest(factor=factor):
                self.assertLess(np.abs(20.0 * np.log10(now / sung)).max(), 1.0)


def formant(samples: np.ndarray, at_s: float, number: int) -> float:
    """Median frequency of a formant over 0.2 s around a moment."""
    measured = parselmouth.Sound(samples, RATE).to_formant_burg(time_step=0.01, maximum_formant=5500.0)
    values = [measured.get_value_at_time(number, at_s + by) for by in np.arange(-0.1, 0.1, 0.01)]
    return float(np.nanmedian(values))
