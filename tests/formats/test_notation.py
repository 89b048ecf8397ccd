"""Scores and labels, read back by programs that are not ours: partitura for MusicXML, Praat for TextGrids."""

from __future__ import annotations

import struct
import tempfile
import unittest
from pathlib import Path
from xml.etree import ElementTree

import numpy as np
import parselmouth
import partitura
import soundfile as sf

from glass_thread.core.song.beats import Meter, TempoChange, tempo_map
from glass_thread.core.song.keys import KeyMap, make_tuning, one_key
from glass_thread.core.song.ticks import TickClock
from glass_thread.formats.midi_melody import MelodyNote
from glass_thread.formats.notation.bars import Written, written_bars
from glass_thread.formats.notation.labels import Label, label_lines, text_grid
from glass_thread.formats.notation.musicxml import fifths_of, melody_score
from glass_thread.formats.wave.wav import WavWriter, write_wav

PLAIN = tempo_map(Meter(0.0, 120.0), [])  # a sixteenth lasts 0.125 s
CHANGING = tempo_map(Meter(1.0, 120.0), [TempoChange(3, 60.0, 3, 4), TempoChange(5, 90.0, 6, 8)])


class FolderCase(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)


class ScoreTest(FolderCase):
    def read(self, notes: list[MelodyNote], meters: tuple[Meter, ...], keys: KeyMap) -> partitura.score.Part:
        path = self.folder / "melody.musicxml"
        path.write_bytes(melody_score(notes, meters, keys, title="A <song> & more", part="Lead"))
        return partitura.load_musicxml(path)[0]

    def test_notes_and_words_are_read_back(self) -> None:
        sung = [(0.0, 0.5, 62, "hold"), (0.5, 0.75, 66, "me"), (1.0, 3.1, 69, "tight"), (3.13, 3.2, 70, "")]
        notes = [MelodyNote(a, b, number, 90, word) for a, b, number, word in sung]
        part = self.read(notes, PLAIN, one_key(make_tuning(2, "major")))
        found = part.note_array()
        np.testing.assert_allclose(found["onset_quarter"], [0.0, 1.0, 2.0, 6.25], atol=1e-6)
        np.testing.assert_allclose(found["duration_quarter"], [1.0, 0.5, 4.25, 0.25], atol=1e-6)
        self.assertEqual(list(found["pitch"]), [62, 66, 69, 70])
        words = [one.text for one in part.iter_all(partitura.score.Words, include_subclasses=True)]
        lyrics = [element.text for element in ElementTree.parse(self.folder / "melody.musicxml").iter("text")]
        self.assertEqual((lyrics, words), (["hold", "me", "tight"], []))
        names = [(note.step, note.alter) for note in part.notes_tied]
        self.assertEqual(names, [("D", None), ("F", 1), ("A", None), ("A", 1)])
        self.assertEqual(
            ElementTree.parse(self.folder / "melody.musicxml").findtext(".//work-title"), "A <song> & more"
        )

    def test_bars_are_full_and_follow_meter_and_tempo(self) -> None:
        starts = (1.0, 3.25, 4.9, 5.1, 8.0, 11.5, 14.0)
        notes = [MelodyNote(at, at + 0.7, 60 + i, 90) for i, at in enumerate(starts)]
        part = self.read(notes, CHANGING, one_key(make_tuning(0, "major")))
        shapes = [(one.beats, one.beat_type) for one in part.iter_all(partitura.score.TimeSignature)]
        self.assertEqual(shapes, [(4, 4), (3, 4), (6, 8)])
        tempos = [one.bpm for one in part.iter_all(partitura.score.Tempo)]
        self.assertEqual(tempos, [120, 60, 90])
        lengths = [one.end.t - one.start.t for one in part.iter_all(partitura.score.Measure)]
        self.assertEqual(lengths[:4], [16, 16, 12, 12])
        self.assertEqual(set(lengths[4:]), {12})
        # bars 1 and 2 last 4 s from 1 s on, in bars 3 and 4 a quarter lasts 1 s; an onset is within half a sixteenth
        quarters = part.note_array()["onset_quarter"]
        wanted = [8.0 + at - 5.0 if 5.0 <= at < 11.0 else (at - 1.0) * 2.0 if at < 5.0 else 14.0 + (at - 11.0) * 1.5
                  for at in starts]  # fmt: skip
        np.testing.assert_allclose(quarters, wanted, atol=0.126)

    def test_signatures_of_keys(self) -> None:
        """Circle of fifths; D dorian has the notes of C major."""
        keys = {(0, "major"): 0, (9, "natural minor"): 0, (2, "dorian"): 0, (2, "major"): 2, (10, "major"): -2,
                (3, "major"): -3, (6, "major"): 6, (5, "harmonic minor"): -4, (3, "natural minor"): -6}  # fmt: skip
        for (tonic, scale), fifths in keys.items():
            with self.subTest(tonic=tonic, scale=scale):
                self.assertEqual(fifths_of(make_tuning(tonic, scale)), fifths)

    def test_a_change_of_key_is_written_at_its_bar(self) -> None:
        keys = KeyMap((make_tuning(0, "major"), make_tuning(3, "major")), (2.0,))
        notes = [MelodyNote(0.0, 0.5, 60, 90), MelodyNote(2.0, 2.5, 63, 90)]
        part = self.read(notes, PLAIN, keys)
        self.assertEqual([one.fifths for one in part.iter_all(partitura.score.KeySignature)], [0, -3])
        self.assertEqual([(one.step, one.alter) for one in part.notes], [("C", None), ("E", -1)])

    def test_no_notes_are_a_bar_of_rest(self) -> None:
        self.assertEqual(len(self.read([], PLAIN, one_key(make_tuning(0, "major"))).notes), 0)

    def test_lengths_are_such_as_can_be_written(self) -> None:
        notes = [MelodyNote(0.125 * a, 0.125 * b, 60, 90, "la") for a, b in ((1, 12), (12, 12.2), (12.1, 37))]
        bars = written_bars(notes, TickClock(PLAIN))
        self.assertEqual([sum(one.length for one in bar.written) for bar in bars], [16, 16, 16])
        self.assertEqual(bars[0].written[:3], (
            Written(1), Written(8, 60, "la", False, True), Written(3, 60, "", True, False)))  # fmt: skip
        sounding = [one for bar in bars for one in bar.written if one.number]
        self.assertEqual(sum(one.length for one in sounding if one.lyric or one.tied_back), sum(
            one.length for one in sounding))  # fmt: skip
        self.assertEqual([one.lyric for one in sounding if one.lyric], ["la", "la", "la"])


