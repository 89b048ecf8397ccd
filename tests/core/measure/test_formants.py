import unittest

import numpy as np
import scipy

from glass_thread.core.measure.formants import formants

# Mean formants of men's vowels in Hz: G. E. Peterson, H. L. Barney, "Control methods used in a study of the vowels",
# JASA 24, 1952, table II (from memory): heed, had, hawed, who'd.
PETERSON_BARNEY = ((270, 2290, 3010), (660, 1720, 2410), (570, 840, 2410), (300, 870, 2240))
RATE = 44_100


def vowel(hertz: tuple[float, ...], pitch_hz: float = 110.0) -> np.ndarray:
    """Pulses through resonators of 60 Hz width."""
    sound = np.zeros(RATE)
    sound[:: round(RATE / pitch_hz)] = 1.0
    sound = scipy.signal.lfilter([1.0], [1.0, -0.97], sound)
    for centre in (*hertz, 3500.0, 4500.0):
        radius, angle = np.exp(-np.pi * 60.0 / RATE), 2.0 * np.pi * centre / RATE
        sound = scipy.signal.lfilter([1.0 - radius], [1.0, -2.0 * radius * np.cos(angle), radius**2], sound)
    return sound


class FormantsTest(unittest.TestCase):
    def test_vowels_of_a_handbook(self) -> None:
        times = np.arange(0.2, 0.8, 0.01)
        for hertz in PETERSON_BARNEY:
            with self.subTest(hertz):
                found = np.nanmedian(formants(vowel(hertz), RATE, times), axis=0)
                np.testing.assert_allclose(found, hertz, rtol=0.06, atol=20)  # it leans to harmonics near by

    def test_silence_has_none(self) -> None:
        found = formants(np.zeros(RATE), RATE, np.array([0.1, 0.5]))
        self.assertEqual(found.shape, (2, 3))
        self.assertTrue(np.isnan(found).all())
