"""Takes as they arrive: what is not the singer is no note, and nothing of the singer is lost.

The voices are the demo's own; the same is measured on other material by the benchmark.
"""

import unittest
from functools import lru_cache

import numpy as np
import soundfile as sf

from glass_thread.bench.finding.analysis import truth_on_grid
from glass_thread.bench.finding.dirt import take_scores
from glass_thread.core.analysis.analysis import find_notes
from glass_thread.core.analysis.creak import creak_of
from glass_thread.core.analysis.hum import find_hum, notches
from glass_thread.core.analysis.lows import WithoutLows
from glass_thread.core.analysis.pitch.f0 import track_f0
from glass_thread.core.analysis.pitch.growl import raise_growled
from glass_thread.core.analysis.pitch.octaves import settle_octaves, within_reach
from glass_thread.core.analysis.presence import bled_in, in_the_gaps, ringing
from glass_thread.core.document.flags import find_flags
from glass_thread.core.signal.types import HOP_S, Contour, Note
from glass_thread.core.song.keys import make_tuning
from glass_thread.demo import dirt
from glass_thread.demo.singer import Sung
from glass_thread.demo.voices import random_performance
from tests.kept import analyse, sing
from tests.signals import RATE, REAL_TAKE, contour_of

SEED = 51  # not one that anything was tuned on


@lru_cache(maxsize=2)
def clean(voice: str) -> Sung:
    return sing(random_performance(voice, SEED), RATE)


def scores(voice: str, take: Sung) -> dict[str, float]:
    return take_scores(analyse(take.audio, RATE), random_performance(voice, SEED), clean(voice), take)


class TakesTest(unittest.TestCase):
    def check(self, take: Sung, *, false: float, notes: float, recall: float = 0.95, voice: str = "alto") -> None:
        found = scores(voice, take)
        self.assertLessEqual(found["false"], false)
        self.assertGreaterEqual(found["note F"], notes)
        self.assertGreaterEqual(found["within 50"], recall)
        self.assertEqual(found["lost"], 0)

    def test_mains_hum(self) -> None:
        self.check(dirt.with_hum(clean("alto"), -25.0, SEED), false=0.03, notes=0.93)
        self.check(dirt.with_hum(clean("bass"), -25.0, SEED, mains_hz=60.0), false=0.03, notes=0.93, voice="bass")

    def test_a_room(self) -> None:
        self.check(dirt.in_a_room(clean("alto"), -12.0, SEED, rt60_s=1.2), false=0.12, notes=0.8)
        self.check(dirt.in_a_room(clean("alto"), -20.0, SEED, rt60_s=0.9), false=0.06, notes=0.93)

    def test_another_voice_in_the_headphones(self) -> None:
        self.check(dirt.with_bleed(clean("bass"), -30.0, SEED), false=0.1, notes=0.9, voice="bass")
        self.check(dirt.with_bleed(clean("bass"), -18.0, SEED), false=0.1, notes=0.8, voice="bass")

    def test_a_long_plate(self) -> None:
        self.check(dirt.in_a_room(clean("bass"), -10.0, SEED, rt60_s=2.0), false=0.15, notes=0.85, voice="bass")

    def test_steps_and_puffs_of_air_are_no_voice(self) -> None:
        self.check(dirt.with_rumble(clean("alto"), SEED), false=0.01, notes=0.95)

    def test_a_constant_offset_changes_nothing(self) -> None:
        plain, moved = (analyse(take.audio, RATE) for take in (clean("alto"), dirt.offset_by(clean("alto"), 0.1)))
        self.assertEqual(len(moved.notes), len(plain.notes))
        for one, other in zip(plain.notes, moved.notes, strict=True):
            self.assertAlmostEqual(other.start_s, one.start_s, delta=0.006)
            self.assertAlmostEqual(other.level_db, one.level_db, delta=0.1)
        self.assertEqual([event.kind for event in moved.air], [event.kind for event in plain.air])

    def test_a_buzz_of_fifteen_harmonics(self) -> None:
        self.check(dirt.with_hum(clean("alto"), -20.0, SEED, parts=dirt.BUZZ), false=0.03, notes=0.9)

    def test_growl_is_no_octave_lower(self) -> None:
        self.check(dirt.growling(clean("bass")), false=0.01, notes=0.95, voice="bass")
        self.check(dirt.growling(clean("tenor")), false=0.01, notes=0.95, voice="tenor")

    def test_a_soft_half_keeps_all_its_notes(self) -> None:
        take = dirt.softer_from(clean("alto"), 0.5, -30.0)
        self.check(take, false=0.01, notes=0.99, recall=0.99)

    def test_creak_belongs_to_its_note(self) -> None:
        take = dirt.with_creak(clean("bass"), SEED)
        self.check(take, false=0.01, notes=0.9, voice="bass")


