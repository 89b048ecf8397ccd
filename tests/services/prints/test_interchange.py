"""What other programs take: the melody read back by `mido`, notes and contour read back by the csv module."""

import csv
import io
from xml.etree import ElementTree

import mido
import numpy as np
import parselmouth

from glass_thread.core.signal.errors import ParameterError
from glass_thread.core.song.beats import Meter, TempoChange, tempo_map
from glass_thread.core.song.keys import make_tuning, one_key, parse_key
from glass_thread.core.song.ticks import TICKS_A_QUARTER, clock_from
from glass_thread.formats.midi_melody import MelodyNote, melody_file, signature
from glass_thread.services.history.comps import make_comp
from glass_thread.services.history.edit import edit
from glass_thread.services.history.versions import list_versions
from glass_thread.services.prints.cues import cues_of
from glass_thread.services.prints.interchange import (
    contour_csv_of,
    grid,
    labels,
    melody,
    notes_csv,
    notes_document,
    score,
    velocities,
)  # fmt: skip
from glass_thread.services.prints.printing import print_file, request_print
from glass_thread.services.session.sounding import sounding_notes
from glass_thread.services.song.songs import change_song, change_track
from glass_thread.services.work.here import run_task
from tests.command import command
from tests.services.case import TakeCase
from tests.signals import REAL_TAKE

METERS = tempo_map(Meter(1.0, 120.0), [TempoChange(3, 60.0, 3, 4), TempoChange(5, 90.0, 6, 8)])


def read(data: bytes) -> mido.MidiFile:
    return mido.MidiFile(file=io.BytesIO(data), charset="utf-8")


def seconds_of(data: bytes) -> list[tuple[float, mido.Message]]:
    """Every message with its second by the library's own sum of ticks."""
    at, found = 0.0, []
    for message in read(data):
        at += message.time
        found.append((at, message))
    return found


class ClockTest(TakeCase):
    def test_ticks_are_what_the_library_reads_back_as_seconds(self) -> None:
        """Standard MIDI Files 1.0: delta times in ticks of a quarter note, tempo in microseconds a quarter."""
        starts = (1.0, 3.25, 4.99, 5.0, 8.0, 11.5, 14.0)
        notes = [MelodyNote(at, at + 0.2, 60 + i, 90) for i, at in enumerate(starts)]
        data = melody_file(notes, METERS, one_key(make_tuning(0, "major")), title="Song")
        begun = [at for at, message in seconds_of(data) if message.type == "note_on"]
        np.testing.assert_allclose(begun, np.array(starts) - 1.0, atol=0.0006)
        self.assertEqual(read(data).ticks_per_beat, TICKS_A_QUARTER)
        shapes = [(m.numerator, m.denominator) for m in read(data).tracks[0] if m.type == "time_signature"]
        self.assertEqual(shapes, [(4, 4), (3, 4), (6, 8)])

    def test_a_note_before_bar_one_moves_tick_zero_by_whole_bars(self) -> None:
        for earliest, bar in ((1.0, 1), (0.5, 0), (-1.0, 0), (-1.5, -1), (7.0, 1)):
            clock = clock_from(METERS, earliest)
            self.assertEqual(clock.first_bar, bar)
            self.assertGreaterEqual(clock.ticks(earliest), 0)

    def test_key_signatures(self) -> None:
        """MIDI 1.0, key signature meta event; modes are written with the signature of their notes."""
        for key, name in (("C major", "C"), ("F# minor", "F#m"), ("Bb major", "Bb"), ("D dorian", "C"),
                          ("E phrygian", "C"), ("F lydian", "C"), ("G mixolydian", "C"), ("A minor pentatonic", "Am"),
                          ("C harmonic minor", "Cm"), ("Eb major", "Eb")):  # fmt: skip
            self.assertEqual(signature(parse_key(key)), name)
        for tonic in range(12):
            for scale in ("major", "natural minor"):
                mido.MetaMessage("key_signature", key=signature(make_tuning(tonic, scale)))  # a name that there is


