"""All tracks together in the real interface: heard, followed, made, cleared, printed; by pointer and by keys alone."""

import re

import mido
import numpy as np
import soundfile as sf

from glass_thread.services.prints.mix import pan_gains
from tests.application import until
from tests.browser.test_derived import DerivedCase
from tests.browser.test_journeys_on_own import OwnRecording
from tests.browser.test_prints import PrintCase

VERSE_S = (19.6, 23.0)  # of a phrase that the doubles sing too


LISTEN = """() => {
  window.told = new Set();
  const listen = () => document.querySelectorAll("[role=status] span").forEach((said) => told.add(said.textContent));
  new MutationObserver(listen).observe(document.body, { childList: true, subtree: true, characterData: true });
}"""


class StackCase(DerivedCase, PrintCase):
    def stack(self):
        """The rows of the stack."""
        if self.page.get_by_role("grid", name="Tracks of the song").count() == 0:
            self.page.get_by_role("group", name="View").get_by_role("button", name="Stack").click()
        grid = self.page.get_by_role("grid", name="Tracks of the song")
        grid.wait_for()
        self.quiet()
        return grid

    def names(self) -> list[str]:
        return [row.get_attribute("aria-label").split(",")[0] for row in self.stack().get_by_role("row").all()]

    def box(self, name: str):
        return self.page.get_by_role("checkbox", name=re.compile(f"^Choose {name}"))

    def choose(self, *names: str) -> None:
        for name in names:
            self.box(name).locator("xpath=ancestor::label").click()
        self.page.get_by_text(f"{len(names)} tracks chosen").wait_for()

    def together(self, start: float, end: float) -> np.ndarray:
        """What the stack sounds like over a stretch of the song, in one channel."""
        return self.samples("([a, b]) => window.glassThread.together(a, b)", [start, end])

    def alone(self, name: str, start: float, end: float) -> np.ndarray:
        self.page.get_by_role("button", name=f"Solo {name}", exact=True).click()
        self.quiet()
        sound = self.together(start, end)
        self.page.get_by_role("button", name=f"Solo {name}", exact=True).click()
        self.quiet()
        return sound

    def silent_backing(self) -> None:
        self.page.get_by_role("button", name="Mute Backing").click()
        self.quiet()

    def late_ms(self, name: str) -> float:
        """By how much a track is later than the lead, from where their loudness fits best."""
        lead, other = (self.loudness(self.alone(one, *VERSE_S)) for one in ("Lead", name))
        lags = range(-120, 121)
        fits = [np.dot(lead[150:-150], np.roll(other, -lag)[150:-150]) for lag in lags]
        return float(lags[int(np.argmax(fits))])

    @staticmethod
    def loudness(sound: np.ndarray) -> np.ndarray:
        """How loudness rises and falls, a value a ms, without its mean."""
        step = 44
        power = np.array([np.mean(sound[at : at + 4 * step] ** 2) for at in range(0, len(sound) - 4 * step, step)])
        level = 10.0 * np.log10(power + 1e-7)
        return level - level.mean()

    def all_printed(self) -> dict[str, np.ndarray]:
        """Every vocal printed as one length, by name."""
        window = self.window("New print")
        window.get_by_role("button", name="All as one length").press("Enter")
        window.get_by_role("button", name="Print", exact=True).press("Enter")
        names = self.vocals
        window.get_by_role("link").nth(len(names) - 1).wait_for()
        found = {name: sf.read(str(self.saved(f"Save “{name} tuned")))[0] for name in names}
        window.get_by_role("button", name="Close").click()
        return found

    vocals: tuple[str, ...] = ()


