"""Air and level in the real interface, with pointer and keyboard, and what a print of it holds."""

import re

import numpy as np
import soundfile as sf

from glass_thread.demo.song import lead
from tests.browser.test_gestures import GestureCase


class AirCase(GestureCase):
    def air(self) -> list[dict]:
        return self.page.evaluate("() => window.glassThread.air()")

    def event(self, kind: str, number: int = 0) -> dict:
        return [event for event in self.air() if event["kind"] == kind][number]

    def lane(self, which: str, time_s: float) -> tuple[float, float]:
        """Screen position of a time in the air or level lane."""
        x, y = self.page.evaluate("([w, t]) => window.glassThread.lane(w, t)", [which, time_s])
        box = self.canvas().bounding_box()
        return box["x"] + x, box["y"] + y

    def phrase(self, words: str) -> None:
        self.page.get_by_text(words).click()
        self.quiet()

    def drag(self, start: tuple[float, float], dx: float, dy: float) -> None:
        mouse = self.page.mouse
        mouse.move(*start)
        mouse.down()
        mouse.move(start[0] + dx / 2, start[1] + dy / 2)
        mouse.move(start[0] + dx, start[1] + dy)
        mouse.up()
        self.settle()

    def window(self, name: str):
        self.choose_from("Levels", name)
        return self.page.get_by_role("dialog")

    def press(self, *keys: str) -> None:
        for key in keys:
            self.page.keyboard.press(key)
            self.settle()

    def wait_for_take(self) -> None:
        """Wait until what is tried out can be taken."""
        self.page.wait_for_function("() => ![...document.querySelectorAll('[role=dialog] button')]"
                                    ".find((b) => b.textContent === 'Take it').disabled")  # fmt: skip

    def take(self) -> None:
        self.wait_for_take()
        self.page.get_by_role("button", name="Take it").click()
        self.page.get_by_role("dialog").wait_for(state="detached")
        self.settle()

    def printed(self) -> np.ndarray:
        """The samples of a print at the source's depth."""
        page = self.page
        page.get_by_role("button", name="Print…").click()
        page.get_by_role("button", name="Print", exact=True).click()
        with page.expect_download() as download:
            page.get_by_role("link", name=re.compile("Save")).click()
        samples, _ = sf.read(download.value.path(), dtype="int16")
        page.get_by_role("button", name="Close").click()
        return samples


class PointerTest(AirCase):
    def test_level_by_drag_is_one_step_and_escape_leaves_no_trace(self) -> None:
        self.phrase("Soft a silver")
        event = self.event("sibilant", 1)
        middle = self.lane("air", (event["start_s"] + event["end_s"]) / 2)
        self.drag(middle, 0, 12)
        self.assertEqual(self.event("sibilant", 1)["change_db"], -6.0)
        self.page.get_by_role("heading", name="Phrases").wait_for()
        self.assertEqual(self.page.get_by_label("Level (dB)").input_value(), "−6 dB")
        self.page.mouse.move(*middle)
        self.page.mouse.down()
        self.page.mouse.move(middle[0], middle[1] + 30, steps=3)
        self.page.keyboard.press("Escape")
        self.page.mouse.up()
        self.settle()
        self.assertEqual(self.event("sibilant", 1)["change_db"], -6.0)
        self.page.get_by_role("button", name="Steps", exact=True).click()
        self.stands_at_step(1)

    def test_edges_by_drag_and_typed(self) -> None:
        self.phrase("Soft a silver")
        event = self.event("sibilant", 2)
        self.drag(self.lane("air", event["end_s"]), 14, 0)
        longer = self.event("sibilant", 2)
        self.assertGreater(longer["end_s"], event["end_s"] + 0.03)
        field = self.page.get_by_label("Start of the air (s)")
        field.fill(f"{event['start_s'] + 0.03:.3f}")
        field.press("Enter")
        self.settle()
        self.assertAlmostEqual(self.event("sibilant", 2)["start_s"], event["start_s"] + 0.03, delta=0.003)
        field.fill(f"{longer['end_s']:.3f}")
        field.press("Enter")
        self.page.get_by_text("at least 15 ms long").wait_for()

    def test_a_dragged_stretch_becomes_air_or_a_note(self) -> None:
        self.phrase("Soft a silver")
        count, notes = len(self.air()), self.page.evaluate("() => window.glassThread.count()")
        at = self.page.evaluate("() => window.glassThread.notes().filter((n) => n.phrase === 2).at(-1).end_s")
        self.drag(self.lane("air", at + 0.02), 60, 0)
        self.page.get_by_role("group", name="The marked stretch").get_by_role("button", name="air").click()
        self.settle()
        self.assertEqual(len(self.air()), count + 1)
        self.page.get_by_role("button", name="Undo").click()
        self.settle()
        self.page.keyboard.press("Escape")
        self.phrase("Soft a silver")
        note = self.page.evaluate("() => window.glassThread.notes().find((n) => n.phrase === 2)")
        self.page.mouse.click(*self.place((note["start_s"] + note["end_s"]) / 2, note["target_midi"]))
        self.choose_from("More for the selection", "This is air, no note")
        self.settle()
        self.assertEqual(self.page.evaluate("() => window.glassThread.count()"), notes - 1)
        made = [e for e in self.air() if abs(e["start_s"] - note["start_s"]) < 0.03]
        self.assertEqual(len(made), 1)
        self.page.get_by_role("button", name="Undo").click()
        self.settle()

    def test_a_stretch_of_voice_becomes_a_note_again(self) -> None:
        self.phrase("Soft a silver")
        note = self.page.evaluate("() => window.glassThread.notes().find((n) => n.phrase === 2)")
        self.page.mouse.click(*self.place((note["start_s"] + note["end_s"]) / 2, note["target_midi"]))
        self.choose_from("More for the selection", "This is air, no note")
        self.settle()
        made = next(e for e in self.air() if abs(e["start_s"] - note["start_s"]) < 0.03)
        self.page.mouse.click(*self.lane("air", (made["start_s"] + made["end_s"]) / 2))
        self.page.get_by_role("button", name="This is no air").click()
        self.settle()
        start, end = self.lane("air", note["start_s"] + 0.06), self.lane("air", note["end_s"] - 0.06)
        self.drag(start, end[0] - start[0], 0)
        self.page.get_by_role("group", name="The marked stretch").get_by_role("button", name="a note").click()
        self.settle()
        self.until(f"Math.abs(n.centre_midi - {note['centre_midi']}) < 0.1")

    def test_note_level_in_the_level_lane(self) -> None:
        self.phrase("hold the light")
        note = self.page.evaluate("() => window.glassThread.notes().find((n) => n.level_db < -24)")
        self.drag(self.lane("level", (note["start_s"] + note["end_s"]) / 2), 0, -16)
        self.until("n.gesture.level_db === 8")
        self.press(",")
        self.until("n.gesture.level_db === 7")
        self.press("Control+.")
        self.until("n.gesture.level_db === 10")


