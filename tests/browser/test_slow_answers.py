"""A day's work while every second answer takes 300 ms longer, so that answers overtake each other."""

import re

from playwright.sync_api import expect

from tests.browser.test_follow import FollowCase
from tests.browser.test_journeys_on_own import OwnRecording
from tests.browser.test_loop import Heard
from tests.browser.test_words import WordsCase

_SLOWED = """() => {
  window.plainFetch ??= window.fetch;
  let turn = 0;
  window.fetch = async (...asked) => {
    const answer = await window.plainFetch(...asked);
    if (turn++ % 2 === 0) await new Promise((done) => setTimeout(done, 300));
    return answer;
  };
}"""


class Slow(Heard):
    hears_presses = False

    def arrive(self) -> None:
        super().arrive()
        self.page.evaluate(_SLOWED)

    def _leave(self) -> None:
        self.page.evaluate("() => { window.fetch = window.plainFetch ?? window.fetch; }")
        super()._leave()

    def press(self, *keys: str) -> None:
        """Keys as fast as they come, without waiting for an answer."""
        for key in keys:
            self.page.keyboard.press(key)

    def first(self) -> dict:
        self.canvas().focus()
        self.press("ArrowRight")
        return self.note()

    def undone(self) -> None:
        self.page.get_by_role("button", name="Undo").wait_for()
        self.settle()


class EditTest(Slow, FollowCase):
    def test_steps_asked_for_at_once_come_in_their_order(self) -> None:
        note = self.first()
        self.press("t", "Control+z", "Control+Shift+z", "Shift+ArrowUp", "Shift+ArrowUp", "Shift+ArrowUp")
        self.settle()
        self.until(f"Math.abs(n.target_midi - {note['target_midi']} - 0.03) < 1e-6 && n.gesture.pull === 1")
        self.press(*["Control+z"] * 4)
        self.settle()
        self.until("!n.edited")

    def test_a_track_that_is_left_at_once_gets_its_edit_and_the_next_one_none(self) -> None:
        note = self.first()
        self.press("t")
        self.open_track("Double 1")
        self.assertFalse(any(one["edited"] for one in self.notes()))
        self.press("Shift+ArrowUp")  # nothing is chosen here yet
        self.open_track("Lead")
        tuned = next(one for one in self.notes() if one["id"] == note["id"])
        self.assertEqual(tuned["gesture"]["pull"], 1)
        self.assertEqual(len([one for one in self.notes() if one["edited"]]), 1)

    def test_a_song_that_is_left_at_once_has_the_edit_when_it_is_opened_again(self) -> None:
        note = self.first()
        self.press("t")
        self.page.get_by_role("button", name="‹ Songs").click()
        self.page.get_by_role("button", name="Open", exact=True).first.click()
        self.canvas().wait_for()
        self.quiet()
        tuned = next(one for one in self.notes() if one["id"] == note["id"])
        self.assertEqual(tuned["gesture"]["pull"], 1)

    def test_a_reload_right_after_the_answer_shows_what_was_done(self) -> None:
        note = self.first()
        self.press("t", ",", ",")
        self.settle()
        self.page.reload()
        self.canvas().wait_for()
        self.quiet()
        after = next(one for one in self.notes() if one["id"] == note["id"])
        self.assertEqual((after["gesture"]["pull"], after["gesture"]["level_db"]), (1, -2))

    def test_a_held_key_between_others_is_one_step(self) -> None:
        self.first()
        self.press("t")
        for _ in range(12):
            self.page.keyboard.down(",")
        self.page.keyboard.up(",")
        self.press("Shift+ArrowUp")
        self.settle()
        self.until("n.gesture.level_db === -12 && n.gesture.pull === 1")
        self.press("Control+z", "Control+z")
        self.settle()
        self.until("n.gesture.level_db === 0 && n.gesture.pull === 1")

    def test_a_version_is_made_right_after_an_edit_and_holds_it(self) -> None:
        self.first()
        self.press("t")
        self.page.get_by_role("button", name="Versions…").click()
        name = self.page.get_by_label("Name of the new version")
        name.fill("Second")
        name.press("Enter")
        self.page.get_by_text("“Second” is made").wait_for()
        self.settle()
        self.until("n.gesture.pull === 1")

    def test_a_key_pressed_twice_at_once_does_and_takes_back(self) -> None:
        self.first()
        self.press("t", "t", "T", "T")
        self.settle()
        self.until("n.gesture.pull === 0 && !n.leave_as_sung")
        self.press("T", "T", "t", "t", "t")
        self.settle()
        self.until("n.gesture.pull === 1 && !n.leave_as_sung")


