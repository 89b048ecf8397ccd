"""Recordings read piece by piece give what they give in one piece."""

import unittest
from unittest import mock

import numpy as np

from glass_thread.core.analysis import analysis
from glass_thread.core.analysis.air import air_features
from glass_thread.core.analysis.pitch import f0
from glass_thread.core.signal import recording
from glass_thread.core.signal.errors import AudioError
from glass_thread.core.signal.levels import level_contour
from glass_thread.core.signal.recording import HeldRecording, Mono, blocks_of, held
from tests.signals import RATE, sung_short


class RecordingTest(unittest.TestCase):
    def setUp(self) -> None:
        voice = sung_short()[1].audio
        self.audio = np.stack((np.tile(voice, 3), 0.4 * np.tile(voice, 3)))

    def test_mono_reads_slices_of_the_mean(self) -> None:
        mono = Mono(held(self.audio, RATE))
        self.assertEqual(len(mono), self.audio.shape[1])
        for part in (slice(0, 10), slice(50_000, 60_000), slice(5, 5), slice(9, 3), slice(500_000, 10**9)):
            np.testing.assert_array_equal(mono[part], self.audio.mean(axis=0)[part])

    def test_blocks_lie_end_to_end(self) -> None:
        with mock.patch.object(recording, "BLOCK_S", 2):
            parts = list(blocks_of(held(self.audio, RATE), 1000))
        self.assertEqual([begin for begin, _ in parts][:3], [1000, 1000 + 2 * RATE, 1000 + 4 * RATE])
        np.testing.assert_array_equal(np.concatenate([part for _, part in parts], axis=1), self.audio[:, 1000:])

    def test_levels_and_bands_are_the_same_however_they_are_read(self) -> None:
        mono, plain = Mono(held(self.audio, RATE)), self.audio.mean(axis=0)
        n = int(len(plain) / RATE / 0.005) + 1
        np.testing.assert_array_equal(level_contour(mono, RATE, n), level_contour(plain, RATE, n))
        np.testing.assert_array_equal(air_features(mono, RATE, n).power, air_features(plain, RATE, n).power)

    def test_pitch_in_small_blocks_is_the_pitch(self) -> None:
        plain = self.audio.mean(axis=0)
        whole = f0.track_f0(plain, RATE)
        with mock.patch.object(f0, "_BLOCK_S", 1):
            pieces = f0.track_f0(plain, RATE)
        np.testing.assert_allclose(pieces.midi, whole.midi, atol=1e-3)

    def test_pitch_in_parts_that_meet_where_it_is_quiet_is_the_pitch(self) -> None:
        plain = self.audio.mean(axis=0)
        whole = f0.track_f0(plain, RATE)
        with mock.patch.multiple(f0, PART_S=4.0, OVERLAP_S=1.0, CUT_REACH_S=0.7):
            cuts = f0._part_cuts(plain, RATE, len(whole.midi))
            parts = f0.track_f0(plain, RATE)
        self.assertEqual(len(cuts), 2)
        self.assertTrue(np.isnan(whole.midi[cuts]).all())
        np.testing.assert_array_equal(parts.voiced, whole.voiced)
        apart = np.abs(parts.midi - whole.midi)[whole.voiced]
        self.assertLess(np.mean(apart > 0.005), 0.005)  # a few frames where a run dies away
        self.assertLess(apart.max(), 0.15)

    def test_channels_that_cancel_and_samples_that_are_no_numbers(self) -> None:
        voice = self.audio[0]
        outline, cancel = analysis.scan(HeldRecording(np.stack((voice, -voice)), RATE))
        self.assertTrue(cancel)
        self.assertEqual(outline.shape, (int(len(voice) / RATE / 0.005) + 1, 2))
        self.assertLessEqual(abs(int(outline.max()) - round(127 * voice.max())), 1)
        self.assertFalse(analysis.scan(held(self.audio, RATE))[1])
        broken = self.audio.copy()
        broken[1, -1] = np.inf
        with self.assertRaisesRegex(AudioError, "not numbers"):
            analysis.scan(HeldRecording(broken, RATE))
