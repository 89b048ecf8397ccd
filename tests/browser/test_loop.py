"""Press, hear, shape, compare: what sounds and what keys do after each action, by pointer and by keys."""

import re

from playwright.sync_api import Request, Route

from tests.browser import test_gestures
from tests.browser.test_movement import MovementCase

SOUNDS = "window.glassThread.sounds()"


class Heard(test_gestures.GestureCase):
    hears_presses = True

    def sounds(self, condition: str) -> None:
        """Wait until what sounds, at `at` seconds or null, fits."""
        self.page.wait_for_function(f"() => {{ const at = {SOUNDS}; return {condition}; }}")

    def press_note(self, note: dict) -> None:
        x, y = self.place((note["start_s"] + note["end_s"]) / 2, note["target_midi"])
        self.page.mouse.move(x, y)
        self.page.mouse.down()

    def selected(self) -> list[dict]:
        return self.page.evaluate("() => window.glassThread.selected()")


class PressedNoteTest(Heard, MovementCase):
    def test_a_note_is_heard_alone_while_the_button_is_down_and_a_drag_is_silent(self) -> None:
        note = self.long()
        self.press_note(note)
        self.sounds(f"at !== null && at >= {note['start_s'] - 0.02} && at <= {note['end_s'] + 0.02}")
        self.assertEqual(len(self.page.evaluate("() => window.glassThread.sounding()")), 1)
        self.page.mouse.move(*self.place(note["start_s"] + 0.3, note["target_midi"] + 0.6), steps=4)
        self.sounds("at === null")
        self.page.mouse.up()
        self.settle()

    def test_presses_are_silent_once_that_is_switched_off_also_on_the_next_visit(self) -> None:
        note = self.long()
        self.page.get_by_text("Your own settings").click()
        self.page.get_by_text("Hear what is pressed").click()
        self.page.reload()
        self.canvas().wait_for()
        self.quiet()
        note = self.long()
        self.page.evaluate(f"() => {{ window.heard = []; setInterval(() => window.heard.push({SOUNDS}), 5); }}")
        self.press_note(note)
        self.page.mouse.up()
        self.quiet()  # what had begun to sound would have sounded to its end
        heard = self.page.evaluate("() => window.heard")
        self.assertGreater(len(heard), 0)
        self.assertEqual({*heard}, {None})

    def test_the_lead_in_is_heard_before_the_selection(self) -> None:
        note = self.choose("n.start_s > 1.5 && n.end_s - n.start_s > 0.3")
        self.page.get_by_text("Your own settings").click()
        field = self.page.get_by_label("Lead-in (ms)")
        field.fill("200")
        field.press("Enter")
        self.page.keyboard.press("Enter")
        self.sounds(f"at !== null && at >= {note['start_s'] - 0.21}")
        self.page.keyboard.press(" ")
        self.sounds("at === null")


