"""Singer notes in the real interface: a singer with habits is brought in, read about and heard."""

import csv
import re

import requests
import soundfile as sf

from glass_thread.api.app import PREFIX
from glass_thread.bench.finding.singer import METER, PLANTED, habitual
from tests.browser.test_access import AccessCase
from tests.browser.test_journeys_on_own import OwnRecording
from tests.kept import sing
from tests.signals import RATE


class SingerCase(AccessCase):
    def page_of_notes(self):
        """The page of singer notes, read to its end."""
        notes = self.page.get_by_role("article", name="Singer notes")
        notes.get_by_role("heading", name="What goes well").wait_for()
        self.quiet()
        return notes


class HabitsCase(SingerCase):
    """A song of a singer with habits."""

    song = "Habits"

    def begins_at(self) -> str:
        return ""

    def arrive(self) -> None:
        page = self.page
        path = self.folder / "Mara.wav"
        sf.write(str(path), sing(habitual(1, frozenset(PLANTED)), RATE).audio, RATE, subtype="PCM_16")
        page.get_by_label("Title of the new song").fill(self.song)
        page.get_by_role("button", name="New song").click()
        card = page.get_by_role("region", name=self.song)
        card.locator("input[type=file]").set_input_files([path])
        card.get_by_role("row", name=re.compile(r"lead .* mono [1-9]")).wait_for()
        keyed = {"tonic": 0, "scale": "major", "tempo": METER.tempo, "bar_one_s": 0.0}
        address = f"{self.application.url}{PREFIX}/songs/{self.known_song()['id']}"
        self.assertEqual(requests.patch(address, json=keyed, timeout=60).status_code, 200)
        self.open_lead()


class PointerTest(HabitsCase):
    def test_read_heard_and_saved(self) -> None:
        page = self.page
        page.get_by_role("button", name="Report", exact=True).click()
        page.get_by_role("button", name="Singer notes").click()
        notes = self.page_of_notes()
        said = notes.get_by_role("heading", level=3).all_inner_texts()
        for words in ("ms after the beat", "Held notes sag", "cents flat of the others", "land .* cents sharp",
                      "Vibrato is slow: 4.[5-7] Hz"):  # fmt: skip
            self.assertTrue(any(re.search(words, one) for one in said), (words, said))
        notes.get_by_role("img", name=re.compile(r"values from .* ms, their middle")).locator("svg").wait_for()
        late = notes.get_by_role("region", name=re.compile("after the beat"))
        late.get_by_role("button", name=re.compile("Hear bar .* tuned")).first.click()
        page.get_by_role("button", name="Stop").wait_for()
        page.get_by_role("button", name="Stop").click()
        late.get_by_role("button", name=re.compile("Hear bar .* as sung")).first.click()
        page.get_by_role("group", name="Listen to").get_by_role("button", name="As sung", pressed=True).wait_for()
        page.get_by_role("button", name="Stop").click()
        self.assertEqual(self.violations(), [])
        with page.expect_download() as download:
            page.get_by_role("link", name="Save the numbers as CSV").click()
        rows = list(csv.DictReader(download.value.path().read_text().splitlines()))
        self.assertGreater(sum("after the beat" in row["claim"] for row in rows), 50)


class KeyboardTest(HabitsCase):
    def test_all_songs_of_a_singer_who_is_named(self) -> None:
        page = self.page
        page.get_by_role("button", name="Report", exact=True).press("Enter")
        page.get_by_role("button", name="Singer notes").press("Enter")
        self.page_of_notes()
        page.get_by_role("button", name=re.compile("Notes on$")).press("Enter")
        page.get_by_role("option", name="All songs").press("Enter")
        page.get_by_text("Say who sings this track first").wait_for()
        field = page.get_by_label("Singer of this track")
        field.fill("Mara")
        field.press("Enter")
        notes = self.page_of_notes()
        notes.get_by_role("heading", name="Singer notes: Mara").wait_for()
        hear = notes.get_by_role("button", name=re.compile("as sung")).first
        hear.press("Enter")
        page.get_by_role("button", name="Stop").press("Enter")


class OwnSingerTest(OwnRecording, SingerCase):
    def test_of_a_real_voice_only_what_it_carries(self) -> None:
        page = self.page
        page.get_by_role("button", name="Report", exact=True).click()
        page.get_by_role("button", name="Singer notes").click()
        notes = page.get_by_role("article", name="Singer notes")
        notes.get_by_text(re.compile(r"\d+ notes of one take")).wait_for()
        counted = int(re.search(r"(\d+) notes of", notes.inner_text())[1])
        self.assertEqual(counted <= len(self.notes()), True)
