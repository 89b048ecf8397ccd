"""Every screen and window checked by axe-core, against the rules of WCAG 2 that a program can test; keys and focus."""

import re
from pathlib import Path

from playwright.sync_api import expect

from tests.browser.test_air import AirCase

AXE = Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js"
DIALOG = "[role=dialog]"


class AccessCase(AirCase):
    def violations(self, within: str = "html") -> list[tuple[str, str]]:
        """What is against a rule on the page, or in the one part of it, by day and by night, when colours differ."""
        if not self.page.evaluate("() => 'axe' in window"):
            self.page.evaluate(AXE.read_text())
        found = self.broken(within, {})
        self.page.evaluate("() => window.glassThread.night(true)")
        found += self.broken(within, {"runOnly": ["color-contrast"]})
        self.page.evaluate("() => window.glassThread.night(false)")
        return found

    def broken(self, within: str, options: dict[str, list[str]]) -> list[tuple[str, str]]:
        """Rules that axe-core finds broken, each with the first element that breaks it."""
        self.quiet()  # colours must have settled
        look = "([part, options]) => axe.run(part, {resultTypes: ['violations'], ...options})"
        result = self.page.evaluate(look, [within, options])
        return [(v["id"], v["nodes"][0]["html"][:160]) for v in result["violations"]]


