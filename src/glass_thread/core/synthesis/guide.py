"""A soft tone that plays a melody along with the voice."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..signal.signal_tools import smoothstep
from ..signal.types import Floats
from ..signal.units import midi_to_hz

LEVEL = 0.16  # of full scale, so that it lies under a voice; common practice, no source
_PARTIALS = (1.0, 0.3)
_RAMP_S = 0.025


def guide_tone(notes: Sequence[tuple[float, float, float]], begin: int, end: int, sample_rate: int) -> Floats:
    """Samples [begin, end) of a tone for each note, (start s, end s, MIDI pitch); shape (end - begin,).

    Each tone begins at the phase 0, so that neighbouring spans fit together to the sample.
    """
    out = np.zeros(end - begin)
    for start_s, end_s, midi in notes:
        low, high = max(begin, round(start_s * sample_rate)), min(end, round(end_s * sample_rate))
        if high <= low:
            continue
        at = np.arange(low, high) / sample_rate - start_s
        ramp = min(_RAMP_S, (end_s - start_s) / 2.0)
        level = smoothstep(np.clip(at / ramp, 0.0, 1.0)) * smoothstep(np.clip((end_s - start_s - at) / ramp, 0.0, 1.0))
        turn = 2.0 * np.pi * float(midi_to_hz(midi)) * at
        wave = sum(share * np.sin(n * turn) for n, share in enumerate(_PARTIALS, 1))
        out[low - begin : high - begin] += LEVEL * level * wave
    return out
