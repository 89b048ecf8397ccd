"""Sibilants in real speech and singing; see recordings/README.md for where the clips are from and who labelled them."""

import unittest
from pathlib import Path

import numpy as np
import soundfile as sf
import soxr

from glass_thread.core.analysis.analysis import analyse
from glass_thread.core.measure.evaluation import mask_f1
from glass_thread.core.signal.levels import is_band_limited
from glass_thread.core.signal.types import HOP_S

RECORDINGS = Path(__file__).parents[2] / "recordings"
SIBILANTS_S = {
    "arctic_a0009": ((0.595, 0.71), (1.505, 1.58), (1.84, 1.91), (2.305, 2.36)),  # sharply, faced, Gregson, across
    "arctic_a0007": ((1.455, 1.60), (2.15, 2.28)),
    "vocadito_10": ((1.68, 1.77), (5.97, 6.08)),
    "vocadito_14": ((8.70, 8.815),),
}
BURSTS_S = {"arctic_a0009": ((0.30, 0.355),), "vocadito_14": ((2.12, 2.18), (5.10, 5.17), (11.13, 11.175))}  # of t


class RealSibilantsTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.air = {}
        for name in SIBILANTS_S:
            audio, rate = sf.read(str(RECORDINGS / f"{name}.flac"))
            cls.air[name] = (analyse(audio, rate).air, len(audio) / rate)

    def spans(self, name: str) -> list[tuple[float, float]]:
        return [(e.start_s, e.end_s) for e in self.air[name][0] if e.kind == "sibilant"]

    def test_every_one_is_found_and_nothing_else(self) -> None:
        for name, labelled in SIBILANTS_S.items():
            found = self.spans(name)
            with self.subTest(name):
                for a, b in labelled:
                    self.assertTrue(any(min(b, d) - max(a, c) > 0.4 * (b - a) for c, d in found), (a, b))
                self.assertEqual(len(found), len(labelled))

    def test_a_narrow_line_is_told_and_holds_no_sibilants(self) -> None:
        """Every clip as it is, at 8 kHz, and brought back from there to its own rate."""
        for name in SIBILANTS_S:
            audio, rate = sf.read(str(RECORDINGS / f"{name}.flac"))
            narrow = soxr.resample(audio, rate, 8000)
            for heard, at, limited in ((audio, rate, False), (narrow, 8000, True),
                                       (soxr.resample(narrow, 8000, rate), rate, True)):  # fmt: skip
                found = analyse(heard, at)
                with self.subTest(name, rate=at, limited=limited):
                    self.assertEqual(is_band_limited(found.level_db, found.high_db), limited)
                    self.assertEqual(any(event.kind == "sibilant" for event in found.air), not limited)

    def test_frames_and_edges(self) -> None:
        marked, truth, edges = [], [], []
        for name, labelled in SIBILANTS_S.items():
            n = int(self.air[name][1] / HOP_S) + 1
            for spans, masks in ((self.spans(name), marked), (labelled, truth)):
                mask = np.zeros(n, dtype=bool)
                for a, b in spans:
                    mask[round(a / HOP_S) : round(b / HOP_S)] = True
                masks.append(mask)
            for a, b in labelled:
                own = min(self.spans(name), key=lambda span: abs(span[0] - a))
                edges += [abs(own[0] - a), abs(own[1] - b)]
        self.assertGreater(mask_f1(np.concatenate(marked), np.concatenate(truth)), 0.87)
        self.assertLessEqual(np.median(edges), 0.01)

    def test_the_burst_of_a_t_is_a_consonant(self) -> None:
        for name, bursts in BURSTS_S.items():
            for a, b in bursts:
                with self.subTest(name, at=a):
                    kinds = {e.kind for e in self.air[name][0] if min(b, e.end_s) - max(a, e.start_s) > 0.02}
                    self.assertEqual(kinds, {"consonant"})
