"""A recording with pieces laid over it: slices of one whole, fades, layers, and what is its own."""

import unittest

import numpy as np

from glass_thread.core.signal.recording import held
from glass_thread.core.synthesis.laid_in import LaidIn, Piece

RATE = 8000


def piece(begin: int, value: float, length: int = 400, fades: tuple[int, int] = (40, 60), name: str = "p") -> Piece:
    return Piece(begin, np.full((1, length), value), *fades, ("equal gain", "equal gain"), name)


class LaidInTest(unittest.TestCase):
    def setUp(self) -> None:
        self.base = held(np.zeros((1, 2000)) + 0.25, RATE)

    def test_the_middle_is_the_piece_and_the_rest_the_recording(self) -> None:
        out = LaidIn(self.base, [piece(500, 0.75)]).read(0, 2000)[0]
        self.assertTrue((out[:500] == 0.25).all() and (out[900:] == 0.25).all())
        self.assertTrue((out[540:840] == 0.75).all())
        self.assertTrue((np.diff(out[500:540]) > 0).all() and (np.diff(out[840:900]) < 0).all())
        self.assertLess(np.abs(np.diff(out)).max(), 0.02)

    def test_any_slice_is_one_of_the_whole(self) -> None:
        laid = LaidIn(self.base, [piece(300, 0.5), piece(650, -0.5, name="q")])
        whole = laid.read(0, 2000)
        rng = np.random.default_rng(2)
        for _ in range(60):
            a, b = sorted(int(at) for at in rng.integers(0, 2001, 2))
            np.testing.assert_array_equal(laid.read(a, b), whole[:, a:b])

    def test_the_later_lies_over_the_earlier(self) -> None:
        out = LaidIn(self.base, [piece(300, 0.5), piece(600, -0.5, name="q")]).read(0, 2000)[0]
        self.assertTrue((out[340:600] == 0.5).all())
        self.assertTrue((out[640:940] == -0.5).all())

    def test_what_is_its_own(self) -> None:
        laid = LaidIn(self.base, [piece(500, 0.75)])
        own = laid.own(450, 950)[0]
        self.assertTrue(np.isnan(own[50:450]).all())
        self.assertTrue((own[:50] == 0.25).all() and (own[450:] == 0.25).all())
        self.assertEqual([one.name for one in laid.over(0, 500)], [])
        self.assertEqual([one.name for one in laid.over(0, 501)], ["p"])

    def test_the_recording_is_not_written_to(self) -> None:
        LaidIn(self.base, [piece(0, 1.0)]).read(0, 800)
        self.assertTrue((self.base.read(0, 2000) == 0.25).all())