class PointerTest(StackCase):
    vocals = ("Lead", "Double 1", "Double 2", "Third above", "Octave below")

    def test_a_stack_from_the_first_follow_to_the_prints(self) -> None:
        page = self.page
        self.stack()
        self.silent_backing()
        before = self.late_ms("Double 1")
        self.assertGreater(abs(before), 15.0)
        self.choose("Double 1", "Double 2")
        page.get_by_role("button", name="Follow…").click()
        window = page.get_by_role("dialog", name="Follow together")
        window.get_by_role("button", name="Tightest").click()
        window.get_by_label("Pitch (%)").fill("100")
        window.get_by_label("Pitch (%)").press("Enter")
        window.get_by_role("button", name="Let them follow").click()
        page.get_by_text(re.compile(r"Changed: \d+ in Double 1, \d+ in Double 2")).wait_for()
        self.quiet()
        self.assertLess(abs(self.late_ms("Double 1")), 12.0)
        self.undone_and_done_again(before)
        self.lead_changes()
        self.voices_are_made()
        self.breaths_go()
        self.prints_are_checked()

    def undone_and_done_again(self, before: float) -> None:
        """One step for both, taken back and done again as one."""
        heads = self.heads()
        self.page.get_by_role("button", name="Undo").click()
        until(lambda: sum(self.heads()[name] != heads[name] for name in heads) == 2, "both to go back")
        self.quiet()
        self.assertAlmostEqual(self.late_ms("Double 1"), before, delta=3.0)
        self.page.get_by_role("button", name="Redo").click()
        until(lambda: self.heads() == heads, "both to go on")
        self.quiet()

    def heads(self) -> dict[str, str]:
        song = self.page.url.split("/song/")[1].split("/")[0]
        tracks = self.page.request.get(f"{self.application.url}/api/v1/songs/{song}").json()["tracks"]
        return {track["name"]: track["head_id"] for track in tracks}

    def lead_changes(self) -> None:
        """Double 1 is set to catch up by itself; a note of the lead goes up, and the double's goes along."""
        page = self.page
        page.get_by_role("button", name="Open Double 1", exact=True).click()
        page.get_by_role("application").wait_for()
        self.quiet()
        first = self.notes()[0]
        self.choose_from("Voices", "Follow another track… (Y)")
        page.get_by_text("Follows Lead.").wait_for()
        page.get_by_role("dialog").get_by_text("By itself").click()
        self.quiet()
        page.get_by_role("dialog").get_by_role("button", name="Leave").click()
        self.open_track("Lead")
        note = min(self.notes(), key=lambda one: abs(one["start_s"] - first["start_s"]))
        self.choose_note(note)
        page.evaluate(LISTEN)  # good news is there for four seconds, which may pass while keys are pressed
        self.press("t")
        self.press("ArrowUp", *["Shift+ArrowUp"] * 5)  # faster than what follows catches up
        page.wait_for_function("() => window.told.has('Caught up: Double 1.')")
        self.quiet(1500)  # what was pressed last is caught up with after a second
        self.settle()
        lead = next(one for one in self.notes() if one["id"] == note["id"])
        self.open_track("Double 1")
        now = self.notes()[0]
        self.assertAlmostEqual(now["tuned_midi"] - lead["tuned_midi"], 0.0, delta=0.03)
        self.open_track("Lead")

    def voices_are_made(self) -> None:
        """A third above and an octave below, placed left and right and heard with the backing."""
        page = self.page
        self.stack()
        for interval, name, place in (
            ("a third above", "Third above", "-45"),
            ("an octave below", "Octave below", "40"),
        ):
            page.get_by_role("button", name="Make a track").click()
            page.get_by_role("menuitem", name="A harmony of Lead…").click()
            self.pick("Interval", interval)
            page.get_by_text(re.compile("none strained|are strained|Strain from")).wait_for()
            page.get_by_role("button", name="Make it").click()
            page.get_by_text(f"Made: {name}").wait_for()
            self.quiet()
            field = page.get_by_label(f"Place of {name} (%)")
            field.fill(place)
            field.press("Enter")
            self.quiet()
        page.get_by_role("button", name="Mute Backing").click()
        self.quiet()
        with_backing = self.together(2.0, 3.0)
        page.get_by_role("button", name="Mute Backing").click()
        self.quiet()
        self.assertGreater(float(np.abs(with_backing - self.together(2.0, 3.0)).max()), 0.01)
        page.get_by_role("button", name="Play").click()
        page.get_by_role("button", name="Stop").wait_for()
        page.get_by_role("button", name="Stop").click()

    def breaths_go(self) -> None:
        """The doubles' and harmonies' breaths are silent after; the lead keeps its own."""
        page = self.page
        breath = next(
            event for event in self.page.evaluate("() => window.glassThread.air()") if event["kind"] == "breath"
        )
        span = breath["start_s"] + 0.06, breath["end_s"] - 0.06
        loud = float(np.abs(self.alone("Octave below", *span)).max())
        page.keyboard.press("Escape")
        self.page.get_by_role("button", name="Whole song").click()
        self.choose_only("Double 1", "Double 2", "Third above", "Octave below")
        page.get_by_role("button", name="Remove breaths").click()
        page.get_by_text(re.compile(r"Changed: .*Octave below")).wait_for()
        self.quiet()
        self.assertGreater(loud, 3e-4)
        self.assertLess(float(np.abs(self.alone("Octave below", *span)).max()), 1e-6)
        self.assertGreater(float(np.abs(self.alone("Lead", *span)).max()), 1e-3)

    def choose_only(self, *names: str) -> None:
        for name in self.names():
            box = self.box(name)
            if box.count() and box.is_checked() != (name in names):
                box.locator("xpath=ancestor::label").click()
        self.page.get_by_text(f"{len(names)} tracks chosen").wait_for()

    def prints_are_checked(self) -> None:
        """All vocals as one length add up to what is heard of them; the lead's melody has the right bars in `mido`."""
        found = self.all_printed()
        self.assertEqual(len({len(sound) for sound in found.values()}), 1)
        heard = self.together(*VERSE_S)
        begin = round(VERSE_S[0] * 44100)
        levels = {row["name"]: row["level_db"] for row in self.tracks_now()}
        total = sum(10 ** (levels[name] / 20) * sound[begin : begin + len(heard)] for name, sound in found.items())
        self.assertLess(float(np.abs(total - heard)[500:].max()), 1e-3)  # after the way in of what begins to play
        self.mix_is_placed()
        window = self.window("For other programs")
        file = mido.MidiFile(self.saved("Save as MIDI"))
        window.get_by_role("button", name="Close").click()
        begun = [at for at, kind in self.ticks(file) if kind == "note_on"]
        self.assertLess(abs(begun[0] / file.ticks_per_beat - 4.0), 0.1)  # bar 2 of a song in four

    def tracks_now(self) -> list[dict]:
        song = self.page.url.split("/song/")[1].split("/")[0]
        return self.page.request.get(f"{self.application.url}/api/v1/songs/{song}").json()["tracks"]

    def mix_is_placed(self) -> None:
        """A mix of the third alone is as much louder on its side as its place says."""
        page = self.page
        for name in ("Lead", "Double 1", "Double 2", "Octave below"):
            page.get_by_role("button", name=f"Mute {name}", exact=True).click()
            self.quiet()
        window = self.window("New print")
        window.get_by_role("button", name=re.compile("[Mm]ix")).first.press("Enter")
        window.get_by_role("button", name="Print", exact=True).press("Enter")
        window.get_by_role("link", name=re.compile("mix")).first.wait_for()
        mix, _rate = sf.read(str(self.saved("mix")))
        window.get_by_role("button", name="Close").click()
        left, right = np.sqrt(np.mean(mix**2, axis=0))
        wanted = pan_gains(-0.45, 1)
        self.assertAlmostEqual(float(right / left), wanted[1] / wanted[0], delta=0.02)


