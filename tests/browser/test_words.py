"""Words on notes in the real interface: seen, dragged, held on, cut, searched, read from a file; and typed chords."""

import re

import requests

from glass_thread.api.app import PREFIX
from tests.application import until
from tests.browser.test_gestures import GestureCase


class WordsCase(GestureCase):
    def setUp(self) -> None:
        super().setUp()
        self.before = self.turn()

    def tearDown(self) -> None:
        super().tearDown()
        address = f"{self.application.url}{PREFIX}/songs/{self.known_song()['id']}/undo"
        for _ in range(self.turn() - self.before):
            self.assertEqual(requests.post(address, json={}, timeout=60).status_code, 200)

    def turn(self) -> int:
        return self.known_song()["turn"]

    def laid(self) -> list[tuple[str, str]]:
        """Syllables with their notes as the server has them."""
        lead = next(one for one in self.known_song()["tracks"] if one["role"] == "lead")
        found = requests.get(f"{self.application.url}{PREFIX}/tracks/{lead['id']}/syllables", timeout=60).json()
        return [(one["text"], one["note_id"]) for one in found["syllables"]]

    def choose(self, count: int) -> None:
        """The note of that number."""
        self.canvas().focus()
        for _ in range(count):
            self.page.keyboard.press("ArrowRight")
        self.page.wait_for_function("(n) => window.glassThread.notes().length > 0", arg=count)

    def head(self) -> str:
        return self.page.get_by_role("region", name="Inspector").locator("strong").first.inner_text()

    def drag_word(self, from_id: str, to_id: str) -> None:
        """Drag the word under a note to another one."""
        ask = "(id) => window.glassThread.word(id)"
        label, there = (self.page.evaluate(ask, one) for one in (from_id, to_id))
        box, mouse = self.canvas().bounding_box(), self.page.mouse
        mouse.move(box["x"] + label["x"] + 6, box["y"] + label["y"])
        mouse.down()
        mouse.move(box["x"] + there["x"] + 8, box["y"] + there["y"], steps=4)
        with self.said():
            mouse.up()

    def said(self):
        return self.page.expect_response(
            lambda answer: answer.url.endswith("/syllables") and answer.request.method == "POST"
        )


class WordsOnNotesTest(WordsCase):
    def test_a_note_is_called_by_its_word(self) -> None:
        self.choose(3)
        self.page.get_by_text("Word: o-").wait_for()
        self.assertIn("“over”", self.head())
        self.page.get_by_role("button", name="Flags", exact=True).click()
        self.page.get_by_role("list", name=re.compile("Flags")).get_by_text("“alight”").wait_for()
        self.page.get_by_role("button", name="Phrases", exact=True).click()
        self.page.get_by_role("button", name="Notes", exact=True).click()
        self.page.get_by_role("columnheader", name="Word").wait_for()
        self.page.get_by_role("gridcell", name="tide", exact=True).wait_for()
        self.page.get_by_role("button", name="Sheet", exact=True).click()

    def test_by_keys_a_syllable_goes_on_and_a_note_is_held(self) -> None:
        first = [note for _text, note in self.laid()[:5]]
        self.choose(2)
        with self.said():
            self.page.keyboard.press("}")
        self.assertEqual(self.laid()[1], ("tide", first[2]))
        self.page.keyboard.press("Control+z")  # what was done last, not the last edit of the track
        self.page.get_by_text("Taken back: Words of “Lead” · “tide” laid.").wait_for()
        self.assertEqual(self.laid()[1], ("tide", first[1]))
        self.page.keyboard.press("Control+Shift+z")
        self.page.get_by_text("Done again: Words of “Lead” · “tide” laid.").wait_for()
        self.assertEqual(self.laid()[1], ("tide", first[2]))
        self.page.get_by_text("Word: tide").click()
        with self.said():
            self.page.get_by_text("as it is heard").click()
        self.assertEqual(self.laid()[1], ("tide", first[1]))
        self.canvas().focus()
        with self.said():
            self.page.keyboard.press("W")
        self.assertNotIn(first[2], [note for _text, note in self.laid()])

    def test_by_pointer_a_syllable_is_dragged_to_another_note(self) -> None:
        first = [note for _text, note in self.laid()[:5]]
        self.choose(2)
        self.drag_word(first[1], first[2])
        self.assertEqual(self.laid()[1], ("tide", first[2]))
        self.assertEqual(self.known_song()["turn"], self.before + 1)

    def test_a_word_is_cut_otherwise_everywhere(self) -> None:
        self.canvas().focus()
        self.page.keyboard.press("Control+f")
        self.page.get_by_role("search").get_by_role("textbox").fill("only")
        self.page.keyboard.press("Enter")
        self.page.keyboard.press("Escape")
        self.page.get_by_text("Word: On-").click()
        field = self.page.get_by_label("Cut the word as")
        field.fill("Only")
        with self.said():
            field.press("Enter")
        self.assertIn("Only", [text for text, _note in self.laid()])
        with self.said():
            self.page.get_by_text("cut by rule").click()
        self.assertNotIn("Only", [text for text, _note in self.laid()])

    def test_every_occurrence_of_a_word_is_found_and_lowered(self) -> None:
        page = self.page
        self.canvas().focus()
        page.keyboard.press("Control+f")
        page.get_by_role("search").get_by_role("textbox").fill("hold")
        page.get_by_role("search").get_by_text("3", exact=True).wait_for()
        page.keyboard.press("Enter")
        page.get_by_role("search").get_by_text("1 of 3").wait_for()
        page.keyboard.press("Enter")
        page.get_by_role("search").get_by_text("2 of 3").wait_for()
        page.get_by_role("button", name="Choose all").click()
        self.assertEqual(self.head(), "3 notes")
        page.keyboard.press(",")
        self.settle()
        held = {note for text, note in self.laid() if text == "Hold"}
        self.assertEqual({note["id"] for note in self.notes() if note["gesture"]["level_db"] == -1.0}, held)
        for typed, count in (("bar 8", 5), ("flag", 25), ("nothing so", 0)):
            page.keyboard.press("Control+f")
            page.get_by_role("search").get_by_role("textbox").fill(typed)
            words = "not found" if count == 0 else re.compile(r"^(\d+ of )?\d+$")
            page.get_by_role("search").get_by_text(words).wait_for()
            page.keyboard.press("Escape")

    def test_several_notes_are_held_on_at_once(self) -> None:
        page = self.page
        self.canvas().focus()
        page.keyboard.press("Control+f")
        page.get_by_role("search").get_by_role("textbox").fill("the")
        page.get_by_role("search").get_by_text("6", exact=True).wait_for()
        page.get_by_role("button", name="Choose all").click()
        chosen = {note for text, note in self.laid() if text == "the"}
        page.keyboard.press("W")
        until(lambda: not chosen & {note for _text, note in self.laid()}, "all of them to be held on", 20.0)
        page.keyboard.press("W")
        until(lambda: chosen == {note for text, note in self.laid() if text == "the"}, "all to begin again", 20.0)

    def test_a_flag_says_where_its_word_is_sung_better(self) -> None:
        page = self.page
        page.get_by_role("button", name="Flags", exact=True).click()
        page.get_by_role("button", name=re.compile("“line” .*bar 16.3")).click()
        page.get_by_role("button", name=re.compile("Sung better in “Lead”, bar 8.3: .18 ct")).click()
        window = page.get_by_role("dialog", name="Borrow")
        window.get_by_role("option").first.get_by_text("same words").wait_for()
        page.get_by_role("button", name="Close Borrow").click()
        page.get_by_role("button", name="Phrases", exact=True).click()

    def test_words_come_from_a_file_and_are_laid_on_the_phrases(self) -> None:
        page = self.page
        page.get_by_role("button", name="Words…").click()
        with page.expect_file_chooser() as chooser:
            page.get_by_role("button", name="From a file…").click()
        text = "[00:02.80]Still tide over now\n[00:08.50]High above fair town"
        chooser.value.set_files({"name": "song.lrc", "mimeType": "text/plain", "buffer": text.encode()})
        lines = page.get_by_label("One line a phrase")
        page.wait_for_function("() => document.querySelector('textarea').value.startsWith('Still tide over now')")
        self.assertEqual(lines.input_value().split("\n")[:2], ["Still tide over now", "High above fair town"])
        page.get_by_role("button", name="Save").click()
        page.get_by_role("dialog").wait_for(state="detached")
        page.wait_for_function("() => window.glassThread.word('n0001')?.text === 'Still'")


