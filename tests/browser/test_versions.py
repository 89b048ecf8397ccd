"""Versions made, switched, heard against each other while playing; marks, branches, another release's folder."""

import re
import shutil
import tarfile
from pathlib import Path

import numpy as np
import soundfile as sf
from playwright.sync_api import expect

from glass_thread.demo.build import SAMPLE_RATE
from glass_thread.demo.song import TITLE
from tests.application import until
from tests.browser.hatchery import Hatched
from tests.browser.server import BrowserCase
from tests.signals import RATE, sung_short

RELEASE = Path(__file__).parent.parent / "store" / "release_0_1"


class VersionCase(BrowserCase):
    def settle(self) -> None:
        self.quiet()
        self.page.evaluate("() => window.glassThread.settled()")

    def press(self, *keys: str) -> None:
        for key in keys:
            self.page.keyboard.press(key)
            self.settle()

    def note(self) -> dict:
        return self.page.evaluate("() => window.glassThread.selected()[0]")

    def around(self, note: dict, offset_s: float = 0.0) -> tuple[float, float]:
        """From before a note to after it, at tenths of a second, which lie on whole samples."""
        return np.floor(10 * note["start_s"]) / 10 + offset_s, np.ceil(10 * note["end_s"]) / 10 + offset_s

    def sound(self, kind: str, note: dict) -> np.ndarray:
        return self.heard(kind, *self.around(note))

    def menu(self, label: str, option: str) -> None:
        self.page.get_by_role("button", name=re.compile(rf"{label}$")).click()
        self.page.get_by_role("option", name=option, exact=True).click()
        self.settle()

    def version_is(self, name: str) -> None:
        self.page.get_by_role("button", name=re.compile(rf"^{name}.*Version$")).wait_for()