class MelodyTest(TakeCase):
    def test_notes_words_and_velocity(self) -> None:
        change_song(self.work, self.song.id, {"tempo": 90.0, "bar_one_s": 0.25})
        change_track(self.work, self.track.id, {"offset_s": 2.0, "words": {"0": "näher als heute"}})
        self.do(type="tune", note_ids=list(self.now().content.notes))
        data = melody(self.desk, self.now())
        heard = [(at, m) for at, m in seconds_of(data) if m.type == "note_on"]
        notes = [e.note for e in self.now().content.notes.values()]
        np.testing.assert_allclose([at for at, _ in heard], [n.start_s + 2.0 - 0.25 for n in notes], atol=0.001)
        judged = self.desk.verdicts(self.now()).notes
        self.assertEqual([m.note for _, m in heard], [round(judged[n.id].tuned_midi) for n in notes])
        words = [m.text for _, m in seconds_of(data) if m.type == "lyrics"]
        self.assertEqual(" ".join(words).replace("- ", ""), "näher als heute")
        self.assertEqual(velocities([-20.0, -20.0, -32.0]), [112, 112, 56])
        self.assertEqual(velocities([]), [])

    def test_pitch_bend_follows_the_tuned_pitch_over_the_range_it_states(self) -> None:
        data = melody(self.desk, self.now(), bend_range=3)
        said = [(m.control, m.value) for m in read(data).tracks[1] if m.type == "control_change"]
        self.assertEqual(said[:3], [(101, 0), (100, 0), (6, 3)])
        plan = self.desk.plan(self.now())
        note, sounding, off = 0, 0.0, []
        for at, message in seconds_of(data):
            if message.type == "note_on":
                note = message.note
            if message.type == "pitchwheel":
                sounding = message.pitch / 8192 * 3
                frame = round(at / 0.005)
                if note and np.isfinite(plan.contour.midi[frame]):
                    off.append(abs(note + sounding - plan.contour.midi[frame]))
        self.assertGreater(len(off), 50)
        self.assertLess(float(np.percentile(off, 90)), 0.08)
        with self.assertRaisesRegex(ParameterError, "1 to 24"):
            melody(self.desk, self.now(), bend_range=25)

    def test_rows_and_contour_of_a_version_and_of_a_comp(self) -> None:
        notes = list(self.now().content.notes)
        self.do(type="tune", note_ids=notes)
        sung = list_versions(self.desk, self.track.id)[0]
        comp = make_comp(self.desk, self.track.id, "Comp")
        last = self.now().content.notes[notes[-1]].note
        done = edit(self.desk, self.track.id, {"type": "choose", "version_id": sung.id, "start_s": last.start_s - 0.02},
                    base=comp.head_id, version_id=comp.id)  # fmt: skip
        of_comp = self.desk.at(self.track.id, done.version.head_id)
        rows = list(csv.DictReader(io.StringIO(notes_csv(self.desk, of_comp))))
        self.assertEqual([row["note"] for row in rows], notes)
        self.assertEqual([row["version"] for row in rows], ["Tuned"] * (len(notes) - 1) + ["As sung"])
        self.assertAlmostEqual(float(rows[-1]["tuned_midi"]), last.centre_midi, places=3)
        asked = notes_document(self.desk, of_comp)["notes"]
        self.assertEqual([row["gesture"] is None for row in asked], [False] * (len(notes) - 1) + [True])
        contour = list(csv.DictReader(io.StringIO(contour_csv_of(self.desk, of_comp))))
        frame = round((last.start_s + last.end_s) / 2 / 0.005)
        self.assertAlmostEqual(float(contour[frame]["midi"]), self.now().analysis.contour.midi[frame], places=3)
        self.assertEqual(contour[0]["midi"], "")


