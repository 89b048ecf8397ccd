"""A song in another tuning, and in another key from a bar on, by pointer and by keys, on the demo and a real voice."""

import io
import re
from pathlib import Path

import mido
import numpy as np
import requests
from playwright.sync_api import expect

from glass_thread.api.app import PREFIX
from glass_thread.demo.song import start_of
from tests.browser.test_access import AccessCase
from tests.browser.test_journeys_on_own import OwnRecording
from tests.core.test_temperaments import NINETEEN

# Ratios of the just scales, above D (natural minor) and above A (major): the table by hand.
JUST_D_MINOR = 440 * 2 / 3 * np.array([1, 9 / 8, 6 / 5, 4 / 3, 3 / 2, 8 / 5, 9 / 5])
JUST_A_MAJOR = 440 * np.array([1, 9 / 8, 5 / 4, 4 / 3, 3 / 2, 5 / 3, 15 / 8])
CLEAR = 0.11  # semitones by which a pitch must be nearer than the next to be no near tie


def nearest(midi: float, hertz: np.ndarray) -> tuple[float, float]:
    """The pitch of a table, in any octave, nearest to one in MIDI, and how much nearer than the next."""
    octaves = (69 + 12 * np.log2(hertz / 440))[None] + 12 * np.arange(-3, 4)[:, None]
    order = sorted(octaves.ravel(), key=lambda pitch: abs(pitch - midi))
    return float(order[0]), abs(order[1] - midi) - abs(order[0] - midi)


class TuningCase(AccessCase):
    def begin_again(self) -> None:
        super().begin_again()
        keys = {"tonic": 2, "scale": "natural minor", "key_changes": [], "temperament": {"name": "equal"}}
        address = f"{self.application.url}{PREFIX}/songs/{self.known_song()['id']}"
        self.assertEqual(requests.patch(address, json=keys, timeout=60).status_code, 200)

    def facts(self):
        return self.page.get_by_role("button", name="Key, tempo and tuning")

    def window(self):
        window = self.page.get_by_role("dialog", name="Key, tempo and tuning")
        if window.count() == 0:
            self.facts().click()
        self.quiet()
        return window

    def saved(self) -> None:
        self.window().get_by_role("button", name="Save").click()
        self.window_gone()

    def window_gone(self) -> None:
        self.page.get_by_role("dialog", name="Key, tempo and tuning").wait_for(state="detached")
        self.quiet()

    def file(self, button: str, name: str, data: bytes) -> None:
        path = Path(self.folder) / name
        path.write_bytes(data)
        with self.page.expect_file_chooser() as chooser:
            self.window().get_by_role("button", name=button).click()
        chooser.value.set_files(path)
        self.quiet()

    def rounds_as(self, notes: list[dict], hertz: np.ndarray) -> int:
        """How many notes lie clearly at a pitch of a table; all of them must round to it."""
        clear = 0
        for note in notes:
            wanted, by = nearest(note["centre_midi"], hertz)
            if by > 2 * CLEAR:
                clear += 1
                self.assertAlmostEqual(note["target_midi"], wanted, places=4, msg=note["id"])
        return clear


