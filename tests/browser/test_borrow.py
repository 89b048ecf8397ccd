"""Borrow in the real interface, by pointer and keyboard; and from three versions over a borrowed word to the host."""

import re

import numpy as np
import soundfile as sf
from playwright.sync_api import expect

from glass_thread.host.check import check_folder
from tests.application import until
from tests.browser.hatchery import prepared
from tests.browser.test_comp import CompCase
from tests.browser.test_journeys_on_own import OwnRecording
from tests.browser.test_prints import PrintCase

BORROWED_S, CHANGED_S = 21.6, 5.5  # in the demo's lead: a word of its repeated line, and a note of another phrase


class BorrowCase(CompCase):
    begun_with = staticmethod(prepared)  # it has the line that is repeated

    def borrow_window(self):
        return self.page.get_by_role("dialog", name="Borrow")

    def offers(self):
        return self.borrow_window().get_by_role("option")

    def tried(self) -> None:
        self.wait_for_take()
        expect(self.page.get_by_text("Preview: nothing is changed yet.")).to_be_visible()

    def notes_of(self, phrase: int) -> list[dict]:
        """The notes of a phrase of the demo, which is shown."""
        self.page.get_by_role("button", name=re.compile(f"^{phrase} · ")).click()
        self.quiet()
        return [note for note in self.notes() if note["phrase"] == phrase - 1]

    def choose(self, note: dict) -> None:
        """Press a note on the sheet."""
        x, y = self.page.evaluate(
            "([t, m]) => window.glassThread.place(t, m)", [(note["start_s"] + note["end_s"]) / 2, note["target_midi"]]
        )
        box = self.canvas().bounding_box()
        self.page.mouse.click(box["x"] + x, box["y"] + y)
        self.settle()


class PointerTest(BorrowCase):
    def test_a_word_of_the_repeated_line_is_heard_taken_named_and_given_back(self) -> None:
        page = self.page
        note = self.notes_of(4)[2]  # hold the “line”
        self.choose(note)
        a, b = note["start_s"], note["end_s"]
        self.choose_from("More for the selection", "Borrow the word… (B)")
        window = self.borrow_window()
        expect(self.offers().first).to_contain_text("phrase 8")
        expect(self.offers().first).to_contain_text("same words")
        self.offers().first.click()
        self.tried()
        self.assertGreater(self.differs("preview", "sung", a, b), 0.01)
        self.assertEqual(self.differs("tuned", "sung", a, b), 0.0)  # nothing is changed yet
        window.get_by_role("button", name="Hear it in place").click()
        page.get_by_role("button", name="Stop").click()
        tried = self.heard("preview", a - 0.5, b + 0.5)
        window.get_by_role("button", name="Take it").click()
        window.get_by_text(re.compile("from phrase 8")).first.wait_for()
        self.settle()
        np.testing.assert_allclose(self.heard("tuned", a - 0.5, b + 0.5), tried, atol=1e-6)
        self.assertEqual(self.differs("tuned", "sung", a - 2.5, a - 0.2), 0.0)
        self.assertEqual(self.differs("tuned", "sung", b + 0.2, b + 2.0), 0.0)
        window.get_by_role("button", name="Close Borrow").click()
        self.press("t")  # what came along is chosen, and is tuned like any note
        self.assertAlmostEqual(page.evaluate("() => window.glassThread.selected()[0]")["tuned_midi"], 70.0, delta=0.01)
        page.get_by_role("button", name="Print…").click()
        page.get_by_text("from phrase 8").wait_for()
        page.get_by_text(re.compile("% borrowed")).wait_for()
        page.keyboard.press("Escape")
        self.press("b")
        window.get_by_role("button", name=re.compile("^Give .* back")).click()
        self.settle()
        self.assertEqual(self.differs("tuned", "sung", a, b), 0.0)


class KeyboardTest(BorrowCase):
    def test_without_a_pointer(self) -> None:
        page = self.page
        self.canvas().focus()
        self.press("b")
        self.borrow_window().get_by_text("Select the notes of a word first.").wait_for()
        self.press("Escape", "ArrowRight", "b")
        self.offers().first.wait_for()
        note = page.evaluate("() => window.glassThread.selected()[0]")
        while not self.offers().first.evaluate("(item) => item === document.activeElement"):
            page.keyboard.press("Tab")
        self.press("ArrowDown", "Enter")
        self.tried()
        while not page.get_by_role("button", name="Take it").evaluate("(button) => button === document.activeElement"):
            page.keyboard.press("Tab")
        self.press("Enter")
        self.borrow_window().get_by_role("list", name="Borrowed on this version").wait_for()
        self.assertGreater(self.differs("tuned", "sung", note["start_s"], note["end_s"]), 0.005)
        self.press("Escape", "Control+z")
        self.assertEqual(self.differs("tuned", "sung", note["start_s"], note["end_s"]), 0.0)


