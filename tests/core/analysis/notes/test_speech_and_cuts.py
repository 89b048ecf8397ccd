"""Talk told from singing on real clips (recordings/README.md), and how sure cuts are."""

import unittest
from pathlib import Path

import numpy as np
import soundfile as sf

from glass_thread.core.analysis.analysis import analyse
from glass_thread.core.analysis.notes.cuts import judge_cuts
from glass_thread.core.analysis.notes.segmentation import note_ranges
from glass_thread.core.analysis.notes.speech import sounds_spoken
from glass_thread.core.signal.types import HOP_S, Note
from glass_thread.demo.build import FOLDER
from glass_thread.demo.voices import random_performance
from tests.kept import sing

RECORDINGS = Path(__file__).parents[3] / "recordings"


def read(path: Path) -> tuple[np.ndarray, int]:
    audio, rate = sf.read(str(path))
    return audio, rate


class SpeechTest(unittest.TestCase):
    def test_speech_is_spoken_and_singing_is_not(self) -> None:
        for path, spoken in (
            (RECORDINGS / "arctic_a0007.flac", True), (RECORDINGS / "arctic_a0009.flac", True),
            (RECORDINGS / "vocadito_10.flac", False), (RECORDINGS / "vocadito_14.flac", False),
            (FOLDER / "lead.flac", False),
        ):  # fmt: skip
            with self.subTest(path.name):
                found = analyse(*read(path))
                self.assertTrue(found.notes)
                self.assertEqual({note.spoken for note in found.notes}, {spoken})

    def test_talk_between_takes_is_marked_and_the_singing_is_not(self) -> None:
        talk, rate = read(RECORDINGS / "arctic_a0009.flac")
        sung = sing(random_performance("tenor", 3, duration_s=8.0), rate).audio
        whole = np.concatenate((sung, np.zeros(rate), talk * 0.8, np.zeros(rate), sung))
        found = analyse(whole, rate)
        for note in found.notes:
            middle = (note.start_s + note.end_s) / 2 - len(sung) / rate
            self.assertEqual(note.spoken, 1.0 < middle < 1.0 + len(talk) / rate, note)
        self.assertAlmostEqual(found.reference_hz, analyse(sung, rate).reference_hz, delta=0.8)  # talk has no say in it

    def test_short_or_unvoiced_phrases_are_not_judged(self) -> None:
        glide = np.linspace(50, 60, 80)
        self.assertIsNone(sounds_spoken(glide))  # 0.4 s
        self.assertTrue(sounds_spoken(np.linspace(40, 60, 300)))
        self.assertIsNone(sounds_spoken(np.full(300, np.nan)))
        self.assertFalse(sounds_spoken(np.full(300, 60.0)))


class CutsTest(unittest.TestCase):
    def pair(self, midi: np.ndarray, cut: int, level: np.ndarray | None = None) -> float:
        notes = [Note(f"n{i}", a * HOP_S, b * HOP_S, 60.0, 0.0, None, -20.0, 0)
                 for i, (a, b) in enumerate(((0, cut), (cut, len(midi))))]  # fmt: skip
        (found,) = judge_cuts(notes, midi, np.full(len(midi), -20.0) if level is None else level)
        self.assertEqual((found.before, found.after, found.at_s), ("n0", "n1", cut * HOP_S))
        return found.confidence

    def test_a_step_between_two_held_pitches_is_sure_and_a_cut_in_one_pitch_is_not(self) -> None:
        step = np.where(np.arange(120) < 60, 60.0, 62.0)
        self.assertGreater(self.pair(step, 60), 0.8)
        self.assertEqual(self.pair(np.full(120, 60.0), 60), 0.0)
        small = np.where(np.arange(120) < 60, 60.0, 60.5)
        self.assertLess(self.pair(small, 60), self.pair(step, 60))
        dip = np.full(120, -20.0)
        dip[60:68] = -38.0
        self.assertGreater(self.pair(np.full(120, 60.0), 60, dip), 0.1)

    def test_fewer_notes_gives_up_the_least_sure_first(self) -> None:
        found = analyse(*read(RECORDINGS / "vocadito_14.flac"))
        cuts = judge_cuts(found.notes, found.contour.midi, found.level_db)
        self.assertTrue(all(0.0 <= cut.confidence < 1.0 for cut in cuts))
        kept = {round(a * HOP_S, 3) for a, _ in note_ranges(found.contour.midi, found.level_db, sensitivity=-2.0)}
        stayed = [cut.confidence for cut in cuts if round(cut.at_s, 3) in kept]
        went = [cut.confidence for cut in cuts if round(cut.at_s, 3) not in kept]
        self.assertGreater(len(went), 2)
        self.assertGreater(np.median(stayed), np.median(went) + 0.1)

    def test_notes_apart_have_no_cut(self) -> None:
        notes = [Note(f"n{i}", float(i), i + 0.5, 60.0, 0.0, None, -20.0, 0) for i in range(3)]
        self.assertEqual(judge_cuts(notes, np.full(600, 60.0), np.full(600, -20.0)), ())
