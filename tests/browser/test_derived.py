"""Doubles and harmonies in the real interface: made, heard with the stack, edited, caught up."""

import re

import mido
import numpy as np

from tests.browser.test_follow import FollowCase
from tests.browser.test_journeys_on_own import OwnRecording


class DerivedCase(FollowCase):
    def window_of(self, item: str, title: str):
        self.choose_from("Voices", item)
        return self.page.get_by_role("dialog", name=title)

    def tracks(self) -> list[str]:
        """Names of the tracks that can be opened."""
        self.page.get_by_role("button", name=re.compile("Track$")).first.click()
        found = self.page.get_by_role("option").all_inner_texts()
        self.page.keyboard.press("Escape")
        return found

    def choose_note(self, note: dict) -> None:
        """Bring a note into sight and press it."""
        self.page.get_by_role("button", name=re.compile(f"^{note['phrase'] + 1} · ")).click()
        self.quiet()
        x, y = self.page.evaluate(
            "([t, m]) => window.glassThread.place(t, m)", [(note["start_s"] + note["end_s"]) / 2, note["target_midi"]]
        )
        box = self.canvas().bounding_box()
        self.page.mouse.click(box["x"] + x, box["y"] + y)
        self.settle()

    def press_make(self) -> None:
        self.page.get_by_role("button", name="Make it").press("Enter")
        self.page.get_by_role("dialog").wait_for(state="detached")
        self.settle()


class PointerTest(DerivedCase):
    def test_a_third_above_is_made_heard_edited_and_caught_up(self) -> None:
        page = self.page
        lead = self.notes()[4]
        window = self.window_of("Make a harmony…", "Harmony")
        window.get_by_text(re.compile("none strained|are strained|Strain from")).wait_for()
        window.get_by_role("button", name="Make it").click()
        window.wait_for(state="detached")
        page.get_by_text("Made: Third above").wait_for()
        self.settle()
        self.assertTrue(page.get_by_role("checkbox", name="Stack").is_checked())
        page.get_by_role("button", name="Play").click()
        page.get_by_role("button", name="Stop").wait_for()
        page.get_by_role("button", name="Stop").click()
        self.choose_note(lead)
        self.press("t", "Shift+ArrowUp")
        self.open_track("Third above")
        page.get_by_role("group", name="Behind its lead").get_by_role("button", name="Catch up").click()
        page.get_by_role("group", name="Behind its lead").wait_for(state="detached")
        third = next(note for note in self.notes() if note["id"] == lead["id"])
        self.assertIn(round(third["target_midi"] - lead["target_midi"]), (3, 4))
        self.assertGreater(self.differs("tuned", "sung", lead["start_s"] + 0.1, lead["end_s"]), 0.01)

    def test_notes_of_another_track_behind(self) -> None:
        page = self.page
        page.get_by_role("button", name=re.compile("^4 · ")).click()  # which the double sings too
        self.quiet()
        plain = self.canvas().screenshot()
        self.choose_from("Voices", "Notes of Double 1 behind")
        self.quiet()
        self.assertNotEqual(self.canvas().screenshot(), plain)
        self.choose_from("Voices", "Hide the notes of Double 1")
        page.get_by_role("button", name="Voices").click()
        page.get_by_role("menuitem", name="Notes of Double 1 behind").wait_for()
        page.keyboard.press("Escape")

    def test_a_harmony_on_a_line_that_is_drawn_over_a_phrase(self) -> None:
        page = self.page
        page.get_by_role("button", name=re.compile("^1 · ")).click()
        self.quiet()
        notes = [note for note in self.notes() if note["phrase"] == 0]
        window = self.window_of("Make a harmony…", "Harmony")
        window.get_by_role("button", name="On a melody").click()
        window.get_by_role("button", name="Phrase", exact=True).click()
        window.get_by_role("button", name="Drawn", exact=True).click()
        box = self.canvas().bounding_box()
        for note in notes[:2]:
            ends = [page.evaluate("([t, m]) => window.glassThread.place(t, m)", [at, note["target_midi"] + 2.9])
                    for at in (note["start_s"], note["end_s"])]  # fmt: skip
            (x0, y), (x1, _) = ends
            page.mouse.move(box["x"] + x0 + 1, box["y"] + y)
            page.mouse.down()
            page.mouse.move(box["x"] + (x0 + x1) / 2, box["y"] + y)
            page.mouse.move(box["x"] + x1 - 1, box["y"] + y)
            page.mouse.up()
        window.get_by_role("list", name="Not in both").wait_for()
        window.get_by_text(re.compile("none strained|are strained|Strain from")).wait_for()
        window.get_by_role("button", name="Make it").click()
        window.wait_for(state="detached")
        self.settle()
        self.open_track("Harmony")
        made = {note["id"]: note for note in self.notes()}
        for note in notes[:2]:
            self.assertAlmostEqual(made[note["id"]]["target_midi"], note["target_midi"] + 3.0, delta=1.1)
            self.assertGreater(np.abs(self.heard("tuned", note["start_s"] + 0.05, note["end_s"])).max(), 0.01)
        third = notes[2]
        self.assertLess(np.abs(self.heard("tuned", third["start_s"] + 0.07, third["end_s"] - 0.07)).max(), 1e-6)