class OwnBorrowTest(OwnRecording, BorrowCase):
    def test_a_word_of_a_real_voice(self) -> None:
        self.canvas().focus()
        taken = False
        for _ in range(12):
            self.press("ArrowRight", "b")
            self.quiet()
            if self.offers().count():
                self.offers().first.click()
                self.quiet()
                if self.borrow_window().get_by_role("button", name="Take it").is_enabled():
                    taken = True
                    break
            self.press("Escape")
        self.assertTrue(taken)
        note = self.page.evaluate("() => window.glassThread.selected()[0]")
        self.borrow_window().get_by_role("button", name="Take it").click()
        self.settle()
        self.borrow_window().get_by_role("list", name="Borrowed on this version").wait_for()
        self.assertGreater(self.differs("tuned", "sung", note["start_s"], note["end_s"]), 0.005)


class ToTheHostTest(PrintCase, BorrowCase):
    """What the work ends with: three versions, a comp, a borrowed word, a print, and the host that checks it."""

    def print_it(self, *, again: bool = False) -> np.ndarray:
        window = self.window("New print")
        window.get_by_label("Name of the file").fill("{track} final")
        if again:
            window.get_by_text("Replace what is there").click()
        window.get_by_role("button", name="Print", exact=True).click()
        window.get_by_role("link", name=re.compile("Save")).wait_for()
        window.get_by_role("button", name="Close").click()
        (found,) = (self.place / "out").glob("*.wav")
        return sf.read(str(found), dtype="int16")[0]

    def select_note_at(self, wanted_s: float) -> dict:
        """Select the note that sounds at a time of the recording, by keyboard."""
        expect(self.page.get_by_role("application")).to_be_focused()
        self.step_to(wanted_s)
        self.assertLess(self.note()["start_s"], wanted_s)
        return self.note()

    def make_versions(self) -> None:
        """Tuned, and Glazed with a borrowed word."""
        page = self.page
        self.canvas().focus()
        self.press("Control+a", "t", "Escape")
        page.get_by_role("button", name="Versions…").click()
        page.get_by_label("Name of the new version").fill("Glazed")
        page.get_by_label("Name of the new version").press("Enter")
        self.settle()
        page.keyboard.press("Escape")
        self.canvas().focus()
        self.press("z")
        page.get_by_role("dialog", name="Glaze").get_by_role("button", name="Whole track").click()
        self.take()
        self.select_note_at(BORROWED_S)
        self.press("b")
        self.offers().first.click()
        self.tried()
        self.borrow_window().get_by_role("button", name="Take it").click()
        self.borrow_window().get_by_role("list", name="Borrowed on this version").wait_for()
        self.settle()
        page.keyboard.press("Escape")

    def make_comp(self) -> None:
        """Glazed, with six places from the other two versions, and all air as sung."""
        page = self.page
        self.canvas().focus()
        self.press("h")
        page.get_by_role("button", name="Make a comp").click()
        until(self.comp, "a comp")
        self.settle()
        self.canvas().focus()
        self.press("ArrowRight", "2", "ArrowRight", "1", "ArrowRight", "ArrowRight", "2")
        self.press("ArrowRight", "1", "ArrowRight", "2", "ArrowRight", "1")
        names = [choice["name"] for choice in self.comp()["choices"]]
        self.assertEqual(len([name for name in names if name != "Glazed"]), 6, names)
        page.get_by_text("Many places at once").click()
        page.get_by_role("button", name="Take air").click()
        self.settle()

    def test_three_versions_a_comp_a_borrowed_word_and_the_null_test(self) -> None:
        page = self.page
        self.place = self.brought_in("Session 9", "Line", 50)
        self.make_versions()
        self.make_comp()
        first = self.print_it()
        (found,) = check_folder(self.place)
        self.assertTrue(found.good, found.sentence)
        self.canvas().focus()
        self.press("h")
        page.get_by_role("toolbar", name="Sheet tools").wait_for()
        self.canvas().focus()
        note = self.select_note_at(CHANGED_S)
        self.press("Control+,", "h")
        page.get_by_role("button", name="Catch up").click()
        self.settle()
        second = self.print_it(again=True)
        (found,) = check_folder(self.place)
        self.assertTrue(found.good, found.sentence)
        differs = np.flatnonzero(first != second) / 44_100
        self.assertGreater(len(differs), 1000)
        self.assertGreater(differs.min(), note["start_s"] - 0.1)
        self.assertLess(differs.max(), note["end_s"] + 0.1)
