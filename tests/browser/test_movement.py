"""A restless real take, worked on by pointer and by keys; what is asked is measured in what is heard."""

import re

import numpy as np
import soundfile as sf

from glass_thread.core.analysis.pitch.f0 import track_f0
from tests.browser import test_gestures
from tests.browser.test_journeys_on_own import OwnRecording
from tests.signals import REAL_TAKE


class MovementCase(OwnRecording, test_gestures.GestureCase):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.take, cls.rate = sf.read(str(REAL_TAKE), dtype="float32")

    def choose(self, fits: str) -> dict:
        """Step by keys to the first note for which an expression of `n`, and of `m` before it, holds."""
        page = self.page
        self.canvas().focus()
        script = (
            f"() => window.glassThread.notes().findIndex((n, i, all) => {{ const m = all[i - 1]; return {fits}; }})"
        )
        wanted = self.notes()[page.evaluate(script)]
        self.step_to((wanted["start_s"] + wanted["end_s"]) / 2)
        page.evaluate("([a, b]) => window.glassThread.show(a, b)", [wanted["start_s"] - 0.8, wanted["end_s"] + 0.8])
        self.quiet()
        return wanted

    def long(self) -> dict:
        return self.choose("n.end_s - n.start_s > 0.5")

    def sung(self, start: float, end: float) -> np.ndarray:
        return self.take[round(start * self.rate) : round(end * self.rate)]

    def moves(self, sound: np.ndarray, note: dict) -> float:
        """Standard deviation of the pitch in the middle of a note, in cents, of sound that begins 0.2 s before it."""
        length = note["end_s"] - note["start_s"]
        read = track_f0(sound, self.rate).midi
        inner = read[round((0.2 + 0.2 * length) / 0.005) : round((0.2 + 0.8 * length) / 0.005)]
        return 100.0 * float(np.nanstd(inner))

    def around(self, note: dict, kind: str = "tuned") -> np.ndarray:
        return self.heard(kind, note["start_s"] - 0.2, note["end_s"] + 0.2)

    def drag(self, start: tuple[float, float], *through: tuple[float, float]) -> None:
        page = self.page
        page.mouse.move(*start)
        page.mouse.down()
        for place in through:
            page.mouse.move(*place, steps=5)
        page.mouse.up()
        self.settle()

    def lane(self, which: str, time_s: float) -> tuple[float, float]:
        x, y = self.page.evaluate("([w, t]) => window.glassThread.lane(w, t)", [which, time_s])
        box = self.canvas().bounding_box()
        return box["x"] + x, box["y"] + y


class FaderTest(MovementCase):
    def test_half_of_what_moves_by_keys(self) -> None:
        note = self.long()
        before = self.moves(self.around(note, "sung"), note)
        self.page.keyboard.press("t")
        self.until("n.gesture.pull === 1")
        field = self.page.get_by_label("Movement (%)")
        field.fill("50")
        field.press("Enter")
        self.until("n.gesture.movement === 0.5")
        self.assertGreater(before, 15.0)
        self.assertAlmostEqual(self.moves(self.around(note), note) / before, 0.5, delta=0.1)

    def test_all_of_it_by_the_fader_at_the_note(self) -> None:
        note = self.long()
        before = self.moves(self.around(note, "sung"), note)
        thumb = self.page.get_by_role("slider", name="Movement at the note").locator(
            "xpath=ancestor::*[contains(@class,'thumb')]"
        )
        box = thumb.bounding_box()
        self.drag(
            (box["x"] + 8, box["y"] + 5), (box["x"] - 80, box["y"] + 90)
        )  # all the way, whether it stands or lies
        self.until("n.gesture.movement === 0")
        self.assertLess(self.moves(self.around(note), note), 0.35 * before)

    def test_every_new_value_is_put_back_alone(self) -> None:
        self.long()
        for label, value in (("Within (ct)", "10"), ("Scoop (%)", "20"), ("Fall (%)", "30"), ("Movement (%)", "40")):
            field = self.page.get_by_label(label, exact=True)
            field.fill(value)
            field.press("Enter")
            self.settle()
        self.until("n.gesture.within_cents === 10 && n.gesture.scoop === 0.2 && n.gesture.fall === 0.3")
        for item in ("To within", "Scoop", "Fall", "Movement"):
            self.choose_from("Put back as sung", item)
            self.settle()
        self.until("!n.edited")


