"""The hand-off folder: brought in at its place, printed back, and checked by the host's null test."""

import csv
import json
import os
from pathlib import Path
from typing import Any

import mido
import numpy as np
import soundfile as sf

from glass_thread.core.signal.errors import AudioError, ConflictError, NotFoundError, ParameterError
from glass_thread.formats.audio import read_audio
from glass_thread.formats.wave.wav import write_wav
from glass_thread.host.check import check_folder
from glass_thread.services.history.comps import make_comp
from glass_thread.services.history.edit import edit
from glass_thread.services.history.versions import list_versions
from glass_thread.services.prints.handoff import bring_in, folder_names, link, state_of, take_tempo
from glass_thread.services.prints.printing import request_print, request_prints
from glass_thread.services.song.songs import change_song, change_track, markers_of
from glass_thread.services.work.here import run_task
from glass_thread.store.records import Track
from tests.command import Done, command
from tests.services.case import SongCase
from tests.signals import RATE, sung_short

BEGIN = 3600 * RATE + 12_345  # samples since midnight


class FolderCase(SongCase):
    def setUp(self) -> None:
        super().setUp()
        link(self.desk, self.song.id, "session", make=True)
        self.place = self.folder / "data" / "handoff" / "session"
        self.write("Lead.wav", sung_short()[1].audio)

    def write(self, name: str, audio: np.ndarray, stamp: int | None = BEGIN) -> None:
        samples = np.round(np.atleast_2d(audio) * 32767).astype(np.int32)
        write_wav(self.place / "in" / name, samples, RATE, bits=16, time_reference=stamp)

    def brought(self, *names: str) -> Track:
        """The last of some files, brought in and analysed."""
        tasks = bring_in(self.desk, self.song.id, names)
        for task in tasks:
            run_task(self.work, task.id)
            self.assertEqual(self.work.tasks.get(task.id).state, "done", self.work.tasks.get(task.id).message)
        return self.work.tracks.get(str(tasks[-1].track_id))

    def tune(self, track: Track, *numbers: int) -> None:
        standing = self.desk.at(track.id)
        notes = list(standing.content.notes)
        edit(self.desk, track.id, {"type": "tune", "note_ids": [notes[i] for i in numbers]},
             base=str(standing.step_id))  # fmt: skip

    def handed_over(self, track: Track, **wanted: Any) -> Any:
        task = request_print(self.desk, track.id, {"container": "wav", "handoff": True, **wanted})
        run_task(self.work, task.id)
        return self.work.tasks.get(task.id)

    def host(self) -> Done:
        return command("host", "--check", self.place)


class ThereAndBackTest(FolderCase):
    def test_a_file_comes_in_at_its_place_and_its_print_nulls_but_for_the_edits(self) -> None:
        track = self.brought("Lead.wav")
        self.assertAlmostEqual(track.offset_s, 12_345 / RATE, places=6)
        self.assertEqual([one.state for one in state_of(self.desk, self.song.id).incoming], ["known"])
        self.tune(track, 1)
        done = self.handed_over(track)
        self.assertEqual(done.state, "done", done.message)
        name = done.result["shown_name"]
        printed, info = read_audio(self.place / "out" / name)
        self.assertEqual(info.time_reference, BEGIN)
        source, _ = read_audio(self.place / "in" / "Lead.wav")
        self.assertEqual(printed.shape, source.shape)
        (found,) = check_folder(self.place)
        self.assertTrue(found.good, found.sentence)
        note = list(self.desk.at(track.id).content.notes.values())[1].note
        self.assertTrue(all(a > note.start_s - 1.2 and b < note.end_s + 1.2 for a, b in found.spans), found.spans)
        self.assertEqual(self.host().returncode, 0, self.host().stdout)
        self.assertEqual(mido.MidiFile(self.place / "out" / f"{Path(name).stem}.mid").type, 1)
        rows = list(csv.DictReader((self.place / "out" / f"{Path(name).stem} sheet.csv").open(newline="")))
        self.assertEqual([row["kind"] for row in rows], ["note"])

    def test_one_note_changed_and_printed_again_differs_only_there(self) -> None:
        track = self.brought("Lead.wav")
        self.tune(track, 0)
        first, _ = read_audio(self.place / "out" / self.handed_over(track).result["shown_name"])
        self.tune(track, 3)
        with self.assertRaisesRegex(ConflictError, "already"):
            self.handed_over(track)
        again = self.handed_over(track, replace=True)
        second, _ = read_audio(self.place / "out" / again.result["shown_name"])
        differs = np.flatnonzero((first != second).any(axis=0)) / RATE
        note = list(self.desk.at(track.id).content.notes.values())[3].note
        self.assertGreater(differs.min(), note.start_s - 1.2)
        self.assertTrue(all(one.good for one in check_folder(self.place)))

    def test_a_comp_and_time_edits_and_chosen_stretches_null_too(self) -> None:
        track = self.brought("Lead.wav")
        notes = list(self.desk.at(track.id).content.notes)
        self.tune(track, *range(len(notes)))
        comp = make_comp(self.desk, track.id, "Best")
        sung = list_versions(self.desk, track.id)[0]
        middle = list(self.desk.at(track.id).content.notes.values())[1].note
        done = edit(self.desk, track.id, {"type": "choose", "version_id": sung.id, "start_s": middle.start_s + 0.1},
                    base=comp.head_id, version_id=comp.id)  # fmt: skip
        task = request_print(self.desk, track.id, {"handoff": True}, step_id=done.version.head_id)
        run_task(self.work, task.id)
        standing = self.desk.at(track.id)
        edit(self.desk, track.id, {"type": "slip", "note_ids": notes[-1:], "by_ms": 30.0}, base=str(standing.step_id))
        self.handed_over(track)
        self.handed_over(track, spans=[{"start_s": 0.3, "end_s": 1.0}], pattern="{track} part")
        found = check_folder(self.place)
        self.assertEqual(len(found), 3)
        self.assertTrue(all(one.good for one in found), [one.sentence for one in found])


