"""Temperaments against handbook values, Scala files against the format's own examples, keys that change."""

import json
import unittest

import numpy as np

from glass_thread.core.signal.errors import AudioError, ParameterError
from glass_thread.core.signal.types import Note
from glass_thread.core.signal.units import midi_to_hz
from glass_thread.core.song.keys import KeyMap, Temper, make_tuning, parse_key
from glass_thread.core.song.temperaments import TEMPERAMENTS
from glass_thread.formats.plain_data import keys_from_data, keys_to_data
from glass_thread.formats.scala import read_mapping, read_scale, text_of

# Cents above the tonic.  Just: H. Helmholtz, translated by A. J. Ellis, "On the Sensations of Tone", 1885, appendix XX,
# table of intervals; Pythagorean and quarter-comma meantone: J. M. Barbour, "Tuning and Temperament", 1951 (values from
# memory, rounded to hundredths).
HANDBOOK = {
    "just": (0, 111.73, 203.91, 315.64, 386.31, 498.04, 590.22, 701.96, 813.69, 884.36, 1017.60, 1088.27),
    "pythagorean": (0, 90.22, 203.91, 294.13, 407.82, 498.04, 611.73, 701.96, 792.18, 905.87, 996.09, 1109.78),
    "meantone": (0, 117.11, 193.16, 310.26, 386.31, 503.42, 579.47, 696.58, 813.69, 889.74, 1006.84, 1082.89),
}
# The example of the Scala archive's description of the file format (from memory): P. Aaron's temperament of 1523.
AARON = """! meanquar.scl
!
1/4-comma meantone scale. Pietro Aaron's temperament (1523)
 12
!
 76.04900
 193.15686
 310.26471
 5/4
 503.42157
 579.47057
 696.57843
 25/16
 889.73529
 1006.84314
 1082.89214
 2/1
"""
NINETEEN = "! 19.scl\n!\n19 equal steps\n 19\n!\n" + "".join(f" {1200 * k / 19:.6f}\n" for k in range(1, 19)) + " 2/1\n"
WHITE_KEYS = "! white.kbm\n12\n0\n127\n60\n69\n440.0\n7\n0\nx\n1\nx\n2\n3\nx\n4\nx\n5\nx\n6\n"
DIATONIC = "just\n7\n9/8\n5/4\n4/3\n3/2\n5/3\n15/8\n2/1\n"


def scala(scl: str, kbm: str | None = None) -> Temper:
    return Temper("scala", read_scale(scl), read_mapping(kbm) if kbm else None)


class HandbookTest(unittest.TestCase):
    def test_reference_pitch(self) -> None:
        """ISO 16:1975: the A in the treble stave has 440 Hz."""
        tuning = make_tuning(0, "chromatic")
        self.assertEqual(float(midi_to_hz(tuning.typed("A4"))), 440.0)

    def test_equal_temperament(self) -> None:
        """Frequencies in Hz as any handbook of acoustics prints them for A4 = 440 Hz (values from memory)."""
        tuning = make_tuning(0, "chromatic")
        for name, hertz in (("C4", 261.63), ("D4", 293.66), ("E4", 329.63), ("F#4", 369.99), ("Bb3", 233.08)):
            self.assertAlmostEqual(float(midi_to_hz(tuning.typed(name))), hertz, delta=0.005, msg=name)

    def test_steps_in_cents(self) -> None:
        for name, cents in HANDBOOK.items():
            with self.subTest(name):
                np.testing.assert_allclose(100 * np.array(TEMPERAMENTS[name]), cents, atol=0.006)

    def test_the_syntonic_comma(self) -> None:
        """81 to 80 lies between the Pythagorean and the just third: 21.51 cents (Helmholtz and Ellis, appendix XX)."""
        third = 4
        comma = TEMPERAMENTS["pythagorean"][third] - TEMPERAMENTS["just"][third]
        self.assertAlmostEqual(100 * comma, 21.506, places=2)

    def test_just_d_major_in_hertz(self) -> None:
        """With A4 = 440 Hz: ratios 1, 9/8, 5/4, 4/3, 3/2, 5/3, 15/8 above D, by hand."""
        tuning = parse_key("D major", temper=Temper("just"))
        d = 440.0 * 2 / 3
        wanted = [d, d * 9 / 8, d * 5 / 4, d * 4 / 3, d * 3 / 2, d * 5 / 3, d * 15 / 8]
        lines = [line for line in tuning.lines if line.allowed and 61.5 < line.midi < 73.5]
        np.testing.assert_allclose(midi_to_hz([line.midi for line in lines]), wanted, rtol=1e-9)
        self.assertEqual([line.name for line in lines], ["D4", "E4", "F♯4", "G4", "A4", "B4", "C♯5"])
        self.assertEqual([line.degree for line in lines], [1, 2, 3, 4, 5, 6, 7])

    def test_the_reference_note_keeps_its_pitch(self) -> None:
        """Whatever the tonic; 256 Hz for C4 is the scientific pitch of the books on acoustics."""
        for name in TEMPERAMENTS:
            for tonic in range(12):
                for key, hertz, typed in ((69, 442.0, "A4"), (60, 256.0, "C4"), (64, 330.0, "E4")):
                    tuning = make_tuning(tonic, "major", temper=Temper(name, reference_key=key, reference_hz=hertz))
                    with self.subTest(name=name, tonic=tonic, key=key):
                        self.assertAlmostEqual(float(midi_to_hz(tuning.typed(typed))), hertz, places=9)

    def test_a_reference_that_cannot_be(self) -> None:
        for key, hertz in ((69, 300.0), (60, 440.0), (60, 0.0), (128, 440.0), (69, float("nan"))):
            with self.subTest(key=key, hertz=hertz), self.assertRaises(ParameterError):
                make_tuning(0, "major", temper=Temper(reference_key=key, reference_hz=hertz))
        with self.assertRaisesRegex(ParameterError, "not a tuning we know"):
            make_tuning(0, "major", temper=Temper("well"))


