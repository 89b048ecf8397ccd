"""Where real and sung voices are cut into notes; see recordings/README.md for where they are from.

The limits of cuts (`segmentation`) were chosen on these clips among others: this holds them, it does not prove them.
"""

import json
import unittest
from pathlib import Path

import numpy as np
import soundfile as sf

from glass_thread.bench.finding.note_markov import markov_notes
from glass_thread.core.analysis.analysis import analyse
from glass_thread.core.signal.types import Analysis

RECORDINGS = Path(__file__).parents[3] / "recordings"
VOWELS = "あいうえお"
SYLLABLES_S = (
    0.83, 1.12, 1.35, 1.72, 2.18, 2.56, 3.73, 3.94, 4.25, 4.65, 5.17, 5.70, 6.69, 7.02, 7.18, 7.68, 8.16, 8.44, 8.82,
    9.80, 10.14, 10.31, 10.73, 11.20, 11.57,
)  # fmt: skip


def onset_f(found: list[float], wanted: list[float], within_s: float) -> float:
    """F measure of onsets, each matched once."""
    free, hits = list(found), 0
    for onset in wanted:
        nearest = min(free, key=lambda t: abs(t - onset), default=None)
        if nearest is not None and abs(nearest - onset) <= within_s:
            free.remove(nearest)
            hits += 1
    return 2.0 * hits / max(1, len(found) + len(wanted))


class CutsOnRealVoicesTest(unittest.TestCase):
    def found(self, name: str) -> Analysis:
        audio, rate = sf.read(str(RECORDINGS / f"{name}.flac"))
        return analyse(audio, rate)

    def test_syllables_of_a_real_singer(self) -> None:
        found = self.found("vocadito_14")
        own = onset_f([note.start_s for note in found.notes], list(SYLLABLES_S), 0.06)
        other = onset_f([start for start, *_ in markov_notes(found.contour)], list(SYLLABLES_S), 0.06)
        self.assertGreater(own, 0.85)
        self.assertGreater(own, other)
        self.assertLess(len(found.notes), 1.2 * len(SYLLABLES_S))

    def test_onsets_of_sung_scores_at_vowels_and_at_consonants(self) -> None:
        late: dict[bool, list[float]] = {True: [], False: []}
        scores = []
        for name in ("sung_score_1", "sung_score_2"):
            score = json.loads((RECORDINGS / f"{name}.json").read_text())
            starts = [note.start_s for note in self.found(name).notes]
            scores.append(onset_f(starts, [start for start, *_ in score], 0.1))
            for start, _, _, syllable in score:
                nearest = min(starts, key=lambda t: abs(t - start))
                if abs(nearest - start) < 0.15:
                    late[syllable in VOWELS].append(nearest - start)
        self.assertGreater(np.mean(scores), 0.6)
        self.assertLess(abs(np.median(late[True])), 0.04)  # a vowel begins where the score says
        self.assertGreater(np.median(late[False]), 0.0)  # after a consonant the voice comes later
        self.assertLess(np.median(late[False]), 0.09)
