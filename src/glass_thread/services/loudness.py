"""Loudness and true peak of a track, or of a stretch of it, before and after the edits."""

from __future__ import annotations

from ..core.measure.loudness import Loudness, LoudnessMeter
from ..core.signal.validation import in_range
from .documents import TrackDocument
from .print import blocks
from .tuned_sound import TunedSound


def track_loudness(
    sound: TunedSound, document: TrackDocument, begin_s: float = 0.0, end_s: float | None = None
) -> tuple[Loudness, Loudness]:
    """Loudness as sung and tuned, between two times in seconds of the track."""
    source = sound.source(document.track.audio_hash)
    rate, (channels, frames) = source.info.sample_rate, source.audio.shape
    last = frames if end_s is None else round(in_range(end_s, 0.0, 1e6, "The end (s)") * rate)
    first = round(in_range(begin_s, 0.0, 1e6, "The start (s)") * rate)
    meters = LoudnessMeter(rate, channels), LoudnessMeter(rate, channels)
    for begin, sung, tuned in blocks(sound, document, first, min(last, frames)):
        del begin
        meters[0].add(sung)
        meters[1].add(tuned)
    return meters[0].result(), meters[1].result()
