"""The job from end to end, as a new user would do it."""

import re
import shutil

import numpy as np
import soundfile as sf
from playwright.sync_api import APIResponse, Route, expect

from glass_thread.demo.build import FOLDER, SAMPLE_RATE
from glass_thread.demo.song import TITLE
from tests.application import until
from tests.browser.server import BrowserCase
from tests.signals import write_short

PULLED = '[role="gridcell"][aria-colindex="6"]:text-is("100 %")'


class FirstSliceTest(BrowserCase):
    def test_find_the_flattest_note_tune_hear_undo_reload_print(self) -> None:
        page = self.page
        self.open_lead()
        page.get_by_role("button", name="Notes", exact=True).click()
        page.get_by_role("columnheader", name="Off (ct)", exact=True).click()
        first = page.locator('[role="row"][aria-rowindex="2"]')
        first.click()
        self.assertRegex(first.inner_text(), r"\d\d cents (flat|sharp)")
        start = float(re.search(r"\((\d+\.\d+) s\)", first.inner_text()).group(1))
        before = self.heard("tuned", start - 0.2, start + 0.6)
        page.keyboard.press("t")
        page.locator(PULLED).first.wait_for()
        after = self.heard("tuned", start - 0.2, start + 0.6)
        sung = self.heard("sung", start - 0.2, start + 0.6)
        np.testing.assert_allclose(before, sung, atol=1e-6)
        self.assertGreater(np.abs(after - sung).max(), 0.05)
        quiet = int(0.1 * SAMPLE_RATE)
        np.testing.assert_allclose(after[500:quiet], sung[500:quiet], atol=1e-6)
        jump = np.abs(np.diff(after)).max()
        self.assertLess(jump, 1.3 * np.abs(np.diff(sung)).max())

        page.get_by_role("button", name="Undo").click()
        page.locator(PULLED).first.wait_for(state="detached")
        np.testing.assert_allclose(self.heard("tuned", start - 0.2, start + 0.6), sung, atol=1e-6)
        page.get_by_role("button", name="Redo").click()
        page.locator(PULLED).first.wait_for()

        self.quiet()
        page.reload()
        page.get_by_role("columnheader", name="Pull").click()  # the most first; rows out of sight are not on the page
        page.locator(PULLED).first.wait_for()
        page.get_by_role("button", name="Steps", exact=True).click()
        page.get_by_text(re.compile(r"^1\s+Tune to")).wait_for()
        at = page.url
        page.goto("about:blank")  # a page that is open asks for sound ahead, and would find nobody there
        self.application.kill()
        self.application.start()
        page.goto(at)
        page.get_by_role("columnheader", name="Pull").click()
        page.locator(PULLED).first.wait_for()

        page.get_by_role("button", name="Print…").click()
        page.get_by_text(re.compile(r"9\d\.\d\d % of samples")).wait_for()
        page.get_by_role("button", name="Print", exact=True).click()
        with page.expect_download() as download:
            page.get_by_role("link", name=re.compile("Save")).click()
        printed, rate = sf.read(download.value.path(), dtype="int16")
        source, _ = sf.read(str(FOLDER / "lead.flac"), dtype="int16")
        self.assertEqual((rate, len(printed)), (SAMPLE_RATE, len(source)))
        changed = np.flatnonzero(printed != source) / rate
        self.assertGreater(changed.min(), start - 1.5)
        self.assertLess(changed.max(), start + 2.5)
        page.get_by_role("dialog").get_by_role("button", name="Close").click()
        page.get_by_role("button", name="Undo").click()
        page.locator(PULLED).first.wait_for(state="detached")