class ScalaTest(unittest.TestCase):
    def test_the_example_of_the_format(self) -> None:
        scale = read_scale(AARON)
        self.assertEqual(scale.title, "1/4-comma meantone scale. Pietro Aaron's temperament (1523)")
        own, ours = (0.0, *scale.heights[:-1]), TEMPERAMENTS["meantone"]
        sharps = {1, 8}  # C♯ and G♯ where our chain goes on to D♭ and A♭
        np.testing.assert_allclose([own[i] for i in range(12) if i not in sharps],
                                   [ours[i] for i in range(12) if i not in sharps], atol=1e-6)  # fmt: skip
        diesis = 12.0 * np.log2(128 / 125)
        np.testing.assert_allclose([ours[i] - own[i] for i in sharps], diesis, atol=1e-6)

    def test_valid_lines_of_the_description(self) -> None:
        """What the description lists as valid pitch lines (from memory), in cents."""
        for line, cents in (
            ("81/64", 407.82), ("408.0", 408.0), ("408.", 408.0), ("5", 2786.31), ("-5.0", -5.0), ("10/20", -1200.0),
            ("100.0 cents", 100.0), ("100.0 C#", 100.0), ("5/4   E\\", 386.31), (" 2/1 ! octave", 1200.0),
        ):  # fmt: skip
            with self.subTest(line):
                scale = read_scale(f"title\n2\n{line}\n9000.0\n")
                self.assertAlmostEqual(100 * scale.heights[0], cents, places=2)

    def test_an_empty_title_and_other_line_ends(self) -> None:
        self.assertEqual(read_scale("! x\r\n\r\n 1 \r\n! y\r\n2\r\nrest is ignored\r\n").heights, (12.0,))

    def test_malformed_scales_name_the_line(self) -> None:
        for text, words in (
            ("", "ends before its description"), ("title", "ends before the number"),
            ("title\nseven\n", "Line 2, “seven”: the number of notes"), ("title\n0\n", "from 1 to 2048"),
            ("! c\ntitle\n2\n3/2\n", "ends before note 2 of 2"), ("! c\ntitle\n1\n! c\nfifth\n", "Line 5, “fifth”"),
            ("t\n1\n3/-2\n", "Line 3"), ("t\n1\n0/1\n", "above 0"), ("t\n1\n-3/2\n", "above 0"),
            ("t\n1\n.\n", "Line 3"),
            ("t\n1\n1e9\n", "Line 3"), ("t\n1\n99999999.0\n", "too far"), ("t\n1\n0.0\n", "must lie above 1/1"),
            ("t\n1\n" + "9" * 50 + "/1\n", "two whole numbers"), ("t\n99999999999\n", "Line 2"),
        ):  # fmt: skip
            with self.subTest(text=text[:30]), self.assertRaisesRegex(AudioError, words):
                read_scale(text)

    def test_malformed_mappings_name_the_line(self) -> None:
        good = WHITE_KEYS.split("\n")
        self.assertEqual(read_mapping(WHITE_KEYS).degrees[:4], (0, None, 1, None))
        for line, text, words in (
            (1, "twelve", "Line 2, “twelve”: the size"), (4, "999", "Line 5, “999”: the middle key"),
            (6, "A", "Line 7, “A”: the reference frequency"), (6, "-3", "1 to 20000"), (7, "0", "octave is 0"),
            (9, "y", "Line 10, “y”: a degree"), (3, "-1", "Line 4, “-1”: the last key"),
        ):  # fmt: skip
            with self.subTest(text), self.assertRaisesRegex(AudioError, words):
                read_mapping("\n".join([*good[:line], text, *good[line + 1 :]]))
        with self.assertRaisesRegex(AudioError, "its last key, 40, lies before its first, 60"):
            read_mapping("\n".join([*good[:2], "60", "40", *good[4:]]))
        with self.assertRaisesRegex(AudioError, "ends before the reference frequency"):
            read_mapping("\n".join(good[:6]))

    def test_what_is_no_text(self) -> None:
        with self.assertRaisesRegex(AudioError, "not a text"):
            text_of(b"\0\1\2", "scale file")
        with self.assertRaisesRegex(AudioError, "larger than"):
            text_of(b"x" * (300 << 10), "scale file")
        self.assertEqual(text_of("Ümlaut".encode("latin-1"), "scale file"), "Ümlaut")


