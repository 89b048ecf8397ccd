"""A browser to drive the real application."""

from __future__ import annotations

import base64
import re
import shutil
import sys
import tempfile
import unittest
from pathlib import Path
from typing import Any

import numpy as np
import requests
from playwright.sync_api import Page, expect

from glass_thread.api.app import PREFIX
from glass_thread.demo.song import TITLE
from tests.browser.hatchery import Hatched, failed_answers, prepared
from tests.browser.kept_page import PATIENCE_MS, PORT, KeptPage

expect.set_options(timeout=PATIENCE_MS)
KEPT = KeptPage()


class BrowserCase(unittest.TestCase):
    """One application with the demo song for all tests of a class."""

    begun_with = staticmethod(prepared)  # makes the data folder
    song = TITLE
    hears_presses = False  # a page that sounds does not come to rest until it has ended

    @classmethod
    def setUpClass(cls) -> None:
        temporary = tempfile.TemporaryDirectory()
        cls.addClassCleanup(temporary.cleanup)
        cls.folder = Path(temporary.name)
        shutil.copytree(cls.begun_with(), cls.folder / "data")
        cls.application = Hatched(cls.folder / "data")
        cls.application.port = PORT
        cls.application.start()
        cls.addClassCleanup(cls.application.kill)

    def run(self, result: unittest.TestResult | None = None) -> unittest.TestResult | None:
        """Run the test; a page that one failed on is not for the next."""
        self.failed_before = _failed(result)
        result = super().run(result)
        if _failed(result) > self.failed_before:
            KEPT.let_go()
        return result

    def setUp(self) -> None:
        self.problems = KEPT.problems
        self.addCleanup(self._leave)
        self.page: Page = KEPT.enter(self.begins_at(), hears_presses=self.hears_presses)

    def begins_at(self) -> str:
        """Where in the page a test begins: with the songs."""
        return ""

    def known_song(self) -> dict:
        """The song as the server knows it."""
        songs = requests.get(f"{self.application.url}{PREFIX}/songs", timeout=60).json()["songs"]
        return next(one for one in songs if one["title"] == self.song)

    def lead(self) -> str:
        """The place of the song's lead."""
        song = self.known_song()
        return f"/#/song/{song['id']}/track/{song['tracks'][0]['id']}"

    def _leave(self) -> None:
        if _failed(self._outcome.result) > self.failed_before:  # what the page showed is gone with it
            sys.stderr.write(f"\n{self.id()} ends at {self.page.url}:\n{self.page.locator('body').aria_snapshot()}\n")
        KEPT.leave()
        self.assertEqual(self.problems + failed_answers(self.folder), [])

    def quiet(self, still_ms: float = 60) -> None:
        """Wait until the page has had nothing under way for so long: no request, no timer, no frame asked for."""
        rests = self.page.evaluate("([still, most]) => window.rest(still, most)", [still_ms, PATIENCE_MS])
        self.assertTrue(rests, "the page does not come to rest")

    def pick(self, label: str, option: str) -> None:
        """Choose one of many from a list that opens."""
        self.page.get_by_role("button", name=re.compile(f"{label}$")).click()
        self.page.get_by_role("option", name=option, exact=True).click()

    def open_lead(self) -> None:
        """Open the song's lead from the list of songs."""
        song = self.page.get_by_role("region", name=self.song)
        song.get_by_role("button", name="Open", exact=True).click()
        self.page.get_by_role("application").wait_for()

    def heard(self, kind: str, start: float, end: float) -> np.ndarray:
        """Samples that would be heard, from an offline render of the page's own playback."""
        return self.samples("([k, a, b]) => window.glassThread.heard(k, a, b)", [kind, start, end])

    def samples(self, expression: str, *about: Any, page: Page | None = None) -> np.ndarray:
        """Samples that something on the page gives."""
        packed = (page or self.page).evaluate(expression, *about)
        return np.frombuffer(base64.b64decode(packed), "<f4")


def _failed(result: unittest.TestResult | None) -> int:
    return len(result.failures) + len(result.errors) if result else 0
