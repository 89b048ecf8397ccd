import unittest
from dataclasses import replace

import numpy as np

from glass_thread.core.document.flags import abrupt_join, find_flags, level_flags, off_centre_limit, two_pitches
from glass_thread.core.signal.types import Contour, Note, Vibrato

PLAIN = Note("n", 0.0, 1.0, 60.0, 0.0, None, -20.0, 0)
CERTAIN = Contour(np.full(2000, 60.0), np.ones(2000))


def kinds(note: Note, target: float = 60.0, contour: Contour = CERTAIN) -> set[str]:
    others = [replace(PLAIN, id=f"o{i}", start_s=i + 1.0, end_s=i + 2.0) for i in range(4)]
    targets = {"n": target, **{o.id: 60.0 for o in others}}
    return {flag.kind for flag in find_flags([note, *others], targets, contour) if flag.note_id == "n"}


class FlagTest(unittest.TestCase):
    def test_a_good_note_has_none(self) -> None:
        self.assertEqual(kinds(PLAIN), set())
        self.assertEqual(find_flags([], {}, CERTAIN), ())

    def test_each_reason(self) -> None:
        cases = {
            "off centre": (replace(PLAIN, centre_midi=59.7), CERTAIN),
            "drifting": (replace(PLAIN, drift_cents_per_s=-45.0), CERTAIN),
            "wide vibrato": (replace(PLAIN, vibrato=Vibrato(5.5, 90.0, 0.1)), CERTAIN),
            "loud": (replace(PLAIN, level_db=-14.0), CERTAIN),
            "quiet": (replace(PLAIN, level_db=-30.0), CERTAIN),
            "uncertain pitch": (PLAIN, Contour(CERTAIN.midi, np.full(2000, 0.5))),
        }
        for kind, (note, contour) in cases.items():
            with self.subTest(kind):
                self.assertEqual(kinds(note, contour=contour), {kind})

    def test_two_pitches_in_one_note(self) -> None:
        t = np.arange(200) * 0.005
        held = np.where(t < 0.4, 60.0, 61.0)
        jitter = 0.05 * np.random.default_rng(1).standard_normal(200)
        self.assertAlmostEqual(two_pitches(held + jitter)[0], 100.0, delta=5.0)
        self.assertEqual(kinds(PLAIN, contour=Contour(np.tile(held, 10), np.ones(2000))), {"two pitches"})
        for name, midi in {
            "one": np.full(200, 60.0) + jitter,
            "drift": 60 + 1.5 * t,
            "vibrato": 60 + 0.9 * np.sin(2 * np.pi * 5 * t),
            "slow vibrato": 60 + 0.9 * np.sin(2 * np.pi * 2 * t),
            "scoop": 60 - 2 * np.exp(-t / 0.08),
            "short": held[:30],
            "unvoiced": np.full(200, np.nan),
        }.items():
            with self.subTest(name):
                self.assertEqual(two_pitches(midi)[0], 0.0)

    def test_the_reason_says_the_side(self) -> None:
        flat = find_flags([replace(PLAIN, centre_midi=59.6)], {"n": 60.0}, CERTAIN)[0]
        self.assertEqual(flat.reason, "40 cents flat")
        sharp = find_flags([replace(PLAIN, centre_midi=60.25)], {"n": 60.0}, CERTAIN)[0]
        self.assertEqual(sharp.reason, "25 cents sharp")

    def test_off_centre_is_measured_by_the_singer_and_the_length(self) -> None:
        self.assertEqual(off_centre_limit(0.3, 0.0), 15.0)  # a precise singer
        self.assertEqual(off_centre_limit(0.3, 12.0), 24.0)  # an uneven one
        self.assertEqual(off_centre_limit(0.3, 80.0), 28.0)  # however far off all is, an ear stops
        self.assertGreater(off_centre_limit(0.1, 12.0), off_centre_limit(0.5, 12.0))
        self.assertLess(off_centre_limit(2.0, 12.0), off_centre_limit(0.5, 12.0))
        rng = np.random.default_rng(3)
        off = rng.normal(0.0, 0.18, 120)  # 18 cents, as on an ordinary take
        notes = [replace(PLAIN, id=f"n{i}", start_s=float(i), end_s=i + 0.3, centre_midi=60.0 + o)
                 for i, o in enumerate(off)]  # fmt: skip
        flags = find_flags(
            notes, dict.fromkeys((n.id for n in notes), 60.0), Contour(np.full(30_000, 60.0), np.ones(30_000))
        )
        self.assertAlmostEqual(len(flags) / len(notes), 1 / 6, delta=0.06)
        marked = {flag.note_id for flag in flags}
        worst = sorted(range(120), key=lambda i: -abs(off[i]))[: len(marked)]
        self.assertEqual(marked, {f"n{i}" for i in worst})

    def test_levels_are_compared_within_the_phrase(self) -> None:
        soft = [replace(PLAIN, id=f"s{i}", start_s=float(i), end_s=i + 1.0, level_db=-35.0) for i in range(5)]
        loud = [replace(PLAIN, id=f"l{i}", start_s=i + 9.0, end_s=i + 10.0, phrase=1) for i in range(5)]
        self.assertEqual(level_flags([*soft, *loud]), {})
        odd = [replace(soft[0], level_db=-43.0), *soft[1:], *loud]
        self.assertEqual({i: flag.reason for i, flag in level_flags(odd).items()}, {"s0": "8 dB under the phrase"})

    def test_short_notes_do_not_drift(self) -> None:
        self.assertEqual(kinds(replace(PLAIN, end_s=0.3, drift_cents_per_s=80.0)), set())


class AbruptJoinTest(unittest.TestCase):
    def test_a_jump_of_the_correction_is_marked_and_a_soft_one_is_not(self) -> None:
        notes = [Note(f"n{i}", 0.5 * i, 0.5 * i + 0.5, 60.0, 0.0, None, -20.0, 0) for i in range(2)]
        hard = abrupt_join(*notes, -1.0, 20.0)
        assert hard is not None
        self.assertEqual((hard.note_id, hard.kind), ("n1", "abrupt join"))
        self.assertIsNone(abrupt_join(*notes, -1.0, 120.0))
        self.assertIsNone(abrupt_join(*notes, 0.0, 0.0))
