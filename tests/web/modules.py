"""The screen's plain modules in one page, called from tests."""

from __future__ import annotations

import unittest
from pathlib import Path
from typing import Any

from playwright.sync_api import Route

from tests.browser.chromium import chromium

MODULES = Path(__file__).parents[2] / ".cache" / "modules"
PLACE = "http://modules.test"


def _answer(route: Route) -> None:
    name = route.request.url.removeprefix(f"{PLACE}/")
    if name == "":
        route.fulfill(content_type="text/html", body="<!doctype html><title>modules</title>")
    else:
        route.fulfill(content_type="text/javascript", body=(MODULES / name).read_text())


class ModuleCase(unittest.TestCase):
    """One page for all tests of a class."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.page = chromium().new_page()
        cls.addClassCleanup(cls.page.close)
        cls.page.route(f"{PLACE}/**", _answer)
        cls.page.goto(f"{PLACE}/")

    def call(self, module: str, function: str, *arguments: Any) -> Any:
        """What an exported function answers."""
        script = "async ([m, f, a]) => (await import(`/${m}.js`))[f](...a)"
        return self.page.evaluate(script, [module, function, list(arguments)])

    def many(self, module: str, function: str, rows: list[list[Any]]) -> list[Any]:
        """The answers to many calls of one function."""
        script = "async ([m, f, rows]) => { const got = await import(`/${m}.js`); return rows.map((a) => got[f](...a)); }"
        return self.page.evaluate(script, [module, function, rows])
