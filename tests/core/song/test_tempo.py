"""Tempo, meter and bar 1 of click tracks and of made backings whose tempo is known."""

import unittest

import numpy as np

from glass_thread.core.signal.recording import HeldRecording
from glass_thread.core.signal.types import Note
from glass_thread.core.song.onsets import ONSET_HOP_S, onsets_of, onsets_of_notes
from glass_thread.core.song.tempo import HARMONICS, Tempo, TempoEstimate, _comb_at, estimate_tempo
from glass_thread.demo.backing import play

RATE = 44_100
WITHIN = 0.005  # of the tempo, wanted of the first or of a listed half or double


def clicks(bpm: float, *, meter: int = 4, first_s: float = 0.37, length_s: float = 24.0, jitter_s: float = 0.0,
           eighths: float = 0.0) -> HeldRecording:  # fmt: skip
    """Clicks, the first of a bar higher and louder, with softer ones between."""
    rng = np.random.default_rng(int(10 * bpm))
    audio = 1e-4 * rng.standard_normal(int(length_s * RATE))
    t = np.arange(int(0.05 * RATE)) / RATE
    for i, at in enumerate(np.arange(first_s, length_s - 0.2, 30.0 / bpm)):
        down = i % (2 * meter) == 0
        loud = eighths if i % 2 else 1.0 if down else 0.6
        a = int((at + jitter_s * rng.standard_normal()) * RATE)
        audio[a : a + len(t)] += loud * np.sin(2 * np.pi * (1500 if down else 1000) * t) * np.exp(-t / 0.01)
    return HeldRecording(audio[np.newaxis], RATE)


def band(bpm: float, *, meter: int = 4, first_s: float = 0.2, length_s: float = 40.0) -> HeldRecording:
    """Drum, snare and hat played 8 ms loosely, and a bass note a bar."""
    rng = np.random.default_rng(int(bpm))
    audio = 1e-4 * rng.standard_normal(int(length_s * RATE))
    t = np.arange(int(0.3 * RATE)) / RATE
    drum = np.sin(2 * np.pi * (50 + 80 * np.exp(-t / 0.03)) * t) * np.exp(-t / 0.1)
    snare = 0.4 * rng.standard_normal(len(t)) * np.exp(-t / 0.06)
    hat = 0.12 * np.diff(rng.standard_normal(len(t) + 1)) * np.exp(-t / 0.015)

    def strike(sound: np.ndarray, at_s: float) -> None:
        a = int(max(0.0, at_s + 0.008 * rng.standard_normal()) * RATE)
        audio[a : a + len(sound)] += sound[: len(audio) - a]

    beat_s = 60.0 / bpm
    for beat in range(int((length_s - first_s - 0.5) / beat_s)):
        at, k = first_s + beat * beat_s, beat % meter
        if k == 0:
            length = np.arange(int(beat_s * meter * RATE)) / RATE
            strike(0.2 * np.sin(2 * np.pi * 80 * 2 ** (rng.integers(12) / 12) * length) * np.exp(-length / 1.5), at)
        if k % 2 == 0 or meter == 3:
            strike(drum if k == 0 else 0.5 * drum, at)
        if k % 2 == 1 and rng.random() < 0.8:
            strike(snare, at)
        strike(hat, at)
        strike(0.7 * hat, at + beat_s / 2)
    return HeldRecording(audio[np.newaxis], RATE)


