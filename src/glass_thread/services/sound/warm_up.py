"""Have the compiled kernels ready before the first edit needs them."""

from __future__ import annotations

import numpy as np

from ...core.analysis.analysis import analyse
from ...core.signal.prediction import read_on_at_ends
from ...core.synthesis.render import render_run, voiced_runs
from ...core.synthesis.voice.layout import lay_out, prepare_run


def warm_up() -> None:
    """Run everything that is compiled just in time once, on a short tone; the results are cached on disk."""
    rate = 16_000
    time = np.arange(int(0.8 * rate)) / rate
    phase = np.cumsum(np.where(time < 0.4, 200.0, 240.0)) / rate
    order = np.arange(1, 12)[:, np.newaxis]
    tone = 0.2 * (np.sin(2 * np.pi * order * phase) / order).sum(axis=0)
    found = analyse(tone, rate)
    read_on_at_ends(np.sin(order[:, 0].repeat(6) / 3.0), 9)
    correction = np.where(found.contour.voiced, 0.4, 0.0)
    for audio in (tone[np.newaxis], tone[np.newaxis].astype(np.float32)):
        analyse(audio, rate)
        for first, last in voiced_runs(found.contour):
            run = prepare_run(audio, rate, found.contour, first, last)
            render_run(audio, lay_out(run, rate, correction))
