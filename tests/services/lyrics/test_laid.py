"""The words of a track on its notes, and what is said of them by hand."""

import contextlib
from concurrent.futures import ThreadPoolExecutor

from glass_thread.core.signal.errors import ConflictError, NotFoundError, ParameterError
from glass_thread.services.history.comps import make_comp
from glass_thread.services.lyrics.by_hand import laid_by_hand
from glass_thread.services.lyrics.laid import laid_syllables, texts_on, words_at
from glass_thread.services.lyrics.language import known_languages, language_of
from glass_thread.services.lyrics.saying import begin_at, cut_word, forget_at, hold_at
from glass_thread.services.prints.interchange import note_rows
from glass_thread.services.song.song_steps import undo_song
from glass_thread.services.song.songs import change_song, change_track
from tests.services.case import TakeCase


class LaidTest(TakeCase):
    def setUp(self) -> None:
        super().setUp()
        self.ids = [one.note.id for one in self.now().content.notes.values() if one.note.phrase == 0]
        self.say_words("slow silver")

    def say_words(self, text: str) -> None:
        change_track(self.work, self.track.id, {"words": {"0": text}})

    def laid(self) -> list[tuple[str, str]]:
        return [(one.text, one.note_id) for one in laid_syllables(self.now())]

    def notes(self) -> list[str]:
        return [note for _text, note in self.laid()]

    def test_syllables_lie_on_notes_of_their_phrase_in_order(self) -> None:
        self.assertEqual([text for text, _note in self.laid()], ["slow", "sil", "ver"])
        self.assertEqual(self.notes()[0], self.ids[0])
        self.assertEqual([self.ids.index(note) for note in self.notes()],
                         sorted(self.ids.index(note) for note in self.notes()))  # fmt: skip
        sung = words_at(self.now(), laid_syllables(self.now()))
        self.assertEqual(set(sung), set(self.ids))  # held on to the end of the phrase
        self.assertEqual(texts_on(laid_syllables(self.now()), goes_on_from=True)[self.notes()[1]], "sil-")

    def test_a_syllable_laid_by_hand_stays_when_words_and_cuts_are_others(self) -> None:
        begin_at(self.desk, self.track.id, self.ids[-1], 0, 2)
        self.assertEqual(self.notes()[2], self.ids[-1])
        self.say_words("oh slow silver")
        self.assertEqual(self.laid()[-1], ("ver", self.ids[-1]))
        note = self.now().content.notes[self.ids[-1]].note
        self.do(type="split", note_id=note.id, at_s=(note.start_s + note.end_s) / 2.0, exact=True)
        at = dict((text, note) for text, note in self.laid())["ver"]
        self.assertAlmostEqual(self.now().content.notes[at].note.start_s, note.start_s, places=3)
        undo_song(self.desk, self.song.id)  # the words
        undo_song(self.desk, self.song.id)  # what was laid
        self.assertFalse(any(one.by_hand for one in laid_syllables(self.now())))

    def test_held_on_and_forgotten(self) -> None:
        before = self.notes()
        hold_at(self.desk, self.track.id, [before[1]])
        self.assertNotIn(before[1], self.notes())
        forget_at(self.desk, self.track.id, [before[1]])
        self.assertEqual(self.notes(), before)
        self.assertEqual(self.work.tracks.get(self.track.id).laid, {})

    def test_what_is_said_at_once_from_several_sides_is_kept_or_refused(self) -> None:
        held = list[str]()

        def hold(note_id: str) -> None:
            with contextlib.suppress(ConflictError):
                hold_at(self.desk, self.track.id, [note_id])
                held.append(note_id)

        notes = list(self.now().content.notes)[:8]
        with ThreadPoolExecutor(8) as pool:
            list(pool.map(hold, notes))
        kept = {hand["at_s"] for hand in self.work.tracks.get(self.track.id).laid["hands"]}
        starts = {name: round(self.now().content.notes[name].note.start_s, 4) for name in held}
        self.assertEqual(kept, set(starts.values()))
        hold_at(self.desk, self.track.id, notes)
        self.assertEqual(len(self.work.tracks.get(self.track.id).laid["hands"]), len(notes))

    def test_words_cut_by_hand_wherever_they_are_sung(self) -> None:
        cut_word(self.desk, self.track.id, "Silver", ["silver"])
        self.assertEqual([text for text, _note in self.laid()], ["slow", "silver"])
        cut_word(self.desk, self.track.id, "silver", [])
        self.assertEqual([text for text, _note in self.laid()], ["slow", "sil", "ver"])
        with self.assertRaisesRegex(ParameterError, "not the word"):
            cut_word(self.desk, self.track.id, "silver", ["sil", "vr"])

    def test_a_comp_has_the_words_of_the_versions_it_is_made_of(self) -> None:
        comp = make_comp(self.desk, self.track.id, "Comp")
        standing = self.desk.at(self.track.id, comp.head_id)
        rows = note_rows(self.desk, standing)
        first = [row["syllable"] for row in rows if row["phrase"] == 1]
        self.assertEqual([text for text in first if text], ["slow", "sil-", "ver"])

    def test_what_is_not_there_is_refused(self) -> None:
        with self.assertRaises(NotFoundError):
            begin_at(self.desk, self.track.id, self.ids[0], 0, 9)
        with self.assertRaises(NotFoundError):
            hold_at(self.desk, self.track.id, ["n9999"])
        other = next(one.note.id for one in self.now().content.notes.values() if one.note.phrase != 0)
        with self.assertRaisesRegex(ParameterError, "stays in its phrase"):
            begin_at(self.desk, self.track.id, other, 0, 0)

    def test_what_was_stored_is_read_strictly(self) -> None:
        for wrong in ({"hands": [{"at_s": "x"}]}, {"hands": [{"at_s": 1.0, "text": ""}]}, {"cuts": {"Silver": [3, 3]}},
                      {"cuts": {"silver": [3, 4]}}, {"cuts": {"silver": [6, 0]}}, {"other": 1}, {"hands": 5},
                      {"hands": [{"at_s": 2.0}, {"at_s": 1.0}]}, {"hands": [{"at_s": float("nan")}]}):  # fmt: skip
            with self.assertRaises(ParameterError, msg=wrong):
                laid_by_hand(wrong)

    def test_the_language_is_guessed_or_chosen(self) -> None:
        for text, wanted in (("the lanterns burn over the water tonight", "en"), ("die Lichter über dem Wasser", "de"),
                             ("さくらさくら", "ja"), ("", "en"), ("oh", "en")):  # fmt: skip
            self.assertEqual(language_of(text), wanted)
        self.assertLessEqual({"en", "de", "ja", "th"}, set(known_languages()))
        with self.assertRaises(ParameterError):
            change_song(self.work, self.song.id, {"language": "klingon"})
