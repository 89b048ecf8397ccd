"""Prints, files for other programs, the hand-off folder and the host's page, in the real interface."""

import re
import threading
from pathlib import Path
from xml.etree import ElementTree

import mido
import numpy as np
import soundfile as sf

from glass_thread.demo.build import FOLDER
from glass_thread.formats.wave.wav import write_wav
from glass_thread.host.check import check_folder
from glass_thread.host.server import host_server
from tests.browser.test_air import AirCase
from tests.browser.test_journeys_on_own import OwnRecording


class PrintCase(AirCase):
    def window(self, tab: str = ""):
        """The print window, at one of its tabs."""
        window = self.page.get_by_role("dialog", name="Print")
        if window.count() == 0:
            self.page.get_by_role("button", name="Print…").click()
        if tab:
            window.get_by_role("button", name=tab).click()
        self.quiet()
        return window

    def saved(self, link: str):
        with self.page.expect_download() as download:
            self.page.get_by_role("dialog", name="Print").get_by_role("link", name=link).first.click()
        return download.value.path()

    @staticmethod
    def ticks(file: mido.MidiFile) -> list[tuple[int, str]]:
        at, found = 0, []
        for message in file.tracks[1]:
            at += message.time
            found.append((at, message.type))
        return found

    def brought_in(self, folder: str, name: str, seconds: int) -> Path:
        """Part of the demo's lead as a session hands it over, brought in and opened; where the folder lies."""
        page = self.page
        window = self.window("Hand-off folder")
        window.get_by_label("Name of a new folder").fill(folder)
        window.get_by_role("button", name="Make it").click()
        window.get_by_text("Nothing lies there yet.").wait_for()
        place = self.folder / "data" / "handoff" / folder
        lead, rate = sf.read(FOLDER / "lead.flac", dtype="int16", always_2d=True)
        samples = (lead[: seconds * rate].T.astype(np.int32) * 3) // 4
        write_wav(place / "in" / f"{name}.wav", samples, rate, bits=16, time_reference=3600 * rate)
        window.get_by_role("button", name="Look again").click()
        window.get_by_role("button", name=f"Bring {name}.wav in").click()
        window.get_by_text("brought in").wait_for()
        window.get_by_role("button", name="Close").click()
        page.get_by_role("button", name="‹ Songs").click()
        row = page.get_by_role("row", name=re.compile(f"{name} .* mono [1-9]"))
        row.wait_for()
        row.click()
        page.get_by_role("application").wait_for()
        return place


