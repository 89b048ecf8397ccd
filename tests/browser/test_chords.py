"""Chords of the backing under the ruler, and how a note sits on them."""

from tests.browser.test_air import AirCase


class ChordTest(AirCase):
    def test_chords_are_shown_and_a_note_says_how_it_sits_on_one(self) -> None:
        page = self.page
        page.get_by_text("Your own settings").click()
        with page.expect_response("**/chords") as answer:
            page.get_by_text("Chords of the backing").click()
        found = answer.value.json()
        self.assertEqual([one["title"] for one in found["chords"]][:4], ["Dm", "B♭", "F", "C"])
        self.assertEqual(found["heard_in"], "Backing")
        facts = page.get_by_role("region", name="Inspector")
        self.canvas().focus()
        seen = []
        for _ in range(5):
            self.press("ArrowRight")
            seen.append(facts.locator("dt:text-is('On the chord') + dd").inner_text())
        self.assertEqual(seen, ["B♭, third", "B♭, fifth", "B♭, clash", "B♭, third", "B♭, clash"])
        page.get_by_text("Your own settings").scroll_into_view_if_needed()