class SheetTest(BrowserCase):
    def canvas(self):
        return self.page.get_by_role("application")

    def test_keys_select_move_and_put_back(self) -> None:
        page = self.page
        self.open_lead()
        page.keyboard.press("n")
        self.assertIn("flat", self.canvas().get_attribute("aria-label"))
        heading = page.locator("section[aria-label=Inspector] strong")
        page.keyboard.press("ArrowUp")
        page.get_by_text("Target", exact=True).wait_for()
        page.locator("strong", has_text=re.compile(r"F4$")).wait_for()
        page.keyboard.press("Shift+ArrowUp")
        page.locator("strong", has_text="F4 +1").wait_for()
        page.keyboard.press("Control+ArrowDown")
        page.locator("strong", has_text="F3 +1").wait_for()
        page.keyboard.press("Control+ArrowUp")
        page.locator("strong", has_text="F4 +1").wait_for()
        page.keyboard.press("Backspace")
        page.locator("strong", has_text="F4 −40").wait_for()
        self.assertEqual(heading.count(), 1)

    def test_typed_target_and_nonsense(self) -> None:
        page = self.page
        self.open_lead()
        page.keyboard.press("n")
        field = page.get_by_label("Target", exact=True)
        field.fill("F#4 +8")
        field.press("Enter")
        page.locator("strong", has_text="G♭4 +8").wait_for()
        field.fill("somewhere")
        field.press("Enter")
        page.get_by_text("“somewhere” is not a pitch").wait_for()
        page.locator("strong", has_text="G♭4 +8").wait_for()
        page.get_by_role("button", name="Undo").click()
        page.locator("strong", has_text="F4 −40").wait_for()

    def test_dragging_a_note_and_escape(self) -> None:
        page = self.page
        self.open_lead()
        page.keyboard.press("n")
        self.quiet()
        box = self.canvas().bounding_box()
        place = page.evaluate("() => location.hash")
        self.assertIn("#/song/", place)
        # The chosen note lies where its frame is drawn: find it by the cursor the sheet shows over it.
        x = box["x"] + box["width"] * 0.39
        y = next(
            box["y"] + dy
            for dy in range(60, 500, 6)
            if not page.mouse.move(x, box["y"] + dy) and self.canvas().evaluate("e => e.style.cursor") == "ns-resize"
        )
        page.mouse.down()
        page.mouse.move(x, y - 80, steps=4)
        page.keyboard.press("Escape")
        page.mouse.up()
        self.assertTrue(page.get_by_role("button", name="Undo").is_disabled())
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x, y - 80, steps=6)
        page.mouse.up()
        page.get_by_role("button", name="Undo").click()
        page.wait_for_function("() => document.querySelector('[aria-label=Undo]').hasAttribute('disabled')")

    def test_the_view_survives_a_reload(self) -> None:
        self.open_lead()
        self.page.keyboard.press("+")
        self.page.keyboard.press("PageDown")
        self.page.keyboard.press("n")
        self.quiet()
        before = self.page.evaluate("() => location.hash")
        self.page.reload()
        self.canvas().wait_for()
        self.quiet()
        self.assertEqual(self.page.evaluate("() => location.hash"), before)
        self.assertIn("notes=", before)

    def test_another_song_begins_at_its_beginning(self) -> None:
        page = self.page
        self.open_lead()
        box = self.canvas().bounding_box()
        page.mouse.click(box["x"] + box["width"] / 2, box["y"] + 5)
        expect(page.get_by_text("0:00.00")).to_have_count(0)
        page.get_by_role("button", name="‹ Songs").click()
        self.open_lead()
        expect(page.get_by_text("0:00.00")).to_be_visible()

    def test_playing_moves_on_and_an_edit_meanwhile_is_no_trouble(self) -> None:
        page = self.page
        self.open_lead()
        page.keyboard.press("n")
        page.get_by_role("button", name="Hear selection").click()
        page.get_by_role("button", name="Stop").wait_for()
        self.quiet()
        page.keyboard.press("t")
        self.quiet()
        page.get_by_role("button", name="As sung", exact=True).click()
        self.quiet()
        page.get_by_role("button", name="Tuned", exact=True).click()
        page.get_by_role("button", name="Play", exact=True).wait_for()  # it ends by itself
        self.assertEqual(page.get_by_role("status").inner_text(), "")
        page.get_by_role("button", name="Undo").click()

    def test_what_plays_goes_on_with_another_track(self) -> None:
        page = self.page
        self.open_lead()
        tracks = {track["name"]: track["id"] for track in self.known_song()["tracks"]}
        page.get_by_role("checkbox", name="Backing").uncheck(force=True)
        page.get_by_role("button", name="Play", exact=True).click()
        page.get_by_role("button", name="Stop").wait_for()
        self.assertEqual(page.evaluate("() => window.glassThread.sounding()"), [tracks["Lead"]])
        self.pick("Track", "Double 1")
        page.wait_for_function("(id) => window.glassThread.sounding().join() === id", arg=tracks["Double 1"])
        page.get_by_role("button", name="Stop").click()

    def test_a_change_while_playing_has_no_gap_and_no_click(self) -> None:
        page = self.page
        self.open_lead()
        page.keyboard.press("n")
        page.keyboard.press("t")
        page.locator("strong", has_text=re.compile(r"F4$")).wait_for()
        at = 3.8  # inside the tuned note
        heard = self.samples(
            "([a, b, c]) => window.glassThread.heard('sung', a, b, {kind: 'tuned', at_s: c})", [3.0, 4.6, at]
        )
        sung, tuned = (self.heard(kind, 3.0, 4.6) for kind in ("sung", "tuned"))
        cut = int((at - 3.0) * SAMPLE_RATE)
        blend = int(0.009 * SAMPLE_RATE)
        np.testing.assert_allclose(heard[500:cut], sung[500:cut], atol=1e-5)
        np.testing.assert_allclose(heard[cut + blend :], tuned[cut + blend :], atol=1e-5)
        self.assertGreater(np.abs(heard[cut : cut + blend]).max(), 0.02)
        self.assertLess(np.abs(np.diff(heard)).max(), 1.2 * np.abs(np.diff(sung)).max())
        page.get_by_role("button", name="Undo").click()
        page.locator("strong", has_text="F4 −40").wait_for()

    def test_key_tempo_and_reference(self) -> None:
        page = self.page
        self.open_lead()
        page.get_by_role("button", name="Key, tempo and tuning").click()
        place = page.get_by_role("button", name="Save").bounding_box()
        page.get_by_text("Backing, 80 % sure").wait_for()
        page.get_by_label("Reference A4 in Hz").fill("900")
        page.get_by_role("button", name="Save").click()
        page.get_by_role("alert").get_by_text("between 380 and 500 Hz").wait_for()
        page.get_by_label("Reference A4 in Hz").fill("442")
        page.get_by_text("get another target").wait_for()
        self.assertEqual(page.get_by_role("button", name="Save").bounding_box(), place)  # a press meets it at any time
        page.get_by_role("button", name="Save").click()
        page.get_by_role("button", name="Key, tempo and tuning").get_by_text("442 Hz").wait_for()
        page.get_by_role("button", name="Key, tempo and tuning").click()
        page.get_by_label("Reference A4 in Hz").fill("440")
        page.get_by_role("button", name="Save").click()
        page.get_by_role("button", name="Key, tempo and tuning").get_by_text("440 Hz").wait_for()


