"""The faulty lead of the demo song put right in the interface from the keyboard, printed and measured."""

import re

import numpy as np
import soundfile as sf

from glass_thread.core.f0 import track_f0
from glass_thread.core.types import HOP_S
from glass_thread.demo.build import SAMPLE_RATE
from glass_thread.demo.singer import sing
from glass_thread.demo.song import lead
from tests.browser.server import BrowserCase


class RepairTest(BrowserCase):
    def choose(self, at_s: float) -> None:
        """Step with the arrow keys to the note at a time."""
        page = self.page
        page.keyboard.press("Escape")
        page.keyboard.press("ArrowRight")
        for _ in range(80):
            note = page.evaluate("() => window.glassThread.selected()[0]")
            if note["end_s"] > at_s:
                return
            page.keyboard.press("ArrowRight")

    def typed(self, label: str, text: str) -> None:
        """Type a value into a field and leave it."""
        field = self.page.get_by_label(label, exact=True)
        field.fill(text)
        field.press("Enter")
        self.page.evaluate("() => window.glassThread.settled()")
        self.page.get_by_role("application").focus()

    def test_from_the_keyboard_to_a_print_within_five_cents(self) -> None:
        page = self.page
        self.open_demo()
        page.keyboard.press("Control+a")
        page.keyboard.press("p")
        for label, text in (("Pull (%)", "100"), ("Drift (%)", "100"), ("Only over (ct)", "0")):
            field = page.get_by_role("dialog").get_by_label(label, exact=True)
            field.fill(text)
            field.press("Enter")
        page.get_by_text(re.compile(r"selected notes: \d\d notes change")).wait_for()
        page.wait_for_timeout(600)
        page.get_by_role("button", name="Take it").press("Enter")
        page.get_by_role("dialog").wait_for(state="detached")
        page.evaluate("() => window.glassThread.settled()")
        drifting = "() => window.glassThread.notes().filter((n) => Math.abs(n.drift_cents_per_s) >= 15)"
        for start in [note["start_s"] for note in page.evaluate(drifting)]:
            self.choose(start + 0.05)
            self.typed("Drift (%)", "0")
        for at_s, target in ((32.4, "F4"), (33.35, "E4")):
            self.choose(at_s)
            self.typed("Target", target)
        page.get_by_role("button", name="Print…").press("Enter")
        page.get_by_role("button", name="Print", exact=True).click()
        with page.expect_download() as download:
            page.get_by_role("link", name=re.compile("Save")).click()
        printed, rate = sf.read(download.value.path())
        self.assertEqual(rate, SAMPLE_RATE)
        intended = sing(lead().in_tune(), rate).midi
        read = track_f0(printed, rate).midi
        place = np.minimum((np.arange(len(read)) * HOP_S * rate).round().astype(int), len(intended) - 1)
        self.assertLess(np.nanmedian(100 * np.abs(read - intended[place])), 5.0)
        self.assertEqual([p for p in self.problems if "Failed to load resource" not in p], [])
