"""Room for the sheet: what stands where, what is moved by hand, and that it stays so."""

import re

from tests.browser.test_loop import Heard


class RoomTest(Heard):
    def box(self, name: str, role: str = "dialog") -> dict:
        return self.page.get_by_role(role, name=name).bounding_box()

    def test_a_window_stands_in_the_inspectors_place_and_the_sheet_stays(self) -> None:
        page = self.page
        page.get_by_role("button", name=re.compile("^3 · bar ")).click()
        before = self.canvas().bounding_box()
        for button, title in (("Tune pass…", "Tune pass"), ("Versions…", "Versions"), ("Quantise…", "Quantise")):
            page.get_by_role("button", name=button).click()
            window = self.box(title)
            with self.subTest(title):
                self.assertEqual(self.canvas().bounding_box(), before)
                self.assertGreater(window["x"], before["x"] + before["width"])
                self.assertLessEqual(window["x"] + window["width"], page.viewport_size["width"])
            page.keyboard.press("Escape")
            page.get_by_role("dialog", name=title).wait_for(state="detached")
        page.get_by_role("button", name="Steps", exact=True).wait_for()  # the inspector is back

    def test_the_tools_move_nothing(self) -> None:
        before = self.canvas().bounding_box()
        for tool in ("Time", "Draw", "Rub out", "Level", "Select"):
            self.page.get_by_role("button", name=tool, exact=True).click()
            self.assertEqual(self.canvas().bounding_box(), before, tool)

    def test_with_both_sides_folded_the_pitch_lane_is_large(self) -> None:
        page = self.page
        self.canvas().focus()
        page.keyboard.press("(")
        page.keyboard.press(")")
        page.wait_for_function("() => document.querySelector('canvas[role=application]').clientWidth >= 1200")
        self.quiet()
        border = self.box("Height of the air lane", "separator")
        self.assertGreaterEqual(border["y"] + 3 - self.canvas().bounding_box()["y"] - 32, 480)  # under the ruler
        page.get_by_role("img", name="Overview of the whole track").wait_for()  # among the tools

    def test_what_is_said_lies_over_nothing(self) -> None:
        page = self.page
        page.get_by_role("button", name="Draw", exact=True).click()
        hint = page.get_by_text("Draw a pitch over notes").bounding_box()
        transport = page.get_by_role("contentinfo", name="Transport").bounding_box()
        self.assertGreaterEqual(hint["y"], transport["y"] + transport["height"] - 1)
        page.get_by_role("button", name="Select", exact=True).click()
        page.keyboard.press("t")  # with nothing chosen
        said = page.get_by_text("Select a note first").bounding_box()
        self.assertGreaterEqual(said["y"], transport["y"] + transport["height"] - 1)
        page.keyboard.press("ArrowRight")
        page.get_by_text("Select a note first").wait_for(state="detached")

    def lane(self, name: str) -> int:
        return int(self.page.get_by_role("separator", name=f"Height of the {name} lane").get_attribute("aria-valuenow"))

    def test_borders_of_lanes_by_pointer_and_by_keys_and_on_the_next_visit(self) -> None:
        page = self.page
        air, level = self.lane("air"), self.lane("level")
        border = self.box("Height of the level lane", "separator")
        x, y = border["x"] + 300, border["y"] + 3
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x, y - 40, steps=4)
        page.mouse.up()
        self.assertAlmostEqual(self.lane("level"), level + 40, delta=3)
        page.get_by_role("separator", name="Height of the air lane").focus()
        page.keyboard.press("ArrowUp")
        page.keyboard.press("ArrowUp")
        self.assertEqual(self.lane("air"), air + 16)
        wanted = self.lane("air"), self.lane("level")
        page.reload()
        self.canvas().wait_for()
        page.get_by_role("separator", name="Height of the air lane").wait_for()
        self.assertEqual((self.lane("air"), self.lane("level")), wanted)
        self.quiet()
        self.assertEqual([round(self.page.evaluate(f"() => window.glassThread.lane('{name}', 1)[1]")) > 0
                          for name in ("air", "level")], [True, True])  # fmt: skip

    def test_the_strip_docks_where_there_is_no_free_room_and_still_sets(self) -> None:
        page = self.page
        self.addCleanup(page.set_viewport_size, page.viewport_size)  # the page is kept for the next test
        page.set_viewport_size({"width": 1100, "height": 480})  # hardly any pitch lane is left
        page.get_by_role("button", name=re.compile("^3 · bar ")).click()
        page.keyboard.press("Escape")
        self.canvas().focus()
        page.keyboard.press("ArrowRight")
        strip = page.get_by_role("group", name="Note strip")
        strip.wait_for()
        page.wait_for_function(
            "() => document.querySelector('[aria-label=\"Note strip\"]').dataset.docked !== undefined"
        )
        air = self.page.evaluate("() => window.glassThread.lane('air', 1)[1]")
        self.assertGreater(strip.bounding_box()["y"] - self.canvas().bounding_box()["y"], air)
        slider = page.get_by_role("slider", name="Pull at the note")
        slider.focus()
        page.keyboard.press("ArrowRight")
        page.wait_for_function("() => window.glassThread.selected()[0].gesture.pull > 0")
        self.settle()
