"""When notes start and how long they last, in the real interface, with pointer and keyboard, and what a print holds."""

import re

import numpy as np
import soundfile as sf
from playwright.sync_api import Route

from glass_thread.core.analysis.pitch.f0 import track_f0
from glass_thread.core.signal.types import HOP_S
from glass_thread.demo import song
from glass_thread.demo.build import FOLDER
from tests.browser.test_air import AirCase

LEAD, RATE = sf.read(FOLDER / "lead.flac", dtype="int16")
LATE_BAR = 12


def in_bar(first_bar: int) -> str:
    """A condition on a note `n`: it is sung in the phrase that begins at a bar."""
    begin = song.start_of(first_bar) - 0.3
    return f"n.start_s > {begin} && n.start_s < {begin + 8 * song.BEAT_S}"


class TimeCase(AirCase):
    def in_phrase(self, first_bar: int) -> list[dict]:
        """The notes of the phrase that begins at a bar."""
        return self.page.evaluate(f"() => window.glassThread.notes().filter((n) => {in_bar(first_bar)})")

    def choose(self, first_bar: int, number: int) -> dict:
        """Show a phrase and choose one of its notes with the pointer."""
        self.page.get_by_text(re.compile(rf"bar {first_bar}\.1$")).click()
        self.quiet()
        note = self.in_phrase(first_bar)[number]
        self.page.mouse.click(*self.place((note["start_s"] + note["end_s"]) / 2, note["target_midi"]))
        self.until(f"n.id === '{note['id']}'")
        return note

    def take_tool(self) -> None:
        self.page.get_by_role("button", name="Time", exact=True).click()

    def shifts(self, note_id: str) -> tuple[float, float]:
        gesture = next(n for n in self.notes() if n["id"] == note_id)["gesture"]
        return gesture["start_shift_ms"], gesture["end_shift_ms"]