class CommandTest(TakeCase):
    def test_a_real_voice_from_the_command_line(self) -> None:
        target = self.folder / "melody.mid"
        done = command("midi", REAL_TAKE, target, "--tempo", "90")
        self.assertEqual(done.returncode, 0, done.stderr)
        file = mido.MidiFile(target)
        self.assertEqual(sum(m.type == "note_on" for m in file.tracks[1]), int(done.stdout.split()[0]))
        bad = command("midi", REAL_TAKE, target, "--tempo", "4000")
        self.assertEqual((bad.returncode, bad.stderr.count("\n")), (2, 1))


class OpenFormatsTest(TakeCase):
    """Scores, labels and cue points of a tuned take with words."""

    def setUp(self) -> None:
        super().setUp()
        change_song(self.work, self.song.id, {"tonic": 2, "scale": "major", "tempo": 90.0, "bar_one_s": -0.5,
                                              "markers": [{"bar": 1, "beat": 2.0, "text": "Verse"}]})  # fmt: skip
        change_track(self.work, self.track.id, {"words": {"0": "hold me tight"}, "offset_s": 1.0})
        self.do(type="tune", note_ids=list(self.now().content.notes))
        self.notes = sounding_notes(self.desk, self.now())

    def test_a_score_has_the_tuned_notes_and_the_words(self) -> None:
        root = ElementTree.fromstring(score(self.desk, self.now()))
        begun = [note for note in root.iter("note") if note.find("pitch") is not None
                 and all(tie.get("type") != "stop" for tie in note.iter("tie"))]  # fmt: skip
        self.assertEqual(len(begun), len(self.notes))
        steps = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
        found = [12 * (int(note.findtext("pitch/octave", "")) + 1) + steps[note.findtext("pitch/step", "")]
                 + int(note.findtext("pitch/alter", "0")) for note in begun]  # fmt: skip
        self.assertEqual(found, [round(note.verdict.tuned_midi) for note in self.notes])
        self.assertEqual([one.text for one in root.iter("text")][:2], ["hold", "me"])
        self.assertEqual(root.findtext("part-list/score-part/part-name"), self.track.name)

    def test_labels_are_in_song_time_and_the_grid_in_that_of_the_print(self) -> None:
        lines = [line.split("\t") for line in labels(self.desk, self.now()).splitlines()]
        self.assertEqual(len(lines), len(self.notes))
        self.assertAlmostEqual(float(lines[0][0]), self.notes[0].start_s + 1.0, places=5)
        self.assertEqual(lines[0][2], "hold")
        path = self.folder / "take.TextGrid"
        path.write_text(grid(self.desk, self.now()), encoding="utf-8")
        read, asked = parselmouth.read(str(path)), parselmouth.praat.call
        self.assertEqual([asked(read, "Get tier name", i) for i in (1, 2, 3)], ["phrases", "words", "notes"])
        self.assertAlmostEqual(read.xmax, self.track.duration_s, places=2)
        self.assertAlmostEqual(asked(read, "Get end time of interval", 1, 1), self.notes[0].start_s, places=4)
        self.assertEqual(asked(read, "Get label of interval", 1, 2), "hold me tight")

    def test_prints_point_at_phrases_and_markers(self) -> None:
        part = 100, round(self.track.duration_s * self.track.sample_rate) - 100
        cues = cues_of(self.desk, self.now(), *part)
        rate = self.track.sample_rate
        self.assertIn((round(self.notes[0].start_s * rate) - 100, "hold me tight"), cues)
        verse_s = -0.5 + 60.0 / 90.0 - 1.0  # before the track begins
        self.assertLess(verse_s, 0.0)
        self.assertNotIn("Verse", [text for _at, text in cues])
        change_song(self.work, self.song.id, {"markers": [{"bar": 2, "beat": 1.0, "text": "Chorus"}]})
        at = -0.5 + 4 * 60.0 / 90.0 - 1.0
        self.assertIn((round(at * rate) - 100, "Chorus"), cues_of(self.desk, self.now(), *part))
        task = request_print(self.desk, self.track.id, {"container": "wav", "bits": 24})
        run_task(self.work, task.id)
        data = print_file(self.desk, self.work.prints.get(task.id)).read_bytes()
        self.assertIn(b"hold me tight\0", data[: data.index(b"data") + 400])
