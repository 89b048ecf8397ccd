"""The comp view and glazes in the real interface, with pointer and keyboard, on the demo and on a real recording."""

import re

import numpy as np
from playwright.sync_api import Route

from tests.application import until
from tests.browser.hatchery import first_half
from tests.browser.test_air import AirCase
from tests.browser.test_journeys_on_own import OwnRecording


class CompCase(AirCase):
    begun_with = staticmethod(first_half)  # all of it is rendered, by some again and again

    def comp(self) -> dict:
        return self.page.evaluate("() => window.glassThread.comp()")

    def row(self, place: int, song_s: float) -> tuple[float, float]:
        """Screen position of a time in a version's row; −1 for what sounds."""
        x, y = self.page.evaluate("([p, t]) => window.glassThread.row(p, t)", [place, song_s])
        box = self.canvas().bounding_box()
        return box["x"] + x, box["y"] + y

    def versions_of(self, at: float) -> str:
        """The name of the version that sounds at a time."""
        return [c["name"] for c in self.comp()["choices"] if c["start_s"] <= at][-1]

    def phrase_of(self, words: str) -> dict:
        """The phrase that is looked at, once it was pressed."""
        label = self.canvas().get_attribute("aria-label")
        start, end = (float(at) for at in re.search(r"from ([\d.]+) to ([\d.]+) seconds", label).groups())
        return {"start_s": start, "end_s": end}

    def tune_and_begin(self) -> None:
        """Tune every note and make a comp."""
        self.canvas().focus()
        self.press("Control+a", "t", "h")
        make = self.page.get_by_role("button", name="Make a comp")
        until(lambda: self.comp() or make.count(), "the comps to be known")
        if self.comp():  # from another test of the class
            known = self.comp()["version"]["id"]
            self.choose_from("More for the comp", "New comp")
            until(lambda: self.comp()["version"]["id"] != known, "another comp")
        else:
            make.click()
            until(self.comp, "a comp")
        self.settle()

    def differs(self, kind: str, other: str, start: float, end: float) -> float:
        """How far two sounds lie apart at most."""
        a, b = (self.heard(one, start, end) for one in (kind, other))
        part = slice(2000, -2000)
        return float(np.abs(a - b)[part].max())


class PointerTest(CompCase):
    def test_phrases_and_stretches_are_chosen_and_borders_moved(self) -> None:
        page = self.page
        self.tune_and_begin()
        page.get_by_text("Soft a silver").click()
        self.settle()
        here = self.phrase_of("Soft a silver")
        page.mouse.click(*self.row(0, here["start_s"] + 0.5))
        self.settle()
        self.assertEqual(self.versions_of(here["start_s"] + 0.5), "As sung")
        self.assertEqual(self.differs("comp", "sung", here["start_s"], here["end_s"]), 0.0)
        self.assertEqual(self.differs("comp", "tuned", here["end_s"] + 1.0, here["end_s"] + 3.0), 0.0)
        middle = (here["start_s"] + here["end_s"]) / 2
        start, end = self.row(1, middle - 0.2), self.row(1, middle + 0.3)
        self.drag(start, end[0] - start[0], 0)
        self.assertEqual([c["name"] for c in self.comp()["choices"]], ["Tuned", "As sung", "Tuned", "As sung", "Tuned"])
        border = self.comp()["borders"][1]
        self.assertTrue(all(b["clean"] for b in self.comp()["borders"]))
        self.drag(self.row(-1, border["asked_s"]), -40, 0)
        self.assertLess(self.comp()["borders"][1]["asked_s"], border["asked_s"] - 0.1)
        page.get_by_role("button", name="Undo").click()
        self.settle()
        self.assertAlmostEqual(self.comp()["borders"][1]["asked_s"], border["asked_s"])
        page.get_by_role("button", name="Steps", exact=True).click()
        self.stands_at_step(3)
        late: list[Route] = []
        page.add_init_script("""(() => {
          const write = history.replaceState.bind(history);
          window.addressWritten = 0;
          history.replaceState = (...given) => { write(...given); window.addressWritten += 1; };
        })()""")
        page.route(re.compile(r"/comps$"), lambda route: late.append(route))
        page.reload()
        # What is looked at is written to the address meanwhile; it must not forget which comp was open.
        until(lambda: page.evaluate("window.addressWritten") >= 1 and late, "the comps to be asked for")
        page.evaluate("() => { window.addressWritten = 0; window.glassThread.show(1, 9); }")
        until(lambda: page.evaluate("window.addressWritten") >= 1, "the address to be written again")
        late[0].continue_()
        page.unroute(re.compile(r"/comps$"))
        page.get_by_role("application").wait_for()
        until(lambda: len((self.comp() or {"choices": []})["choices"]) == 5, "the comp after a reload")

    def test_air_comes_back_in_one_step_and_the_print_is_of_the_comp(self) -> None:
        page = self.page
        breath = self.event("breath")
        self.canvas().focus()
        self.window("Breaths…").get_by_role("button", name="Whole track").click()
        self.take()
        self.tune_and_begin()
        a, b = breath["start_s"], breath["end_s"]
        page.get_by_text("Many places at once").click()
        page.get_by_role("button", name="Take air").click()
        self.settle()
        third = (b - a) / 3
        self.assertEqual(self.differs("comp", "sung", a + third - 0.06, b - third + 0.06), 0.0)
        self.assertGreater(self.differs("tuned", "sung", a + third - 0.06, b - third + 0.06), 0.0)
        printed = self.printed() / 32768.0
        heard = self.heard("comp", 3.0, 5.0)
        rate = round(len(heard) / 2.0)
        np.testing.assert_allclose(printed[3 * rate : 5 * rate][2000:-2000], heard[2000:-2000], atol=1e-4)