class PointerTest(TuningCase):
    def test_just_d_with_a_key_change_that_is_dragged_along_the_ruler(self) -> None:
        page = self.page
        window = self.window()
        self.pick("Tuning", "Just intonation")
        window.get_by_role("button", name="Another key").click()
        bar = window.get_by_label("Bar of key 2")
        bar.fill("10")
        bar.press("Tab")
        self.pick("Tonic of key 2", "A")
        self.pick("Scale of key 2", "major")
        window.get_by_text(re.compile("not tuned yet get another target")).wait_for()
        window.get_by_text("Which notes round elsewhere").click()
        window.get_by_text(re.compile(r"^\d+\.\d Lead: C5 → C♯5")).first.wait_for()
        self.saved()
        expect(self.facts()).to_contain_text("D natural minor, 1 change · Just intonation · A4 440 Hz")
        notes, at_s = self.notes(), start_of(10)
        before, after = ([n for n in notes if (n["start_s"] + 0.1 < at_s) == first] for first in (True, False))
        self.assertGreater(self.rounds_as(before, JUST_D_MINOR), 15)
        self.assertGreater(self.rounds_as(after, JUST_A_MAJOR), 10)
        self.drag_mark(10, 12)
        moved = start_of(12)
        self.assertGreater(self.rounds_as([n for n in self.notes() if n["start_s"] + 0.1 < moved], JUST_D_MINOR), 20)
        self.assertGreater(self.rounds_as([n for n in self.notes() if n["start_s"] + 0.1 > moved], JUST_A_MAJOR), 8)
        page.reload()
        page.get_by_role("application").wait_for()
        expect(self.facts()).to_contain_text("1 change")

    def drag_mark(self, bar: int, to: int) -> None:
        """Bring both bars into sight and drag the mark of the key on the ruler."""
        page = self.page
        page.evaluate("([a, b]) => window.glassThread.show(a, b)", [start_of(bar) - 1, start_of(to) + 1])
        self.quiet()
        y = self.canvas().bounding_box()["y"] + 30
        page.mouse.move(self.place(start_of(bar), 60)[0], y)
        page.mouse.down()
        page.mouse.move(self.place(start_of(to), 60)[0] + 5, y, steps=6)
        page.mouse.up()
        page.wait_for_function("(bar) => window.glassThread.song().key_changes[0].bar === bar", arg=to)
        self.quiet()

    def test_tuned_notes_stay_when_the_key_changes_and_those_that_would_go_are_named(self) -> None:
        page = self.page
        page.get_by_role("button", name="Tune pass…").click()
        pass_window = page.get_by_role("dialog", name="Tune pass")
        pass_window.get_by_text("Whole track").click()
        pass_window.get_by_role("button", name="Take it").click()
        pass_window.wait_for(state="detached")
        self.settle()
        before = {note["id"]: note["tuned_midi"] for note in self.notes()}
        window = self.window()
        self.pick("Scale", "major")
        window.get_by_text(re.compile(r"\d+ notes tuned: all stay where they are; tuned now, \d+ of")).wait_for()
        window.get_by_text("Which notes round elsewhere").click()
        window.get_by_text(re.compile(r"F4 → .*tuned: stays")).first.wait_for()
        self.saved()
        self.assertEqual({note["id"]: note["tuned_midi"] for note in self.notes()}, before)

    def test_a_scale_of_nineteen_steps_from_a_file(self) -> None:
        window = self.window()
        self.pick("Tuning", "From a Scala file")
        self.file("Scale (.scl)…", "broken.scl", b"broken\n3\n3/2\nfifth\n2/1\n")
        self.page.get_by_text("Line 4, “fifth”: a pitch is a ratio such as 3/2").wait_for()
        self.file("Scale (.scl)…", "19.scl", NINETEEN.encode())
        window.get_by_text("19 equal steps: 19 steps to 1200.0 cents").wait_for()
        self.saved()
        expect(self.facts()).to_contain_text("19 steps on D · 19 equal steps")
        for note in self.notes():
            step = (note["target_midi"] - 62) * 19 / 12
            self.assertAlmostEqual(step, round(step), places=3)
        self.canvas().focus()
        self.press("n", "t")
        first = self.note()["target_midi"]
        self.press("ArrowUp")
        self.until(f"Math.abs(n.target_midi - {first + 12 / 19}) < 1e-3")
        name = self.page.locator("strong", has_text="°").first.inner_text()
        self.assertRegex(name, r"^“over” \d+°[345]$")
        target = self.page.get_by_label("Target")
        target.fill("7d4 +10")
        target.press("Enter")
        self.until(f"Math.abs(n.target_midi - {62 + 6 * 12 / 19 + 0.1}) < 1e-3")

    def test_steps_of_ones_own(self) -> None:
        window = self.window()
        self.pick("Tuning", "From a Scala file")
        self.file("Scale (.scl)…", "19.scl", NINETEEN.encode())
        self.pick("Scale", "steps of your own")
        steps = window.get_by_role("group", name="Notes of the scale")
        for name in ("1°", "4°", "7°", "12°"):
            steps.get_by_text(name, exact=True).click()
        window.get_by_role("button", name="Another key").click()
        window.get_by_text("Which notes round elsewhere").click()
        self.assertEqual(self.violations(), [])
        self.saved()
        expect(self.facts()).to_contain_text("4 steps on D, of 19")
        there = {round((note["target_midi"] - 62) * 19 / 12) % 19 for note in self.notes()}
        self.assertLessEqual(there, {0, 3, 6, 11})


