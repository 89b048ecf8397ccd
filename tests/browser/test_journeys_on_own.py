"""The journeys of the demo song again, on a real recording as a user brings it in."""

import re

import numpy as np
import soundfile as sf

from tests.browser import test_gestures
from tests.browser.hatchery import prepared, with_real_take
from tests.browser.server import BrowserCase
from tests.signals import REAL_TAKE


class OwnRecording(BrowserCase):
    """Opens a real take wherever a journey opens the demo's lead."""

    begun_with = staticmethod(with_real_take)
    song = "Own take"


class OwnStripTest(OwnRecording, test_gestures.StripTest):
    pass


class OwnCutTest(OwnRecording, test_gestures.CutTest):
    test_the_centre_is_put_where_it_should_be_judged = None  # it reads the voice again as a high one, which this is not


class OwnPassTest(OwnRecording, test_gestures.PassTest):
    pass


class OwnCompareTest(OwnRecording, test_gestures.CompareTest):
    test_gestures_are_copied_to_the_phrase_that_repeats = None  # there is one phrase


class ToAPrintTest(OwnRecording, test_gestures.GestureCase):
    begun_with = staticmethod(prepared)

    def begins_at(self) -> str:
        return ""

    def arrive(self) -> None:
        self.page.get_by_label("Title of the new song").fill(self.song)
        self.page.get_by_role("button", name="New song").click()
        card = self.page.get_by_role("region", name=self.song)
        card.locator("input[type=file]").set_input_files([REAL_TAKE])
        card.get_by_role("row", name=re.compile(r"lead .* mono [1-9]")).wait_for()
        self.open_lead()

    def test_from_the_first_screen_to_a_print(self) -> None:
        page = self.page
        page.get_by_role("button", name="Tune pass…").click()
        window = page.get_by_role("dialog", name="Tune pass")
        window.get_by_text("Whole track").click()
        window.get_by_text(re.compile(r"\d+ notes change")).wait_for()
        window.get_by_role("button", name="Take it").click()
        window.wait_for(state="detached")
        self.settle()
        page.get_by_role("application").focus()
        while (note := self.note_or_next())["end_s"] - note["start_s"] < 0.6:
            page.keyboard.press("ArrowRight")
        page.keyboard.press("Backspace")  # this one stays as it was sung, but for a line drawn over a part of it
        self.until("!n.edited")
        page.keyboard.press("d")
        x0, y0 = self.place(note["start_s"] + 0.2, note["centre_midi"] + 0.3)
        x1, y1 = self.place(note["start_s"] + 0.4, note["centre_midi"] + 0.3)
        page.mouse.move(x0, y0)
        page.mouse.down()
        page.mouse.move(x1, y1, steps=8)
        page.mouse.up()
        self.until("n.gesture.hand.length === 1")
        page.keyboard.press("Escape")
        page.keyboard.press("Control+,")  # 3 dB softer
        self.until("n.gesture.level_db === -3")
        page.get_by_role("button", name="Print…").click()
        page.get_by_text(re.compile(r"\d\.\d\d % of samples")).wait_for()
        page.get_by_role("button", name="Print", exact=True).click()
        with page.expect_download() as download:
            page.get_by_role("link", name=re.compile("Save")).click()
        printed, rate = sf.read(download.value.path(), dtype="int16")
        source, own_rate = sf.read(str(REAL_TAKE), dtype="int16")
        self.assertEqual((rate, len(printed)), (own_rate, len(source)))
        np.testing.assert_array_equal(printed[: int(0.3 * rate)], source[: int(0.3 * rate)])  # before the voice
        a, b = (int((note["start_s"] + t) * rate) for t in (0.45, 0.55))
        loud = [float(np.sqrt(np.mean(x[a:b].astype(float) ** 2))) for x in (printed, source)]
        self.assertAlmostEqual(20 * np.log10(loud[0] / loud[1]), -3.0, delta=0.3)
        page.get_by_role("button", name="Close").click()

    def note_or_next(self) -> dict:
        """The chosen note; the first one when none is."""
        if not self.page.evaluate("() => window.glassThread.selected().length"):
            self.page.keyboard.press("ArrowRight")
        return self.note()


class InTimeTest(OwnRecording, test_gestures.GestureCase):
    def test_a_word_is_moved_and_what_is_around_it_gives_way(self) -> None:
        """A real voice, sung on without breaks: the samples after the neighbour are the recording's own."""
        page = self.page
        self.canvas().focus()
        for _ in range(3):
            page.keyboard.press("ArrowRight")
        page.keyboard.press("w")
        for key in ["i"] * 6 + ["Shift+I"] * 2:
            page.keyboard.press(key)
            self.settle()
        note = self.note()
        self.assertEqual((note["gesture"]["start_shift_ms"], note["gesture"]["end_shift_ms"]), (32.0, 32.0))
        after = next(n for n in self.notes() if n["start_s"] >= note["end_s"] - 0.01)
        self.assertEqual((after["gesture"]["start_shift_ms"], after["gesture"]["end_shift_ms"]), (32.0, 0.0))
        take, rate = sf.read(REAL_TAKE)
        begin = after["end_s"] + 0.1
        heard = self.heard("tuned", begin, begin + 0.3)[round(0.05 * rate) :]
        a = round((begin + 0.05) * rate)
        np.testing.assert_allclose(heard, take[a : a + len(heard)], atol=2e-4)
        page.keyboard.press("Backspace")
        self.until("n.gesture.start_shift_ms === 0")
        self.assertEqual([n["id"] for n in self.notes() if n["gesture"]["end_shift_ms"]], [])
