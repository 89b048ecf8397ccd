import unittest

import numpy as np

from glass_thread.core.signal.errors import ParameterError
from glass_thread.core.signal.units import (
    db_to_gain,
    gain_to_db,
    hz_to_midi,
    midi_to_hz,
    parse_pitch,
    pitch_label,
    pitch_name,
)


class PitchUnitsTest(unittest.TestCase):
    def test_standard_tuning(self) -> None:
        # ISO 16:1975: A4 = 440 Hz; MIDI 1.0 gives it the number 69, middle C 60.
        self.assertAlmostEqual(float(hz_to_midi(440.0)), 69.0, places=12)
        # Equal-tempered middle C, 261.6256 Hz (value from memory of common tables).
        self.assertAlmostEqual(float(midi_to_hz(60.0)), 261.6256, places=4)

    def test_round_trip_and_nan(self) -> None:
        midi = np.array([0.0, 35.5, np.nan, 127.0])
        back = hz_to_midi(midi_to_hz(midi, 432.0), 432.0)
        np.testing.assert_allclose(back, midi, rtol=0, atol=1e-10)

    def test_levels(self) -> None:
        self.assertAlmostEqual(float(db_to_gain(-6.0206)), 0.5, places=5)
        self.assertAlmostEqual(float(gain_to_db(2.0)), 6.0206, places=4)
        self.assertEqual(float(gain_to_db(0.0)), -120.0)


class PitchTextTest(unittest.TestCase):
    def test_what_users_type(self) -> None:
        cases = {
            "F#4": 66, "f♯4": 66, "Gb4": 66, "C4": 60, "C-1": 0, "F#4 +8": 66.08, "F#4 −12": 65.88,
            "F#4-12c": 65.88, "A3 + 50 cents": 57.5, "66.08": 66.08, "440 Hz": 69, " b♭3 ": 58,
        }  # fmt: skip
        for text, wanted in cases.items():
            with self.subTest(text=text):
                self.assertAlmostEqual(parse_pitch(text), wanted, places=9)

    def test_hertz_follow_the_reference(self) -> None:
        self.assertAlmostEqual(parse_pitch("432 hz", 432.0), 69.0)

    def test_nonsense_is_refused_with_a_sentence(self) -> None:
        for text in ("", "H4", "F#", "loud", "nan", "inf", "F#4 ++8", "0 Hz", "-5 Hz"):
            with self.subTest(text=text), self.assertRaisesRegex(ParameterError, "not a pitch"):
                parse_pitch(text)
        for text in ("G10", "128", "-3", "1e9"):
            with self.subTest(text=text), self.assertRaises(ParameterError):
                parse_pitch(text)

    def test_names(self) -> None:
        self.assertEqual(pitch_name(66.4), "F♯4")
        self.assertEqual(pitch_name(66.4, flats=True), "G♭4")
        self.assertEqual(pitch_name(0), "C−1")
        self.assertEqual(pitch_label(65.88), "F♯4 −12")
        self.assertEqual(pitch_label(66.08), "F♯4 +8")
        self.assertEqual(pitch_label(66.0), "F♯4")
