"""The demo polished as a user would: sibilants, breaths, levels and gaps, and what a print of it holds."""

import numpy as np
import soundfile as sf

from glass_thread.demo.build import FOLDER
from glass_thread.demo.song import lead
from tests.browser.test_air import AirCase


class PolishTest(AirCase):
    """The demo polished as a user would, once from the keyboard and once with the pointer, and measured in a print."""

    def check(self, samples: np.ndarray) -> None:
        source, rate = sf.read(FOLDER / "lead.flac", dtype="int16")
        first, last = source.astype(float), samples.astype(float)

        def change_db(start_s: float, end_s: float) -> float:
            part = slice(round(start_s * rate), round(end_s * rate))
            return 20 * np.log10(np.sqrt(np.mean(last[part] ** 2)) / np.sqrt(np.mean(first[part] ** 2)))

        performance = lead()
        for air in performance.air:
            inner = slice(round((air.start_s + 0.03) * rate), round((air.end_s - 0.03) * rate))
            with self.subTest(air.sound, at=round(air.start_s, 2)):
                if air.kind == "sibilant" and air.level_db > -20:
                    self.assertLess(change_db(air.start_s + 0.03, air.end_s - 0.03), -4.0)
                elif air.kind == "sibilant":
                    np.testing.assert_array_equal(samples[inner], source[inner])
        soft = next(note for note in performance.notes if note.level_db == -11)
        loud = next(note for note in performance.notes if note.level_db == 5)
        self.assertGreater(change_db(soft.start_s + 0.06, soft.end_s - 0.06), 5.0)
        self.assertLess(change_db(loud.start_s + 0.06, loud.end_s - 0.2), -2.0)
        onset = next(air for air in performance.air if air.sound == "h")
        start = slice(round(onset.start_s * rate), round(onset.end_s * rate))
        np.testing.assert_array_equal(samples[start], source[start])
        self.assertTrue((samples[round(6.9 * rate) : round(7.7 * rate)] == 0).all())
        self.assertTrue((samples[: round(1.9 * rate)] == 0).all())
        steps = np.abs(np.diff(last))
        self.assertLessEqual(steps.max(), np.abs(np.diff(first)).max() * 1.9)  # the soft word is up by 6 dB, no click

    def tab_to(self, text: str) -> None:
        """Step through the controls of a window until one of this name has the focus."""
        for _ in range(40):
            self.page.keyboard.press("Tab")
            if self.page.evaluate("() => document.activeElement?.textContent") == text:
                return
        self.fail(f"the Tab key does not reach {text}")

    def open_by_keys(self, first_letters: str) -> None:
        self.page.get_by_role("button", name="Levels").press("Enter")
        self.page.keyboard.type(first_letters)
        self.page.keyboard.press("Enter")
        self.page.get_by_role("dialog").wait_for()

    def test_from_the_keyboard(self) -> None:
        page = self.page
        self.canvas().focus()
        self.press("Escape")
        for name in ("Soften", "Clear"):
            self.open_by_keys(name)
            self.wait_for_take()
            self.tab_to("Take it")
            page.keyboard.press("Enter")
            page.get_by_role("dialog").wait_for(state="detached")
            self.settle()
        self.open_by_keys("Breaths")
        self.tab_to("Remove breaths of doubles and harmonies")
        page.keyboard.press("Enter")
        page.get_by_text("The lead keeps its own").wait_for()
        page.keyboard.press("Escape")
        page.get_by_role("dialog").wait_for(state="detached")
        soft = next(note for note in self.notes() if note["level_db"] < -24)
        loud = next(note for note in self.notes() if note["level_db"] > -15)
        for note, keys in ((soft, ["Control+."] * 2), (loud, ["Control+,"])):
            self.press("Escape")
            self.step_to(note["start_s"])
            self.press(*keys)
        self.check(self.printed())

    def test_with_the_pointer(self) -> None:
        page = self.page
        for words in ("Soft a silver", "Ships alight"):
            self.phrase(words)
            for event in [e for e in self.air() if e["harsh_db"]]:
                x, y = self.lane("air", (event["start_s"] + event["end_s"]) / 2)
                box = self.canvas().bounding_box()
                if box["x"] + 60 < x < box["x"] + box["width"]:
                    self.drag((x, y), 0, 14)
        for words, wanted, dy in (
            ("hold the light", "n.level_db < -24", -12),
            ("Hold the line", "n.level_db > -15", 6),
        ):
            page.get_by_text(words).last.click()
            self.quiet()
            note = page.evaluate(f"() => window.glassThread.notes().find((n) => {wanted})")
            self.drag(self.lane("level", (note["start_s"] + note["end_s"]) / 2), 0, dy)
        self.window("Clear gaps…")
        self.take()
        self.check(self.printed())