class AccessTest(AccessCase):
    def test_screens(self) -> None:
        page = self.page
        with self.subTest("sheet"):
            self.assertEqual(self.violations(), [])
        self.press("n")
        with self.subTest("note chosen"):
            self.assertEqual(self.violations(), [])
        self.press("a", "e")
        with self.subTest("air chosen"):
            self.assertEqual(self.violations(), [])
        page.get_by_role("button", name="Notes", exact=True).click()
        with self.subTest("table"):
            self.assertEqual(self.violations(), [])
        page.get_by_role("button", name="Comp", exact=True).click()
        with self.subTest("comps"):
            self.assertEqual(self.violations(), [])
        page.get_by_role("button", name="Make a comp").click()
        page.get_by_role("group", name="Choose here").wait_for()
        self.press("1")
        page.get_by_text("Many places at once").click()
        with self.subTest("comp"):
            self.assertEqual(self.violations(), [])
        page.get_by_role("group", name="View").get_by_role("button", name="Stack").click()
        page.get_by_role("grid", name="Tracks of the song").wait_for()
        page.get_by_role("checkbox", name=re.compile("^Choose Double 1")).check(force=True)
        with self.subTest("stack"):
            self.assertEqual(self.violations(), [])
        page.get_by_role("button", name="Songs").click()
        page.get_by_role("button", name="Open", exact=True).first.wait_for()
        with self.subTest("songs"):
            self.assertEqual(self.violations(), [])
        page.go_back()
        page.get_by_role("button", name="Sheet", exact=True).click()

    def test_the_night_stays_for_the_next_visit(self) -> None:
        page = self.page
        theme = "() => document.documentElement.dataset.theme"
        for pressed, wanted in ((True, "night"), (False, "daylight")):
            page.get_by_role("button", name="Night theme").click()
            self.assertEqual(page.evaluate(theme), wanted)
            page.reload()
            page.get_by_role("button", name="Night theme", pressed=pressed).wait_for()
            self.assertEqual(page.evaluate(theme), wanted)

    def test_windows_beside_the_sheet(self) -> None:
        page = self.page
        self.press("n")
        for menu, item in (
            ("Levels", "Soften harsh sibilants…"),
            ("Levels", "Breaths…"),
            ("Levels", "Even out…"),
            ("Levels", "Clear gaps…"),
            ("Levels", "Loudness…"),
            ("More for the selection", "Read again…"),
            ("More for the selection", "Phrases like this one…"),
            (None, "Tune pass…"),
            (None, "Cuts…"),
            (None, "Glaze…"),
            ("More for the selection", "Borrow the word… (B)"),
            ("Voices", "Follow another track… (Y)"),
            ("Voices", "Make a double…"),
            ("Voices", "Make a harmony…"),
            ("Voices", "Sing a melody…"),
        ):
            if menu:
                self.choose_from(menu, item)
            else:
                page.get_by_role("button", name=item).click()
            page.get_by_role("dialog").wait_for()
            with self.subTest(item):
                self.assertEqual(self.violations(DIALOG), [])
                expect(page.get_by_role("dialog")).to_be_focused()
                page.keyboard.press("Escape")
                page.get_by_role("dialog").wait_for(state="detached")
                expect(page.get_by_role("application")).to_be_focused()
                self.assertEqual(len(page.evaluate("() => window.glassThread.selected()")), 1)  # Escape is used up

    def test_windows_over_the_screen(self) -> None:
        page = self.page
        for button, title in (
            ("Key, tempo and tuning", "Key, tempo and tuning"),
            ("Versions…", "Versions"),
            ("Keys", "Keys"),
            ("Print…", "Print"),
            ("Words…", "Words"),
        ):
            page.get_by_role("button", name=button).first.click()
            page.get_by_role("dialog", name=title).wait_for()
            with self.subTest(title):
                self.assertEqual(self.violations(DIALOG), [])
                page.keyboard.press("Escape")
                page.get_by_role("dialog").wait_for(state="detached")

    def test_the_list_of_flags_by_keyboard(self) -> None:
        page = self.page
        page.get_by_role("group", name="Phrases or flags").get_by_role("button", name="Flags").press("Enter")
        flags = page.get_by_role("list", name="Flags, the worst first")
        self.assertEqual(self.violations(), [])
        flags.get_by_role("button").first.press("Enter")
        worst = page.evaluate("() => window.glassThread.selected()[0]")
        hurts = [max((f["hurt"] for f in n["flags"]), default=0) for n in self.notes()]
        self.assertEqual(max(f["hurt"] for f in worst["flags"]), max(hurts))
        self.pick("Kind of flags", next(f"{kind} · {n}" for kind, n in self.kinds().items() if kind == "drifting"))
        self.assertEqual(flags.get_by_text("drifting").count(), flags.get_by_role("listitem").count())
        page.get_by_role("application").focus()
        page.keyboard.press("Shift+N")
        self.until("n.flags.some((f) => f.kind === 'drifting')")
        chosen = page.evaluate("() => window.glassThread.selected()[0].id")
        page.keyboard.press("k")
        self.until("n.flags.length === 0 && n.meant.includes('drifting')")
        page.reload()
        page.get_by_role("application").wait_for()
        self.assertEqual([n["flags"] for n in self.notes() if n["id"] == chosen], [[]])
        page.get_by_role("application").focus()
        page.keyboard.press("Control+z")
        self.page.wait_for_function(
            "(id) => window.glassThread.notes().some((n) => n.id === id && n.flags.length > 0)", arg=chosen
        )

    def kinds(self) -> dict[str, int]:
        """How many notes have flags of each kind."""
        found: dict[str, int] = {}
        for note in self.notes():
            for kind in {flag["kind"] for flag in note["flags"]}:
                found[kind] = found.get(kind, 0) + 1
        return found

    def test_the_notes_table_by_keyboard(self) -> None:
        page = self.page
        page.get_by_role("button", name="Notes", exact=True).click()
        header = page.get_by_role("columnheader", name="Off (ct)", exact=True)
        header.click()
        self.assertEqual(header.get_attribute("aria-sort"), "descending")
        page.locator('[role="row"][aria-rowindex="2"]').click()
        worst = page.evaluate("() => window.glassThread.selected()[0]")
        offs = [abs(n["centre_midi"] - n["target_midi"]) for n in page.evaluate("() => window.glassThread.notes()")]
        self.assertAlmostEqual(abs(worst["centre_midi"] - worst["target_midi"]), max(offs))
        page.keyboard.press("ArrowDown")
        second = page.evaluate("() => window.glassThread.selected().map((n) => n.id)")
        self.assertEqual(len(second), 1)
        self.assertNotEqual(second, [worst["id"]])
        page.keyboard.press("Shift+ArrowDown")
        self.assertEqual(len(page.evaluate("() => window.glassThread.selected()")), 2)
        page.keyboard.press("Control+End")  # far below what is in sight: the row is brought there and chosen
        last = page.evaluate("() => window.glassThread.selected()[0]")
        self.assertAlmostEqual(abs(last["centre_midi"] - last["target_midi"]), min(offs))
        page.keyboard.press("t")
        self.until("n.gesture.pull === 1")
        self.assertLess(page.get_by_role("row").count(), 60)  # rows out of sight are not on the page

    def test_a_menu_does_nothing_until_something_is_chosen(self) -> None:
        page = self.page
        self.press("n")
        button = page.get_by_role("button", name="More for the selection")
        button.press("Enter")
        page.get_by_role("menu").wait_for()
        self.assertEqual(self.violations(), [])
        for key in ("ArrowDown", "ArrowDown", "ArrowUp", "End", "Home"):
            page.keyboard.press(key)
        page.keyboard.press("Escape")
        page.get_by_role("menu").wait_for(state="detached")
        self.settle()
        self.assertTrue(page.get_by_role("button", name="Undo").is_disabled())
        expect(button).to_be_focused()  # a frame after the menu has left