class JoinTest(MovementCase):
    joined = "m && n.start_s - m.end_s < 0.011 && Math.min(n.end_s - n.start_s, m.end_s - m.start_s) > 0.18"

    def test_a_join_is_softened_by_one_key_and_only_there(self) -> None:
        note = self.choose(self.joined)
        self.page.keyboard.press("Shift+J")
        self.until("n.gesture.glide_ms >= 10")
        start, end = note["start_s"] - 0.6, note["end_s"] + 0.3
        heard = self.heard("tuned", start, end)
        apart = np.abs(heard - self.sung(start, end + 0.1)[: len(heard)])
        differs = np.flatnonzero(np.where(np.arange(len(heard)) < 0.05 * self.rate, 0.0, apart) > 1e-3)
        self.assertGreater(len(differs), 500)
        self.assertGreater(start + differs[0] / self.rate, note["start_s"] - 0.45)
        field = self.page.get_by_label("Glide (ms)")
        field.fill("as sung")
        field.press("Enter")
        self.until("n.gesture.glide_ms === null && !n.edited")

    def test_where_there_is_no_join_it_says_why(self) -> None:
        self.choose("!m")
        self.page.keyboard.press("Shift+J")
        self.page.get_by_text(re.compile("There is no join here")).wait_for()


class CutTest(MovementCase):
    def test_a_tuned_note_is_cut_and_both_parts_sit_on_a_pitch(self) -> None:
        note = self.long()
        self.page.keyboard.press("t")
        self.until("n.gesture.pull === 1")
        at = self.place((note["start_s"] + note["end_s"]) / 2, note["centre_midi"])
        self.page.mouse.move(*at)
        self.page.keyboard.press("x")
        self.page.get_by_text("Click or press X to split here").wait_for()
        self.page.keyboard.press("x")
        self.page.wait_for_function("([count]) => window.glassThread.count() === count", arg=[len(self.known) + 1])
        parts = [n for n in self.notes() if note["start_s"] - 1e-6 <= n["start_s"] < note["end_s"]]
        self.assertEqual([n["gesture"]["pull"] for n in parts], [1, 1])
        for part in parts:
            self.assertLess(abs(part["tuned_midi"] - round(part["tuned_midi"])), 0.12)

    def long(self) -> dict:
        self.known = self.notes()
        return super().long()


class PassTest(MovementCase):
    def run_pass(self, pull: str) -> None:
        page = self.page
        page.get_by_role("button", name="Tune pass…").click()
        window = page.get_by_role("dialog", name="Tune pass")
        window.get_by_text("Whole track").click()
        field = window.get_by_label("Pull (%)")
        field.fill(pull)
        field.press("Enter")
        window.get_by_text(re.compile(r"[1-9]\d* notes change")).wait_for()
        window.get_by_role("button", name="Take it").click()
        window.wait_for(state="detached")
        self.settle()

    def pulls(self) -> set[float]:
        return {n["gesture"]["pull"] for n in self.notes()} - {0}

    def test_a_softer_pass_replaces_it_and_an_ornament_stays_as_sung(self) -> None:
        note = self.long()
        self.run_pass("75")
        self.assertEqual(self.pulls(), {0.75})
        self.canvas().focus()
        self.page.keyboard.press("Shift+T")
        self.until("n.leave_as_sung && n.gesture.pull === 0")
        self.run_pass("60")
        self.assertEqual(self.pulls(), {0.6})
        inner = slice(round(0.4 * self.rate), round(0.5 * self.rate))
        start = note["start_s"] - 0.2
        np.testing.assert_allclose(self.around(note)[inner], self.sung(start, start + 2.0)[inner], atol=1e-3)
        self.page.get_by_role("button", name="let them act").click()
        self.until("!n.leave_as_sung")