class TempoTest(unittest.TestCase):
    def known(self, recording: HeldRecording, bpm: float) -> tuple[Tempo, TempoEstimate]:
        """The offered tempo that is the known one, first checked to be among those offered."""
        found = estimate_tempo(onsets_of(recording))
        assert found is not None
        nearest = min(found.tempos, key=lambda tempo: abs(tempo.bpm - bpm))
        self.assertAlmostEqual(nearest.bpm, bpm, delta=WITHIN * bpm)
        return nearest, found

    def check_bars(self, tempo: Tempo, meter: int, first_s: float) -> None:
        self.assertEqual(tempo.beats_per_bar, meter)
        bar_s = meter * 60.0 / tempo.bpm
        off = (tempo.bar_one_s - first_s + bar_s / 2) % bar_s - bar_s / 2
        self.assertLess(abs(off), 0.03)

    def test_click_tracks(self) -> None:
        for bpm in (60.0, 71.5, 83.3, 97.0, 121.7, 150.0, 180.0):
            with self.subTest(bpm=bpm):
                tempo, found = self.known(clicks(bpm), bpm)
                self.check_bars(tempo, 4, 0.37)
                self.assertGreater(found.confidence, 0.6)

    def test_three_in_a_bar_with_loose_eighths(self) -> None:
        for bpm in (66.0, 110.0, 168.0):
            with self.subTest(bpm=bpm):
                tempo, _ = self.known(clicks(bpm, meter=3, eighths=0.5, jitter_s=0.005), bpm)
                self.check_bars(tempo, 3, 0.37)

    def test_made_backings(self) -> None:
        for bpm, meter in ((62.0, 4), (90.0, 3), (128.0, 4), (176.0, 4)):
            with self.subTest(bpm=bpm):
                tempo, _ = self.known(band(bpm, meter=meter), bpm)
                self.check_bars(tempo, meter, 0.2)

    def test_the_demos_backing(self) -> None:
        tempo, found = self.known(HeldRecording(play(RATE), RATE), 84.0)
        self.assertEqual(tempo, found.tempos[0])
        self.check_bars(tempo, 4, 0.0)

    def test_where_no_beat_is_nothing_is_sure(self) -> None:
        noise = np.random.default_rng(3).standard_normal((1, 40 * RATE)) * 0.1
        found = estimate_tempo(onsets_of(HeldRecording(noise, RATE)))
        assert found is not None
        self.assertLess(found.confidence, 0.4)
        self.assertIsNone(estimate_tempo(onsets_of(HeldRecording(np.zeros((1, 20 * RATE)), RATE))))
        self.assertIsNone(estimate_tempo(onsets_of(HeldRecording(noise[:, : 3 * RATE], RATE))))
        self.assertIsNone(estimate_tempo(onsets_of(HeldRecording(noise[:, :10], RATE))))

    def test_a_voice_alone(self) -> None:
        starts = np.cumsum(np.random.default_rng(5).choice((0.5, 1.0, 1.5), 60)) * 60.0 / 92.0
        notes = [Note(f"n{i}", float(t), float(t) + 0.3, 60.0, 0.0, None, -20.0, 0) for i, t in enumerate(starts)]
        found = estimate_tempo(onsets_of_notes(notes, float(starts[-1]) + 1.0))
        assert found is not None
        self.assertTrue(any(abs(tempo.bpm - 92.0) < WITHIN * 92.0 for tempo in found.tempos), found)
        self.assertIsNone(estimate_tempo(onsets_of_notes([], 30.0)))

    def test_blocks_leave_no_seam(self) -> None:
        sound = clicks(100.0, length_s=45.0)
        whole = onsets_of(sound)
        later = onsets_of(HeldRecording(sound.audio[:, 20 * RATE :], RATE))
        np.testing.assert_allclose(whole.strength[2000:4400], later.strength[:2400], atol=0.02)

    def test_the_comb_is_the_fourier_sum_of_each_tempo(self) -> None:
        windows, hz = np.random.default_rng(6).standard_normal((3, 700)), np.linspace(1.9, 2.1, 9)
        time, taper = np.arange(700) * ONSET_HOP_S, np.hanning(700)
        waves = [np.exp(-2j * np.pi * k * np.outer(time, hz)) for k in range(1, HARMONICS + 1)]
        wanted = sum(np.abs((windows * taper) @ wave).mean(axis=0) for wave in waves) / 700
        np.testing.assert_allclose(_comb_at(windows, hz), wanted, rtol=1e-9)
