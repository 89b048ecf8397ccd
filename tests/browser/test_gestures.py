"""Every gesture of a note in the real interface, with pointer and keyboard."""

import re

import numpy as np
import requests

from glass_thread.api.app import PREFIX
from tests.browser.server import BrowserCase


class GestureCase(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.arrive()
        self.quiet()

    def begins_at(self) -> str:
        return self.lead()

    def arrive(self) -> None:
        """Wait for the lead, or get there."""
        self.page.get_by_role("application").wait_for()

    def settle(self) -> None:
        """Wait until no edit is under way."""
        self.page.evaluate("() => window.glassThread.settled()")

    def tearDown(self) -> None:
        self.page.evaluate("() => window.glassThread?.settled()")

    def _leave(self) -> None:
        try:
            super()._leave()
        finally:
            self.begin_again()

    def begin_again(self) -> None:
        """Have every version of the song's tracks stand at what was found, as it was for this test."""
        for track in (one for one in self.known_song()["tracks"] if one["version_id"]):
            address = f"{self.application.url}{PREFIX}/tracks/{track['id']}"
            sung, *versions = requests.get(f"{address}/versions", timeout=60).json()["versions"]
            for version in (one for one in versions if one["kind"] != "comp" and one["head_id"] != sung["head_id"]):
                to = {"version_id": version["id"], "base": version["head_id"], "to": sung["head_id"]}
                self.assertEqual(requests.post(f"{address}/jump", json=to, timeout=60).status_code, 200)

    def choose_from(self, menu: str, item: str) -> None:
        """Open a menu and choose from it."""
        self.page.get_by_role("button", name=menu).click()
        self.page.get_by_role("menuitem", name=item, exact=True).click()

    def canvas(self):
        return self.page.get_by_role("application")

    def notes(self) -> list[dict]:
        """All notes as the server knows them."""
        return self.page.evaluate("() => window.glassThread.notes()")

    def note(self) -> dict:
        """The chosen note as the server knows it."""
        return self.page.evaluate("() => window.glassThread.selected()[0]")

    def step_to(self, at_s: float) -> None:
        """Step with the arrow keys from the chosen note, or from the one at the cursor, to the one at a time."""
        if not self.note():
            self.page.keyboard.press("ArrowRight")
        notes = self.notes()
        names = [note["id"] for note in notes]
        wanted = next(i for i, note in enumerate(notes) if note["end_s"] > at_s)
        steps = wanted - names.index(self.note()["id"])
        for _ in range(abs(steps)):
            self.page.keyboard.press("ArrowRight" if steps > 0 else "ArrowLeft")
        self.assertEqual(self.note()["id"], names[wanted])

    def place(self, time_s: float, midi: float) -> tuple[float, float]:
        """Screen position of a time and pitch."""
        x, y = self.page.evaluate("([t, m]) => window.glassThread.place(t, m)", [time_s, midi])
        box = self.canvas().bounding_box()
        return box["x"] + x, box["y"] + y

    def stands_at_step(self, number: int) -> None:
        """The list of steps, when it is shown, says where the open version stands."""
        stands = self.page.locator("[aria-label=Steps] li[aria-current=step]")
        stands.wait_for()
        self.assertRegex(stands.inner_text(), rf"^{number}\s")

    def until(self, condition: str) -> None:
        """Wait until a condition on the chosen note `n` holds."""
        self.page.wait_for_function(
            f"() => {{ const n = window.glassThread.selected()[0]; return n && ({condition}); }}"
        )


class StripTest(GestureCase):
    def test_faders_at_the_note_and_fields_agree(self) -> None:
        page = self.page
        page.keyboard.press("n")
        fader = page.get_by_role("slider", name="Drift at the note")
        fader.focus()
        for _ in range(4):
            page.keyboard.press("ArrowDown")
            self.settle()
        self.until("n.gesture.drift < 0.98")
        shown = f"{round(100 * self.note()['gesture']['drift'])} %"
        self.assertEqual(page.get_by_label("Drift (%)").input_value(), shown)
        page.keyboard.press("Tab")
        self.assertEqual(
            page.evaluate("() => document.activeElement.getAttribute('aria-label')"), "Vibrato at the note"
        )

    def test_dragging_a_fader_is_one_step(self) -> None:
        page = self.page
        page.keyboard.press("n")
        thumb = page.get_by_role("slider", name="Pull at the note").locator(
            "xpath=ancestor::*[contains(@class,'thumb')]"
        )
        box = thumb.bounding_box()
        page.mouse.move(box["x"] + 8, box["y"] + 5)
        page.mouse.down()
        page.mouse.move(box["x"] + 8 + 60, box["y"] - 60, steps=8)  # further, whether it stands or lies
        page.mouse.up()
        self.until("n.gesture.pull > 0.5")
        page.get_by_role("button", name="Steps", exact=True).click()
        self.stands_at_step(1)

    def test_typed_changes_by_an_amount_and_nonsense(self) -> None:
        page = self.page
        page.keyboard.press("n")
        page.get_by_text("Lean and formant").click()
        field = page.get_by_label("Lean out (ct)")
        field.fill("30")
        field.press("Enter")
        self.until("n.gesture.lean_out === 30")
        field.fill("by −12")
        field.press("Enter")
        self.until("n.gesture.lean_out === 18")
        field.fill("9000")
        field.press("Enter")
        refused = page.get_by_text("Lean out (cents) must be a number from −600 to 600; got 9000")
        refused.wait_for()
        self.quiet()
        self.assertTrue(refused.is_visible())  # nothing that went well meanwhile takes it away
        self.assertEqual(self.note()["gesture"]["lean_out"], 18)

    def test_putting_back_one_aspect(self) -> None:
        page = self.page
        page.keyboard.press("n")
        page.keyboard.press("t")
        self.until("n.gesture.pull === 1")
        page.get_by_text("Lean and formant").click()
        field = page.get_by_label("Formant (st)")
        field.fill("2")
        field.press("Enter")
        self.until("n.gesture.formant_shift === 2")
        self.choose_from("Put back as sung", "Formant")
        self.until("n.gesture.formant_shift === 0 && n.gesture.pull === 1")

    def test_added_vibrato(self) -> None:
        page = self.page
        page.keyboard.press("n")
        page.get_by_text("Added vibrato").click()
        field = page.get_by_label("Extent (± ct)")
        field.fill("35")
        field.press("Enter")
        self.until("n.gesture.added_extent === 35 && n.edited")


class CutTest(GestureCase):
    def test_split_shows_the_centres_first_and_join_undoes_it(self) -> None:
        page = self.page
        page.keyboard.press("n")
        before = page.evaluate("() => window.glassThread.count()")
        page.keyboard.press("x")
        page.get_by_text("Click or press X to split here").wait_for()
        page.keyboard.press("Escape")
        self.quiet()
        self.assertEqual(page.evaluate("() => window.glassThread.count()"), before)
        page.keyboard.press("x")
        page.get_by_text("Click or press X to split here").wait_for()
        page.keyboard.press("x")
        page.wait_for_function(f"() => window.glassThread.count() === {before + 1}")
        page.keyboard.press("j")
        page.wait_for_function(f"() => window.glassThread.count() === {before}")

    def test_an_edge_is_dragged_and_escape_leaves_no_trace(self) -> None:
        page = self.page
        page.keyboard.press("n")
        self.quiet()
        x, y = self.page.evaluate("() => window.glassThread.handle('end')")
        box = self.canvas().bounding_box()
        x, y = box["x"] + x, box["y"] + y
        start = self.note()["end_s"]
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x - 40, y, steps=5)
        page.keyboard.press("Escape")
        page.mouse.up()
        self.quiet()
        self.assertEqual(self.note()["end_s"], start)
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x - 40, y, steps=5)
        page.mouse.up()
        self.until(f"n.end_s < {start - 0.05}")

    def test_the_glide_is_dragged_at_the_join(self) -> None:
        page = self.page
        page.keyboard.press("n")
        page.keyboard.press("ArrowRight")
        self.quiet()
        x, y = self.page.evaluate("() => window.glassThread.handle('glide')")
        box = self.canvas().bounding_box()
        page.mouse.move(box["x"] + x, box["y"] + y)
        page.mouse.down()
        page.mouse.move(box["x"] + x + 30, box["y"] + y - 30, steps=5)
        page.mouse.up()
        self.until("n.gesture.glide_ms === 130 && n.gesture.glide_bend > 0.3")

    def test_the_centre_is_put_where_it_should_be_judged(self) -> None:
        page = self.page
        page.keyboard.press("n")
        page.keyboard.press("c")
        self.until("n.centre_span !== null")
        self.choose_from("More for the selection", "Straighten towards the out end")
        self.until("n.gesture.drift === 0 && n.gesture.pull === 1")
        self.choose_from("More for the selection", "Soften the joins (Shift+J)")
        self.choose_from("More for the selection", "Read again…")
        window = page.get_by_role("dialog", name="Read again")
        field = window.get_by_label("Lowest (Hz)")
        field.fill("900")
        field.press("Enter")
        self.assertEqual(field.input_value(), "800 Hz")
        window.get_by_role("button", name="High").click()
        window.get_by_text(re.compile("read otherwise")).wait_for()
        window.get_by_role("button", name="Take it").click()
        window.wait_for(state="detached")
        page.get_by_role("button", name="Steps", exact=True).click()
        page.get_by_role("list", name="Steps").get_by_text(re.compile("Read again")).wait_for()

    def test_more_notes_are_previewed_and_left(self) -> None:
        page = self.page
        before = page.evaluate("() => window.glassThread.count()")
        page.get_by_role("button", name="Cuts…").click()
        field = page.get_by_label("Notes (step)")
        field.fill("20")
        field.press("Enter")
        page.get_by_text(re.compile(rf"{before} notes now, \d+ after it")).wait_for()
        page.get_by_role("button", name="Leave", exact=True).click()
        self.assertEqual(page.evaluate("() => window.glassThread.count()"), before)
        self.assertTrue(page.get_by_role("button", name="Undo").is_disabled())

    def test_an_octave_is_read_and_a_false_note_taken_out(self) -> None:
        page = self.page
        page.keyboard.press("n")
        centre = self.note()["centre_midi"]
        self.choose_from("More for the selection", "Read an octave lower")
        self.until(f"Math.abs(n.centre_midi - {centre - 12}) < 0.1 && !n.edited")
        before = page.evaluate("() => window.glassThread.count()")
        self.choose_from("More for the selection", "This is air, no note")
        page.wait_for_function(f"() => window.glassThread.count() === {before - 1}")


