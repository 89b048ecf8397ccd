"""Names of intervals and factors of places, table by table; places are the same in a mix that is printed."""

import numpy as np

from glass_thread.services.mixing import pan_gains
from tests.web.modules import ModuleCase


class StackTest(ModuleCase):
    def test_intervals(self) -> None:
        """Names by semitones are those of any handbook of harmony."""
        for low, high, name in (
            (60.0, 60.2, "unison"),
            (60.0, 63.0, "minor third above"),
            (60.0, 64.1, "major third above"),
            (67.0, 60.0, "fifth below"),
            (60.0, 72.0, "octave above"),
            (72.0, 48.0, "2 octaves below"),
            (60.0, 76.0, "octave and major third above"),
            (60.4, 66.6, "tritone above"),
        ):
            self.assertEqual(self.call("intervals", "intervalName", low, high), name)

    def test_places(self) -> None:
        for pan in (-1.0, -0.4, 0.0, 0.25, 1.0):
            for channels in (1, 2):
                gains = self.call("pan", "panGains", pan, channels)
                np.testing.assert_allclose(gains, pan_gains(pan, channels), atol=1e-12)
            left, right = pan_gains(pan, 1)
            self.assertAlmostEqual(left**2 + right**2, 2.0)  # as loud wherever it is
        self.assertEqual(pan_gains(0.0, 2), (1.0, 1.0))
