"""Loudness and true peak of a track, or of a stretch of it, before and after the edits."""

from __future__ import annotations

from ...core.measure.loudness import Loudness, LoudnessMeter
from ...core.signal.validation import in_range
from ..session.desk import Desk, Standing


def track_loudness(
    desk: Desk, standing: Standing, begin_s: float = 0.0, end_s: float | None = None
) -> tuple[Loudness, Loudness]:
    """Loudness as sung and tuned, between two times in seconds of the track."""
    source = desk.sound.source(standing.track.audio_hash)
    rate, frames = source.sample_rate, source.frames
    last = frames if end_s is None else round(in_range(end_s, 0.0, 1e6, "The end (s)") * rate)
    first = round(in_range(begin_s, 0.0, 1e6, "The start (s)") * rate)
    meters = LoudnessMeter(rate, source.channels), LoudnessMeter(rate, source.channels)
    for block in desk.take(standing).blocks(first, last):
        meters[0].add(block.sung)
        meters[1].add(block.tuned)
    return meters[0].result(), meters[1].result()
