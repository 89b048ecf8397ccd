"""Chords that are typed over, read from MIDI, and kept to by harmonies and pure intervals."""

import io
from typing import Any

import mido
import numpy as np

from glass_thread.core.document.notes import current_targets
from glass_thread.core.document.voices.chord_notes import PURE, Chords, beside, pure_lean
from glass_thread.core.signal.errors import AudioError, ParameterError
from glass_thread.core.song.keys import make_tuning
from glass_thread.services.linked.deriving import derive
from glass_thread.services.song.estimates.chords import chords_of
from glass_thread.services.song.songs import change_song
from glass_thread.services.song.typed_chords import chords_of_midi, typed_chords
from tests.services.case import TakeCase


def typed(bar: int, until: int, label: str, beat: float = 1.0) -> dict[str, Any]:
    return {"bar": bar, "beat": beat, "until_bar": until, "until_beat": 1.0, "label": label}


def midi(*messages: mido.Message) -> io.BytesIO:
    file = mido.MidiFile()
    file.tracks.append(mido.MidiTrack(messages))
    out = io.BytesIO()
    file.save(file=out)
    return io.BytesIO(out.getvalue())


class TypedChordsTest(TakeCase):
    def setUp(self) -> None:
        super().setUp()
        change_song(self.work, self.song.id, {"tonic": 0, "scale": "major", "tempo": 120.0, "bar_one_s": 0.0})

    def test_a_later_one_takes_the_place_of_what_it_covers(self) -> None:
        found = typed_chords([typed(1, 5, "Dm"), typed(2, 3, "Bb7"), typed(3, 4, "N", beat=3.0)])
        self.assertEqual([tuple(one.values()) for one in found],
                         [(1, 1.0, 2, 1.0, "D:min"), (2, 1.0, 3, 1.0, "A#:7"), (3, 1.0, 3, 3.0, "D:min"),
                          (3, 3.0, 4, 1.0, "N"), (4, 1.0, 5, 1.0, "D:min")])  # fmt: skip
        for wrong in (typed(2, 2, "Dm"), typed(0, 1, "Dm"), typed(1, 2, "H"), typed(3, 2, "C")):
            with self.assertRaises(ParameterError):
                typed_chords([wrong])

    def test_they_follow_the_tempo_and_are_taken_back(self) -> None:
        change_song(self.work, self.song.id, {"chords": [typed(2, 3, "Bbm7")]})
        (only,) = chords_of(self.desk, self.song.id).chords
        self.assertEqual((only.start_s, only.end_s, only.typed), (2.0, 4.0, True))
        change_song(self.work, self.song.id, {"tempo": 60.0})
        (only,) = chords_of(self.desk, self.song.id).chords
        self.assertEqual((only.start_s, only.end_s), (4.0, 8.0))
        self.assertIn("Chords · 1 typed", [one.label for one in self.work.log.all(self.song.id)])

    def test_they_are_spelled_as_the_key_there_asks(self) -> None:
        later = {"bar": 3, "beat": 1.0, "tonic": 4, "scale": "natural minor", "classes": []}
        keys = {"tonic": 2, "scale": "natural minor", "key_changes": [later]}
        change_song(self.work, self.song.id, {**keys, "chords": [typed(1, 3, "Bb"), typed(3, 5, "F#m")]})
        self.assertEqual([one.title for one in chords_of(self.desk, self.song.id).chords], ["B♭", "F♯m"])

    def test_a_midi_file_names_them_or_plays_them(self) -> None:
        song = self.work.songs.get(self.song.id)
        named = midi(mido.MetaMessage("marker", text="Verse"), mido.MetaMessage("marker", text="Dm"),
                     mido.MetaMessage("marker", text="G7", time=1920),
                     mido.MetaMessage("marker", text="", time=1920))  # fmt: skip
        self.assertEqual(
            [(one["bar"], one["label"]) for one in chords_of_midi(song, named)], [(1, "D:min"), (2, "G:7")]
        )
        keys = [*(mido.Message("note_on", note=n, velocity=80) for n in (48, 52, 57)),
                mido.Message("note_off", note=48, time=1920),
                *(mido.Message("note_off", note=n) for n in (52, 57)),
                *(mido.Message("note_on", note=n, velocity=80) for n in (57, 60, 64, 67)),
                *(mido.Message("note_off", note=n, time=480 if n == 57 else 0) for n in (57, 60, 64, 67))]  # fmt: skip
        self.assertEqual([one["label"] for one in chords_of_midi(song, midi(*keys))], ["A:min", "A:min7"])
        for data in (io.BytesIO(b"no"), midi(mido.MetaMessage("marker", text="Verse"))):
            with self.assertRaises(AudioError):
                chords_of_midi(song, data)