class TypedChordsTest(WordsCase):
    def test_notes_that_clash_are_listed_while_chords_are_shown(self) -> None:
        page = self.page
        page.get_by_text("Your own settings").click()
        with page.expect_response("**/chords"):
            page.get_by_text("Chords of the backing").click()
        page.get_by_role("button", name="Flags", exact=True).click()
        page.get_by_role("button", name="Kind of flags").click()
        page.get_by_role("option", name=re.compile("clashes with the chord")).click()
        page.get_by_text("held a semitone beside a note of").first.wait_for()
        self.canvas().focus()
        page.keyboard.press("n")  # the next of that kind
        self.assertNotIn("clashes with the chord", [flag["kind"] for flag in self.note()["flags"]])
        page.get_by_text(re.compile("On the chord")).wait_for()
        self.assertIn("clash", page.locator("dt:text-is('On the chord') + dd").inner_text())
        page.get_by_role("button", name="Phrases", exact=True).click()

    def test_chords_are_typed_over_and_a_harmony_keeps_to_them(self) -> None:
        page = self.page
        self.choose_from("Voices", "Chords…")
        field = page.get_by_label("Chord at bar 2.1")
        field.fill("Gm | C7")
        with page.expect_response("**/chords"):
            field.press("Enter")
        page.get_by_label("Chord at bar 2.3").wait_for()
        self.assertEqual(page.get_by_label("Chord at bar 2.3").input_value(), "C7")
        page.get_by_label("Chords, one a bar").fill("Dm | H")
        with page.expect_response(lambda answer: answer.request.method == "PATCH") as refused:
            page.get_by_role("button", name="Type over").click()
        self.assertEqual(refused.value.status, 422)
        page.get_by_text("“H” is no chord").first.wait_for()
        self.choose_from("Voices", "Make a harmony…")
        with page.expect_response("**/derived-preview"):
            page.get_by_text("By the chord").click()
        self.quiet()
        page.get_by_role("button", name="Leave").click()
        self.choose_from("Voices", "Pure intervals by the chord…")
        page.get_by_role("list", name="Notes that lean").get_by_text("third of C7").wait_for()
        page.get_by_role("button", name="Leave").click()
        self.choose_from("Voices", "Chords…")
        page.get_by_role("button", name="Clear what was typed at bar 2.1").click()
        page.get_by_role("button", name="Clear all 1 typed").click()
        page.get_by_label("Chord at bar 2.3").wait_for(state="detached")
