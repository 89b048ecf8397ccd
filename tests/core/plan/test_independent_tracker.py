"""Gestures read back from the sound by a tracker that is not ours: Praat's autocorrelation (Boersma 1993)."""

import unittest
from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache

import numpy as np
import parselmouth
import scipy.optimize as so
import soundfile as sf
import soxr

from glass_thread.bench.sound.movement import edited, left_in_notes, printed
from glass_thread.bench.sound.real import Clip
from glass_thread.core.document.gestures import Gesture
from glass_thread.core.signal.types import HOP_S, Analysis, Floats, Note
from glass_thread.core.signal.units import hz_to_midi
from glass_thread.core.song.keys import make_tuning, one_key
from glass_thread.core.synthesis.render import render_whole
from glass_thread.demo.build import FOLDER
from glass_thread.demo.dirt import in_a_room, with_hum
from glass_thread.demo.singer import Sung
from glass_thread.demo.voices import random_performance
from tests.kept import analyse, sing
from tests.signals import RATE, REAL_TAKE, pitch_correction

KEY = one_key(make_tuning(0, "chromatic"))
RECORDINGS = REAL_TAKE.parent
READ_AT = 11_025  # hertz; enough for the pitch, and four times faster
VOICES = ("bass", "tenor", "alto", "soprano", "breathy", "rough")


def read(audio: Floats, rate: int) -> tuple[Floats, Floats]:
    """Times in seconds and MIDI pitch (NaN unvoiced), with Praat's longer, more accurate window."""
    sound = parselmouth.Sound(soxr.resample(audio, rate, READ_AT), sampling_frequency=READ_AT)
    pitch = sound.to_pitch_ac(time_step=0.005, pitch_floor=60.0, pitch_ceiling=1100.0, very_accurate=True)
    hz = pitch.selected_array["frequency"]
    return pitch.xs(), np.where(hz > 0, hz_to_midi(np.maximum(hz, 1.0)), np.nan)


@lru_cache(maxsize=8)
def take(voice: str) -> tuple[Floats, int, Analysis]:
    """A voice of the benchmark, or the demo's lead."""
    if voice == "demo":
        audio, rate = sf.read(str(FOLDER / "lead.flac"))
    else:
        audio, rate = sing(random_performance(voice, 52, duration_s=9.0), RATE).audio, RATE
    return audio, rate, analyse(audio, rate)


def after(voice: str, gesture_of: Callable[[Note], Gesture]) -> tuple[Analysis, Floats, Floats]:
    """Analysis of a take, and what is read from its sound with the gestures."""
    audio, rate, found = take(voice)
    gestures = {note.id: gesture_of(note) for note in found.notes}
    correction = pitch_correction(found.contour, found.notes, gestures, KEY, found.level_db)
    out = render_whole(audio[np.newaxis], rate, found.contour, correction)[0]
    return found, *read(out, rate)


def inside(note: Note, times: Floats, midi: Floats, edge_s: float) -> tuple[Floats, Floats]:
    """Voiced times and pitches of a note, off its edges."""
    kept = (times > note.start_s + edge_s) & (times < note.end_s - edge_s) & np.isfinite(midi)
    return times[kept], midi[kept]


def swing(times: Floats, midi: Floats, rate_hz: float) -> tuple[float, float]:
    """Rate in Hz and extent in cents of the sinusoid that fits best, near a rate."""

    def misfit(hz: float) -> tuple[float, Floats]:
        base = np.column_stack([np.ones_like(times), times - times.mean(),
                                np.sin(2 * np.pi * hz * times), np.cos(2 * np.pi * hz * times)])  # fmt: skip
        fit, *_ = np.linalg.lstsq(base, midi, rcond=None)
        return float(np.sum((midi - base @ fit) ** 2)), fit

    best = so.minimize_scalar(lambda hz: misfit(hz)[0], bounds=(rate_hz - 0.6, rate_hz + 0.6), method="bounded")
    fit = misfit(best.x)[1]
    return float(best.x), 100.0 * float(np.hypot(fit[2], fit[3]))


def held(found: Analysis) -> list[Note]:
    """Long notes with vibrato that is there for most of the note."""
    return [n for n in found.notes if n.vibrato and n.end_s - n.start_s - n.vibrato.onset_s > 0.75]


