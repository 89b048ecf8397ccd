"""The history of a song on the screen: its steps, tracks changed and removed, and two windows on one song."""

import re

from playwright.sync_api import Page, expect

from tests.browser.test_journeys_on_own import OwnRecording
from tests.browser.test_stack import StackCase

_NOTE = "window.glassThread.notes().find((n) => n.id === id)"


class SongStepsCase(StackCase):
    def steps(self, page: Page | None = None):
        return (page or self.page).get_by_role("list", name="Steps of the song").get_by_role("listitem")

    def take_back(self) -> None:
        self.page.get_by_role("button", name=re.compile("Take back: ")).press("Enter")
        self.page.get_by_text("Taken back: ").wait_for()
        self.quiet()

    def change_track(self, name: str) -> None:
        self.page.get_by_role("button", name=f"Name, role and place of {name}").click()


class SongStepsTest(SongStepsCase):
    def test_what_is_done_to_a_song_is_taken_back_step_by_step(self) -> None:
        page = self.page
        self.stack()
        page.get_by_role("button", name="Song's steps…").press("Enter")
        self.steps().first.wait_for()  # the demo's own: counted once they are there
        begun = self.steps().count()
        self.change_track("Double 1")
        page.get_by_label("Name", exact=True).fill("Low double")
        page.get_by_label("Begins at (s)").fill("0,25")
        page.get_by_role("button", name="Save").press("Enter")
        expect(self.steps()).to_have_count(begun + 1)
        self.assertEqual(self.names()[1], "Low double")
        self.choose("Lead", "Low double")
        page.get_by_role("button", name="Put back as sung").wait_for()
        page.get_by_role("button", name="Remove breaths").click()
        expect(self.steps().first).to_contain_text("Breaths · 2 tracks")
        self.change_track("Double 2")
        page.get_by_role("button", name="Remove from the song").press("Enter")
        expect(self.steps().first).to_contain_text("“Double 2” removed")
        self.assertEqual(len(self.names()), 3)
        for _ in range(3):
            self.take_back()
        self.assertEqual([name for name in self.names() if "ouble" in name], ["Double 1", "Double 2"])
        page.get_by_role("button", name=re.compile("Do again: ")).press("Enter")
        page.get_by_text("Done again: ").wait_for()
        self.assertEqual(self.names()[1], "Low double")

    def test_undo_in_the_stack_takes_the_songs_step_and_in_the_sheet_the_tracks(self) -> None:
        page = self.page
        self.press("n", "t")
        note = self.note()
        self.assertEqual(note["gesture"]["pull"], 1)
        self.stack()
        self.change_track("Lead")
        page.get_by_label("Name", exact=True).fill("Main voice")
        page.get_by_role("button", name="Save").press("Enter")
        page.get_by_role("button", name="Open Main voice").wait_for()
        page.get_by_role("button", name="Undo", exact=True).click()
        page.get_by_role("button", name="Open Lead").wait_for()
        page.get_by_role("group", name="View").get_by_role("button", name="Sheet").click()
        self.assertEqual(self.note()["gesture"]["pull"], 1)
        page.get_by_role("button", name="Undo", exact=True).click()
        self.until("n.gesture.pull === 0")


class RemovedTest(SongStepsCase):
    def begins_at(self) -> str:
        return ""

    def arrive(self) -> None:
        self.page.get_by_role("button", name="New song").wait_for()

    def test_removed_things_are_brought_back_or_swept(self) -> None:
        page = self.page
        page.get_by_role("button", name="Name, role and place of Double 2").click()
        page.get_by_role("button", name="Remove from the song").click()
        removed = page.get_by_role("region", name="Removed")
        removed.get_by_text("Removed: 1").click()
        page.get_by_role("row", name=re.compile("Double 2")).wait_for(state="detached")
        removed.get_by_role("button", name=re.compile("Bring “Double 2” of .* back")).click()
        page.get_by_role("row", name=re.compile("Double 2")).wait_for()
        removed.wait_for(state="detached")
        page.get_by_role("button", name="Name, role and place of Double 2").click()
        page.get_by_role("button", name="Remove from the song").click()
        removed.get_by_text("Removed: 1").click()
        removed.get_by_role("button", name="Sweep away…").click()
        removed.get_by_role("button", name="Sweep away for good").click()
        page.get_by_text(re.compile("Swept away: .* MB")).wait_for()
        removed.wait_for(state="detached")


class TwoWindowsTest(SongStepsCase):
    def other(self) -> Page:
        """A second window on the same track."""
        other = self.page.context.new_page()
        self.addCleanup(other.close)
        other.goto(self.page.url)
        other.get_by_role("application").wait_for()
        other.wait_for_function("() => window.glassThread.count() > 0")
        return other

    def test_a_step_reaches_the_other_window(self) -> None:
        other = self.other()
        self.press("n", "t")
        note = self.note()
        other.wait_for_function(f"(id) => {_NOTE}.gesture.pull === 1", arg=note["id"])
        self.stack()
        self.change_track("Double 1")
        self.page.get_by_label("Name", exact=True).fill("Elsewhere")
        self.page.get_by_role("button", name="Save").press("Enter")
        other.wait_for_function("() => window.glassThread.song().tracks.some((track) => track.name === 'Elsewhere')")

    def test_a_track_that_is_removed_elsewhere_is_left(self) -> None:
        self.open_track("Double 2")
        other = self.other()
        self.stack()
        self.change_track("Double 2")
        self.page.get_by_role("button", name="Remove from the song").press("Enter")
        for page in (self.page, other):
            page.get_by_text("The track that was open is removed").wait_for()
            page.get_by_role("button", name="Lead Track").wait_for()

    def test_what_was_refused_is_kept_and_can_be_done_again(self) -> None:
        """The other window does not hear of the step, as one whose news are late."""
        other = self.page.context.new_page()
        self.addCleanup(other.close)
        other.route("**/news", lambda route: route.fulfill(status=204))
        other.goto(self.page.url)
        other.get_by_role("application").wait_for()
        other.wait_for_function("() => window.glassThread.count() > 0")
        self.press("n", "t")
        note = self.note()
        for key in ("n", "Shift+ArrowUp"):
            other.keyboard.press(key)
        other.get_by_text(re.compile("was done elsewhere meanwhile")).wait_for()
        self.until("n.gesture.pull === 1")
        other.get_by_role("button", name="Do it again").click()
        raised = f"([id, was]) => Math.abs({_NOTE}.target_midi - was - 0.01) < 1e-6"
        other.wait_for_function(raised, arg=[note["id"], note["target_midi"]])

    def test_what_is_done_to_different_notes_meets_in_both(self) -> None:
        other = self.other()
        ids = [note["id"] for note in self.notes()][:2]
        for page, times in ((self.page, 1), (other, 2)):
            page.locator("canvas[role=application]").focus()
            for key in (*["ArrowRight"] * times, "t"):
                page.keyboard.press(key)
        for page in (self.page, other):
            for name in ids:
                page.wait_for_function(f"(id) => {_NOTE}.gesture.pull === 1", arg=name)


class OwnTwoWindowsTest(OwnRecording, TwoWindowsTest):
    """The same on an imported take with a room and hum."""

    test_a_step_reaches_the_other_window = None  # it has no doubles
    test_a_track_that_is_removed_elsewhere_is_left = None