class PointerTest(TimeCase):
    def test_a_note_dragged_along_is_one_step_and_its_neighbours_give_way(self) -> None:
        note = self.choose(LATE_BAR, 1)
        self.take_tool()
        self.drag(self.place((note["start_s"] + note["end_s"]) / 2, note["target_midi"]), -40, 0)
        start, end = self.shifts(note["id"])
        self.assertLess(start, -20.0)
        self.assertEqual(start, end)
        self.page.get_by_role("button", name="Steps", exact=True).click()
        self.stands_at_step(1)
        sound = self.heard("tuned", note["end_s"] + 2, note["end_s"] + 2.2)
        a = round((note["end_s"] + 2) * RATE)
        part = slice(1000, 5000)  # after the fade in
        np.testing.assert_allclose(sound[part], LEAD[a:][part] / 32768.0, atol=2e-5)

    def test_ends_are_taken_hold_of_and_escape_leaves_no_trace(self) -> None:
        note = self.choose(16, -1)
        self.take_tool()
        end = self.place(note["end_s"], note["target_midi"])
        self.drag((end[0] - 2, end[1]), 45, 0)
        start, later = self.shifts(note["id"])
        self.assertEqual(start, 0.0)
        self.assertGreater(later, 30.0)
        self.page.mouse.move(*self.place((note["start_s"] + note["end_s"]) / 2, note["target_midi"]))
        self.page.mouse.down()
        self.page.mouse.move(*self.place(note["end_s"] + 1, note["target_midi"]), steps=3)
        self.page.keyboard.press("Escape")
        self.page.mouse.up()
        self.settle()
        self.assertEqual(self.shifts(note["id"]), (start, later))

    def test_a_drag_stops_where_nothing_gives_way_any_more(self) -> None:
        note = self.choose(LATE_BAR, 1)
        self.take_tool()
        x, y = self.place((note["start_s"] + note["end_s"]) / 2, note["target_midi"])
        self.page.mouse.move(x, y)
        with self.page.expect_response("**/time-room"):
            self.page.mouse.down()
        self.page.mouse.move(x + 8, y)
        self.quiet()
        self.page.mouse.move(x + 420, y, steps=3)
        self.page.mouse.up()
        self.settle()
        moved = self.shifts(note["id"])[0]
        self.assertGreater(moved, 50.0)
        self.assertLess(moved, 1500.0)
        self.assertEqual(self.page.get_by_text("There is no room").count(), 0)

    def test_a_late_phrase_is_quantised_and_printed_where_it_belongs(self) -> None:
        """The planted fault: the phrase comes in 70 ms late; its sibilants and silences move as they are."""
        page = self.page
        self.choose(LATE_BAR, 0)
        page.get_by_role("button", name="Quantise…").click()
        window = page.get_by_role("dialog")
        window.get_by_role("button", name="Phrase").click()
        window.get_by_text("6 of 6 notes move.").wait_for()
        self.take()
        fault = 1000 * song.LATE_PHRASES[LATE_BAR]
        moved = [n["gesture"]["start_shift_ms"] for n in self.in_phrase(LATE_BAR)]
        self.assertLess(abs(np.median(moved) + fault), 12.0)
        for note in self.in_phrase(LATE_BAR):
            at = note["start_s"] + note["gesture"]["start_shift_ms"] / 1000
            self.assertLess(abs(at / (song.BEAT_S / 2) - round(at / (song.BEAT_S / 2))) * song.BEAT_S / 2, 0.003)
        printed = self.printed()
        self.assertEqual(len(printed), len(LEAD))
        first = self.in_phrase(LATE_BAR)[0]
        by = round(first["gesture"]["start_shift_ms"] / 1000 * RATE)
        a, b = (round(first["start_s"] * RATE), round((first["start_s"] + 0.01) * RATE))
        np.testing.assert_array_equal(printed[a + by : b + by], LEAD[a:b])
        quiet = slice(round((song.start_of(LATE_BAR) - 3.0) * RATE))
        np.testing.assert_array_equal(printed[quiet], LEAD[quiet])

    def test_pins_are_set_and_taken_away(self) -> None:
        note = self.choose(LATE_BAR, 0)
        self.take_tool()
        ruler = (self.place(note["start_s"] - 0.2, 60)[0], self.canvas().bounding_box()["y"] + 5)
        self.page.mouse.click(*ruler)
        self.page.get_by_role("button", name="Pin at the cursor").click()
        self.settle()
        self.drag((ruler[0], ruler[1] + 22), 14, 0)  # between pins, and the ends of the take, everything gives way
        self.page.get_by_role("button", name="Steps", exact=True).click()
        self.stands_at_step(2)
        self.page.get_by_role("button", name="Unpin all").click()
        self.settle()
        self.assertEqual(self.page.get_by_role("button", name="Unpin all").count(), 0)


class DoubleTest(TimeCase):
    def answer_in_the_other_order(self, address: str) -> None:
        """Hold the answer to the first request to an address until the second one has its answer."""
        held: list[Route] = []

        def answer(route: Route) -> None:
            if not held:
                held.append(route)
                return
            route.fulfill(response=route.fetch())
            held[0].continue_()
            self.page.unroute(address)

        self.page.route(address, answer)

    def test_a_double_goes_by_the_notes_of_the_lead(self) -> None:
        """The planted fault: phrases of the double are up to 60 ms off; the lead's own late phrase is none of them."""
        page = self.page
        self.pick("Track", "Double 1")
        page.wait_for_function("() => window.glassThread.count() === 23")
        truth = np.array([note.start_s for note in song.lead().notes])

        def off() -> np.ndarray:
            """Seconds from the lead's nearest note, as it was sung."""
            notes = self.notes()
            starts = np.array([n["start_s"] + n["gesture"]["start_shift_ms"] / 1000 for n in notes])
            return np.abs(starts[:, None] - truth[None, :]).min(axis=1)

        self.assertGreater(np.median(off()), 0.02)
        page.get_by_role("button", name="Quantise…").click()
        window = page.get_by_role("dialog")
        window.get_by_role("button", name="Whole track").click()
        self.quiet()  # what was asked until now has its answer
        self.answer_in_the_other_order("**/preview")
        with page.expect_request("**/preview"):
            self.pick("Go by", "Lead’s notes")
        field = window.get_by_label("Only over (ms)")
        field.fill("0")
        field.press("Enter")
        self.quiet()
        window.get_by_text(re.compile(r"(19|2\d) of 23 notes move")).wait_for()
        self.take()
        self.assertLess(np.median(off()), 0.008)


