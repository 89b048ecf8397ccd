"""A song packed into a file and unpacked again, on the list of songs."""

import re
import zipfile
from pathlib import Path

import numpy as np

from tests.browser.server import BrowserCase


class ArchiveTest(BrowserCase):
    def packed(self) -> Path:
        card = self.page.get_by_role("region", name=self.song).first
        with self.page.expect_download() as download:
            card.get_by_role("button", name="Pack", exact=True).click()
        self.assertEqual(download.value.suggested_filename, f"{self.song}.gtsong")
        return Path(download.value.path())

    def unpack(self, *paths: Path) -> None:
        with self.page.expect_file_chooser() as chooser:
            self.page.get_by_role("button", name="Unpack a song…").press("Enter")
        chooser.value.set_files(paths)

    def test_a_song_is_packed_unpacked_and_sounds_the_same(self) -> None:
        page = self.page
        page.get_by_role("row", name=re.compile("Lead")).first.wait_for()
        file = self.packed()
        with zipfile.ZipFile(file) as archive:
            self.assertIn("recordings/01 Lead.flac", archive.namelist())
        named = Path(self.folder) / "lanterns.gtsong"
        named.write_bytes(file.read_bytes())
        self.unpack(named)
        page.get_by_text(f"“{self.song}” is unpacked.").wait_for()
        cards = page.get_by_role("region", name=self.song)
        cards.nth(1).get_by_role("row", name=re.compile("Lead")).wait_for()
        self.assertEqual(cards.count(), 2)
        sounds = []
        for number in (0, 1):
            cards.nth(number).get_by_role("button", name="Open", exact=True).click()
            page.get_by_role("application").wait_for()
            sounds.append(self.heard("tuned", 1.0, 4.0))
            page.get_by_role("button", name="‹ Songs").click()
            cards.nth(1).wait_for()
        self.assertGreater(float(np.abs(sounds[0]).max()), 0.01)
        np.testing.assert_array_equal(*sounds)

    def test_a_file_that_is_none_is_refused_in_a_sentence(self) -> None:
        page = self.page
        page.get_by_role("row", name=re.compile("Lead")).first.wait_for()
        cards = page.get_by_role("region", name=self.song)
        before = cards.count()
        wrong = Path(self.folder) / "wrong.gtsong"
        wrong.write_bytes(b"no archive")
        self.unpack(wrong)
        page.get_by_text(
            re.compile("wrong.gtsong: This song archive cannot be unpacked.*Nothing was changed")
        ).wait_for()
        self.assertEqual(cards.count(), before)