class KeyboardTest(TuningCase):
    def choose(self, label: str, typed: str) -> None:
        """Open a list by key, type the beginning of what is wanted, and take it."""
        page = self.page
        page.get_by_role("button", name=re.compile(f"{label}$")).focus()
        page.keyboard.press("ArrowDown")
        page.get_by_role("listbox").wait_for()
        page.keyboard.type(typed)
        page.keyboard.press("Enter")
        page.get_by_role("listbox").wait_for(state="detached")

    def test_keys_and_a_tuning_by_keys_alone(self) -> None:
        page = self.page
        self.facts().focus()
        page.keyboard.press("Enter")
        window = self.window()
        self.choose("Tuning", "Pyth")
        self.choose("Reference note", "C4")
        hertz = window.get_by_label("Reference C4 in Hz")
        hertz.focus()
        page.keyboard.press("Control+a")
        page.keyboard.type("261")
        window.get_by_role("button", name="Another key").focus()
        page.keyboard.press("Enter")
        bar = window.get_by_label("Bar of key 2")
        bar.focus()
        page.keyboard.press("Control+a")
        page.keyboard.type("8.3")
        page.keyboard.press("Tab")
        self.choose("Tonic of key 2", "G")
        self.choose("Scale of key 2", "dor")
        window.get_by_role("button", name="Save").focus()
        page.keyboard.press("Enter")
        self.window_gone()
        expect(self.facts()).to_contain_text("1 change · Pythagorean · C4 261 Hz")
        song = page.evaluate("() => window.glassThread.song()")
        self.assertEqual(
            [(c["bar"], c["beat"], c["tonic"], c["scale"]) for c in song["key_changes"]], [(8, 3, 7, "dorian")]
        )
        self.facts().focus()
        page.keyboard.press("Enter")
        self.window().get_by_role("button", name="Steps of the song…").press("Enter")
        page.get_by_role("button", name=re.compile("Take back: Tuning · Pythagorean")).press("Enter")
        expect(self.facts()).to_contain_text("D natural minor · A4 440 Hz")

    def test_the_keys_of_a_midi_file(self) -> None:
        file = mido.MidiFile(ticks_per_beat=480)
        file.tracks.append(mido.MidiTrack([
            mido.MetaMessage("set_tempo", tempo=mido.bpm2tempo(84)), mido.MetaMessage("key_signature", key="Dm"),
            mido.MetaMessage("key_signature", key="F", time=480 * 4 * 7), mido.MetaMessage("end_of_track", time=480),
        ]))  # fmt: skip
        data = io.BytesIO()
        file.save(file=data)
        self.file("From a MIDI file…", "map.mid", data.getvalue())
        window = self.window()
        window.get_by_text("Key in the file: D natural minor, changing once.").wait_for()
        expect(window.get_by_label("Bar of key 2")).to_have_value("8")
        self.saved()
        song = self.page.evaluate("() => window.glassThread.song()")
        self.assertEqual([(c["bar"], c["tonic"], c["scale"]) for c in song["key_changes"]], [(8, 5, "major")])


class OwnTuningTest(OwnRecording, TuningCase):
    """The same on a real voice that was brought in."""

    def test_nineteen_steps_are_sung(self) -> None:
        self.window()
        self.pick("Tuning", "From a Scala file")
        self.file("Scale (.scl)…", "19.scl", NINETEEN.encode())
        self.saved()
        song = self.page.evaluate("() => window.glassThread.song()")
        first = 60 + song["tonic"]
        self.canvas().focus()
        self.press("ArrowRight")
        while self.note()["end_s"] - self.note()["start_s"] < 0.4:
            self.press("ArrowRight")
        note = self.note()
        sung = self.heard("tuned", note["start_s"], note["end_s"])
        self.press("t")
        self.until("n.edited")
        step = (self.note()["tuned_midi"] - first) * 19 / 12
        self.assertAlmostEqual(step, round(step), places=3)
        tuned = self.heard("tuned", note["start_s"], note["end_s"])
        self.assertGreater(np.abs(tuned - sung).max(), 0.001)
        above = self.note()["target_midi"] + 12 / 19
        self.press("ArrowUp")
        self.until(f"Math.abs(n.target_midi - {above}) < 1e-3")