class LabelTest(FolderCase):
    LABELS = (Label(0.5, 1.0, "hold"), Label(1.0, 1.6, 'say "so"'), Label(1.5, 2.0, "ü\tb"))

    def test_lines(self) -> None:
        lines = label_lines(self.LABELS).splitlines()
        self.assertEqual([line.split("\t") for line in lines], [
            ["0.500000", "1.000000", "hold"], ["1.000000", "1.600000", 'say "so"'],
            ["1.500000", "2.000000", "ü b"]])  # fmt: skip

    def test_praat_reads_the_grid(self) -> None:
        path = self.folder / "take.TextGrid"
        path.write_text(text_grid({"words": self.LABELS, "none": []}, 3.0), encoding="utf-8")
        grid = parselmouth.read(str(path))
        asked = parselmouth.praat.call
        self.assertEqual((grid.xmin, grid.xmax, asked(grid, "Get number of tiers")), (0.0, 3.0, 2))
        count = asked(grid, "Get number of intervals", 1)
        found = [(round(asked(grid, "Get start time of interval", 1, i), 3),
                  asked(grid, "Get label of interval", 1, i)) for i in range(1, count + 1)]  # fmt: skip
        self.assertEqual(found, [(0.0, ""), (0.5, "hold"), (1.0, 'say "so"'), (1.5, "ü b"), (2.0, "")])
        self.assertEqual(asked(grid, "Get number of intervals", 2), 1)


class CuePointTest(FolderCase):
    def test_points_are_in_the_file_and_the_sound_is_as_without_them(self) -> None:
        """Multimedia Programming Interface 1.0, 1991: "cue " and the names in a LIST of type adtl."""
        samples = np.random.default_rng(3).integers(-3000, 3000, (2, 999)).astype(np.int32)
        plain, marked = self.folder / "plain.wav", self.folder / "marked.wav"
        write_wav(plain, samples, 44_100, bits=24)
        writer = WavWriter(marked, 44_100, 2, 999, bits=24, cues=[(400, "Ref"), (0, "Lanterns ü")])
        writer.write(samples)
        writer.close()
        np.testing.assert_array_equal(sf.read(plain)[0], sf.read(marked)[0])
        data = marked.read_bytes()
        at = data.index(b"cue ")
        size, count = struct.unpack_from("<II", data, at + 4)
        self.assertEqual((size, count), (4 + 24 * 2, 2))
        points = [struct.unpack_from("<II4sIII", data, at + 12 + 24 * i) for i in range(count)]
        self.assertEqual([(number, place) for number, *_rest, place in points], [(1, 0), (2, 400)])
        self.assertIn(b"labl" + struct.pack("<II", 4 + 12, 1) + "Lanterns ü\0".encode(), data)
        self.assertNotIn(b"cue ", plain.read_bytes())