class TwoVoicesTest(unittest.TestCase):
    def test_a_duet_is_told_and_one_voice_is_not(self) -> None:
        alto, bass = clean("alto"), clean("bass")
        self.assertTrue(analyse(dirt.with_other(alto, bass, -3.0).audio, RATE).polyphonic)
        self.assertFalse(analyse(dirt.with_other(alto, bass, -18.0).audio, RATE).polyphonic)
        self.assertFalse(analyse(dirt.in_a_room(alto, -10.0, SEED, rt60_s=2.0).audio, RATE).polyphonic)
        for name in ("vocadito_10", "vocadito_14", "arctic_a0007", "sung_score_1"):
            audio, rate = sf.read(str(REAL_TAKE.parent / f"{name}.flac"))
            self.assertFalse(analyse(audio, rate).polyphonic, name)


class HumTest(unittest.TestCase):
    def test_found_where_it_is_and_only_there(self) -> None:
        self.assertEqual(find_hum(clean("alto").audio, RATE).hz, ())
        for mains in (50.0, 60.0):
            hum = find_hum(dirt.with_hum(clean("alto"), -25.0, SEED, mains_hz=mains).audio, RATE)
            self.assertGreaterEqual(len(hum.hz), 3)
            np.testing.assert_allclose(np.array(hum.hz) % mains, 0.0)

    def test_a_held_note_at_a_multiple_of_the_mains_is_no_hum(self) -> None:
        time = np.arange(8 * RATE) / RATE
        tone = 0.1 * np.sin(2 * np.pi * 120.0 * time) * ((time % 2.0) < 1.5)
        self.assertEqual(find_hum(tone, RATE).hz, ())

    def test_silence_and_a_short_take(self) -> None:
        self.assertEqual(find_hum(np.zeros(RATE * 5), RATE).hz, ())
        self.assertEqual(find_hum(np.zeros(100), RATE).hz, ())

    def test_notches_take_out_what_they_name_and_leave_the_rest(self) -> None:
        from scipy.signal import sosfreqz

        _, gain = sosfreqz(notches((50.0, 150.0), 16_000), [50.0, 100.0, 150.0, 440.0], fs=16_000)
        np.testing.assert_allclose(np.abs(gain[[0, 2]]), 0.0, atol=1e-6)
        np.testing.assert_allclose(np.abs(gain[[1, 3]]), 1.0, atol=0.02)


def phrases(levels: list[float], tail: float = 0.0) -> tuple[Contour, np.ndarray]:
    """Held notes of half a second at these levels with a second between, each with a ringing tail of `tail` seconds
    that sets in 14 dB down and fades by 60 dB a second."""
    midi = np.full(int(1.5 / HOP_S) * len(levels), np.nan)
    level = np.full(len(midi), -90.0)
    for i, own in enumerate(levels):
        a, b = int(1.5 * i / HOP_S), int((1.5 * i + 0.5) / HOP_S)
        c = b + int(tail / HOP_S)
        midi[a:c], level[a:b] = 60.0 + i, own
        level[b:c] = own - 14.0 - 60.0 * HOP_S * np.arange(c - b)
    return contour_of(midi), level


