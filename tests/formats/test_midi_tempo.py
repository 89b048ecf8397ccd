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


def of_bytes(events: bytes) -> bytes:
    """A file of format 0 with the bytes of one track."""
    header = b"MThd" + bytes([0, 0, 0, 6, 0, 0, 0, 1, 1, 224])
    return header + b"MTrk" + len(events).to_bytes(4, "big") + events


class KeySignatureTest(unittest.TestCase):
    """Key signatures, FF 59 02 sf mi in Standard MIDI Files 1.0: sharps or flats, and major or minor."""

    def test_every_signature_of_the_standard(self) -> None:
        """Seven flats to seven sharps with their tonics, by the circle of fifths."""
        for sharps in range(-7, 8):
            for minor in (0, 1):
                event = bytes([0, 0xFF, 0x59, 2, sharps % 256, minor, 0, 0xFF, 0x2F, 0])
                data = (
                    b"MThd" + bytes([0, 0, 0, 6, 0, 0, 0, 1, 1, 224]) + b"MTrk" + len(event).to_bytes(4, "big") + event
                )
                found = read_midi_tempo(io.BytesIO(data))
                with self.subTest(sharps=sharps, minor=minor):
                    self.assertEqual(found.tonic, (7 * sharps + 9 * minor) % 12)
                    self.assertEqual(found.scale, "natural minor" if minor else "major")

    def test_changes_by_bar_and_beat(self) -> None:
        """By hand: two bars of 3/4, then 4/4; 480 ticks a quarter.  What changes nothing is no change."""
        meta = mido.MetaMessage
        data = written(
            meta("time_signature", numerator=3, denominator=4), meta("key_signature", key="Dm"),
            meta("key_signature", key="Dm", time=3 * 480), meta("key_signature", key="G", time=3 * 480),
            meta("time_signature", numerator=4, denominator=4), meta("key_signature", key="Eb"),
            meta("key_signature", key="Bbm", time=6 * 480 + 240),
        )  # fmt: skip
        found = read_midi_tempo(io.BytesIO(data))
        self.assertEqual((found.tonic, found.scale), (2, "natural minor"))
        changes = [(one.bar, one.beat, one.tonic, one.scale) for one in found.key_changes]
        self.assertEqual(changes, [(3, 1.0, 3, "major"), (4, 3.5, 10, "natural minor")])

    def test_a_key_that_is_none(self) -> None:
        event = bytes([0, 0xFF, 0x59, 2, 20, 0, 0, 0xFF, 0x2F, 0])
        with self.assertRaisesRegex(AudioError, "damaged"):
            read_midi_tempo(io.BytesIO(of_bytes(event)))


class BendTest(unittest.TestCase):
    """Pitch bend: 14 bits around 8192 over two semitones, or what registered parameter 0 says (MIDI 1.0)."""

    def notes(self, *messages: mido.Message) -> list[tuple[float, float, int, float]]:
        """Start and end in quarters, key and bend of what is read at 60 beats a minute."""
        tempo = mido.MetaMessage("set_tempo", tempo=1_000_000)
        found = read_midi_notes(io.BytesIO(written(tempo, *messages)))  # type: ignore[arg-type]
        return [(round(n.start_s, 3), round(n.end_s, 3), n.key, round(n.bend, 3)) for n in found]

    def test_two_semitones_unless_a_file_says_otherwise(self) -> None:
        on, bend = mido.Message("note_on", note=60, velocity=80), mido.Message("pitchwheel", pitch=4096)
        off = mido.Message("note_off", note=60, time=480)
        self.assertEqual(self.notes(on, off), [(0.0, 1.0, 60, 0.0)])
        self.assertEqual(self.notes(bend, on, off), [(0.0, 1.0, 60, 1.0)])
        said = [mido.Message("control_change", control=c, value=v) for c, v in ((101, 0), (100, 0), (6, 12))]
        self.assertEqual(self.notes(*said, bend, on, off), [(0.0, 1.0, 60, 6.0)])
        other = [mido.Message("control_change", control=c, value=v) for c, v in ((101, 0), (100, 1), (6, 12))]
        self.assertEqual(self.notes(*other, bend, on, off), [(0.0, 1.0, 60, 1.0)])  # another parameter

    def test_the_bend_that_holds_for_longest_counts(self) -> None:
        found = self.notes(
            mido.Message("pitchwheel", pitch=-8192), mido.Message("note_on", note=60, velocity=80),
            mido.Message("pitchwheel", pitch=2048, time=96), mido.Message("pitchwheel", pitch=0, time=288),
            mido.Message("note_off", note=60, time=96), mido.Message("note_on", note=64, velocity=80),
            mido.Message("note_off", note=64, time=480),
        )  # fmt: skip
        self.assertEqual(found, [(0.0, 1.0, 60, 0.5), (1.0, 2.0, 64, 0.0)])

    def test_channels_bend_alone_and_drums_are_no_notes(self) -> None:
        found = self.notes(
            mido.Message("pitchwheel", pitch=4096, channel=1), mido.Message("note_on", note=60, velocity=80, channel=0),
            mido.Message("note_on", note=64, velocity=80, channel=1),
            mido.Message("note_on", note=38, velocity=80, channel=9),
            mido.Message("note_off", note=60, channel=0, time=480), mido.Message("note_off", note=64, channel=1),
            mido.Message("note_off", note=38, channel=9),
        )  # fmt: skip
        self.assertEqual(found, [(0.0, 1.0, 60, 0.0), (0.0, 1.0, 64, 1.0)])
