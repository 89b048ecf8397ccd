import unittest

import numpy as np
import scipy.linalg as sl
import soxr

from glass_thread.core.analysis.pitch.f0 import track_f0
from glass_thread.core.synthesis.render import render_whole
from glass_thread.demo.score import Performance, SungNote
from tests.kept import analyse, sing
from tests.signals import RATE

LPC_RATE = 10_000


def formants_lpc(audio: np.ndarray, start_s: float, end_s: float) -> np.ndarray:
    """Median of the two lowest resonances by linear prediction, order 12 at 10 kHz (J. Makhoul, "Linear prediction:
    a tutorial review", Proc. IEEE 63, 1975), pre-emphasis 0.97, frames of 40 ms."""
    x = soxr.resample(audio, RATE, LPC_RATE)
    x = np.append(x[0], x[1:] - 0.97 * x[:-1])
    found = []
    for at in np.arange(start_s, end_s - 0.04, 0.01):
        frame = x[int(at * LPC_RATE) : int((at + 0.04) * LPC_RATE)]
        frame = frame * np.hamming(len(frame))
        r = np.correlate(frame, frame, "full")[len(frame) - 1 : len(frame) + 12]
        a = sl.solve_toeplitz(r[:12] * np.append(1.0 + 1e-9, np.ones(11)), -r[1:13])
        roots = np.roots(np.append(1.0, a))
        roots = roots[(roots.imag > 0.01) & (np.abs(roots) > 0.85)]
        hz = np.sort(np.angle(roots)) * LPC_RATE / (2 * np.pi)
        hz = hz[hz > 200]
        if len(hz) >= 2:
            found.append(hz[:2])
    return np.median(np.array(found), axis=0)


class FormantShiftTest(unittest.TestCase):
    performance = Performance(2.0, (SungNote(0.4, 1.7, 45, "a"),), (), seed=3)
    audio = sing(performance, RATE).audio[np.newaxis]
    found = analyse(audio, RATE)

    def shifted(self, semitones: float) -> np.ndarray:
        formant = np.where(self.found.contour.voiced, semitones, 0.0)
        still = np.zeros_like(formant)
        return render_whole(self.audio, RATE, self.found.contour, still, formant=formant)

    def test_resonances_move_by_the_ratio_and_the_pitch_stays(self) -> None:
        before = formants_lpc(self.audio[0], 0.6, 1.5)
        pitch = track_f0(self.audio[0], RATE).midi[120:300]
        for semitones in (-3.0, 2.0, 4.0):
            out = self.shifted(semitones)[0]
            ratio = formants_lpc(out, 0.6, 1.5) / before
            with self.subTest(semitones=semitones):
                np.testing.assert_allclose(ratio, 2 ** (semitones / 12), rtol=0.05)
                self.assertLess(np.nanmax(np.abs(100 * (track_f0(out, RATE).midi[120:300] - pitch))), 2.0)

    def test_nothing_asked_is_the_source(self) -> None:
        np.testing.assert_array_equal(self.shifted(0.0), self.audio)
