"""The tuning sheet in the real interface, by pointer and keyboard, on paper and as files."""

import csv
import json
import re

from tests.browser.test_air import AirCase
from tests.browser.test_journeys_on_own import OwnRecording


class ReportCase(AirCase):
    def tearDown(self) -> None:
        self.page.emulate_media(media="screen")
        super().tearDown()

    def paper(self):
        return self.page.get_by_role("article", name="Tuning sheet")

    def change_two_notes(self) -> None:
        self.canvas().focus()
        self.press("n" if any(note["flags"] for note in self.notes()) else "ArrowRight", "t", "ArrowRight", "Control+,")

    def saved(self, link: str) -> str:
        with self.page.expect_download() as download:
            self.page.get_by_role("link", name=link).click()
        return download.value.path().read_text()


class SheetTest(ReportCase):
    def test_read_printed_saved_and_a_place_shown(self) -> None:
        page = self.page
        self.change_two_notes()
        page.get_by_role("button", name="Report", exact=True).click()
        rows = self.paper().locator("tbody").get_by_role("row")
        rows.nth(1).wait_for()
        self.assertEqual(rows.count(), 2)
        self.paper().get_by_text("pull 100 %").wait_for()
        self.paper().get_by_text("level −3.0 dB").wait_for()
        share = self.paper().get_by_text(re.compile("% of the samples are the recording’s own"))
        share.wait_for()
        self.assertGreater(float(share.inner_text().split(" %")[0]), 90.0)
        table = list(csv.DictReader(self.saved("Save as CSV").splitlines()))
        self.assertEqual([row["kind"] for row in table], ["note", "note"])
        self.assertEqual(json.loads(self.saved("Save as JSON"))["notes_changed"], 2)
        page.emulate_media(media="print")
        self.assertFalse(page.get_by_role("button", name="Play").is_visible())
        self.assertTrue(self.paper().is_visible())
        for form in ("A4", "Letter"):
            pages = len(re.findall(rb"/Type\s*/Page\b", page.pdf(format=form)))
            self.assertEqual(pages, 1, form)
        page.emulate_media(media="screen")
        rows.first.get_by_role("button", name=re.compile("Show bar")).click()
        page.get_by_role("toolbar", name="Sheet tools").wait_for()

    def test_without_a_pointer_against_another_version(self) -> None:
        page = self.page
        self.change_two_notes()
        page.get_by_role("button", name="Report", exact=True).press("Enter")
        self.paper().get_by_text("2 of").wait_for()
        page.get_by_role("button", name=re.compile("Changes of$")).press("Enter")
        page.get_by_role("option", name="As sung").press("Enter")
        self.paper().get_by_text("Nothing is changed.").wait_for()
        page.get_by_role("button", name=re.compile("against$")).press("Enter")
        page.get_by_role("option", name="Tuned", exact=True).press("Enter")
        self.paper().get_by_text(re.compile("→ as sung")).first.wait_for()
        page.reload()
        self.paper().get_by_text("2 of").wait_for()


class OwnSheetTest(OwnRecording, ReportCase):
    def test_of_a_real_voice(self) -> None:
        self.change_two_notes()
        self.page.get_by_role("button", name="Report", exact=True).click()
        self.paper().get_by_text("2 of").wait_for()