class ListTest(PrintCase):
    def test_a_selection_at_another_rate_is_printed_listed_and_taken_away(self) -> None:
        self.canvas().focus()
        self.press("ArrowRight", "t")
        note = self.page.evaluate("() => window.glassThread.selected()[0]")
        window = self.window("New print")
        window.get_by_role("button", name="Selection", exact=True).click()
        window.get_by_label("Fades (ms)").fill("5")
        window.get_by_label("Fades (ms)").press("Enter")
        self.pick("Sample rate", "48 kHz")
        window.get_by_label("Name of the file").fill("{track}, one note {number}")
        window.get_by_role("button", name="Print", exact=True).click()
        samples, rate = sf.read(self.saved("Save “Lead, one note 01.wav”"))
        self.assertEqual(rate, 48_000)
        self.assertAlmostEqual(len(samples) / rate, note["end_s"] - note["start_s"], delta=0.002)
        self.assertLess(abs(samples[0]), 0.01)
        window = self.window("Prints of this song")
        entry = window.get_by_role("listitem").filter(has_text="one note 01")
        entry.get_by_text(re.compile("tuned, step 1 “Tune")).wait_for()
        entry.get_by_text(re.compile("LUFS, peak")).wait_for()
        entry.get_by_role("button", name="Hear").click()
        entry.get_by_role("button", name="Hear", pressed=True).wait_for()
        entry.get_by_role("button", name=re.compile("Take .* away")).press("Enter")
        entry.wait_for(state="detached")

    def test_all_vocals_as_one_length(self) -> None:
        window = self.window("New print")
        window.get_by_role("button", name="All as one length").press("Enter")
        window.get_by_role("button", name="Print", exact=True).press("Enter")
        window.get_by_role("link").nth(2).wait_for()
        lengths = {sf.info(str(self.saved(name))).frames for name in ("Save “Lead", "Save “Double 1", "Save “Double 2")}
        self.assertEqual(len(lengths), 1)

    def test_files_for_other_programs(self) -> None:
        window = self.window("For other programs")
        file = mido.MidiFile(self.saved("Save as MIDI"))
        tempos = [m for m in file.tracks[0] if m.type == "set_tempo"]
        self.assertAlmostEqual(60e6 / tempos[0].tempo, 84.0, places=2)
        self.assertEqual([m.key for m in file.tracks[0] if m.type == "key_signature"], ["Dm"])
        begun = [at for at, kind in self.ticks(file) if kind == "note_on"]
        self.assertEqual(len(begun), len(self.notes()))
        self.assertLess(abs(begun[0] / file.ticks_per_beat - 4.0), 0.1)  # the song's first note is on bar 2
        self.pick("Pitch bend", "bend, 2 semitones")
        bent = mido.MidiFile(self.saved("Save as MIDI"))
        self.assertTrue(any(m.type == "pitchwheel" for m in bent.tracks[1]))
        self.assertIn("tuned_midi", self.saved("Save as CSV").read_text().splitlines()[0])
        score = ElementTree.parse(self.saved("Save as MusicXML")).getroot()
        self.assertEqual(score.findtext("work/work-title"), "Lanterns on the Quay")
        self.assertEqual([one.text for one in score.iter("text")][:3], ["Slow", "tide", "o"])
        labels = self.saved("Save as text, tabs between").read_text().splitlines()
        self.assertEqual((len(labels), labels[0].split("\t")[2]), (len(self.notes()), "Slow"))
        self.assertIn('class = "IntervalTier"', self.saved("Save as TextGrid").read_text())
        window.get_by_role("button", name="Close").click()


class HandoffTest(PrintCase):
    def test_there_and_back_and_the_host_agrees(self) -> None:
        page = self.page
        place = self.brought_in("Session 1", "Verse", 12)
        self.canvas().focus()
        self.press("ArrowRight", "t")
        window = self.window("New print")
        window.get_by_text("Put it into “Session 1”").wait_for()
        window.get_by_role("button", name="Print", exact=True).click()
        window.get_by_role("link", name=re.compile("Save")).wait_for()
        (found,) = check_folder(place)
        self.assertTrue(found.good, found.sentence)
        window.get_by_role("button", name="Print", exact=True).click()
        page.get_by_text("is in the hand-off folder already").wait_for()
        self.look_at_the_host(place)

    def look_at_the_host(self, place) -> None:
        """The host's own page shows both files and what its test says."""
        server = host_server(place, 0)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        self.addCleanup(server.server_close)
        self.addCleanup(server.shutdown)
        page = self.page
        page.goto(f"http://127.0.0.1:{server.server_port}/")
        page.get_by_text("Silent but for its edits").wait_for()
        page.get_by_role("button", name=re.compile("^out.Verse")).click()
        page.get_by_role("button", name="Play").click()
        page.get_by_role("button", name="Stop").wait_for()
        for wanted, status in (("/sound/out/../../x", 404), ("/../check.py", 404), ("/sound/in/Verse.wav", 200)):
            self.assertEqual(page.request.get(f"http://127.0.0.1:{server.server_port}{wanted}").status, status)
        refused = page.request.get(f"http://127.0.0.1:{server.server_port}/", headers={"Host": "elsewhere.test"})
        self.assertEqual(refused.status, 403)


class OwnPrintTest(OwnRecording, PrintCase):
    def test_a_real_voice_as_melody_with_bend(self) -> None:
        self.window("For other programs")
        self.pick("Pitch bend", "bend, 12 semitones")
        file = mido.MidiFile(self.saved("Save as MIDI"))
        self.assertEqual(sum(m.type == "note_on" for m in file.tracks[1]), len(self.notes()))
        self.assertGreater(sum(m.type == "pitchwheel" for m in file.tracks[1]), 50)