class KeyboardTest(AirCase):
    def test_into_the_air_lane_and_back(self) -> None:
        page = self.page
        self.canvas().focus()
        self.press("ArrowRight", "a")
        page.get_by_role("application", name=re.compile("selected: sibilant")).wait_for()
        self.press("ArrowUp", "Control+ArrowDown", "Control+ArrowDown")
        self.assertEqual(self.event("sibilant")["change_db"], -5.0)
        self.press("0")
        self.assertTrue(self.event("sibilant")["muted"])
        self.press("0")
        self.assertFalse(self.event("sibilant")["muted"])
        self.press("Backspace")
        self.assertEqual(self.event("sibilant")["change_db"], 0.0)
        count = len(self.air())
        self.press("x")
        self.assertEqual(len(self.air()), count + 1)
        self.press("ArrowLeft")
        page.get_by_role("application", name=re.compile("selected: breath")).wait_for()
        self.press("n")
        page.get_by_role("application", name=re.compile("harsh")).wait_for()
        self.press("a")
        self.until("n.flags.some((f) => f.kind.startsWith('harsh'))")

    def test_typed_levels_kinds_and_many_at_once(self) -> None:
        page = self.page
        self.canvas().focus()
        self.press("ArrowRight", "a", "Control+a")
        page.get_by_text(re.compile(r"\d\d air events")).first.wait_for()
        field = page.get_by_label("Level (dB)")
        field.fill("-4")
        field.press("Enter")
        self.settle()
        self.assertEqual({event["change_db"] for event in self.air()}, {-4.0})
        field.fill("by -1.5")
        field.press("Enter")
        self.settle()
        self.assertEqual({event["change_db"] for event in self.air()}, {-5.5})
        field.fill("40")
        field.press("Enter")
        page.get_by_text(re.compile("must be (between|a number from)")).first.wait_for()
        self.canvas().focus()
        self.press("ArrowRight")
        page.get_by_role("button", name=re.compile("Kind of air")).click()
        page.get_by_role("option", name="Consonant").click()
        self.settle()
        self.assertTrue(any("Set air" in s or "Consonant" in s for s in self.steps()))

    def steps(self) -> list[str]:
        self.page.get_by_role("button", name="Steps", exact=True).click()
        steps = self.page.get_by_role("list", name="Steps").locator("li")
        steps.first.wait_for()
        return steps.all_inner_texts()


