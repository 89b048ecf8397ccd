"""A real take with words and a backing, as an engineer would work on it: typed, fixed, found, borrowed, sung with."""

import re
from pathlib import Path

import requests
import soundfile as sf

from glass_thread.api.app import PREFIX
from glass_thread.demo import backing
from tests.application import until
from tests.browser import test_words
from tests.browser.hatchery import with_real_take
from tests.browser.test_journeys_on_own import OwnRecording

WORDS = "hold me now and hold me then and hold the line"  # what is really sung nobody wrote down


class WordsOnOwnTest(OwnRecording, test_words.WordsCase):
    begun_with = staticmethod(with_real_take)

    def backing(self) -> Path:
        path = self.folder / "backing.wav"
        sf.write(str(path), backing.play(22_050)[:, : 9 * 22_050].T, 22_050)
        return path

    def type_words(self) -> None:
        page = self.page
        page.get_by_role("button", name="Words…").click()
        page.get_by_label("One line a phrase").fill(WORDS)
        page.get_by_role("button", name="Save").click()
        page.get_by_role("dialog").wait_for(state="detached")
        page.wait_for_function("() => window.glassThread.word(window.glassThread.notes()[0].id)?.text === 'hold'")

    def test_words_from_typing_to_a_harmony_by_the_chord(self) -> None:
        page, keyboard = self.page, self.page.keyboard
        self.type_words()
        before = self.laid()
        ids = [note["id"] for note in self.notes()]
        self.choose(1)
        keyboard.press("ArrowRight")
        while self.note()["id"] != before[1][1]:
            keyboard.press("ArrowRight")
        with self.said():
            keyboard.press("}")  # one syllable later
        self.assertEqual(self.laid()[1], ("me", ids[ids.index(before[1][1]) + 1]))
        with self.said():
            keyboard.press("{")  # and back: what was laid by hand stays
        self.assertEqual(self.laid()[1], before[1])
        keyboard.press("Control+f")
        page.get_by_role("search").get_by_role("textbox").fill("hold")
        page.get_by_role("search").get_by_text("3", exact=True).wait_for()
        page.get_by_role("button", name="Choose all").click()
        keyboard.press(",")
        self.settle()
        held = {note for text, note in self.laid() if text == "hold"}
        self.assertEqual({note["id"] for note in self.notes() if note["gesture"]["level_db"] == -1.0}, held)
        self.fetch_a_word()
        self.sing_with_the_chords()

    def test_by_pointer_two_syllables_are_put_right(self) -> None:
        self.type_words()
        self.page.evaluate("() => window.glassThread.show(0, 5)")
        before, ids = self.laid(), [note["id"] for note in self.notes()]
        for number in (1, 2):
            here = self.laid()[number][1]
            to = next(one for one in ids[ids.index(here) + 1 :] if one in {note for _text, note in self.laid()})
            self.drag_word(here, to)
            self.assertEqual(self.laid()[number], (before[number][0], to))
        self.assertEqual([text for text, _note in self.laid()], WORDS.split())

    def fetch_a_word(self) -> None:
        """From where the same word is sung too, wherever that is alike in length."""
        page = self.page
        self.page.keyboard.press("Escape")
        holds = [note for text, note in self.laid() if text == "hold"]
        self.canvas().focus()
        self.page.keyboard.press("ArrowRight")
        while self.note()["id"] != holds[1]:
            self.page.keyboard.press("ArrowRight")
        self.page.keyboard.press("b")
        window = page.get_by_role("dialog", name="Borrow")
        offer = window.get_by_role("option", name=re.compile("same words")).first
        offer.click()
        self.wait_for_take()
        window.get_by_role("button", name="Take it").click()
        window.get_by_text("Borrowed on this version").wait_for()
        self.settle()
        self.assertEqual([text for text, _note in self.laid()], WORDS.split())
        page.get_by_role("button", name="Close Borrow").click()

    def sing_with_the_chords(self) -> None:
        page = self.page
        song = self.known_song()
        address = f"{self.application.url}{PREFIX}/songs/{song['id']}/tracks"
        with self.backing().open("rb") as sound:
            requests.post(address, files={"file": ("backing.wav", sound)}, data={"role": "backing"},
                          headers={"Origin": self.application.url}, timeout=60).raise_for_status()  # fmt: skip
        until(lambda: all(one["ready"] for one in self.known_song()["tracks"]), "the backing", 60.0)
        page.reload()
        self.arrive()
        self.quiet()
        self.choose_from("Voices", "Make a harmony…")
        window = page.get_by_role("dialog", name="Harmony")
        window.get_by_text("By the chord").click()
        window.get_by_text("Whole track").click()
        self.wait_for_take("Make it")
        self.assertGreater(self.differs("preview", "sung"), 0.01)
        window.get_by_role("button", name="Make it").click()
        window.wait_for(state="detached")
        made = next(one for one in self.known_song()["tracks"] if one["role"] == "harmony")
        notes = requests.get(f"{self.application.url}{PREFIX}/tracks/{made['id']}/content", timeout=60).json()["notes"]
        chords = requests.get(f"{self.application.url}{PREFIX}/songs/{song['id']}/chords", timeout=60).json()["chords"]
        for note in notes:
            middle = (note["start_s"] + note["end_s"]) / 2 + made["offset_s"]
            chord = next((one for one in chords if one["start_s"] <= middle < one["end_s"]), None)
            if chord and chord["classes"]:
                self.assertIn(round(note["target_midi"] - 0.0) % 12, chord["classes"], note["id"])

    def wait_for_take(self, name: str = "Take it") -> None:
        self.page.wait_for_function(
            "(n) => [...document.querySelectorAll('button')].some((b) => b.textContent === n && !b.disabled)", arg=name
        )

    def differs(self, kind: str, other: str) -> float:
        a, b = (self.heard(one, 1.0, 4.0) for one in (kind, other))
        return float(abs(a - b).max())
