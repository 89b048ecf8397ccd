"""Debian's Chromium, one for all tests of a run: the build without a window when it is there, as it starts sooner."""

from __future__ import annotations

import atexit
import shutil
from functools import lru_cache

from playwright.sync_api import Browser, sync_playwright

from glass_thread.bench.speed.screen import CHROMIUM, FLAGS, WINDOWLESS


@lru_cache(maxsize=1)
def chromium() -> Browser:
    """The browser; every test makes a context of its own in it."""
    playwright = sync_playwright().start()
    browser = playwright.chromium.launch(executable_path=shutil.which(WINDOWLESS) or CHROMIUM, args=FLAGS)
    atexit.register(playwright.stop)
    atexit.register(browser.close)
    return browser
