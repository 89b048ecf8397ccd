"""A recording as levels and air are read from it: without what lies below every voice."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import scipy

from ..signal.types import Floats, Samples

BELOW_VOICES_HZ, STEADY_HZ, ORDER = 75.0, 20.0, 4
SETTLED_S = 0.4  # after which the filter has forgotten how it began


@dataclass(frozen=True)
class WithoutLows:
    """One line, read by slices like an array: steps, traffic, puffs of air and a constant offset taken out.

    Where a slice begins makes no difference.  A very low voice loses its fundamental, but hardly any of its level.
    """

    line: Samples
    sample_rate: int
    lowest_hz: float = BELOW_VOICES_HZ

    def __len__(self) -> int:
        return len(self.line)

    def __getitem__(self, part: slice) -> Floats:
        begin, end, _step = part.indices(len(self))
        first = max(0, begin - round(SETTLED_S * self.sample_rate))
        samples = np.asarray(self.line[first : max(begin, end)], dtype=np.float64)
        if len(samples) == 0:
            return samples
        sections, at_rest = self._high_pass
        state = at_rest * samples[0]  # an offset does not set in at the first sample
        return scipy.signal.sosfilt(sections, samples, zi=state)[0][begin - first :]

    @cached_property
    def _high_pass(self) -> tuple[Floats, Floats]:
        """Second-order sections, and their state where the same value has always been."""
        sections = scipy.signal.butter(ORDER, self.lowest_hz, "high", fs=self.sample_rate, output="sos")
        return sections, scipy.signal.sosfilt_zi(sections)