class HandTest(GestureCase):
    def test_a_line_is_drawn_and_rubbed_out(self) -> None:
        page = self.page
        page.keyboard.press("n")
        note = self.note()
        page.keyboard.press("d")
        a, b = note["start_s"] + 0.2, note["start_s"] + 0.5
        x0, y0 = self.place(a, note["target_midi"] + 0.5)
        x1, y1 = self.place(b, note["target_midi"] + 1.0)
        page.mouse.move(x0, y0)
        page.mouse.down()
        page.mouse.move(x1, y1, steps=12)
        page.mouse.up()
        self.until("n.gesture.hand.length === 1")
        points = self.note()["gesture"]["hand"][0]["points"]
        self.assertAlmostEqual(points[0][0], a, delta=0.02)
        self.assertAlmostEqual(points[-1][1], note["target_midi"] + 1.0, delta=0.1)
        page.keyboard.press("r")
        page.mouse.move(x0 - 10, y0)
        page.mouse.down()
        page.mouse.move(x1 + 10, y0, steps=6)
        page.mouse.up()
        self.until("n.gesture.hand.length === 0")
        page.keyboard.press("Escape")


class PassTest(GestureCase):
    def test_a_pass_is_seen_and_heard_before_it_is_taken(self) -> None:
        page = self.page
        page.keyboard.press("Control+a")
        page.keyboard.press("p")
        page.get_by_text(re.compile(r"Acts on the \d+ selected notes: \d+ notes change")).wait_for()
        self.assertTrue(page.get_by_role("button", name="Undo").is_disabled())
        tried, sung = self.heard("preview", 3.3, 3.8), self.heard("sung", 3.3, 3.8)
        self.assertGreater(np.abs(tried - sung).max(), 0.02)
        self.pick("Start from a saved pass", "Woven stack")
        page.get_by_text("For doubles and harmonies").wait_for()
        page.get_by_label("Name of the pass").fill("Mine own")
        page.get_by_role("button", name="Save", exact=True).click()
        self.pick("Start from a saved pass", "Mine own")
        page.get_by_role("button", name="Take it").click()
        page.get_by_role("dialog").wait_for(state="detached")
        page.locator("button[aria-label=Undo]:not([disabled])").wait_for()
        page.wait_for_function("() => window.glassThread.selected().filter((n) => n.gesture.drift === 0.3).length > 10")
        page.get_by_role("button", name="Steps", exact=True).click()
        self.stands_at_step(1)

    def test_with_nothing_selected_it_says_what_it_acts_on(self) -> None:
        page = self.page
        page.get_by_role("button", name="Tune pass…").first.click()
        page.get_by_text(re.compile(r"Acts on phrase \d+, \d+ notes, as nothing is selected")).wait_for()
        page.get_by_role("button", name="Leave", exact=True).click()
        self.assertTrue(page.get_by_role("button", name="Undo").is_disabled())