class MelodyTest(DerivedCase):
    def test_a_line_from_a_midi_file(self) -> None:
        """A file whose one note sounds over the first phrase: its notes go there, the others are listed."""
        path = self.folder / "line.mid"
        file = mido.MidiFile(ticks_per_beat=480)
        file.tracks.append(mido.MidiTrack([
            mido.MetaMessage("set_tempo", tempo=mido.bpm2tempo(84)),
            mido.Message("note_on", note=67, velocity=90, time=480 * 4),
            mido.Message("note_off", note=67, time=480 * 6),
        ]))  # fmt: skip
        file.save(path)
        window = self.window_of("Sing a melody…", "Melody")
        window.locator("input[type=file]").set_input_files(path)
        window.get_by_role("button", name="Whole track", exact=True).click()
        window.get_by_text(re.compile(r"[3-6] of \d+ notes change")).wait_for()
        window.get_by_role("list", name="Not in both").wait_for()
        self.take()
        first = self.notes()[0]
        self.assertEqual((first["target_midi"], first["gesture"]["pull"]), (67.0, 1.0))
        self.assertEqual(self.notes()[-1]["gesture"]["pull"], 0.0)

    def test_a_line_that_is_typed_and_what_is_wrong_with_one(self) -> None:
        window = self.window_of("Sing a melody…", "Melody")
        window.get_by_role("button", name="Whole track", exact=True).press("Enter")
        window.get_by_role("button", name="Typed", exact=True).press("Enter")
        field = window.get_by_label("Notes of the melody")
        field.fill("G4 H4")
        self.page.get_by_text("note 2, “H4”, is no pitch").wait_for()
        field.fill("G4 – A4")
        window.get_by_text(re.compile("2 of .* notes change")).wait_for()
        self.take()
        self.assertEqual([note["gesture"]["target_midi"] for note in self.notes()[:3]], [67.0, None, 69.0])


class KeyboardTest(DerivedCase):
    def test_two_voices_of_a_double(self) -> None:
        window = self.window_of("Make a double…", "Double")
        window.get_by_role("button", name="2", exact=True).press("Enter")
        self.press_make()
        self.assertLessEqual({"Lead double 1", "Lead double 2"}, set(self.tracks()))
        sung = np.array([note["start_s"] for note in self.notes()])
        self.open_track("Lead double 2")
        shifts = np.array([note["gesture"]["start_shift_ms"] for note in self.notes()])
        self.assertEqual(len(shifts), len(sung))
        self.assertAlmostEqual(float(shifts.std()), 16.0, delta=4.0)


class OwnDerivedTest(OwnRecording, DerivedCase):
    def test_an_octave_below_a_real_voice(self) -> None:
        self.window_of("Make a harmony…", "Harmony")
        self.pick("Interval", "an octave below")
        self.press_make()
        note = self.notes()[3]
        self.open_track("Octave below")
        below = next(one for one in self.notes() if one["id"] == note["id"])
        self.assertAlmostEqual(below["tuned_midi"], note["tuned_midi"] - 12.0, delta=0.2)


class TriedTest(OwnRecording, DerivedCase):
    def together(self, note: dict) -> np.ndarray:
        return self.samples("([a, b]) => window.glassThread.together(a, b)", [note["start_s"] - 0.1, note["end_s"]])

    def test_a_voice_is_heard_with_its_lead_as_it_will_be_once_it_is_made(self) -> None:
        note = self.notes()[3]
        for item, title, said in (
            ("Make a harmony…", "Harmony", "Strain from|strained"),
            ("Make a double…", "Double", ""),
        ):
            with self.subTest(title):
                alone = self.together(note)
                window = self.window_of(item, title)
                window.get_by_text(re.compile(said)).first.wait_for()
                self.page.get_by_text("Preview: nothing is changed yet.").wait_for()
                self.quiet()
                tried = self.together(note)
                self.assertGreater(np.abs(tried - alone).max(), 0.01)
                self.press_make()
                self.quiet()
                np.testing.assert_allclose(self.together(note), tried, atol=2e-4)