class PresenceTest(unittest.TestCase):
    def test_tails_are_cut_where_the_voice_stops(self) -> None:
        contour, level = phrases([-20.0] * 4, tail=0.3)
        rings = ringing(contour, level)
        for i in range(4):
            voice, end = int((1.5 * i + 0.5) / HOP_S), int((1.5 * i + 0.8) / HOP_S)
            self.assertTrue(rings[voice + 2 : end].all())
            self.assertFalse(rings[int(1.5 * i / HOP_S) : voice - 2].any())

    def test_one_tail_is_no_room_and_a_fade_no_tail(self) -> None:
        contour, level = phrases([-20.0, -20.0, -20.0, -20.0])
        self.assertFalse(ringing(contour, level).any())
        fade = np.where(contour.voiced, -20.0 - 30.0 * ((np.arange(len(level)) * HOP_S) % 1.5), -90.0)
        self.assertFalse(ringing(contour, fade).any())  # 15 dB within the note, but no sudden stop

    def test_two_tails_are_a_room_when_they_are_long(self) -> None:
        for tail, rings in ((0.15, False), (0.3, True)):
            self.assertEqual(bool(ringing(*phrases([-20.0] * 2, tail=tail)).any()), rings)

    def test_what_comes_after_a_tail_does_not_hide_it(self) -> None:
        contour, level = phrases([-20.0] * 3, tail=0.3)
        for i in range(3):
            end = int((1.5 * i + 0.8) / HOP_S)
            level[end - 10 : end] = -24.0  # the next sound sets in while the room is still heard
        self.assertTrue(ringing(contour, level)[int(0.6 / HOP_S) : int(0.8 / HOP_S)].all())

    def test_what_shows_in_the_gap_of_a_consonant_is_no_note(self) -> None:
        for between, under, gone in ((72.0, 12.0, True), (72.0, 4.0, False), (62.0, 12.0, False)):
            midi = np.concatenate([np.full(100, 60.0), np.full(20, between), np.full(100, 62.0)])
            midi[[100, 119]] = np.nan
            level = np.where((np.arange(220) > 99) & (np.arange(220) < 120), -20.0 - under, -20.0)
            self.assertEqual(bool(in_the_gaps(midi, level).any()), gone, (between, under))

    def test_a_voice_that_fills_the_rests_far_below_is_bleed(self) -> None:
        contour, level = phrases([-15.0, -40.0, -15.0, -40.0, -15.0, -40.0, -15.0])
        bled = bled_in(contour.midi, level)
        self.assertEqual({int(m) for m in np.unique(contour.midi[bled])}, {61, 63, 65})

    def test_a_soft_phrase_is_no_bleed(self) -> None:
        for levels in ([-15.0] * 4 + [-45.0] * 4, [-15.0, -40.0, -15.0, -15.0, -15.0, -15.0, -15.0]):
            contour, level = phrases(levels)
            self.assertFalse(bled_in(contour.midi, level).any())

    def test_nothing_sung(self) -> None:
        nothing = contour_of(np.full(50, np.nan))
        self.assertFalse(ringing(nothing, np.full(50, -90.0)).any())
        self.assertFalse(bled_in(nothing.midi, np.full(50, -90.0)).any())

    def test_what_a_note_leaps_down_to_at_once_is_another_voice(self) -> None:
        midi, level = np.full(400, np.nan), np.full(400, -90.0)
        for under, held, gone in ((25.0, 100, True), (8.0, 100, False), (25.0, 15, False)):
            midi[20:150], level[20:150] = 62.0, -15.0
            midi[150 : 150 + held], level[150 : 150 + held] = 57.0, -15.0 - under
            midi[150 + held :], level[150 + held :] = np.nan, -90.0
            self.assertEqual(bool(bled_in(midi, level)[150 : 150 + held].all()), gone, (under, held))
            self.assertFalse(bled_in(midi, level)[20:150].any())


class LowsTest(unittest.TestCase):
    def test_where_a_slice_begins_makes_no_difference(self) -> None:
        noise = np.random.default_rng(5).standard_normal(3 * RATE) + 0.3
        line = WithoutLows(noise, RATE)
        whole = line[0 : len(noise)]
        np.testing.assert_allclose(line[RATE : RATE + 5000], whole[RATE : RATE + 5000], atol=1e-6)
        self.assertEqual(len(line[10:10]), 0)

    def test_an_offset_does_not_set_in(self) -> None:
        self.assertLess(np.abs(WithoutLows(np.full(RATE, 0.5), RATE)[0:RATE]).max(), 1e-9)


class GrowlTest(unittest.TestCase):
    def test_cycles_that_differ_by_turns_are_told_from_a_lower_voice(self) -> None:
        time = np.arange(16_000) / 16_000
        voice = sum(np.cos(2 * np.pi * 220.0 * k * time) / k for k in range(1, 15))
        low = sum(np.cos(2 * np.pi * 110.0 * k * time) / k for k in range(1, 30))
        read = np.full(150, 110.0)
        for sound, hz in ((voice * (1.0 + 0.3 * np.cos(2 * np.pi * 110.0 * time)), 220.0), (low, 110.0)):
            np.testing.assert_allclose(raise_growled(sound.astype(np.float32), 16_000, read), hz)


class CreakTest(unittest.TestCase):
    def test_read_back_from_notes_and_given_again_when_cut_anew(self) -> None:
        midi = np.full(200, np.nan)
        midi[60:160] = 55.0
        note = Note("n0001", 40 * HOP_S, 160 * HOP_S, 55.0, 0.0, None, -20.0, 0)
        creak = creak_of([note], midi)
        self.assertEqual(np.flatnonzero(creak).tolist(), list(range(40, 60)))
        again = find_notes(contour_of(midi), np.full(200, -20.0), creak=creak)
        self.assertEqual([(n.start_s, n.end_s) for n in again], [(40 * HOP_S, 160 * HOP_S)])


