"""Follow in the real interface, by pointer and keyboard: a double comes to its lead, and catches up with it later."""

import re

from playwright.sync_api import expect

from tests.browser.test_comp import CompCase
from tests.browser.test_journeys_on_own import OwnRecording
from tests.signals import REAL_TAKE


class FollowCase(CompCase):
    def open_track(self, name: str) -> None:
        """Open another track of the song by its name."""
        page = self.page
        page.get_by_role("button", name=re.compile("Track$")).first.click()
        page.get_by_role("option", name=name).click()
        # The picker alone: with its list, the bar has every track's name in it.
        expect(page.get_by_role("button", name=re.compile("Track$")).first).to_contain_text(name)
        self.quiet()
        page.get_by_role("application").wait_for()

    def follow_window(self):
        return self.page.get_by_role("dialog", name="Follow")

    def set_value(self, label: str, value: str) -> None:
        field = self.follow_window().get_by_label(label, exact=True)
        field.fill(value)
        field.press("Enter")
        self.quiet()


class PointerTest(FollowCase):
    def test_a_double_follows_and_catches_up(self) -> None:
        page = self.page
        lead_id = page.url.split("/track/")[1].split("?")[0]
        self.open_track("Double 1")
        sung = [note["start_s"] for note in self.notes()]
        self.choose_from("Voices", "Follow another track… (Y)")
        window = self.follow_window()
        window.get_by_role("button", name="Tightest").click()
        self.set_value("Pitch (%)", "100")
        window.get_by_text(re.compile(r"\d+ notes follow")).wait_for()
        window.get_by_text("notes in the lead").wait_for()  # the double sings four of its nine phrases
        self.take()
        notes = self.notes()
        self.assertTrue(any(abs(note["gesture"]["start_shift_ms"]) > 15 for note in notes))
        self.assertEqual([note["start_s"] for note in notes], sung)
        self.assertGreater(self.differs("tuned", "sung", notes[0]["start_s"], notes[0]["end_s"]), 0.01)
        self.change_lead(lead_id)
        page.reload()
        bar = page.get_by_role("group", name="Behind its lead")
        bar.get_by_text("Behind Lead").wait_for()
        before = self.notes()[0]["tuned_midi"]
        bar.get_by_role("button", name="Catch up").click()
        bar.wait_for(state="detached")
        self.assertAlmostEqual(self.notes()[0]["tuned_midi"] - before, 0.4, delta=0.03)
        page.get_by_role("button", name="Undo").click()
        self.settle()
        self.assertAlmostEqual(self.notes()[0]["tuned_midi"], before, delta=0.001)

    def test_a_window_that_is_open_goes_along_to_another_track(self) -> None:
        self.open_track("Double 1")
        self.choose_from("Voices", "Follow another track… (Y)")
        window = self.follow_window()
        leader = window.get_by_role("button", name=re.compile("Lead$")).first
        expect(leader).to_contain_text("Lead")
        self.open_track("Lead")
        expect(leader).to_contain_text("Double 1")  # a track does not follow itself

    def change_lead(self, lead_id: str) -> None:
        """The lead's note that the double sings first goes up by 40 cents."""
        page = self.page
        first = self.notes()[0]["start_s"]
        base = self.application.url + "/api/v1/tracks/" + lead_id
        content = page.request.get(f"{base}/content").json()
        note = min(content["notes"], key=lambda one: abs(one["start_s"] - first))
        tuned = {"type": "set", "note_ids": [note["id"]],
                 "values": {"target_midi": note["centre_midi"] + 0.4, "pull": 1.0}}  # fmt: skip
        edit = {"base": content["step_id"], "version_id": content["version"]["id"], "operation": tuned}
        headers = {"Origin": self.application.url}
        self.assertEqual(page.request.post(f"{base}/edits", data=edit, headers=headers).status, 200)


class KeyboardTest(FollowCase):
    def test_without_a_pointer_and_let_go(self) -> None:
        page = self.page
        self.open_track("Double 2")
        self.canvas().focus()
        self.press("y")
        window = self.follow_window()
        window.get_by_role("button", name="Loose").press("Enter")
        window.get_by_text(re.compile(r"\d+ notes follow")).wait_for()
        self.wait_for_take()
        page.get_by_role("button", name="Take it").press("Enter")
        window.wait_for(state="detached")
        self.settle()
        shifts = [note["gesture"]["start_shift_ms"] for note in self.notes()]
        self.assertTrue(any(shifts))
        self.press("y")
        window.get_by_role("button", name="No longer follow Lead").press("Enter")
        window.get_by_role("button", name="No longer follow Lead").wait_for(state="detached")
        self.settle()
        page.keyboard.press("Escape")
        self.assertEqual([note["gesture"]["start_shift_ms"] for note in self.notes()], shifts)
        self.press("Control+z", "Control+z")
        self.assertFalse(any(note["gesture"]["start_shift_ms"] for note in self.notes()))


class OwnFollowTest(OwnRecording, FollowCase):
    def test_a_song_with_one_vocal_says_what_is_missing(self) -> None:
        self.assertTrue(REAL_TAKE.is_file())
        self.canvas().focus()
        self.press("y")
        self.follow_window().get_by_text("There is no other vocal").wait_for()
        self.press("Escape")