class TakesTest(FolderCase):
    def test_a_changed_file_is_a_new_take_that_gets_the_edits(self) -> None:
        track = self.brought("Lead.wav")
        self.tune(track, 0, 1, 2)
        audio = np.atleast_2d(sung_short()[1].audio)
        self.write("Lead.wav", np.concatenate((audio * 0.9, np.zeros((1, 4000))), axis=1))
        self.assertEqual([one.state for one in state_of(self.desk, self.song.id).incoming], ["changed"])
        take = self.brought("Lead.wav")
        self.assertEqual((take.name, take.role), ("Lead (new take)", track.role))
        old, new = (self.desk.at(one.id).content.notes for one in (track, take))
        self.assertEqual([e.gesture.pull for e in new.values()], [e.gesture.pull for e in old.values()])
        self.assertEqual([one.state for one in state_of(self.desk, self.song.id).incoming], ["known"])

    def test_touched_but_not_changed_is_known(self) -> None:
        self.brought("Lead.wav")
        os.utime(self.place / "in" / "Lead.wav", (1, 1))
        self.assertEqual([one.state for one in state_of(self.desk, self.song.id).incoming], ["known"])

    def test_tempo_meter_and_key_from_the_host(self) -> None:
        file = mido.MidiFile()
        said = [mido.MetaMessage("set_tempo", tempo=500_000), mido.MetaMessage("key_signature", key="Dm"),
                mido.MetaMessage("time_signature", numerator=3, denominator=4),
                mido.MetaMessage("marker", text="Chorus", time=6 * file.ticks_per_beat),
                mido.MetaMessage("key_signature", key="F", time=3 * file.ticks_per_beat)]  # fmt: skip
        file.tracks.append(mido.MidiTrack(said))
        file.save(self.place / "in" / "map.mid")
        song = take_tempo(self.desk, self.song.id, "map.mid")
        self.assertEqual((song.tempo, song.beats_per_bar, song.tonic, song.scale), (120.0, 3, 2, "natural minor"))
        self.assertEqual([(one["bar"], one["at_s"], one["text"]) for one in markers_of(song)], [(3, 3.0, "Chorus")])
        self.assertEqual([(one["bar"], one["tonic"], one["scale"]) for one in song.key_changes], [(4, 5, "major")])
        changed = change_song(self.work, song.id, {"markers": [{"bar": 9, "beat": 1.0, "text": "End"}, *song.markers]})
        self.assertEqual([one["text"] for one in changed.markers], ["Chorus", "End"])
        for wrong in ({"bar": 0, "beat": 1.0, "text": "a"}, {"bar": 1, "beat": 1.0, "text": " "},
                      {"bar": 1, "beat": float("nan"), "text": "a"}):  # fmt: skip
            with self.assertRaises(ParameterError):
                change_song(self.work, song.id, {"markers": [wrong]})


class TroubleTest(FolderCase):
    def test_folders_are_named_and_nothing_else_is_reached(self) -> None:
        self.assertEqual(folder_names(self.work), ["session"])
        for name in ("../out", "a/b", "..", ".", "x" * 90, "a\\b", "\n"):
            with self.subTest(name), self.assertRaises(ParameterError):
                link(self.desk, self.song.id, name, make=True)
            with self.assertRaises((NotFoundError, ParameterError)):
                link(self.desk, self.song.id, name)
        for name in ("../../secret.wav", "nothing.wav"):
            with self.assertRaises(NotFoundError):
                bring_in(self.desk, self.song.id, [name])

    def test_a_missing_folder_and_a_damaged_file_are_said(self) -> None:
        (self.place / "in" / "broken.wav").write_bytes(b"RIFF no sound")
        states = {one.file: one for one in state_of(self.desk, self.song.id).incoming}
        self.assertEqual(states["broken.wav"].state, "unusable")
        with self.assertRaisesRegex(AudioError, "broken.wav"):
            bring_in(self.desk, self.song.id, ["broken.wav"])
        track = self.brought("Lead.wav")
        self.place.rename(self.folder / "elsewhere")
        self.assertIn("is missing", state_of(self.desk, self.song.id).problem)
        with self.assertRaisesRegex(NotFoundError, "is missing"):
            self.handed_over(track)

    def test_a_folder_that_cannot_be_written_is_said_and_keeps_the_print(self) -> None:
        track = self.brought("Lead.wav")
        (self.place / "out").rmdir()
        (self.place / "out").write_text("a file in the way")
        done = self.handed_over(track)
        self.assertEqual(done.state, "done")
        self.assertIn("hand-off folder cannot be read or written", done.result["trouble"])
        self.assertTrue(self.work.audio.print_path(done.result["file"]).is_file())