class ComparedByEarTest(VersionCase):
    def test_from_the_keyboard_alone(self) -> None:
        page = self.page
        page.get_by_role("button", name="Open", exact=True).first.focus()
        page.keyboard.press("Enter")
        page.get_by_role("application").wait_for()
        self.press("n", "t")
        note = self.note()
        tuned = self.sound("tuned", note)
        self.press("v")
        for _ in range(60):
            if page.evaluate("() => document.activeElement.getAttribute('aria-label')") == "Name of the new version":
                break
            page.keyboard.press("Tab")
        page.keyboard.type("Half way")
        self.press("Enter")
        self.version_is("Half way")
        self.press("Escape", "Backspace", "ArrowUp", "Shift+ArrowDown", "Shift+ArrowDown")
        half = self.sound("tuned", note)
        self.assertGreater(np.abs(half - tuned).max(), 0.02)
        page.keyboard.press(" ")
        page.get_by_role("button", name="Stop").wait_for()
        for key, wanted in (("1", self.sound("sung", note)), ("2", tuned), ("3", half), ("2", tuned)):
            page.keyboard.press(key)
            page.get_by_role("button", name=re.compile("^⇄")).and_(page.locator("[aria-pressed=true]")).wait_for()
            np.testing.assert_allclose(self.sound("version", note), wanted, atol=1e-5)
        page.get_by_role("button", name="Stop").wait_for()  # it went on all the while
        page.keyboard.press("0")
        np.testing.assert_allclose(self.sound("tuned", note), half, atol=1e-5)
        self.change_has_no_gap(note, half, tuned)
        page.keyboard.press(" ")

    def change_has_no_gap(self, note: dict, before: np.ndarray, after: np.ndarray) -> None:
        """From one version to the other in the middle of the note, through the page's own layers."""
        start, end = self.around(note)
        at = round((start + end) / 2, 1)
        self.page.keyboard.press("2")
        heard = self.samples(
            "([a, b, c]) => window.glassThread.heard('tuned', a, b, {kind: 'version', at_s: c})",
            [start, end, at],
        )
        cut, blend = round((at - start) * SAMPLE_RATE), round(0.009 * SAMPLE_RATE)
        np.testing.assert_allclose(heard[500:cut], before[500:cut], atol=1e-5)
        np.testing.assert_allclose(heard[cut + blend :], after[cut + blend :], atol=1e-5)
        self.assertGreater(np.abs(heard[cut : cut + blend]).max(), 0.02)
        own = max(np.abs(np.diff(x)).max() for x in (before, after))
        self.assertLess(np.abs(np.diff(heard)).max(), 1.2 * own)

    def test_with_the_pointer_alone(self) -> None:
        page = self.page
        self.open_lead()
        page.get_by_role("button", name="Versions…").click()
        page.get_by_label("Name of the new version").fill("Second thoughts")  # a name has to be typed
        page.get_by_role("button", name=re.compile("Where the new version begins")).click()
        page.get_by_role("option", name=re.compile("^from Tuned")).click()
        page.get_by_role("dialog").get_by_role("button", name="Make", exact=True).click()
        self.version_is("Second thoughts")
        page.get_by_role("button", name="Close Versions").click()
        page.get_by_role("button", name=re.compile(r"^2 · bar")).click()
        page.get_by_role("button", name="Tune (T)").click()
        self.settle()
        notes = page.evaluate("() => window.glassThread.selected()")
        note = max(notes, key=lambda note: abs(note["tuned_midi"] - note["centre_midi"]))
        changed = self.sound("tuned", note)
        page.get_by_role("button", name="Versions…").click()
        self.menu("Compare with", "Tuned")
        page.get_by_role("dialog").get_by_text(f"{len(notes)} notes differ").wait_for()
        page.get_by_role("button", name="Hear Tuned").click()
        sung = self.sound("sung", note)
        np.testing.assert_allclose(self.sound("version", note), sung, atol=1e-5)
        self.assertGreater(np.abs(changed - sung).max(), 0.02)
        page.get_by_role("button", name="Ghost of Tuned").click()
        page.locator("[aria-label='Ghost of Tuned'][aria-pressed=true]").wait_for()
        page.get_by_role("button", name="Work on it: Tuned").click()
        self.version_is("Tuned")
        np.testing.assert_allclose(self.sound("tuned", note), sung, atol=1e-5)
        page.get_by_role("button", name="Remove Second thoughts").click()
        page.get_by_role("button", name="Bring back “Second thoughts”").click()
        page.get_by_role("button", name="Work on it: Second thoughts").click()
        self.version_is("Second thoughts")
        np.testing.assert_allclose(self.sound("tuned", note), changed, atol=1e-5)
        page.get_by_role("button", name="Work on it: As sung").click()
        page.get_by_role("button", name="Close Versions").click()
        page.get_by_role("button", name="Tune (T)").click()
        page.get_by_text("As sung stays as it was recorded").wait_for()