class CompareTest(GestureCase):
    def test_at_the_mark_sounds_as_it_was(self) -> None:
        page = self.page
        page.keyboard.press("n")
        page.keyboard.press("m")
        page.get_by_text("Marked.").wait_for()
        start = self.note()["start_s"]
        page.keyboard.press("t")
        self.until("n.gesture.pull === 1")
        marked, sung = (self.heard(kind, start + 0.1, start + 0.5) for kind in ("marked", "sung"))
        tuned = self.heard("tuned", start + 0.1, start + 0.5)
        self.assertLess(np.abs(marked - sung).max(), 1e-5)
        self.assertGreater(np.abs(tuned - sung).max(), 0.02)

    def test_gestures_are_copied_to_the_phrase_that_repeats(self) -> None:
        page = self.page
        page.get_by_role("button", name=re.compile("^4 · bar")).click()
        page.keyboard.press("t")
        self.until("n.gesture.pull === 1")
        target = self.note()["target_midi"]
        self.choose_from("More for the selection", "Phrases like this one…")
        window = page.get_by_role("dialog", name="Phrases like this one")
        window.get_by_role("checkbox", name=re.compile("8 · bar 16.1 Hold the line")).wait_for()
        window.get_by_text(re.compile("notes? change")).wait_for()
        self.assertFalse(any(n["edited"] for n in self.notes() if n["phrase"] == 7))
        window.get_by_role("checkbox", name=re.compile("8 · bar")).press("Space")
        window.get_by_text(re.compile("notes? change")).wait_for(state="detached")
        window.get_by_role("checkbox", name=re.compile("8 · bar")).press("Space")
        window.get_by_role("button", name="Take it").click()
        window.wait_for(state="detached")
        self.settle()
        same = page.evaluate(
            "(m) => window.glassThread.notes().filter((n) => n.edited && n.target_midi === m).length", target
        )
        self.assertEqual(same, 2)

    def test_copy_and_put_on_another_note(self) -> None:
        page = self.page
        page.keyboard.press("n")
        page.keyboard.press("t")
        self.until("n.gesture.pull === 1")
        page.keyboard.press("Control+c")
        page.get_by_text("are copied").wait_for()
        page.keyboard.press("ArrowRight")
        page.keyboard.press("Control+Shift+v")
        self.until("n.gesture.pull === 1")