class KeyboardTest(StackCase):
    vocals = ("Lead", "Double 1", "Double 2", "Fifth above")

    def to(self, name: str, presses: int = 40) -> None:
        """Tab until a control has the focus."""
        here = "() => document.activeElement.getAttribute('aria-label') ?? document.activeElement.innerText"
        for _ in range(presses):
            if self.page.evaluate(here) == name:
                return
            self.page.keyboard.press("Tab")
        self.fail(f"“{name}” is not reached with Tab; the last is {self.page.evaluate(here)}")

    def row(self, name: str) -> None:
        """To the row of a track with the arrow keys."""
        grid = self.page.get_by_role("grid", name="Tracks of the song")
        grid.get_by_role("row").first.focus()
        for _ in self.names():
            if self.page.evaluate("() => document.activeElement.getAttribute('aria-label')").startswith(f"{name},"):
                return
            self.page.keyboard.press("ArrowDown")
        self.fail(f"no row {name}")

    def test_without_a_pointer(self) -> None:
        page = self.page
        self.canvas().focus()
        self.press("Shift+H")
        page.get_by_role("grid", name="Tracks of the song").wait_for()
        self.quiet()
        before = self.names()
        self.order_is_changed(before)
        self.silent_backing_by_key()
        late = self.late_ms("Double 2")
        for name in ("Double 1", "Double 2"):
            self.row(name)
            page.keyboard.press(" ")
        page.get_by_text("2 tracks chosen").wait_for()
        page.get_by_role("button", name="Follow…").press("Enter")
        page.get_by_role("dialog", name="Follow together").wait_for()
        self.to("Tightest")
        page.keyboard.press("Enter")
        self.to("Let them follow")
        page.keyboard.press("Enter")
        page.get_by_text(re.compile(r"Changed: \d+ in Double")).wait_for()
        self.quiet()
        self.assertLess(abs(self.late_ms("Double 2")), min(12.0, abs(late)))
        self.harmony_by_key()
        self.breaths_by_key()
        found = self.all_printed()
        self.assertEqual(len({len(sound) for sound in found.values()}), 1)
        page.keyboard.press("Control+z")
        page.keyboard.press("Shift+H")
        page.get_by_role("toolbar", name="Sheet tools").wait_for()
        self.catch_up_by_key()

    def order_is_changed(self, before: list[str]) -> None:
        page = self.page
        self.row(before[-1])
        self.to(f"Move {before[-1]}")
        page.keyboard.press("Enter")
        page.wait_for_function("() => document.activeElement.getAttribute('aria-label')?.startsWith('Insert')")
        for _ in range(2):
            page.keyboard.press("ArrowUp")
        page.keyboard.press("Enter")
        until(lambda: self.names() != before, "another order")
        self.assertEqual(sorted(self.names()), sorted(before))

    def silent_backing_by_key(self) -> None:
        self.row("Backing")
        self.to("Mute Backing")
        self.page.keyboard.press("Enter")
        self.page.get_by_role("button", name="Mute Backing", pressed=True).wait_for()
        self.quiet()

    def harmony_by_key(self) -> None:
        page = self.page
        page.get_by_role("button", name="Make a track").press("Enter")
        page.keyboard.press("ArrowDown")
        page.keyboard.press("Enter")
        page.get_by_role("dialog", name="Harmony").wait_for()
        self.quiet()
        self.pick("Interval", "a fifth above")
        self.to("Make it")
        page.keyboard.press("Enter")
        page.get_by_text("Made: Fifth above").wait_for()
        self.quiet()

    def breaths_by_key(self) -> None:
        self.canvas().focus()
        self.page.keyboard.press("Control+a")
        self.page.get_by_text("4 tracks chosen").wait_for()
        self.page.get_by_role("button", name="Remove breaths").press("Enter")
        self.page.get_by_text(re.compile(r"Changed: .*\d+ in Fifth above")).wait_for()
        self.quiet()

    def catch_up_by_key(self) -> None:
        """The lead's first note goes up a step of the scale, and the fifth above it goes along when it is told to."""
        page = self.page
        self.canvas().focus()
        self.press("ArrowRight", "t", "ArrowUp")
        note = page.evaluate("() => window.glassThread.selected()[0]")
        self.open_track("Fifth above")
        before = next(one for one in self.notes() if one["id"] == note["id"])
        page.get_by_role("group", name="Behind its lead").get_by_role("button", name="Catch up").press("Enter")
        page.get_by_role("group", name="Behind its lead").wait_for(state="detached")
        self.settle()
        now = next(one for one in self.notes() if one["id"] == note["id"])
        self.assertAlmostEqual(now["tuned_midi"] - before["tuned_midi"], 1.5, delta=0.6)
        self.assertGreater(self.differs("tuned", "sung", note["start_s"] + 0.1, note["end_s"]), 0.01)


