"""One page for test after test: loading its script anew costs more than most tests do."""

from __future__ import annotations

from playwright.sync_api import BrowserContext, ConsoleMessage, Page

from glass_thread.bench.hostile.server_process import free_port
from tests.application import PATIENCE_S
from tests.browser.chromium import chromium
from tests.browser.rest import REST

PORT = free_port()  # every server of this run listens here, as a page belongs to one address
ADDRESS = f"http://127.0.0.1:{PORT}"
PATIENCE_MS = 1000 * PATIENCE_S
SILENT = """() => localStorage.setItem("glass-thread-settings", '{"hearsPresses": false}')"""


class KeptPage:
    """The page, and the problems it had since it was entered; a new one after it was let go."""

    def __init__(self) -> None:
        self.problems: list[str] = []
        self._page: Page | None = None

    def enter(self, place: str = "", *, hears_presses: bool = True) -> Page:
        """The page as on a first visit to `ADDRESS`, or to a place in it; or as of someone who hears no presses."""
        if self._page is None:
            self._page = self._opened().new_page()
            self._watch(self._page)
            self._page.goto(ADDRESS)
            self._page.wait_for_function("() => !!window.glassThread")
            self._page.evaluate("() => window.glassThread.leave()")
        self.problems.clear()
        self._page.mouse.move(0, 0)
        if not hears_presses:
            self._page.evaluate(SILENT)
        self._page.evaluate("(place) => window.glassThread.enter(place)", place)
        return self._page

    def leave(self) -> None:
        """Take everything away that a test left, and wait until nothing is under way."""
        if self._page is None:
            return
        if not self._page.url.startswith(f"{ADDRESS}/") or not self._page.evaluate("() => !!window.glassThread"):
            self.let_go()
            return
        self._page.evaluate("() => window.glassThread.leave()")
        self._page.evaluate("(most) => window.rest(30, most)", PATIENCE_MS)

    def let_go(self) -> None:
        """Close it; the next test has a new one."""
        if self._page is not None:
            self._page.context.close()
        self._page = None

    def _opened(self) -> BrowserContext:
        return chromium().new_context(
            viewport={"width": 1280, "height": 800}, accept_downloads=True, reduced_motion="reduce"
        )

    def _watch(self, page: Page) -> None:
        page.set_default_timeout(PATIENCE_MS)
        page.add_init_script(REST)
        page.on("pageerror", lambda error: self.problems.append(str(error)))
        page.on("console", self._note)

    def _note(self, message: ConsoleMessage) -> None:
        """An error on the console is a problem, but for the browser's line about an answer that refuses something.

        Of an answer that is 5xx it has a line too; and the server says so itself (`hatchery.failed_answers`), as to be
        told of every answer here costs more than many tests.  Whoever listens to news has a line when a server ends,
        and asks again by itself.
        """
        if message.location.get("url", "").endswith("/news"):
            return
        if message.type == "error" and "the server responded with a status of 4" not in message.text:
            self.problems.append(message.text)