class IndependentTest(unittest.TestCase):
    def test_centres_lie_on_their_targets(self) -> None:
        everything = []
        for voice in (*VOICES, "demo"):
            target = {n.id: float(round(n.centre_midi)) for n in take(voice)[2].notes}
            pulled = lambda n, target=target: Gesture(target_midi=target[n.id], pull=1.0)  # noqa: E731
            found, times, midi = after(voice, pulled)
            off = []
            for note in found.notes:
                _, pitch = inside(note, times, midi, 0.06)
                if len(pitch) > 25 and abs(note.drift_cents_per_s) < 20:
                    off.append(100 * abs(float(np.median(pitch)) - target[note.id]))
            everything += off
            with self.subTest(voice):
                self.assertLess(np.median(off), 6.0)  # a breathy voice reads 4.6
        self.assertLess(np.median(everything), 3.0)

    def test_drift_goes(self) -> None:
        slopes = {}
        for drift in (1.0, 0.0):
            found, times, midi = after("demo", lambda n, d=drift: Gesture(drift=d))
            for note in found.notes:
                at, pitch = inside(note, times, midi, 0.08)
                if note.end_s - note.start_s > 0.9 and abs(note.drift_cents_per_s) > 15 and len(at) > 100:
                    slopes.setdefault(note.id, []).append(100 * np.polyfit(at, pitch, 1)[0])
        self.assertGreater(len(slopes), 3)
        before, gone = np.abs(np.array(list(slopes.values()))).T
        self.assertGreater(np.median(before), 15.0)
        self.assertLess(np.median(gone), 3.0)

    def test_vibrato_is_scaled_and_keeps_its_rate(self) -> None:
        shares, rates = [], []
        read_ = {share: after("demo", lambda n, s=share: Gesture(vibrato=s)) for share in (1.0, 0.3)}
        for note in held(take("demo")[2]):
            begin = replace(note, start_s=note.start_s + note.vibrato.onset_s)
            (hz, full), (slower, part) = (
                swing(*inside(begin, t, m, 0.1), note.vibrato.rate_hz) for _, t, m in read_.values()
            )
            shares.append(part / full)
            rates.append(abs(slower - hz))
        self.assertGreater(len(shares), 3)
        self.assertAlmostEqual(float(np.median(shares)), 0.3, delta=0.04)
        self.assertLess(np.median(rates), 0.1)

    def test_vibrato_goes_and_fine_movement_stays(self) -> None:
        left, fine = [], []
        found, times, midi = after("demo", lambda n: Gesture(vibrato=0.0))
        for note in held(found):
            begin = replace(note, start_s=note.start_s + note.vibrato.onset_s)
            at, pitch = inside(begin, times, midi, 0.1)
            left.append(swing(at, pitch, note.vibrato.rate_hz)[1])
            fine.append(np.std(np.diff(100 * pitch)))
        self.assertLess(np.median(left), 3.0)
        self.assertGreater(np.median(fine), 0.05)

    def test_added_vibrato_is_what_was_asked(self) -> None:
        asked = Gesture(added_extent=35.0, added_rate_hz=5.8, added_onset_ms=150.0, added_seed=3)
        found, times, midi = after("demo", lambda n: asked)
        rates, extents = [], []
        for note in found.notes:
            if note.vibrato is None and note.end_s - note.start_s > 0.9:
                begin = replace(note, start_s=note.start_s + 0.35)
                hz, cents = swing(*inside(begin, times, midi, 0.15), 5.8)
                rates.append(hz)
                extents.append(cents)
        self.assertGreater(len(rates), 3)
        self.assertAlmostEqual(float(np.median(rates)), 5.8, delta=0.1)
        self.assertAlmostEqual(float(np.median(extents)), 35.0, delta=4.0)


class MovementTest(unittest.TestCase):
    """What faders of movement leave, on a real clip as it is and in a room with hum, and on a singer who wanders."""

    def take(self, name: str) -> Clip:
        audio, rate = sf.read(str(RECORDINGS / "vocadito_14.flac"))
        if name == "in a room with hum":
            read = analyse(audio, rate).contour.midi
            sung = Sung(audio, read[np.minimum(np.arange(len(audio)) / rate / HOP_S, len(read) - 1).astype(int)], rate)
            audio = with_hum(in_a_room(sung, -22.0, 3, rt60_s=0.5), -40.0, 3).audio
        if name == "wandering":
            voice = random_performance("alto", 91)
            voice = replace(voice, voice=replace(voice.voice, wander_cents=38.0))
            audio, rate = sing(voice, RATE).audio, RATE
        return Clip(name, audio, rate, analyse(audio, rate))

    def test_at_0_50_100_and_200(self) -> None:
        for name, most, most_at_90 in (
            ("real", 8.0, 16.0),
            ("in a room with hum", 12.0, 24.0),
            ("wandering", 3.0, 6.0),
        ):
            clip = self.take(name)
            notes = clip.found.notes
            sung = left_in_notes(read_on_grid(clip.audio, clip.rate), notes)
            left = {}
            for share in (0.0, 0.5, 2.0):
                asked = {"type": "tune_pass", "note_ids": "all", "pull": 1.0, "movement": share}
                left[share] = left_in_notes(read_on_grid(printed(clip, edited(clip, asked)), clip.rate), notes)
            with self.subTest(name):
                self.assertLessEqual(np.nanmedian(left[0.0]), most)
                self.assertLessEqual(np.nanpercentile(left[0.0], 90), most_at_90)
                self.assertGreater(np.nanmedian(left[0.5] / sung), 0.42)
                self.assertLess(np.nanmedian(left[0.5] / sung), 0.58)
                self.assertAlmostEqual(float(np.nanmedian(left[2.0] / sung)), 2.0, delta=0.2)
            as_sung = edited(clip, {"type": "tune_pass", "note_ids": "all", "pull": 0.0})
            np.testing.assert_array_equal(printed(clip, as_sung), clip.audio)


def read_on_grid(audio: Floats, rate: int) -> Floats:
    """Praat's pitch as the benchmark reads it, on the analysis grid."""
    pitch = parselmouth.Sound(audio, rate).to_pitch_ac(time_step=HOP_S, pitch_floor=50.0, pitch_ceiling=1200.0)
    hz = pitch.selected_array["frequency"]
    near = np.clip(np.round((np.arange(int(len(audio) / rate / HOP_S) + 1) * HOP_S - pitch.xs()[0]) / HOP_S), 0,
                   len(hz) - 1).astype(int)  # fmt: skip
    return np.where(hz[near] > 0, hz_to_midi(np.maximum(hz[near], 1.0)), np.nan)