class PassTest(AirCase):
    def test_softening_shows_and_takes_the_planted_ones(self) -> None:
        window = self.window("Soften harsh sibilants…")
        rows = window.get_by_role("list", name="Sibilants that change").get_by_role("listitem")
        rows.nth(2).wait_for()
        planted = [air.start_s for air in lead().air if air.kind == "sibilant" and air.level_db > -20]
        shown = [float(text.split(" s")[0]) for text in rows.all_inner_texts()]
        np.testing.assert_allclose(shown, planted, atol=0.03)
        self.assertTrue(all(event["change_db"] == 0 for event in self.air()))
        rows.nth(2).get_by_role("button").click()
        middle, _ = self.lane("air", shown[2])
        self.assertTrue(self.canvas().bounding_box()["x"] < middle < 1000)
        self.take()
        self.assertEqual(sum(event["change_db"] < -3 for event in self.air()), 3)
        self.assertFalse(any(event["harsh_db"] for event in self.air()))

    def test_breaths_here_and_in_the_stack(self) -> None:
        page = self.page
        window = self.window("Breaths…")
        window.get_by_text("9 breaths change.").wait_for()
        window.get_by_role("button", name="Phrase").click()
        window.get_by_text("1 breath changes.").wait_for()
        window.get_by_role("button", name="Remove breaths of doubles").click()
        page.get_by_text(re.compile(r"4 in Double 1, 4 in Double 2\. The lead keeps its own")).wait_for()
        window.get_by_role("button", name="Leave", exact=True).click()
        self.assertFalse(any(event["muted"] for event in self.air()))
        self.pick("Track", "Double 1")
        page.wait_for_function("() => window.glassThread.air().filter((e) => e.muted).length === 4")
        sound = self.samples(
            "() => { const b = window.glassThread.air().find((e) => e.muted);"
            " return window.glassThread.heard('tuned', b.start_s + 0.08, b.end_s - 0.08); }"
        )
        self.assertTrue((sound == 0).all())

    def test_even_out_asks_what_to_act_on(self) -> None:
        self.page.keyboard.press("Escape")
        window = self.window("Even out…")
        window.get_by_text("Nothing is selected. What should be evened out?").wait_for()
        self.assertTrue(window.get_by_role("button", name="Take it").is_disabled())
        window.get_by_role("button", name="Whole track").click()
        for label in ("Lift quiet (%)", "Hold loud (%)"):
            field = window.get_by_label(label)
            field.fill("100")
            field.press("Enter")
        window.get_by_text(re.compile(r"4\d notes change")).wait_for()
        self.take()
        notes = self.page.evaluate("() => window.glassThread.notes()")
        after = [note["level_db"] + note["gesture"]["level_db"] for note in notes]
        self.assertLess(max(after) - min(after), 0.11)

    def test_gaps_are_framed_cleared_and_put_back(self) -> None:
        window = self.window("Clear gaps…")
        window.get_by_text(re.compile(r"10 gaps, \d\d\.\d s in all")).wait_for()
        self.assertEqual(self.page.evaluate("() => window.glassThread.gaps().length"), 0)
        self.take()
        self.assertEqual(self.page.evaluate("() => window.glassThread.gaps().length"), 10)
        self.window("Clear gaps…").get_by_role("button", name="Put them back").click()
        self.settle()
        self.page.wait_for_function("() => window.glassThread.gaps().length === 0")

    def test_loudness_before_and_after(self) -> None:
        page = self.page
        self.canvas().focus()
        self.press("ArrowRight", "Control+.", "Control+.")
        window = self.window("Loudness…")
        row = window.get_by_role("row", name=re.compile("Selection, loudness"))
        row.wait_for()
        sung, tuned = (float(text.split()[0].replace("−", "-")) for text in row.get_by_role("cell").all_inner_texts())
        self.assertAlmostEqual(tuned - sung, 6.0, delta=0.4)
        page.keyboard.press("Escape")

    def test_air_and_notes_alone_and_the_lane_as_energy(self) -> None:
        page = self.page
        event, note = self.event("sibilant"), page.evaluate("() => window.glassThread.notes()[0]")
        spans = {
            "air": (event["start_s"] + 0.03, event["end_s"] - 0.03),
            "notes": (note["start_s"] + 0.1, note["end_s"] - 0.1),
        }

        def heard(kind: str, of: str) -> np.ndarray:
            return self.heard(kind, *spans[of])

        self.assertTrue((heard("air", "notes") == 0).all())
        self.assertTrue((heard("notes", "air") == 0).all())
        for kind in spans:
            np.testing.assert_allclose(heard(kind, kind), heard("tuned", kind), atol=1e-6)
        self.canvas().focus()
        before = self.canvas().screenshot()
        self.press("e")
        page.get_by_role("button", name="Air lane as energy over frequency", pressed=True).wait_for()
        self.quiet()
        self.assertNotEqual(self.canvas().screenshot(), before)

    def test_strain_and_kept_in_inspector_and_table(self) -> None:
        page = self.page
        self.canvas().focus()
        self.press("ArrowRight", "ArrowUp", "ArrowUp", "ArrowUp")
        self.until("n.strain > 30")
        note = self.note()
        page.get_by_text(f"{round(note['strain'])} of 100").wait_for()
        page.get_by_text("Your own settings").click()
        field = page.get_by_label("Strained (up)")
        field.fill("20")
        field.press("Enter")
        page.get_by_text("sung again: it is more than two semitones off").wait_for()
        page.get_by_role("button", name="Notes", exact=True).click()
        row = page.get_by_role("row", selected=True)
        self.assertIn(f"{round(note['kept'])} %", row.inner_text())
        page.get_by_role("columnheader", name="Strain").click()
        self.assertEqual(page.get_by_role("columnheader", name="Strain").get_attribute("aria-sort"), "descending")
        page.get_by_role("button", name="Sheet", exact=True).click()
