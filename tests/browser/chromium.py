"""Debian's Chromium, one for all tests of a run."""

from __future__ import annotations

import atexit
from functools import lru_cache

from playwright.sync_api import Browser, sync_playwright

from glass_thread.cli.bench_screen import CHROMIUM, FLAGS


@lru_cache(maxsize=1)
def chromium() -> Browser:
    """The browser; every test makes a context of its own in it."""
    playwright = sync_playwright().start()
    browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
    atexit.register(playwright.stop)
    atexit.register(browser.close)
    return browser
