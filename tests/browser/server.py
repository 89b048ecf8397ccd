"""A browser to drive the real application."""

from __future__ import annotations

import re
import shutil
import tempfile
import unittest
from pathlib import Path

from playwright.sync_api import ConsoleMessage, Page, expect

from glass_thread.demo.song import TITLE
from tests.application import PATIENCE_S
from tests.browser.chromium import chromium
from tests.browser.hatchery import Hatched, prepared

PATIENCE_MS = 1000 * PATIENCE_S
expect.set_options(timeout=PATIENCE_MS)
# Counts what the page is about: requests that are not answered yet, and the last time it asked for a frame or a timer.
REST = """(() => {
  const about = { open: 0, last: performance.now() };
  const stir = () => { about.last = performance.now(); };
  const fetched = window.fetch.bind(window);
  window.fetch = async (...given) => {
    about.open += 1;
    try { return await fetched(...given); } finally { about.open -= 1; stir(); }
  };
  const framed = window.requestAnimationFrame.bind(window);
  window.requestAnimationFrame = (paint) => { stir(); return framed((t) => { stir(); paint(t); }); };
  const timed = window.setTimeout.bind(window);
  window.setTimeout = (run, ms, ...rest) => {
    if (ms > 1000) return timed(run, ms, ...rest);
    about.open += 1;
    const id = timed(() => { if (pending.delete(id)) about.open -= 1; stir(); run(...rest); }, ms);
    pending.add(id);
    return id;
  };
  const pending = new Set();
  const cleared = window.clearTimeout.bind(window);
  window.clearTimeout = (id) => { if (pending.delete(id)) about.open -= 1; cleared(id); };
  window.rest = (still_ms, patience_ms) => new Promise((done) => {
    const end = performance.now() + patience_ms;
    const look = () => {
      const now = performance.now();
      const still = about.open <= 0 && now - about.last > still_ms;
      if (still || now > end) done(still);
      else timed(look, 15);
    };
    look();
  });
})()"""


class BrowserCase(unittest.TestCase):
    """One application with the demo song and one browser for all tests of a class."""

    @classmethod
    def setUpClass(cls) -> None:
        temporary = tempfile.TemporaryDirectory()
        cls.addClassCleanup(temporary.cleanup)
        cls.folder = Path(temporary.name)
        shutil.copytree(prepared(), cls.folder / "data")
        cls.application = Hatched(cls.folder / "data")
        cls.application.start()
        cls.addClassCleanup(cls.application.kill)

    def setUp(self) -> None:
        context = chromium().new_context(
            viewport={"width": 1280, "height": 800}, accept_downloads=True, reduced_motion="reduce"
        )
        self.addCleanup(context.close)
        self.page: Page = context.new_page()
        self.page.set_default_timeout(PATIENCE_MS)
        self.page.add_init_script(REST)
        self.problems: list[str] = []
        self.page.on("pageerror", lambda error: self.problems.append(str(error)))
        self.page.on("console", self._note)
        self.page.on("response", lambda r: self.problems.append(f"{r.status} {r.url}") if r.status >= 500 else None)
        self.addCleanup(lambda: self.assertEqual(self.problems, []))
        self.page.goto(self.application.url)

    def _note(self, message: ConsoleMessage) -> None:
        """An error on the console is a problem, but for the browser's line about an answer that refuses something."""
        if message.type == "error" and "the server responded with a status of 4" not in message.text:
            self.problems.append(message.text)

    def quiet(self, still_ms: float = 60) -> None:
        """Wait until the page has had nothing under way for so long: no request, no timer, no frame asked for."""
        rests = self.page.evaluate("([still, most]) => window.rest(still, most)", [still_ms, PATIENCE_MS])
        self.assertTrue(rests, "the page does not come to rest")

    def pick(self, label: str, option: str) -> None:
        """Choose one of many from a list that opens."""
        self.page.get_by_role("button", name=re.compile(f"{label}$")).click()
        self.page.get_by_role("option", name=option, exact=True).click()

    def open_demo(self) -> None:
        """Open the demo song's lead."""
        song = self.page.get_by_role("region", name=TITLE)
        song.get_by_role("button", name="Open", exact=True).click()
        self.page.get_by_role("application").wait_for()

    def heard(self, kind: str, start: float, end: float) -> list[float]:
        """Samples that would be heard, from an offline render of the page's own playback."""
        return self.page.evaluate("([k, a, b]) => window.glassThread.heard(k, a, b)", [kind, start, end])