class StepsTest(VersionCase):
    def test_a_mark_after_undo_and_edit_a_killed_server_and_an_old_step_made_a_version(self) -> None:
        page = self.page
        self.open_lead()
        self.press("n", "t")
        note = self.note()
        marked = self.sound("tuned", note)
        self.press("m", "Control+z")
        page.get_by_label("Target", exact=True).fill("A4")
        page.keyboard.press("Enter")
        self.settle()
        edited = self.sound("tuned", note)
        self.assertGreater(np.abs(edited - marked).max(), 0.05)
        np.testing.assert_allclose(self.sound("marked", note), marked, atol=1e-5)
        self.quiet(600)  # sound is asked for ahead, one piece after the other
        self.application.kill()
        self.application.start()
        np.testing.assert_allclose(self.sound("marked", note), marked, atol=1e-5)
        page.reload()
        page.get_by_role("application").wait_for()
        np.testing.assert_allclose(self.sound("tuned", note), edited, atol=1e-5)
        page.get_by_role("button", name="Steps", exact=True).click()
        page.get_by_role("heading", name="Other branches").wait_for()
        branch = page.get_by_role("region", name="Other branches")
        branch.get_by_role("button", name=re.compile(r"^\d+\s+Tune to")).wait_for()
        branch.get_by_role("button", name=re.compile("Make a version from step")).first.click()
        page.get_by_label("Name of the version").fill("From the branch")
        page.get_by_role("button", name="Make", exact=True).click()
        self.version_is("From the branch")
        np.testing.assert_allclose(self.sound("tuned", note), marked, atol=1e-5)
        page.get_by_role("region", name=re.compile("phrase 1")).first.wait_for()  # one group a minute
        page.get_by_role("button", name=re.compile(r"^0\s+As found")).click()
        self.settle()
        np.testing.assert_allclose(self.sound("tuned", note), self.sound("sung", note), atol=1e-5)
        self.press(*["Control+Shift+z"] * 3)
        np.testing.assert_allclose(self.sound("tuned", note), marked, atol=1e-5)

    def test_versions_are_compared_at_the_same_loudness(self) -> None:
        page = self.page
        self.open_lead()
        self.press("Control+a")
        for _ in range(2):
            self.press("Control+,")
        note = page.evaluate("() => window.glassThread.notes()[1]")
        gains = "() => window.glassThread.gains()"
        self.press("1")
        self.assertEqual(page.evaluate(gains), [1])
        self.press("v")
        page.get_by_text("Compare at the same loudness").click()
        page.wait_for_function("() => window.glassThread.gains()[0] < 0.8")
        level = [20 * np.log10(np.sqrt(np.mean(self.sound(kind, note) ** 2))) for kind in ("tuned", "version")]
        (gain,) = page.evaluate(gains)
        self.assertAlmostEqual(level[1] + 20 * np.log10(gain), level[0], delta=0.7)

    def test_two_tabs_try_things_out_without_fighting(self) -> None:
        self.open_lead()
        other = self.page.context.new_page()
        self.addCleanup(other.close)
        other.goto(self.page.url)
        other.get_by_role("application").wait_for()
        for page in (self.page, other):
            page.keyboard.press("Control+a")
            page.keyboard.press("p")
            page.get_by_text("Preview: nothing is changed yet").wait_for()
        first = self.heard("preview", 20, 24)
        other.get_by_role("dialog").get_by_label("Pull (%)").fill("10")
        other.keyboard.press("Enter")

        def differs() -> bool:
            second = self.samples("() => window.glassThread.heard('preview', 20, 24)", page=other)
            return bool(np.abs(first - second).max() > 0.01)

        until(differs, "the other tab's own preview")
        again = self.heard("preview", 20, 24)
        np.testing.assert_allclose(again, first, atol=1e-6)

    def test_a_key_says_what_it_means_and_is_put_back(self) -> None:
        page = self.page
        self.open_lead()
        self.press("n", "t")
        note = self.note()
        before = self.sound("tuned", note)
        page.get_by_role("button", name="Key, tempo and tuning").click()
        page.get_by_label("Reference A4 in Hz").fill("432")
        page.get_by_text(re.compile(r"notes? tuned: all stay where they are")).wait_for()
        page.get_by_role("button", name="Save").click()
        page.get_by_role("button", name="Key, tempo and tuning").get_by_text("432 Hz").wait_for()
        np.testing.assert_allclose(self.sound("tuned", note), before, atol=1e-5)
        page.get_by_role("button", name="Key, tempo and tuning").click()
        page.get_by_role("button", name="Steps of the song…").click()
        page.get_by_role("button", name="Take back: Tuning · Equal temperament, A4 = 432 Hz").click()
        page.get_by_role("button", name="Key, tempo and tuning").get_by_text("440 Hz").wait_for()


