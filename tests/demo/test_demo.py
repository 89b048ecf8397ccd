import unittest
from itertools import pairwise

import numpy as np
import soundfile as sf

from glass_thread.core.document.flags import find_flags, two_pitches
from glass_thread.core.signal.types import HOP_S
from glass_thread.core.song.keys import make_tuning
from glass_thread.core.synthesis.voice.glottal import lf_pulse
from glass_thread.demo import song
from glass_thread.demo.build import FILES, FOLDER, SAMPLE_RATE, build_sounds
from glass_thread.demo.singer import pitch_curve
from tests.kept import analyse, sing
from tests.signals import FolderCase, short_performance


class ShippedTest(FolderCase):
    def test_rebuilt_bit_for_bit(self) -> None:
        build_sounds(self.folder)
        for name, *_ in FILES:
            shipped, rebuilt = (sf.read(str(f / name), dtype="int16")[0] for f in (FOLDER, self.folder))
            np.testing.assert_array_equal(shipped, rebuilt, name)

    def test_size_and_length(self) -> None:
        self.assertLess(sum((FOLDER / name).stat().st_size for name, *_ in FILES), 8_000_000)
        for name, *_ in FILES:
            self.assertTrue(45 <= sf.info(str(FOLDER / name)).duration <= 75)


class LeadTest(unittest.TestCase):
    def test_the_faults_are_found(self) -> None:
        audio, rate = sf.read(str(FOLDER / "lead.flac"))
        found = analyse(audio, rate)
        self.assertEqual(len(found.phrases), len(song.PHRASES))
        self.assertEqual((found.keys[0].tonic, found.keys[0].scale), (song.TONIC, song.SCALE))
        self.assertLess(abs(1200 * np.log2(found.reference_hz / 440)), 5)
        truth = song.lead().notes
        for sung in truth:
            if sung.second or sung.end_s - sung.start_s < 0.25:
                continue
            near = min(found.notes, key=lambda n: abs(n.start_s - sung.start_s))
            drift = abs(sung.drift) * (sung.end_s - sung.start_s) / 200
            with self.subTest(start=round(sung.start_s, 2)):
                self.assertAlmostEqual(near.centre_midi, sung.midi + sung.off / 100, delta=0.09 + drift / 10)
        key = make_tuning(song.TONIC, song.SCALE)
        targets = {n.id: key.nearest(n.centre_midi, "scale") for n in found.notes}
        kinds = {flag.kind for flag in find_flags(found.notes, targets, found.contour)}
        self.assertEqual(kinds, {"off centre", "drifting", "wide vibrato", "loud", "quiet"})
        joined = [(a, b) for a, b in pairwise(found.notes) if abs(a.start_s - 32.93) < 0.05]  # holds two pitches
        first, last = (int(t / HOP_S) for t in (joined[0][0].start_s, joined[0][1].end_s))
        self.assertAlmostEqual(two_pitches(found.contour.midi[first:last])[0], 100.0, delta=10.0)

    def test_one_note_is_so_flat_that_semitones_mislead(self) -> None:
        key = make_tuning(song.TONIC, song.SCALE)
        misled = [
            n
            for n in song.lead().notes
            if key.nearest(n.midi + n.off / 100, "scale") == n.midi
            and key.nearest(n.midi + n.off / 100, "semitone") != n.midi
        ]
        self.assertIn(-60, [n.off for n in misled])


class SingerTest(unittest.TestCase):
    def test_deterministic(self) -> None:
        a, b = (sing(short_performance(), 16_000).audio for _ in range(2))
        np.testing.assert_array_equal(a, b)

    def test_truth_is_exact(self) -> None:
        performance = short_performance()
        midi = pitch_curve(performance, SAMPLE_RATE)
        note = performance.notes[0]
        middle = midi[int(0.55 * SAMPLE_RATE) : int(0.75 * SAMPLE_RATE)]
        self.assertAlmostEqual(float(np.mean(middle)), note.midi + note.off / 100, delta=0.06)
        self.assertTrue(np.isnan(midi[: int(0.39 * SAMPLE_RATE)]).all())

    def test_pulse(self) -> None:
        # LF model: zero mean, and a closure of unit strength at the start (Fant, Liljencrants and Lin 1985).
        for rd in (0.5, 1.0, 2.0, 2.6):
            pulse = lf_pulse(rd)
            self.assertAlmostEqual(float(pulse.mean()), 0.0, places=9)
            self.assertAlmostEqual(float(pulse.min()), -1.0, delta=0.05)
        pressed, breathy = (np.abs(np.fft.rfft(lf_pulse(rd))) for rd in (0.6, 2.2))
        self.assertGreater(pressed[10] / pressed[1], 3 * breathy[10] / breathy[1])


if __name__ == "__main__":
    unittest.main()