class StretchOfItTest(MovementCase):
    def test_rubbed_out_a_tuned_stretch_is_the_recording(self) -> None:
        note = self.long()
        self.page.keyboard.press("Shift+ArrowUp")
        self.page.keyboard.press("Shift+ArrowUp")
        self.settle()
        self.page.keyboard.press("r")
        low, high = note["start_s"] + 0.12, note["start_s"] + 0.42
        self.drag(self.place(low, note["centre_midi"]), self.place(high, note["centre_midi"]))
        self.until("n.gesture.hand.length === 1 && n.gesture.hand[0].as_sung")
        self.page.keyboard.press("Escape")
        before = self.moves(self.around(note, "sung"), note)
        self.assertAlmostEqual(self.moves(self.around(note), note), before, delta=0.3 * before)

    def test_drawn_on_the_lines_it_is_flat_on_a_pitch(self) -> None:
        note = self.long()
        self.page.keyboard.press("d")
        self.page.get_by_text("On the lines").click()
        pitch = note["target_midi"]
        low, high = note["start_s"] + 0.1, note["end_s"] - 0.1
        start, middle = self.place(low, pitch + 0.2), self.place((low + high) / 2, pitch - 0.2)
        self.drag(start, middle, self.place(high, pitch + 0.1))
        self.until("n.gesture.hand.length === 1")
        self.assertEqual({p for _t, p in self.note()["gesture"]["hand"][0]["points"]}, {pitch})
        self.page.keyboard.press("Escape")

    def test_a_word_is_silenced_by_a_key_and_put_back_by_pointer(self) -> None:
        note = self.long()
        self.page.keyboard.press("Delete")
        self.settle()
        inside = slice(round(0.3 * self.rate), round(0.5 * self.rate))
        self.assertEqual(np.abs(self.around(note)[inside]).max(), 0.0)
        x, y = self.lane("level", note["start_s"] + 0.3)
        box = self.canvas().bounding_box()
        self.page.mouse.click(x, y - 1.5 * (box["y"] + box["height"] - y) + 9)  # its cap, at the top of the lane
        self.page.get_by_text("Level stretch", exact=True).wait_for()
        self.page.get_by_role("button", name="Put back", exact=True).click()
        self.settle()
        start = note["start_s"] - 0.2
        np.testing.assert_allclose(self.around(note)[inside], self.sung(start, start + 2.0)[inside], atol=1e-3)

    def test_any_stretch_is_lowered_with_the_level_tool(self) -> None:
        note = self.long()
        self.page.keyboard.press("Shift+L")
        low, high = note["start_s"] + 0.1, note["start_s"] + 0.4
        self.drag(self.lane("level", low), self.lane("level", high))
        for _ in range(2):  # held: 2 dB more, in one step
            self.page.keyboard.down(",")
        self.page.keyboard.up(",")
        self.settle()
        self.page.keyboard.press("Escape")
        start = note["start_s"] - 0.2
        inside = slice(round(0.4 * self.rate), round(0.5 * self.rate))
        loud = [np.sqrt(np.mean(x[inside] ** 2)) for x in (self.around(note), self.sung(start, start + 2.0))]
        self.assertAlmostEqual(20 * np.log10(loud[0] / loud[1]), -5.0, delta=0.1)


class CandidateTest(MovementCase):
    def test_two_are_swapped_by_a_key(self) -> None:
        self.long()
        self.page.keyboard.press(";")
        self.until("n.gesture.candidates.length === 2 && n.target_midi === n.gesture.candidates[0]")
        self.page.keyboard.press(";")
        self.until("n.target_midi === n.gesture.candidates[1]")
        self.page.get_by_text("Two candidates", exact=True).click()
        self.page.get_by_text("sounds now").wait_for()
        field = self.page.get_by_label("First candidate")
        field.fill("A3")
        field.press("Enter")
        self.until("n.gesture.candidates[0] === 57 && n.target_midi === 57")