class SongsScreenTest(BrowserCase):
    def test_bring_in_several_and_a_bad_one(self) -> None:
        page = self.page
        page.get_by_label("Title of the new song").fill("Mine")
        page.get_by_role("button", name="New song").click()
        card = page.get_by_role("region", name="Mine")
        take = write_short(self.folder, "my take.wav", "PCM_24")
        shutil.copy(FOLDER / "double-1.flac", self.folder / "second.flac")
        (self.folder / "notes.wav").write_text("not sound")
        card.locator("input[type=file]").set_input_files([take, self.folder / "second.flac", self.folder / "notes.wav"])
        page.get_by_text("notes.wav: This file is not audio we can read").wait_for()
        card.get_by_role("row", name=re.compile(r"my take lead 0:04\.2 44\.1 kHz mono 4")).wait_for()
        card.get_by_role("row", name=re.compile(r"second double 1:00\.0 44\.1 kHz mono 2\d")).wait_for()
        card.locator("input[type=file]").set_input_files([take])
        page.get_by_text("already in the song").wait_for()
        card.get_by_role("button", name="Remove…").click()
        card.get_by_role("button", name="Remove the song").click()
        card.wait_for(state="detached")

    def test_a_list_that_comes_late_does_not_hide_a_new_song(self) -> None:
        page = self.page
        late: list[tuple[Route, APIResponse]] = []
        lists: list[Route] = []

        def keep_the_first(route: Route) -> None:
            if route.request.method == "GET":
                lists.append(route)  # before it is fetched: others may come meanwhile, and are not kept
            if lists[:1] == [route]:
                late.append((route, route.fetch()))
            else:
                route.continue_()

        self.quiet()  # no list of before the reload is on its way
        page.route(re.compile(r"/songs$"), keep_the_first)
        page.reload()
        until(lambda: page.title() and late, "the list to be asked for")
        page.get_by_label("Title of the new song").fill("Made meanwhile")
        page.get_by_role("button", name="New song").click()
        card = page.get_by_role("region", name="Made meanwhile")
        card.wait_for()
        route, answer = late[0]
        route.fulfill(response=answer)
        self.quiet()
        self.assertEqual(card.count(), 1)

    def test_songs_are_searched_and_a_track_is_opened_by_its_name(self) -> None:
        page = self.page
        names = ["Ash", "Birch", "Cedar", "Dogwood"]
        for name in names:
            page.get_by_label("Title of the new song").fill(name)
            page.get_by_role("button", name="New song").click()
            page.get_by_role("region", name=name).wait_for()
        search = page.get_by_label("Search songs and tracks")
        search.fill("double 1")
        page.get_by_role("region", name="Birch").wait_for(state="detached")
        self.assertEqual(page.get_by_role("region").count(), 1)  # the demo, by one of its tracks
        search.fill("nowhere")
        page.get_by_text("No song or track is called “nowhere”.").wait_for()
        search.fill("")
        for name in names:
            card = page.get_by_role("region", name=name)
            card.get_by_role("button", name="Remove…").click()
            card.get_by_role("button", name="Remove the song").click()
            card.wait_for(state="detached")
        page.get_by_text(re.compile(r"Removed: \d+")).wait_for()
        page.get_by_role("row", name=re.compile("^Double 2")).click()
        page.get_by_role("application").wait_for()
        page.get_by_role("button", name="Double 2 Track").wait_for()

    def rows(self) -> list[str]:
        """Names of the demo's tracks from above."""
        return self.page.get_by_role("grid", name=f"Tracks of {TITLE}").locator("td.name").all_inner_texts()

    def test_tracks_are_put_in_order_and_say_how_far_they_are(self) -> None:
        page = self.page
        lead = page.get_by_role("row", name=re.compile("^Lead lead"))
        lead.get_by_text(re.compile(r"⚑ \d+")).wait_for()
        lead.get_by_text("0 %").wait_for()
        sound = lead.locator("canvas").evaluate(
            """(c) => c.getContext("2d").getImageData(0, 0, c.width, c.height).data
              .filter((v, i) => i % 4 === 3 && v).length"""
        )
        self.assertGreater(sound, 500)  # the outline is drawn
        self.quiet()
        before = self.rows()
        lead.focus()
        page.keyboard.press("ArrowRight")  # from the row to its handle
        page.wait_for_function("() => document.activeElement.getAttribute('aria-label') === 'Move Lead'")
        page.keyboard.press("Enter")
        for place in ("Lead and Double 1", "Double 1 and Double 2", "Double 2 and Backing"):
            page.wait_for_function(
                "(name) => document.activeElement.getAttribute('aria-label') === name", arg=f"Insert between {place}"
            )
            page.keyboard.press("ArrowDown")
        page.keyboard.press("Enter")
        until(lambda: self.rows() not in ([], before), "another order")
        moved = self.rows()
        self.assertEqual(sorted(moved), sorted(before))
        self.quiet()
        page.reload()
        lead.wait_for()
        self.assertEqual(self.rows(), moved)
        lead.press("Enter")
        page.get_by_role("application").wait_for()
        page.get_by_role("checkbox", name="Phrase 1 done").press(" ")
        self.quiet()
        page.get_by_role("button", name="‹ Songs").click()
        lead.get_by_text(re.compile(r"^[1-9]\d? %$")).wait_for()

    def test_a_cut_off_file_is_brought_in_as_far_as_it_goes_when_wished(self) -> None:
        page = self.page
        page.get_by_label("Title of the new song").fill("Cut")
        page.get_by_role("button", name="New song").click()
        card = page.get_by_role("region", name="Cut")
        whole = write_short(self.folder, "whole.wav").read_bytes()
        for name, answer in (("left.wav", "Leave it"), ("taken.wav", "Bring in as far as it goes")):
            (self.folder / name).write_bytes(whole[: len(whole) // 2])
            card.locator("input[type=file]").set_input_files([self.folder / name])
            card.get_by_text(f"{name} is cut off: it promises more sound than it holds.").wait_for()
            card.get_by_role("button", name=answer).click()
            card.get_by_text("is cut off").wait_for(state="detached")
        card.get_by_role("row", name=re.compile(r"taken lead 0:02\.1 44\.1 kHz mono [1-3]")).wait_for()
        self.assertEqual(card.get_by_role("row", name=re.compile("left")).count(), 0)
        card.get_by_role("button", name="Remove…").click()
        card.get_by_role("button", name="Remove the song").click()
        card.wait_for(state="detached")

    def test_dropping_a_recording_on_the_page_makes_a_song(self) -> None:
        import base64

        page = self.page
        data = base64.b64encode(write_short(self.folder, "dropped.wav").read_bytes()).decode()
        page.get_by_role("button", name="New song").wait_for()
        page.evaluate(
            """(text) => {
              const bytes = Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
              const carried = new DataTransfer();
              carried.items.add(new File([bytes], "Evening take.wav", { type: "audio/wav" }));
              const drop = new DragEvent("drop", { dataTransfer: carried, bubbles: true, cancelable: true });
              document.querySelector("main").dispatchEvent(drop);
            }""",
            data,
        )
        card = page.get_by_role("region", name="Evening take")
        card.get_by_role("row", name=re.compile(r"Evening take lead 0:04\.2 44\.1 kHz mono 4")).wait_for()
        card.get_by_role("button", name="Remove…").click()
        card.get_by_role("button", name="Remove the song").click()
        card.wait_for(state="detached")

    def test_themes(self) -> None:
        page = self.page
        page.get_by_role("button", name=re.compile("Daylight|Night")).click()
        theme = page.evaluate("() => document.documentElement.dataset.theme")
        page.reload()
        page.get_by_role("button", name="New song").wait_for()
        self.assertEqual(page.evaluate("() => document.documentElement.dataset.theme"), theme)
