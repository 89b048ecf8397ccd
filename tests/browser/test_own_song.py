"""The first minute with a recording of one's own: a real voice, brought in by a new user."""

import re

import mido
import numpy as np
import requests
from playwright.sync_api import APIResponse, Route

from glass_thread.api.app import PREFIX
from tests.application import until
from tests.browser.server import BrowserCase
from tests.signals import REAL_TAKE


class OwnSongTest(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        page = self.page
        name = f"Own {self.id().rsplit('_', 1)[-1]}"
        page.get_by_label("Title of the new song").fill(name)
        page.get_by_role("button", name="New song").click()
        card = page.get_by_role("region", name=name)
        card.locator("input[type=file]").set_input_files([REAL_TAKE])
        card.get_by_role("row", name=re.compile(r"lead .* mono [1-9]")).wait_for()
        card.get_by_role("button", name="Open", exact=True).click()
        page.get_by_role("application").wait_for()

    def inked(self, x0: float, x1: float) -> int:
        """Rows of the sheet's lowest layer, in the pitch lane, that a line crosses between two shares of its width."""
        return self.page.evaluate(
            """([a, b]) => {
              const grid = document.querySelector("canvas[role=application]").parentElement.querySelector("canvas");
              const c = grid.getContext("2d");
              const [w, h] = [grid.width, grid.height];
              const data = c.getImageData(Math.round(a * w), 0, Math.round((b - a) * w), Math.round(0.6 * h));
              let rows = 0;
              for (let y = 40; y < data.height; y++) {
                const first = data.data.slice(4 * y * data.width, 4 * y * data.width + 3).join();
                const above = data.data.slice(4 * (y - 1) * data.width, 4 * (y - 1) * data.width + 3).join();
                if (first !== above) rows += 1;
              }
              return rows;
            }""",
            [x0, x1],
        )

    def test_lines_at_once_and_the_key_in_one_press(self) -> None:
        page = self.page
        self.quiet()
        page.get_by_role("button", name="Key, tempo and tuning: no key yet").wait_for()
        semitones = self.inked(0.5, 0.6)
        self.assertGreater(semitones, 12)  # every semitone has its line
        offer = page.get_by_role("group", name="Key of the song")
        best = offer.get_by_role("button", name=re.compile(" %$")).first
        key = best.inner_text().split(" · ")[0]
        best.click()
        offer.wait_for(state="detached")
        page.get_by_role("button", name=f"Key, tempo and tuning: {key}").wait_for()
        self.quiet()
        self.assertLess(self.inked(0.5, 0.6), semitones)  # lines of the scale alone
        self.assertGreater(self.inked(0.5, 0.6), 4)
        page.reload()
        page.get_by_role("button", name=f"Key, tempo and tuning: {key}").wait_for()

    def test_an_edit_waits_for_what_another_key_makes_of_the_notes(self) -> None:
        """Else what came late, from before the edit, would stand in its place."""
        page = self.page
        late: list[tuple[Route, APIResponse]] = []
        sent: list[str] = []
        offer = page.get_by_role("group", name="Key of the song")
        offer.wait_for()
        self.quiet()
        notes = re.compile(r"/content\?")
        page.route(notes, lambda route: late.append((route, route.fetch())))
        page.route("**/edits", lambda route: (sent.append(route.request.url), route.continue_()))
        offer.get_by_role("button", name="No key", exact=True).click()
        until(lambda: page.title() and late, "the notes to be asked for")
        page.keyboard.press("n")
        page.keyboard.press("t")
        page.evaluate("() => fetch('/api/v1/songs')")
        self.assertEqual(sent, [])
        page.unroute(notes)
        route, answer = late[0]
        route.fulfill(response=answer)
        page.evaluate("() => window.glassThread.settled()")
        note = page.evaluate("() => window.glassThread.selected()[0]")
        self.assertEqual((note["gesture"]["pull"], len(sent)), (1, 1))
        page.unroute("**/edits")
        track = page.url.split("/track/")[1].split("?")[0]
        kept = requests.get(f"{self.application.url}{PREFIX}/tracks/{track}/content", timeout=60).json()
        self.assertEqual(next(one for one in kept["notes"] if one["id"] == note["id"])["gesture"], note["gesture"])

    def test_a_tempo_is_offered_tapped_and_read_from_a_midi_file(self) -> None:
        page = self.page
        page.get_by_role("group", name="Key of the song").get_by_role("button", name="No key", exact=True).click()
        offer = page.get_by_role("group", name="Tempo of the song")
        best = offer.get_by_role("button", name=re.compile("bpm · ")).first
        bpm = best.inner_text().split(" bpm")[0]
        best.click()
        offer.wait_for(state="detached")
        facts = page.get_by_role("button", name="Key, tempo and tuning")
        self.assertIn(f" {bpm[:-1]}", facts.inner_text())
        facts.click()
        tempo = page.get_by_label("Tempo in beats a minute")
        tap = page.get_by_role("button", name="Tap the beat")
        heard = tempo.input_value()
        for _ in range(5):
            tap.click(delay=100)
        page.wait_for_function("(was) => document.getElementById('song-tempo').value !== was", arg=heard)
        midi = mido.MidiFile()
        meter = mido.MetaMessage("time_signature", numerator=3, denominator=4)
        midi.tracks.append(mido.MidiTrack([mido.MetaMessage("set_tempo", tempo=mido.bpm2tempo(97)), meter]))
        midi.save(str(self.folder / "grid.mid"))
        page.get_by_role("dialog").locator("input[type=file]").set_input_files([self.folder / "grid.mid"])
        page.wait_for_function("() => document.getElementById('song-tempo').value === '97'")
        page.get_by_role("button", name="Save").click()
        facts.get_by_text("97 bpm · 3/4").wait_for()
        page.reload()
        facts.get_by_text("97 bpm · 3/4").wait_for()

    def test_what_could_not_be_heard_is_said_and_asked_for_anew(self) -> None:
        page = self.page
        missing = {"status": 404, "json": {"message": "The recording is not there."}}
        for what in ("keys", "tempo"):
            page.route(f"**/{what}", lambda route: route.fulfill(**missing))
        page.reload()
        page.get_by_text("The recording is not there.").wait_for()
        page.get_by_role("button", name="Key, tempo and tuning").click()
        window = page.get_by_role("dialog")
        window.get_by_text("could not be heard").nth(1).wait_for()
        self.assertEqual(window.get_by_text("listening…").count(), 0)
        page.unroute_all()
        window.get_by_role("button", name="Listen for the key again").click()
        window.get_by_role("button", name=re.compile(r" \d+ %$")).first.wait_for()
        window.get_by_role("button", name="Listen for the tempo again").click()
        window.get_by_role("button", name=re.compile(" bpm$")).first.wait_for()
        page.get_by_text("The recording is not there.").wait_for(state="detached")
        self.assertEqual(window.get_by_text("could not be heard").count(), 0)

    def test_no_key_is_an_answer_and_later_is_none(self) -> None:
        page = self.page
        offer = page.get_by_role("group", name="Key of the song")
        offer.get_by_role("button", name="Later").click()
        offer.wait_for(state="detached")
        page.reload()
        offer.get_by_role("button", name="No key", exact=True).click()
        offer.wait_for(state="detached")
        page.reload()
        page.get_by_role("button", name="Key, tempo and tuning: no key · ").wait_for()
        self.assertEqual(offer.count(), 0)

    def test_words_are_pasted_and_stay_when_notes_are_cut_again(self) -> None:
        page = self.page
        page.get_by_role("button", name="Words…").click()
        page.get_by_role("dialog", name="Words").get_by_role("textbox").fill("la la  la\ntoo much")
        page.get_by_text(re.compile(r"2 lines for \d phrase")).wait_for()
        page.get_by_role("button", name="Save").click()
        phrase = page.get_by_role("region", name="Phrases").get_by_text("la la la")
        phrase.wait_for()
        page.get_by_role("button", name="Cuts…").click()
        field = page.get_by_label("Notes (step)")
        field.fill("-20")
        field.press("Enter")
        page.get_by_role("button", name="Take it").click()
        page.locator("button[aria-label=Undo]:not([disabled])").wait_for()
        phrase.wait_for()
        self.quiet()
        page.reload()
        phrase.wait_for()

    def test_a_real_note_is_tuned_heard_undone_and_a_pitch_sounded(self) -> None:
        page = self.page
        page.get_by_role("application").focus()
        page.keyboard.press("n")
        note = page.evaluate("() => window.glassThread.selected()[0]")
        span = (max(0.0, note["start_s"] - 0.1), note["end_s"] + 0.1)
        sung = self.heard("sung", *span)
        page.keyboard.press("t")
        page.get_by_label("Pull (%)").and_(page.locator("[value='100 %']")).wait_for()
        self.assertGreater(np.abs(self.heard("tuned", *span) - sung).max(), 0.01)
        page.keyboard.press("g")
        page.evaluate("() => window.glassThread.settled()")
        page.keyboard.press("Control+z")
        page.get_by_label("Pull (%)").and_(page.locator("[value='0 %']")).wait_for()
        np.testing.assert_allclose(self.heard("tuned", *span), sung, atol=1e-6)