class KeyboardTest(TimeCase):
    def test_an_early_word_is_put_right_by_keys(self) -> None:
        """The planted fault: the third note of the phrase in bar 14 starts 60 ms early."""
        fault = next(row for row in song.PHRASES if row[0] == 14)[2][2][5]["late"]
        early = self.in_phrase(14)[2]
        page = self.page
        self.canvas().focus()
        while (page.evaluate("() => window.glassThread.selected()[0]?.id")) != early["id"]:
            page.keyboard.press("ArrowRight")
        for key in ["i"] * 3 + ["Shift+I"] * 2 + ["u"]:
            self.press(key)
        self.assertEqual(self.shifts(early["id"]), (12.0, 12.0))
        field = page.get_by_label("Later by", exact=True)
        page.get_by_text("Time", exact=True).last.click()
        field.fill(f"{-1000 * fault:.0f}")
        field.press("Enter")
        self.until(f"Math.abs(n.gesture.start_shift_ms - {-1000 * fault}) < 0.01")
        before = self.in_phrase(14)[1]
        self.assertAlmostEqual(before["gesture"]["end_shift_ms"], -1000 * fault, places=2)
        printed = self.printed()
        self.assertEqual(len(printed), len(LEAD))
        moved = crossing(printed) - crossing(LEAD)
        self.assertLess(abs(moved + fault), 0.008)

    def test_a_note_held_too_short_is_given_its_length(self) -> None:
        note = self.in_phrase(16)[-1]
        page = self.page
        self.canvas().focus()
        while (page.evaluate("() => window.glassThread.selected()[0]?.id")) != note["id"]:
            page.keyboard.press("ArrowRight")
        page.keyboard.press("w")
        sung = 1000 * (note["end_s"] - note["start_s"])
        field = page.get_by_label("Length", exact=True)
        field.fill(f"{sung + 400:.0f}")
        field.press("Enter")
        self.until("n.gesture.end_shift_ms > 399")
        self.assertEqual(
            page.get_by_label("As sung", exact=True).input_value(), f"{round(100 * (sung + 400) / sung)} %"
        )
        field.fill("9000")
        field.press("Enter")
        page.get_by_text("The length against as sung must be between").wait_for()
        printed = self.printed() / 32768.0
        end = round((note["end_s"] + 0.3) * RATE)
        self.assertGreater(np.sqrt(np.mean(printed[end : end + 2000] ** 2)), 0.02)
        self.assertLess(np.sqrt(np.mean((LEAD[end : end + 2000] / 32768.0) ** 2)), 0.005)
        self.choose_from("Put back as sung", "Timing")
        self.until("n.gesture.end_shift_ms === 0")

    def test_typed_places_and_what_follows(self) -> None:
        note = self.in_phrase(LATE_BAR)[0]
        page = self.page
        self.canvas().focus()
        while (page.evaluate("() => window.glassThread.selected()[0]?.id")) != note["id"]:
            page.keyboard.press("ArrowRight")
        self.press("w")
        page.get_by_text("The rest follows").click()
        field = page.get_by_label("Starts", exact=True)
        field.fill(f"{LATE_BAR}.1")
        field.press("Enter")
        self.until("n.gesture.start_shift_ms < -40")
        self.assertEqual(field.input_value(), f"{LATE_BAR}.1")
        shifts = {round(n["gesture"]["start_shift_ms"], 3) for n in self.notes() if n["start_s"] >= note["start_s"]}
        self.assertEqual(len(shifts), 1)
        page.get_by_text("The rest follows").click()


def crossing(samples: np.ndarray) -> float:
    """Where the pitch goes from the second to the third note of the phrase in bar 14, in seconds; our own reading."""
    begin = song.start_of(14) + 1.5 * song.BEAT_S - 0.3
    midi = track_f0(samples[round(begin * RATE) : round((begin + 0.6) * RATE)] / 32768.0, RATE).midi
    low, high = np.nanmedian(midi[10:40]), np.nanmedian(midi[-40:-10])
    return begin + float(np.flatnonzero(midi > (low + high) / 2)[0]) * HOP_S
