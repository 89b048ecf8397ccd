"""Tempo, meter and key from Standard MIDI files."""

import io
import unittest

import mido
import numpy as np

from glass_thread.core.signal.errors import AudioError
from glass_thread.core.song.beats import Meter, TempoChange, grid_lines, moment_of, place_of, tempo_map
from glass_thread.formats.midi_notes import read_midi_notes
from glass_thread.formats.midi_tempo import read_midi_tempo

# The example of format 0 in "Standard MIDI Files 1.0" (MIDI Manufacturers Association, RP-001), from memory.
EXAMPLE = bytes.fromhex(
    "4D546864 00000006 0000 0001 0060 4D54726B 0000003B 00FF580404021808 00FF510307A120 00C005 00C12E 00C246 00923060"
    "003C60 60914340 60904C20 8140823040 003C40 00814340 00804C40 00FF2F00"
)


def written(*messages: mido.MetaMessage, others: tuple[mido.MetaMessage, ...] = ()) -> bytes:
    file = mido.MidiFile(type=1)
    for track in (messages, others):
        file.tracks.append(mido.MidiTrack(track))
    data = io.BytesIO()
    file.save(file=data)
    return data.getvalue()


class MidiTempoTest(unittest.TestCase):
    def read(self, data: bytes) -> tuple:
        found = read_midi_tempo(io.BytesIO(data))
        return found.tempo, found.beats_per_bar, found.beat_unit, found.tonic, found.scale, found.changes

    def test_the_standards_own_example(self) -> None:
        self.assertEqual(self.read(EXAMPLE), (120.0, 4, 4, None, None, ()))

    def test_notes_of_the_standards_own_example(self) -> None:
        """Four notes of three channels at 120 beats a minute, as the standard lists them beside its bytes."""
        wanted = [(0.0, 2.0, 48, 0.0), (0.0, 2.0, 60, 0.0), (0.5, 2.0, 67, 0.0), (1.0, 2.0, 76, 0.0)]
        self.assertEqual(read_midi_notes(io.BytesIO(EXAMPLE)), wanted)
        empty = written(mido.MetaMessage("marker", text="nothing"))
        for data, said in ((empty, "no notes"), (b"", "not a Standard MIDI"), (EXAMPLE[:30], "damaged|no notes"),
                           (b"\0" * ((4 << 20) + 1), "larger")):  # fmt: skip
            with self.assertRaisesRegex(AudioError, said):
                read_midi_notes(io.BytesIO(data))

    def test_markers_by_bar_and_beat_also_after_a_change_of_meter(self) -> None:
        """The bar and beat of each, worked out by hand: two bars of 3/4, then 4/4; 480 ticks a quarter."""
        meta = mido.MetaMessage
        data = written(
            meta("time_signature", numerator=3, denominator=4), meta("marker", text="Intro"),
            meta("set_tempo", tempo=400_000), meta("marker", text="Verse\n 1", time=3 * 480),
            meta("time_signature", numerator=4, denominator=4, time=3 * 480),
            meta("cue_marker", text="Breath", time=5 * 480 + 240), meta("marker", text="  ", time=10),
        )  # fmt: skip
        found = read_midi_tempo(io.BytesIO(data))
        places = [(one.bar, one.beat, one.text) for one in found.markers]
        self.assertEqual(places, [(1, 1.0, "Intro"), (2, 1.0, "Verse 1"), (4, 2.5, "Breath")])
        meters = tempo_map(Meter(0.5, found.tempo, found.beats_per_bar, found.beat_unit), list(found.changes))
        # mido's own sum of ticks: six quarters at 400 ms, then 5.5 more
        self.assertAlmostEqual(moment_of(meters, 4, 2.5), 0.5 + 11.5 * 0.4)
        for at_s in (0.5, 1.3, 4.9, 77.0):
            self.assertAlmostEqual(moment_of(meters, *place_of(meters, at_s)), at_s, places=5)
        alone = read_midi_tempo(io.BytesIO(written(meta("marker", text="Only this"))))
        self.assertEqual((alone.tempo, len(alone.markers)), (120.0, 1))

    def test_keys_and_changes(self) -> None:
        meta = mido.MetaMessage
        data = written(
            meta("time_signature", numerator=6, denominator=8), meta("set_tempo", tempo=mido.bpm2tempo(93)),
            meta("set_tempo", tempo=600_000, time=960), meta("time_signature", numerator=3, denominator=4),
            others=(meta("key_signature", key="Ebm"),),
        )  # fmt: skip
        later = (TempoChange(1, 100.0, 6, 8, beat=5), TempoChange(2, 100.0, 3, 4))
        self.assertEqual(self.read(data), (93.0, 6, 8, 3, "natural minor", later))
        keys = (("C", 0, "major"), ("F#", 6, "major"), ("Cb", 11, "major"), ("A#m", 10, "natural minor"))
        for key, tonic, scale in keys:
            self.assertEqual(self.read(written(meta("key_signature", key=key)))[3:5], (tonic, scale))

    def test_bars_after_changes_lie_where_the_ticks_of_the_file_say(self) -> None:
        """Seconds by ticks and microseconds a quarter note (Standard MIDI Files 1.0), which the library adds up too."""
        meta, ticks = mido.MetaMessage, 480
        data = written(
            meta("time_signature", numerator=4, denominator=4), meta("set_tempo", tempo=600_000),
            meta("set_tempo", tempo=400_000, time=4 * ticks * 2 + ticks),  # bar 3, beat 2
            meta("time_signature", numerator=3, denominator=8, time=3 * ticks),  # bar 4
            meta("set_tempo", tempo=800_000, time=3 * ticks // 2 * 2),  # bar 6
            meta("marker", text="bar 7", time=3 * ticks // 2),
        )  # fmt: skip
        found = read_midi_tempo(io.BytesIO(data))
        meters = tempo_map(Meter(0.0, found.tempo, found.beats_per_bar, found.beat_unit), found.changes)
        self.assertEqual([(m.bar, m.passed) for m in meters], [(1, 0), (3, 1), (4, 0), (6, 0)])
        whole = mido.MidiFile(file=io.BytesIO(data)).length
        np.testing.assert_allclose(grid_lines(meters, "bar", 0.0, 60.0)[6], whole, atol=1e-3)

    def test_what_is_no_midi_file_gets_a_sentence(self) -> None:
        rng = np.random.default_rng(8)
        bad = [b"", b"RIFF", EXAMPLE[:30], b"MThd" + bytes(200), bytes(5 << 20), rng.bytes(400)]
        bad += [EXAMPLE[:i] + rng.bytes(1) + EXAMPLE[i + 1 :] for i in range(22)]
        refused = 0
        for data in bad:
            try:
                self.assertTrue(20 <= read_midi_tempo(io.BytesIO(data)).tempo <= 400)
            except AudioError as error:
                refused += 1
                self.assertTrue(str(error).endswith("."), error)
        self.assertGreater(refused, 8)

    def test_what_cannot_be_used_is_said(self) -> None:
        meta = mido.MetaMessage
        for message in (meta("set_tempo", tempo=16_000_000), meta("time_signature", numerator=4, denominator=64)):
            with self.assertRaisesRegex(AudioError, "can be used"):
                self.read(written(message))
        with self.assertRaisesRegex(AudioError, "says nothing"):
            self.read(written(meta("text", text="la")))