class OctaveTest(unittest.TestCase):
    def test_a_short_stretch_an_octave_below_is_raised_and_a_long_one_is_not(self) -> None:
        candidates = np.stack((np.full(200, 200.0), np.full(200, 100.0)), axis=1)
        scores = np.stack((np.full(200, 0.7), np.full(200, 0.72)), axis=1)
        hz = np.full(200, 200.0)
        hz[50:70] = 100.0
        np.testing.assert_allclose(settle_octaves(hz, candidates, scores), 200.0)
        hz[50:150] = 100.0
        scores[:, 0] = 0.66
        np.testing.assert_allclose(settle_octaves(hz, candidates, scores), hz)

    def test_a_whole_note_is_raised_when_one_period_does_nearly_as_well_as_two(self) -> None:
        candidates = np.stack((np.full(100, 200.0), np.full(100, 100.0)), axis=1)
        scores = np.stack((np.full(100, 0.88), np.full(100, 0.90)), axis=1)
        np.testing.assert_allclose(settle_octaves(np.full(100, 100.0), candidates, scores), 200.0)

    def test_a_voice_with_another_under_it_is_not_read_an_octave_too_low(self) -> None:
        """Two altos of which the second, 18 dB under, sang a fifth apart: a whole note was read an octave down."""
        performance = random_performance("alto", 21)
        sung = sing(performance, RATE)
        found = analyse(dirt.with_bleed(sung, -18.0, 21).audio, RATE).contour.midi
        off = found - truth_on_grid(sung)[: len(found)]
        self.assertLess(np.nanmean(np.abs(off + 12.0) < 1.0), 0.01)

    def test_a_short_hole_is_closed_and_a_real_leap_kept(self) -> None:
        candidates, scores = np.ones((60, 1)), np.ones((60, 1))
        hz = np.full(60, 200.0)
        hz[30:32] = 0.0
        np.testing.assert_allclose(settle_octaves(hz, candidates, scores), 200.0)
        hz[32:] = 300.0
        np.testing.assert_allclose(settle_octaves(hz, candidates, scores), hz)

    def test_candidates_far_outside_the_range_of_the_voice_count_less(self) -> None:
        lags = np.stack((np.full(400, 40.0), np.full(400, 160.0)), axis=1)
        scores = np.stack((np.full(400, 0.95), np.full(400, 0.6)), axis=1)
        lowered = within_reach(np.zeros(400, dtype=np.int16), lags, scores)
        np.testing.assert_allclose(lowered[:, 0], scores[:, 0])
        self.assertLess(lowered[0, 1], 0.35)
        unsure = within_reach(np.zeros(400, dtype=np.int16), lags, scores - 0.3)
        np.testing.assert_allclose(unsure, scores - 0.3)


class RealTakeTest(unittest.TestCase):
    """A real voice, unlabelled: what can be said without labels."""

    @classmethod
    def setUpClass(cls) -> None:
        audio, rate = sf.read(str(REAL_TAKE))
        cls.found = analyse(audio, rate)
        cls.tracked = track_f0(audio, rate)

    def test_nothing_of_the_voice_is_taken_for_room_hum_or_bleed(self) -> None:
        kept = np.isfinite(self.found.contour.midi).sum() / np.isfinite(self.tracked.midi).sum()
        self.assertGreater(kept, 0.98)

    def test_about_as_many_notes_as_an_eye_sees(self) -> None:
        self.assertTrue(18 <= len(self.found.notes) <= 29, len(self.found.notes))  # 20 to 29 by eye

    def test_flags_are_the_exception_once_the_tuning_is_the_singers(self) -> None:
        key = make_tuning(0, "chromatic", reference_hz=self.found.reference_hz)
        targets = {n.id: key.nearest(n.centre_midi, "scale") for n in self.found.notes}
        flagged = {flag.note_id for flag in find_flags(self.found.notes, targets, self.found.contour)}
        self.assertLess(len(flagged), 0.25 * len(self.found.notes))  # about one in six is wanted
        minor = make_tuning(10, "natural minor", reference_hz=self.found.reference_hz)
        far = {n.id: minor.nearest(n.centre_midi, "scale") for n in self.found.notes}
        flagged = {flag.note_id for flag in find_flags(self.found.notes, far, self.found.contour)}
        self.assertLess(len(flagged), 0.25 * len(self.found.notes))
        held = [n for n in self.found.notes if n.end_s - n.start_s > 0.3 and abs(n.centre_midi - far[n.id]) > 0.6]
        self.assertTrue(held)
        self.assertTrue({n.id for n in held} <= flagged)

    def test_short_notes_have_no_drift(self) -> None:
        for note in self.found.notes:
            if note.end_s - note.start_s < 0.39:
                self.assertEqual(note.drift_cents_per_s, 0.0)