class HostTest(FolderCase):
    def tampered(self, change: Any, **more: Any) -> str:
        """What the host says after the samples of a print, or its stamp, were changed behind our back."""
        path = next((self.place / "out").glob("*.wav"))
        samples, rate = sf.read(path, dtype="int16", always_2d=True)
        write_wav(path, np.asarray(change(samples.T)).astype(np.int32), rate, bits=16,
                  time_reference=more.get("stamp", BEGIN))  # fmt: skip
        done = self.host()
        self.assertEqual(done.returncode, 1, done.stdout)
        return done.stdout

    def test_what_is_displaced_or_altered_is_found(self) -> None:
        track = self.brought("Lead.wav")
        self.tune(track, 0)
        self.handed_over(track)
        good = next((self.place / "out").glob("*.wav")).read_bytes()

        def restored() -> None:
            next((self.place / "out").glob("*.wav")).write_bytes(good)

        def one_sample(samples: np.ndarray) -> np.ndarray:
            changed = samples.copy()
            changed[0, -100] += 1
            return changed

        self.assertIn("differs where nothing was edited, in 1 places", self.tampered(one_sample))
        restored()
        self.assertIn("+100 samples", self.tampered(lambda s: np.pad(s, ((0, 0), (100, 0)))[:, : s.shape[1]]))
        restored()
        self.assertIn("samples) from its place", self.tampered(lambda s: s, stamp=BEGIN + 441))
        restored()
        self.assertIn("no time stamp", self.tampered(lambda s: s, stamp=None))
        restored()
        self.assertEqual(self.host().returncode, 0)
        (self.place / "in" / "Lead.wav").unlink()
        self.assertIn("Its source is not in", self.host().stdout)

    def test_a_folder_that_is_none_and_a_damaged_list(self) -> None:
        done = command("host", "--check", self.folder / "nowhere")
        self.assertEqual((done.returncode, done.stderr.count("\n")), (2, 1))
        (self.place / "out" / "handoff.json").write_text("{")
        self.assertIn("damaged", self.host().stderr)
        (self.place / "out" / "handoff.json").write_text(json.dumps({"prints": [{"file": "x.wav", "spans": []}]}))
        self.assertIn("not in the folder", self.host().stdout)


class NothingIsOverwrittenTest(FolderCase):
    def test_two_tracks_of_one_name_do_not_replace_each_other(self) -> None:
        first = self.brought("Lead.wav")
        self.write("take 2.wav", np.roll(sung_short()[1].audio, 700))
        second = self.brought("take 2.wav")
        change_track(self.work, second.id, {"name": first.name})
        wanted = {"container": "wav", "handoff": True}
        with self.assertRaisesRegex(ConflictError, "Two of these prints would be called “Lead tuned.wav”"):
            request_prints(self.desk, [(first.id, None), (second.id, None)], wanted)
        self.assertEqual([one.kind for one in self.work.tasks.unfinished()], [])
        named = {**wanted, "pattern": "{track} {number}", "replace": False}
        self.assertEqual(len(request_prints(self.desk, [(first.id, None)], named)), 1)

    def test_a_melody_that_is_no_prints_own_stays(self) -> None:
        track = self.brought("Lead.wav")
        mine = self.place / "out" / "Lead tuned.mid"
        mine.parent.mkdir(exist_ok=True)
        mine.write_bytes(b"mine")
        with self.assertRaisesRegex(ConflictError, "“Lead tuned.mid” is in the hand-off folder already"):
            self.handed_over(track)
        self.assertEqual(mine.read_bytes(), b"mine")
        self.assertEqual(self.handed_over(track, replace=True).state, "done")
        self.assertGreater(len(mine.read_bytes()), 40)

    def test_a_track_without_notes_is_handed_over_with_a_melody_of_none(self) -> None:
        rng = np.random.default_rng(1)
        claps = np.zeros(2 * RATE)
        for at in range(4000, len(claps) - 4000, 20_000):
            claps[at : at + 3000] = 0.2 * rng.standard_normal(3000) * np.hanning(3000)
        self.write("claps.wav", claps)
        track = self.brought("claps.wav")
        self.assertEqual(list(self.desk.at(track.id).content.notes), [])
        done = self.handed_over(track)
        self.assertEqual(done.state, "done", done.message)
        sung = mido.MidiFile(self.place / "out" / Path(done.result["shown_name"]).with_suffix(".mid"))
        self.assertEqual([message for message in sung.tracks[1] if message.type == "note_on"], [])