class KeysTest(Heard, MovementCase):
    def test_keys_work_at_once_after_a_fader_was_moved_by_the_pointer(self) -> None:
        page = self.page
        self.long()
        thumb = page.get_by_role("slider", name="Movement fader").locator("xpath=ancestor::*[contains(@class,'thumb')]")
        box = thumb.bounding_box()
        self.drag((box["x"] + 6, box["y"] + 9), (box["x"] - 20, box["y"] + 9))
        self.until("n.gesture.movement < 1")
        page.keyboard.press("t")
        self.until("n.gesture.pull === 1 && n.gesture.movement < 1")
        page.keyboard.press("Control+z")
        self.until("n.gesture.pull === 0")
        page.keyboard.press(" ")
        self.sounds("at !== null")
        page.keyboard.press(" ")
        self.sounds("at === null")

    def held(self, key: str, times: int) -> None:
        for _ in range(times):  # downs without an up between them are repeats
            self.page.keyboard.down(key)
        self.page.keyboard.up(key.split("+")[-1])
        self.settle()
        self.quiet()

    def test_a_held_key_is_one_step_with_one_request_under_way(self) -> None:
        page = self.page
        note = self.long()
        asked, open_now, most = [], [0], [0]

        def count(request: Request) -> None:
            if request.method == "POST" and re.search(r"/(edits|preview)", request.url):
                asked.append(request.url)
                open_now[0] += 1
                most[0] = max(most[0], open_now[0])

        def ended(request: Request) -> None:
            open_now[0] -= request.url in asked

        page.on("request", count)
        page.on("requestfinished", ended)
        page.keyboard.down("Shift")
        self.held("ArrowUp", 25)
        page.keyboard.up("Shift")
        page.remove_listener("request", count)
        page.remove_listener("requestfinished", ended)
        self.until("Math.abs(n.target_midi - n.centre_midi - 0.25) < 1e-6")
        self.assertEqual(len([url for url in asked if "preview" not in url]), 1)
        self.assertLessEqual(most[0], 1)
        page.keyboard.press("Control+z")
        self.until(f"n.target_midi === {note['target_midi']}")

    def test_what_was_shown_goes_also_when_the_next_key_comes_before_the_step(self) -> None:
        page = self.page
        note = self.long()
        for _ in range(10):
            page.keyboard.down(",")
        page.get_by_text("Preview: nothing is changed yet.").wait_for()
        page.keyboard.up(",")
        page.keyboard.down(",")
        self.settle()  # the step of the first is there while the second is held
        page.keyboard.up(",")
        self.settle()
        self.quiet()
        self.until(f"Math.abs(n.gesture.level_db - {note['gesture']['level_db'] - 11}) < 1e-6")
        self.assertEqual(page.get_by_text("Preview: nothing is changed yet.").count(), 0)

    def test_level_and_time_are_held_alike(self) -> None:
        self.long()
        self.held(",", 5)
        self.until("Math.abs(n.gesture.level_db + 5) < 1e-6")
        self.held("i", 4)
        self.until("Math.abs(n.gesture.start_shift_ms - 20) < 1e-6")
        for _ in range(2):
            self.page.keyboard.press("Control+z")
        self.until("!n.edited")

    def test_whoever_went_to_a_control_by_tab_keeps_its_keys(self) -> None:
        self.long()
        slider = self.page.get_by_role("slider", name="Movement fader")
        slider.focus()
        self.page.keyboard.press("ArrowLeft")
        self.until("n.gesture.movement < 1")
        self.assertTrue(slider.evaluate("(one) => one === document.activeElement"))

    def test_own_strength_by_one_key_and_back_by_the_same(self) -> None:
        page = self.page
        self.long()
        page.get_by_text("Your own settings").click()
        field = page.get_by_label("T pulls (%)")
        field.fill("80")
        field.press("Enter")
        page.keyboard.press("t")
        self.until("n.gesture.pull === 0.8")
        page.get_by_role("button", name="Tune 80 % (T)").wait_for()
        page.keyboard.press("t")
        self.until("n.gesture.pull === 0 && !n.edited")

    def test_list_and_inspector_fold_give_the_lane_their_room_and_stay_so(self) -> None:
        page = self.page
        self.canvas().focus()
        page.keyboard.press("(")
        page.keyboard.press(")")
        page.get_by_role("button", name="Print…").wait_for()
        page.wait_for_function("() => document.querySelector('canvas[role=application]').clientWidth >= 1200")
        page.reload()
        self.canvas().wait_for()
        self.assertGreaterEqual(self.canvas().bounding_box()["width"], 1200)
        page.get_by_role("button", name="Inspector", exact=True).click()
        page.get_by_text("No note").wait_for()


class PhraseTest(Heard):
    def button(self, number: int):
        return self.page.get_by_role("button", name=re.compile(rf"^{number} · bar "))

    def phrase(self, number: int) -> list[dict]:
        return [note for note in self.notes() if note["phrase"] == number - 1]

    def test_one_press_chooses_it_whole_and_sounds_it(self) -> None:
        wanted = self.phrase(6)
        self.button(6).click()
        self.assertEqual([n["id"] for n in self.selected()], [n["id"] for n in wanted])
        self.sounds(f"at !== null && at >= {wanted[0]['start_s'] - 0.75} && at < {wanted[-1]['end_s']}")
        self.page.keyboard.press(" ")
        self.sounds("at === null")

    def test_play_begins_before_what_keys_chose(self) -> None:
        self.button(2).click()
        self.page.keyboard.press(" ")
        self.sounds("at === null")
        self.page.keyboard.press("Control+ArrowRight")
        wanted = self.phrase(3)
        self.assertEqual([n["id"] for n in self.selected()], [n["id"] for n in wanted])
        self.page.keyboard.press(" ")
        self.sounds(f"at !== null && Math.abs(at - {wanted[0]['start_s'] - 0.7}) < 0.6")
        self.page.keyboard.press(" ")

    def test_two_phrases_part_way_in_three_actions(self) -> None:
        page = self.page
        self.button(2).click()
        self.button(5).click(modifiers=["Shift"])
        page.keyboard.press("t")
        self.settle()
        pulled = {note["phrase"] for note in self.notes() if note["gesture"]["pull"] > 0}
        self.assertEqual(pulled, {1, 4})

    def test_stopped_while_it_loads_it_stays_stopped(self) -> None:
        page = self.page
        held = []

        def hold(route: Route) -> None:
            held.append(route)

        page.route("**/audio?**", hold)
        with page.expect_request("**/audio?**"):
            page.reload()  # so that nothing was loaded ahead
        self.arrive()
        self.button(8).click()
        page.get_by_role("button", name="Stop", exact=True).wait_for()
        self.assertGreater(len(held), 0)
        page.keyboard.press(" ")
        for route in held:
            route.continue_()
        page.unroute("**/audio?**")
        self.quiet()
        self.sounds("at === null")
        page.get_by_role("button", name="Play", exact=True).wait_for()
