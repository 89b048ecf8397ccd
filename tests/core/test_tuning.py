import unittest

from glass_thread.core.signal.errors import ParameterError
from glass_thread.core.signal.scale_steps import SCALES
from glass_thread.core.song.keys import make_tuning, parse_key

D_MINOR = make_tuning(2, "natural minor")


class KeyTest(unittest.TestCase):
    def test_known_scales(self) -> None:
        self.assertEqual(make_tuning(0, "major").classes, (0, 2, 4, 5, 7, 9, 11))
        self.assertEqual(parse_key("F# minor").classes, (1, 2, 4, 6, 8, 9, 11))
        self.assertEqual(parse_key("Bb major").tonic, 10)
        self.assertEqual(parse_key("d dorian").scale, "dorian")
        # The church modes are rotations of the major scale.
        for steps, mode in ((2, "dorian"), (4, "phrygian"), (5, "lydian"), (7, "mixolydian"), (11, "locrian")):
            self.assertEqual(make_tuning(steps, mode).classes, make_tuning(0, "major").classes, mode)

    def test_spelling_follows_the_key(self) -> None:
        self.assertTrue(make_tuning(5, "major").flats)
        self.assertTrue(D_MINOR.flats)
        self.assertFalse(make_tuning(9, "major").flats)

    def test_bad_keys(self) -> None:
        for text in ("", "H minor", "C## major", "C blue"):
            with self.subTest(text=text), self.assertRaises(ParameterError):
                parse_key(text)
        with self.assertRaisesRegex(ParameterError, "380 and 500"):
            make_tuning(0, "major", reference_hz=1000)
        with self.assertRaises(ParameterError):
            make_tuning(0, "custom", classes=[])
        with self.assertRaises(ParameterError):
            make_tuning(0, "custom", classes=[12])


class RoundingTest(unittest.TestCase):
    def test_a_flat_scale_note_goes_to_the_scale_side(self) -> None:
        sung = 71.4  # C5 60 cents flat; B is not in D minor
        self.assertEqual(D_MINOR.nearest(sung, "semitone"), 71.0)
        self.assertEqual(D_MINOR.nearest(sung, "scale"), 72.0)
        self.assertEqual(D_MINOR.nearest(sung, "free"), sung)

    def test_near_ties_go_with_the_neighbours(self) -> None:
        between = 68.02  # between G4 and A4 in D minor
        self.assertEqual(D_MINOR.nearest(between, "scale", neighbours=[65, 64]), 67.0)
        self.assertEqual(D_MINOR.nearest(between, "scale", neighbours=[72, 74]), 69.0)

    def test_reference_pitch_moves_the_grid(self) -> None:
        low = make_tuning(2, "natural minor", reference_hz=432.0)
        self.assertAlmostEqual(low.nearest(62.0, "scale"), 62 + low.offset)
        self.assertLess(low.offset, -0.3)

    def test_steps(self) -> None:
        self.assertEqual(D_MINOR.stepped(69.0, 1, "scale"), 70.0)
        self.assertEqual(D_MINOR.stepped(69.0, 2, "scale"), 72.0)
        self.assertEqual(D_MINOR.stepped(69.4, -1, "scale"), 69.0)
        self.assertEqual(D_MINOR.stepped(69.0, -1, "semitone"), 68.0)
        self.assertAlmostEqual(D_MINOR.stepped(69.0, 1, "free"), 69.1)

    def test_every_scale_rounds_onto_itself(self) -> None:
        for name in SCALES:
            key = make_tuning(7, name)
            for midi in range(48, 72):
                self.assertIn(int(key.nearest(midi + 0.3, "scale")) % 12, key.classes)