class KeyboardTest(CompCase):
    def test_versions_are_chosen_and_heard_while_playing(self) -> None:
        page = self.page
        self.tune_and_begin()
        self.canvas().focus()
        self.press("ArrowRight", "ArrowRight", "1")
        here = self.comp()["choices"][1]
        self.assertEqual((here["name"], len(self.comp()["choices"])), ("As sung", 3))
        self.press("ArrowDown")
        self.assertEqual(len(self.comp()["choices"]), 1)
        self.press("ArrowUp")
        self.assertEqual(len(self.comp()["choices"]), 3)
        page.keyboard.press("Space")
        page.get_by_role("button", name="Stop").wait_for()
        page.keyboard.press("y")
        page.get_by_role("button", name="⇄ As sung", pressed=True).wait_for()
        page.get_by_role("button", name="Stop").wait_for()
        page.keyboard.press("y")
        page.get_by_role("button", name=self.comp()["version"]["name"], pressed=True, exact=True).wait_for()
        page.keyboard.press("Space")
        self.press("Control+z", "Control+z")
        self.assertEqual(len(self.comp()["choices"]), 3)
        self.press("Control+Shift+Z", "h")
        page.get_by_role("toolbar", name="Sheet tools").wait_for()

    def test_a_version_that_moves_on_is_caught_up_with(self) -> None:
        page = self.page
        self.tune_and_begin()
        self.canvas().focus()
        self.press("h")
        page.get_by_role("toolbar", name="Sheet tools").wait_for()
        self.canvas().focus()
        self.press("n" if self.flagged() else "ArrowRight", "Control+,", "h")
        page.get_by_text("Tuned was changed since it was chosen.").wait_for()
        page.get_by_role("button", name="Catch up").press("Enter")
        self.settle()
        self.assertEqual(self.comp()["behind"], [])

    def flagged(self) -> bool:
        return any(note["flags"] for note in self.notes())


class GlazeTest(CompCase):
    def test_a_glaze_is_laid_changed_and_taken_away(self) -> None:
        page = self.page
        self.canvas().focus()
        self.press("z")
        window = page.get_by_role("dialog", name="Glaze")
        window.get_by_role("button", name="Stack", exact=True).press("Enter")
        window.get_by_text("Brings doubles").wait_for()
        window.get_by_role("button", name="Whole track").press("Enter")
        window.get_by_text(re.compile(r"\d+ notes are pulled")).wait_for()
        self.take()
        note = max(self.notes(), key=lambda n: abs(n["tuned_midi"] - n["centre_midi"]))
        self.assertGreater(abs(note["tuned_midi"] - note["centre_midi"]), 0.1)
        self.assertGreater(self.differs("tuned", "sung", note["start_s"], note["end_s"]), 0.001)
        self.press("z")
        window.get_by_role("button", name=re.compile("45 ms")).press("Enter")
        window.get_by_label("Strength (%)").fill("0")
        window.get_by_label("Strength (%)").press("Enter")
        self.take()
        self.assertEqual(self.differs("tuned", "sung", note["start_s"], note["end_s"]), 0.0)
        self.press("z")
        window.get_by_role("button", name=re.compile("take away|Take the glaze")).press("Enter")
        self.settle()
        page.keyboard.press("Escape")
        self.press("Control+z", "Control+z")
        self.assertGreater(self.differs("tuned", "sung", note["start_s"], note["end_s"]), 0.001)


class OwnCompTest(OwnRecording, CompCase):
    def test_a_comp_of_a_real_voice(self) -> None:
        """One phrase, sung on without breaks: a stretch inside it comes from As sung."""
        self.tune_and_begin()
        notes = self.notes()
        a, b = (sum((notes[i]["start_s"], notes[i]["end_s"])) / 2 for i in (4, 9))
        start, end = self.row(0, a), self.row(0, b)
        self.drag(start, end[0] - start[0], 0)
        self.assertEqual(len(self.comp()["choices"]), 3)
        self.assertTrue(all(border["clean"] for border in self.comp()["borders"]), self.comp()["borders"])
        self.assertGreater(self.differs("comp", "tuned", a, b), 0.001)