class OtherStepsTest(unittest.TestCase):
    """Tunings that are not of twelve."""

    def test_nineteen_steps_round_as_a_table_by_hand_says(self) -> None:
        """A step is 63.158 cents; 1/1 on D4 = 62."""
        tuning = make_tuning(2, "chromatic", temper=scala(NINETEEN))
        for sung, step in ((62.0, 0), (62.31, 0), (62.33, 1), (63.0, 2), (64.4, 4), (65.9, 6), (73.9, 19), (61.5, -1)):
            with self.subTest(sung):
                self.assertAlmostEqual(tuning.nearest(sung, "scale"), 62 + step * 12 / 19, places=5)
        self.assertEqual([tuning.name(62 + k * 12 / 19) for k in (0, 6, 18, 19, -1)],
                         ["1°4", "7°4", "19°4", "1°5", "19°3"])  # fmt: skip
        self.assertAlmostEqual(tuning.stepped(62.0, 3, "semitone"), 62 + 36 / 19, places=5)

    def test_names_are_typed_back(self) -> None:
        for temper, scale in (
            (scala(NINETEEN), "chromatic"),
            (Temper("just"), "major"),
            (Temper("meantone"), "dorian"),
        ):
            tuning = make_tuning(2, scale, temper=temper)
            for line in tuning.lines[30:90]:
                self.assertAlmostEqual(tuning.typed(line.name.replace("°", "d")), line.midi, places=9)
                self.assertAlmostEqual(tuning.typed(tuning.label(line.midi - 0.12)), line.midi - 0.12, places=6)

    def test_typed_wrongly(self) -> None:
        tuning = make_tuning(2, "chromatic", temper=scala(NINETEEN))
        for text, words in (
            ("20°4", "steps 1 to 19"),
            ("0d4", "steps 1 to 19"),
            ("x", "not a pitch"),
            ("19°9", "between"),
        ):
            with self.subTest(text), self.assertRaisesRegex(ParameterError, words):
                tuning.typed(text)
        self.assertAlmostEqual(tuning.typed("E4 +7"), 64.07)  # equal-tempered names still say where

    def test_steps_of_ones_own(self) -> None:
        tuning = make_tuning(0, "custom", classes=[0, 5, 11], temper=scala(NINETEEN))
        self.assertEqual(sorted({line.degree for line in tuning.lines}), [0, 1, 2, 3])
        self.assertAlmostEqual(tuning.nearest(64.0, "scale"), 60 + 5 * 12 / 19, places=5)
        with self.assertRaisesRegex(ParameterError, "from 0 to 18"):
            make_tuning(0, "custom", classes=[19], temper=scala(NINETEEN))
        with self.assertRaisesRegex(ParameterError, "What works with it: every step"):
            make_tuning(0, "major", temper=scala(NINETEEN))

    def test_a_period_that_is_no_octave(self) -> None:
        """Thirteen equal steps of the twelfth, 146.3 cents each."""
        twelfth = 12 * np.log2(3)
        text = "t\n13\n" + "".join(f"{100 * twelfth * k / 13:.6f}\n" for k in range(1, 13)) + "3/1\n"
        tuning = make_tuning(0, "chromatic", temper=scala(text))
        self.assertAlmostEqual(tuning.nearest(60 + twelfth, "scale"), 60 + twelfth, places=5)
        self.assertEqual(tuning.name(60 + twelfth), "1°5")
        self.assertAlmostEqual(tuning.nearest(61.5, "scale"), 60 + twelfth / 13, places=5)

    def test_too_many_steps(self) -> None:
        text = "t\n200\n" + "".join(f"{6.0 * k:.2f}\n" for k in range(1, 201))
        with self.assertRaisesRegex(ParameterError, "at most 120 steps"):
            make_tuning(0, "chromatic", temper=scala(text))

    def test_a_keyboard_mapping(self) -> None:
        """White keys alone play; A4, the sixth degree, has 440 Hz, so 1/1 has 264 Hz (by hand)."""
        tuning = make_tuning(5, "chromatic", temper=scala(DIATONIC, WHITE_KEYS))
        self.assertAlmostEqual(float(midi_to_hz(tuning.steps.pitch_of(60))), 264.0, places=9)
        self.assertAlmostEqual(float(midi_to_hz(tuning.steps.pitch_of(67))), 396.0, places=9)
        self.assertAlmostEqual(float(midi_to_hz(tuning.steps.pitch_of(72))), 528.0, places=9)
        self.assertIsNone(tuning.steps.pitch_of(61))
        self.assertEqual(
            [tuning.key_of(float(tuning.steps.pitch_of(key))) for key in (48, 60, 64, 71)], [48, 60, 64, 71]
        )

    def test_a_mapping_of_twelve_is_named_as_keys_are(self) -> None:
        degrees = "\n".join(str(i) for i in range(12))
        kbm = f"12\n0\n127\n60\n60\n260.0\n12\n{degrees}\n"
        tuning = make_tuning(0, "major", temper=scala(AARON, kbm))
        self.assertAlmostEqual(float(midi_to_hz(tuning.typed("C4"))), 260.0, places=9)
        self.assertAlmostEqual(float(midi_to_hz(tuning.typed("E4"))), 325.0, places=6)
        self.assertEqual(tuning.name(tuning.typed("E4")), "E4")

    def test_a_mapping_that_cannot_be(self) -> None:
        nothing = WHITE_KEYS.replace("\n0\nx\n1\nx\n2\n3\nx\n4\nx\n5\nx\n6\n", "\n" + "x\n" * 12)
        for kbm, words in (
            (nothing, "no key that plays"),
            (WHITE_KEYS.replace("\n69\n", "\n61\n"), "reference key 61"),
            (WHITE_KEYS.replace("\n5\nx\n6\n", "\n5\nx\n11\n"), "degree 11, and the scale has 7"),
        ):
            with self.subTest(words), self.assertRaisesRegex(ParameterError, words):
                make_tuning(0, "chromatic", temper=scala(DIATONIC, kbm))


class KeyMapTest(unittest.TestCase):
    def test_a_note_has_the_key_in_which_it_has_settled(self) -> None:
        keys = KeyMap((parse_key("D minor"), parse_key("E major")), (10.0,))
        for start_s, length_s, first in ((9.0, 0.5, True), (9.8, 0.5, True), (9.95, 0.5, False), (9.93, 0.1, True),
                                         (9.96, 0.1, False), (10.0, 3.0, False)):  # fmt: skip
            note = Note("n", start_s, start_s + length_s, 60.0, 0.0, None, -20.0, 0)
            with self.subTest(start_s=start_s, length_s=length_s):
                self.assertIs(keys.of(note), keys.tunings[0 if first else 1])

    def test_as_plain_data_and_back(self) -> None:
        keys = KeyMap((make_tuning(2, "chromatic", temper=scala(NINETEEN)), parse_key("E major")), (10.0,))
        again = keys_from_data(json.loads(json.dumps(keys_to_data(keys))))
        self.assertEqual(again, keys)
        self.assertEqual(hash(again), hash(keys))
