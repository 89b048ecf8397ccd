"""A server that other machines reach, met by a browser with a code, without one, and with one for listening."""

import re
import shutil
import tempfile
import unittest
from pathlib import Path

from playwright.sync_api import Page

from glass_thread.services.access.codes import LISTENING, Codes
from tests.application import Application
from tests.browser.chromium import chromium
from tests.browser.hatchery import prepared
from tests.browser.kept_page import PATIENCE_MS
from tests.browser.test_access import AXE

HOST = "127.0.0.2"  # not loopback's usual address, and so as any other


class Reached(Application):
    @property
    def url(self) -> str:
        return f"http://{HOST}:{self.port}"


class SignInTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        temporary = tempfile.TemporaryDirectory()
        cls.addClassCleanup(temporary.cleanup)
        data = Path(temporary.name) / "data"
        shutil.copytree(prepared(), data)
        cls.application = Reached(data, "serve")
        cls.application.start("--host", HOST)
        cls.addClassCleanup(cls.application.kill)
        cls.codes = Codes(data)

    def visit(self, place: str = "/") -> Page:
        context = chromium().new_context(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
        self.addCleanup(context.close)
        page = context.new_page()
        page.set_default_timeout(PATIENCE_MS)
        page.on("pageerror", lambda error: self.fail(str(error)))
        page.goto(f"{self.application.url}{place}")
        return page

    def test_a_code_lets_a_browser_in_and_its_steps_say_so(self) -> None:
        page = self.visit()
        field = page.get_by_label("Sign-in code")
        field.wait_for()
        self.assertEqual(page.get_by_role("region", name="Lanterns on the Quay").count(), 0)
        page.evaluate(AXE.read_text())
        self.assertEqual(page.evaluate("async () => (await axe.run()).violations.map((one) => one.id)"), [])
        field.fill("not a code")
        field.press("Enter")
        page.get_by_role("alert").get_by_text("This is not a code of this server's.").wait_for()
        field.fill(self.codes.all()[0].text)
        page.get_by_role("button", name="Sign in").click()
        page.get_by_text("Signed in as owner").wait_for()
        page.get_by_role("region", name="Lanterns on the Quay").get_by_role("button", name="Open", exact=True).click()
        page.get_by_role("application").wait_for()
        page.get_by_role("button", name="Steps", exact=True).click()
        page.get_by_role("application").focus()
        page.keyboard.press("ArrowRight")
        page.get_by_role("application", name=re.compile("selected: ")).wait_for()
        page.keyboard.press("t")
        page.get_by_role("button", name=re.compile(r"^1 .* · owner$")).wait_for()
        page.get_by_role("button", name="‹ Songs").click()
        page.get_by_role("button", name="Sign out").click()
        page.get_by_label("Sign-in code").wait_for()

    def test_the_address_that_was_shown_lets_in_and_forgets_the_code(self) -> None:
        client = self.codes.add("client", LISTENING)
        page = self.visit(f"/#sign-in={client.text}")
        page.get_by_text("Signed in as client, to listen").wait_for()
        self.assertNotIn(client.text, page.url)
        page.get_by_role("region", name="Lanterns on the Quay").get_by_role("button", name="Open", exact=True).click()
        page.get_by_role("application").wait_for()
        page.get_by_role("application").focus()
        page.keyboard.press("ArrowRight")
        page.get_by_role("application", name=re.compile("selected: ")).wait_for()
        page.keyboard.press("t")
        page.get_by_text("“client” may listen and look, but not change anything.").wait_for()
        self.codes.withdraw("client")
        page.reload()
        page.get_by_label("Sign-in code").wait_for()