class SaidTest(Slow, WordsCase):
    def test_keys_on_words_go_on_from_each_other(self) -> None:
        before = self.laid()
        notes = [note for _text, note in before[:5]]
        self.choose(2)
        self.press("W", "W")
        self.settle()
        self.assertEqual(self.laid(), before)
        self.press("}", "}")
        self.settle()
        self.assertEqual(self.laid()[1], (before[1][0], notes[3]))

    def test_undo_takes_back_what_was_done_last_whatever_it_was(self) -> None:
        before, notes = self.laid(), self.notes()
        self.choose(2)
        self.press("t", "}", "Control+z", "Control+z")
        self.settle()
        self.assertEqual(self.laid(), before)
        self.assertEqual(self.notes(), notes)


class TriedTest(Slow, OwnRecording):
    def window(self, button: str, title: str):
        self.page.get_by_role("button", name=button).click()
        return self.page.get_by_role("dialog", name=title)

    def nothing_is_tried(self) -> None:
        self.quiet()
        self.assertEqual(self.page.get_by_text("Preview: nothing is changed yet.").count(), 0)
        self.assertFalse(any(note["edited"] for note in self.notes()))

    def test_a_window_that_is_closed_while_it_tries_leaves_nothing(self) -> None:
        self.press("Control+a")
        self.window("Tune pass…", "Tune pass")
        self.press("Escape")
        self.nothing_is_tried()

    def test_the_last_of_several_values_is_what_is_tried_and_taken(self) -> None:
        self.press("Control+a")
        window = self.window("Tune pass…", "Tune pass")
        for pull in ("30", "90", "60"):
            field = window.get_by_label("Pull (%)", exact=True)
            field.fill(pull)
            field.press("Enter")
        window.get_by_text(re.compile(r"\d\d notes change")).wait_for()
        window.get_by_role("button", name="Take it").click()
        window.wait_for(state="detached")
        self.settle()
        pulls = {note["gesture"]["pull"] for note in self.notes() if note["gesture"]["pull"] > 0}
        self.assertEqual(pulls, {0.6})

    def test_a_proposed_cut_is_left_with_the_note(self) -> None:
        self.canvas().focus()
        self.press("ArrowRight", "x", "Escape", "ArrowRight", "t")
        self.settle()
        self.until("n.gesture.pull === 1")
        self.quiet()
        self.assertEqual(len([note for note in self.notes() if note["edited"]]), 1)

    def test_a_cut_right_after_an_edit_keeps_it(self) -> None:
        count = len(self.notes())
        self.canvas().focus()
        self.press("ArrowRight", "t")
        self.settle()
        self.press("x")
        self.page.get_by_text(re.compile("X or click")).or_(self.page.get_by_text("Split")).first.wait_for()
        self.quiet()
        self.press("x")
        self.page.wait_for_function(f"() => window.glassThread.notes().length === {count + 1}")
        self.settle()
        self.assertEqual({note["gesture"]["pull"] for note in self.notes()[:2]}, {1})


class PlayTest(Slow):
    def phrase(self, number: int):
        return self.page.get_by_role("button", name=re.compile(rf"^{number} · bar "))

    def test_play_and_stop_at_once_stays_stopped(self) -> None:
        self.canvas().focus()
        self.press(" ", " ")
        self.quiet()
        self.sounds("at === null")
        expect(self.page.get_by_role("button", name="Play", exact=True)).to_be_visible()

    def test_the_phrase_that_was_pressed_last_is_what_sounds(self) -> None:
        self.canvas().focus()
        notes = self.notes()
        for number in (2, 8, 5):
            self.phrase(number).click()
            self.press(" ")
        wanted = [note for note in notes if note["phrase"] == 4]
        if self.page.get_by_role("button", name="Play", exact=True).count():
            self.press(" ")
        self.sounds(f"at !== null && at > {wanted[0]['start_s'] - 1.5} && at < {wanted[-1]['end_s'] + 1}")
        self.press(" ")
        self.sounds("at === null")

    def test_an_edit_while_it_plays_is_heard_and_what_plays_goes_on(self) -> None:
        self.first()
        self.press(" ")
        self.sounds("at !== null")
        self.press("t", "Shift+ArrowUp")
        self.settle()
        self.until("n.gesture.pull === 1")
        self.sounds("at !== null")
        self.press(" ")
        self.sounds("at === null")
