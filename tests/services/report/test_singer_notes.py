"""Notes on a singer: of a take, a song or all songs; what is asked wrongly gets a sentence; the numbers as CSV."""

from __future__ import annotations

import csv
import io

import numpy as np
import soundfile as sf

from glass_thread.bench.finding.singer import METER, PLANTED, habitual
from glass_thread.core.signal.errors import ParameterError
from glass_thread.services.history.edit import edit
from glass_thread.services.linked.deriving import derive
from glass_thread.services.report.singer_notes import COLUMNS, notes_csv, singer_notes
from glass_thread.services.song.songs import change_song, change_track, create_song
from glass_thread.store.records import Track
from tests.command import Done, command
from tests.kept import sing
from tests.services.case import SongCase
from tests.signals import RATE, REAL_TAKE


class SingerNotesTest(SongCase):
    def setUp(self) -> None:
        super().setUp()
        self.keyed()

    def keyed(self) -> None:
        values = {"tonic": 0, "scale": "major", "tempo": METER.tempo, "bar_one_s": 0.0}
        self.song = change_song(self.work, self.song.id, values)

    def sung(self, name: str, planted: frozenset[str], seed: int = 1) -> Track:
        path = self.folder / f"{name}.wav"
        sf.write(str(path), sing(habitual(seed, planted), RATE).audio, RATE, subtype="PCM_16")
        track = self.bring_in(path)
        return change_track(self.work, track.id, {"singer": "  Mara "})

    def test_of_a_take(self) -> None:
        track = self.sung("one", frozenset(PLANTED))
        found = singer_notes(self.desk, track.id)
        self.assertEqual((found.singer, found.takes), ("Mara", 1))
        told = {one.claim.name: one for one in found.told if one.claim.kind == "fault"}
        self.assertEqual(set(told), {name for name, _size in PLANTED.values()})
        late = told["timing"]
        self.assertEqual(len(late.values), late.claim.of)
        self.assertEqual([place.track_id for place in late.clearest], [track.id] * 3)
        self.assertGreater(late.clearest[0].value, late.claim.size)
        rows = list(csv.reader(io.StringIO(notes_csv(found))))
        self.assertEqual(tuple(rows[0]), COLUMNS)
        self.assertEqual(len(rows) - 1, sum(one.claim.of for one in found.told))

    def test_on_the_command_line(self) -> None:
        self.sung("one", frozenset({"late"}))
        said = self.verb("--track", "one")
        self.assertEqual(said.returncode, 0, said.stderr)
        self.assertRegex(said.stdout, r"^Mara: \d+ notes of 1 take\n\nNotes come \d+ ms after the beat")
        numbers = self.folder / "numbers.csv"
        self.assertEqual(self.verb("--scope", "singer", "--csv", str(numbers)).returncode, 0)
        self.assertEqual(tuple(next(csv.reader(numbers.open()))), COLUMNS)
        wrong = self.verb("--track", "none")
        self.assertEqual((wrong.returncode, wrong.stdout), (2, ""))

    def verb(self, *arguments: str) -> Done:
        return command("singer", "--data", self.folder / "data", *arguments)

    def test_tuning_the_notes_takes_nothing_from_what_was_sung(self) -> None:
        track = self.sung("one", frozenset(PLANTED))
        before = singer_notes(self.desk, track.id)
        standing = self.desk.at(track.id)
        tune = {"type": "tune", "note_ids": list(standing.content.notes)}
        edit(self.desk, track.id, tune, base=str(standing.step_id))
        after = singer_notes(self.desk, track.id)
        self.assertEqual([one.claim.name for one in before.told], [one.claim.name for one in after.told])

    def test_over_all_songs_and_how_it_changed(self) -> None:
        first = self.sung("one", frozenset({"late"}))
        self.song = create_song(self.work, "Later")
        self.keyed()
        change_song(self.work, self.song.id, {"bar_one_s": -0.06})  # so that the second take is later by as much
        second = self.sung("two", frozenset({"late"}), seed=4)
        self.assertEqual(singer_notes(self.desk, second.id, "song").takes, 1)
        found = singer_notes(self.desk, first.id, "singer")
        self.assertEqual(found.takes, 2)
        late = next(one for one in found.told if one.claim.name == "timing")
        self.assertRegex(late.change, "^“Test”: (3[0-9]|4[0-4]) ms, “Later”: (9[0-9]|10[0-4]) ms$")
        self.assertEqual({place.song for place in late.values}, {"Test", "Later"})

    def test_a_double_is_held_against_its_lead(self) -> None:
        """The same line by another voice, 40 ms late as a whole."""
        lead = self.sung("lead", frozenset())
        path = self.folder / "double.wav"
        audio = sing(habitual(1, frozenset(), again=True), RATE).audio
        sf.write(str(path), np.concatenate([np.zeros(round(0.04 * RATE)), audio]), RATE, subtype="PCM_16")
        double = self.bring_in(path, role="double")
        told = {one.claim.name: one.claim for one in singer_notes(self.desk, double.id).told}
        self.assertEqual(told["with the lead"].kind, "fault")
        self.assertAlmostEqual(told["with the lead"].size, 40.0, delta=6.0)
        self.assertNotIn("with the lead", {one.claim.name for one in singer_notes(self.desk, lead.id).told})

    def test_what_cannot_be_said_gets_a_sentence(self) -> None:
        track = self.bring_in(REAL_TAKE)
        with self.assertRaisesRegex(ParameterError, "who sings"):
            singer_notes(self.desk, track.id, "song")
        (made,) = derive(self.desk, track.id, {"type": "double"})
        with self.assertRaisesRegex(ParameterError, "made of another"):
            singer_notes(self.desk, made.id)
        found = singer_notes(self.desk, track.id)  # a real voice
        self.assertEqual(found.singer, track.name)
        self.assertGreater(found.notes, 5)
        self.assertTrue(all(one.claim.of <= found.notes for one in found.told))
        self.assertEqual(change_track(self.work, track.id, {"singer": "   "}).singer, "")
        with self.assertRaises(ParameterError):
            change_track(self.work, track.id, {"singer": "a" * 81})