class OwnRecordingTest(VersionCase):
    """A take as it arrives: a room, hum and a second of nothing before it, placed on the timeline by its stamp."""

    def test_versions_of_an_imported_take_with_an_offset(self) -> None:
        rng = np.random.default_rng(7)
        voice = np.concatenate((np.zeros(RATE), sung_short()[1].audio))
        tail = rng.standard_normal(RATE // 3) * np.exp(-np.arange(RATE // 3) / (0.06 * RATE)) * 0.004
        tail[0] = 1.0
        room = np.convolve(voice, tail)[: len(voice)]
        room += 0.002 * np.sin(2 * np.pi * 50 * np.arange(len(room)) / RATE) + 1e-4 * rng.standard_normal(len(room))
        path = self.folder / "evening.wav"
        sf.write(str(path), 0.8 * room, RATE, subtype="PCM_24")
        page = self.page
        page.get_by_label("Title of the new song").fill("Own song")
        page.get_by_role("button", name="New song").click()
        card = page.get_by_role("region", name="Own song")
        card.locator("input[type=file]").set_input_files([path])
        card.get_by_role("row", name=re.compile(r"evening lead .* mono [1-9]")).wait_for()
        song = page.evaluate("async () => (await (await fetch('/api/v1/songs')).json()).songs.at(-1)")
        page.evaluate(
            "(id) => fetch(`/api/v1/tracks/${id}`, {method: 'PATCH', headers: {'Content-Type': 'application/json'},"
            " body: JSON.stringify({offset_s: 2.5})})",
            song["tracks"][0]["id"],
        )
        card.get_by_role("button", name="Open", exact=True).click()
        page.get_by_role("application").wait_for()
        while not (note := self.note()) or note["start_s"] < 1.2:  # the hum before the voice is taken for a note, too
            self.press("ArrowRight")
        self.press("t")
        at = self.around(note, 2.5)
        tuned, sung = (self.heard(kind, *at) for kind in ("tuned", "sung"))
        self.assertGreater(np.abs(tuned - sung).max(), 0.01)
        source = sf.read(str(path))[0][round((at[0] - 2.5) * RATE) :][: len(sung)]
        np.testing.assert_allclose(sung[600:-600], source[600:-600], atol=1e-4)
        self.press("v")
        page.get_by_label("Name of the new version").fill("Other")
        page.keyboard.press("Enter")
        self.version_is("Other")
        self.press("Escape", "Backspace", "2")
        np.testing.assert_allclose(self.heard("version", *at), tuned, atol=1e-5)
        np.testing.assert_allclose(self.heard("tuned", *at), sung, atol=1e-5)
        x = page.evaluate("(t) => window.glassThread.place(t, 60)[0]", note["start_s"])
        self.assertGreater(x, 58)  # the sheet shows it where it lies in the song


class FolderOfTheReleaseBeforeTest(BrowserCase):
    def test_it_opens_with_all_its_steps(self) -> None:
        folder = self.folder / "old"
        with tarfile.open(RELEASE / "data.tar.xz") as packed:
            packed.extractall(folder, filter="data")
        shutil.rmtree(folder / "data" / "prints")
        application = Hatched(folder / "data")
        application.start()
        self.addCleanup(application.kill)
        page = self.page
        page.goto(application.url)
        card = page.get_by_role("region", name="Kept song")
        card.get_by_role("button", name="Open", exact=True).click()
        page.get_by_role("application").wait_for()
        page.get_by_role("button", name="Steps", exact=True).click()
        page.get_by_role("button", name=re.compile(r"^9\s+Tune pass")).wait_for()
        self.assertEqual(page.locator("[aria-label=Steps] li[data-off]").count(), 3)
        redo = page.get_by_role("button", name="Redo")
        for _ in range(3):
            redo.click()
            page.evaluate("() => window.glassThread.settled()")
        page.locator("[aria-label=Steps] li[data-off]").first.wait_for(state="detached")
        expect(redo).to_be_disabled()
        self.quiet()
        page.goto(self.application.url)  # a page that is open listens for news, and would find nobody there
        page.get_by_role("region", name=TITLE).wait_for()