class ByTheChordTest(TakeCase):
    def test_pure_intervals_are_those_of_the_handbooks(self) -> None:
        """H. Helmholtz, "On the Sensations of Tone", tr. A. Ellis 1885: 316, 386 and 702 cents."""
        self.assertEqual([round(PURE[steps]) for steps in (3, 4, 7)], [316, 386, 702])
        even = make_tuning(0, "chromatic")
        self.assertEqual(pure_lean(even, 64.0, [0, 4, 7]), ("third", -13.69))
        self.assertEqual(pure_lean(even, 63.0, [0, 3, 7]), ("third", 15.64))
        self.assertEqual(pure_lean(even, 67.0, [0, 4, 7]), ("fifth", 1.96))
        self.assertEqual(pure_lean(even, 60.0, [0, 4, 7]), ("", 0.0))

    def test_a_voice_beside_keeps_to_the_chord_on_its_side(self) -> None:
        even = make_tuning(0, "chromatic")
        for midi_pitch, wanted, classes, found in ((64.0, 67.0, [0, 4, 7], 67.0), (62.0, 65.0, [0, 4, 7], 67.0),
                                                   (64.0, 60.0, [9, 0, 4], 60.0), (65.0, 69.0, [], 69.0),
                                                   (60.0, 57.0, [2, 5, 9], 57.0)):  # fmt: skip
            self.assertEqual(beside(even, midi_pitch, wanted, classes), found)
        self.assertEqual([Chords([[0, 1, 2], [0, 1, 5], [2, 3, 7]]).at(t) for t in (0.5, 1.5, 2.5)], [[2, 5], [], [7]])

    def test_a_harmony_by_the_chord_has_its_notes_alone(self) -> None:
        rows = [[0.0, 60.0, float(one)] for one in (2, 5, 9)]
        (made,) = derive(self.desk, self.track.id, {"type": "harmony", "steps": 2, "chords": rows, "human": 0.0})
        standing = self.desk.at(made.id)
        targets = current_targets(standing.content.notes, standing.keys)
        lead = current_targets(self.now().content.notes, self.now().keys)
        self.assertTrue({round(one) % 12 for one in targets.values()} <= {2, 5, 9})
        self.assertTrue(all(2.0 < targets[name] - lead[name] < 7.0 for name in targets))

    def test_held_thirds_and_fifths_lean_by_a_share(self) -> None:
        ids = list(self.now().content.notes)
        before = current_targets(self.now().content.notes, self.now().keys)
        root = round(before[ids[0]]) % 12 - 4
        rows = [[0.0, 60.0, float((root + step) % 12)] for step in (0, 4, 7)]
        self.do(type="lean_to_chords", note_ids=[ids[0]], chords=rows, share=0.5, least_s=0.0)
        after = current_targets(self.now().content.notes, self.now().keys)
        np.testing.assert_allclose(100 * (after[ids[0]] - before[ids[0]]), -13.69 / 2, atol=0.01)
        with self.assertRaisesRegex(ParameterError, "None of these"):
            self.do(type="lean_to_chords", note_ids=[ids[0]], chords=rows, share=0.5, least_s=9.0)