class ChosenTest(StackCase):
    def test_a_comp_is_heard_in_the_stack_and_kept(self) -> None:
        """The stack has another version than is worked on, and a reload keeps that."""
        page = self.page
        self.canvas().focus()
        self.press("Control+a", "t")
        self.settle()
        tuned = self.stack_of_lead()
        self.pick("Heard of Lead", "As sung")
        self.quiet()
        sung = self.together(*VERSE_S)
        self.assertGreater(float(np.abs(tuned - sung).max()), 0.02)
        page.reload()
        self.stack()
        np.testing.assert_allclose(self.together(*VERSE_S), sung, atol=1e-6)
        page.get_by_role("group", name="Listen to").get_by_role("button", name="As sung").click()
        self.quiet()
        self.pick("Heard of Lead", "Open: Tuned")
        self.quiet()
        np.testing.assert_allclose(self.together(*VERSE_S), sung, atol=1e-6)
        page.get_by_role("group", name="Listen to").get_by_role("button", name="Tuned").click()
        self.quiet()
        np.testing.assert_allclose(self.together(*VERSE_S), tuned, atol=1e-6)

    def stack_of_lead(self) -> np.ndarray:
        self.stack()
        return self.together(*VERSE_S)

    def test_the_melody_plays_along(self) -> None:
        self.canvas().focus()
        note = self.notes()[0]
        self.page.get_by_text("Melody", exact=True).click()
        self.quiet()
        with_tone = self.together(note["start_s"], note["end_s"])
        self.page.get_by_text("Melody", exact=True).click()
        self.quiet()
        tone = with_tone - self.together(note["start_s"], note["end_s"])
        spectrum = np.abs(np.fft.rfft(tone * np.hanning(len(tone)), 1 << 18))
        hz = float(np.argmax(spectrum)) * 44100 / (1 << 18)
        self.assertAlmostEqual(69 + 12 * np.log2(hz / 440.0), note["tuned_midi"], delta=0.05)


class OwnStackTest(OwnRecording, StackCase):
    def test_voices_of_a_real_take_are_heard_together(self) -> None:
        page = self.page
        self.stack()
        alone = self.together(2.0, 4.0)
        page.get_by_role("button", name="Make a track").click()
        page.get_by_role("menuitem", name=re.compile("A double of")).click()
        page.get_by_role("button", name="Make it").click()
        page.get_by_text("Made: ").wait_for()
        self.quiet()
        both = self.together(2.0, 4.0)
        self.assertGreater(float(np.abs(both - alone).max()), 0.01)
        self.assertEqual(len(self.names()), 2)
