"""Moments in a recording, in its track and in the song, and the one place that converts between them.

*Source* seconds count from the start of the recording, *track* seconds from there after the track's time map, *song*
seconds on the song's timeline: track seconds plus the track's offset.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from ..signal.signal_tools import mapped
from ..signal.types import Floats


@dataclass(frozen=True)
class TrackTimes:
    """Where the moments of a recording are heard.

    Attributes
    ----------
    offset_s : float
        Where the track's own zero lies in the song.
    source_s, track_s : tuple of float
        Anchors of the time map, increasing; straight between them, unstretched beyond.  None: nothing is moved.
    """

    offset_s: float = 0.0
    source_s: tuple[float, ...] = ()
    track_s: tuple[float, ...] = ()

    def source_to_track(self, source_s: ArrayLike) -> Floats:
        """Track seconds of moments of the recording."""
        return mapped(source_s, self.source_s, self.track_s)

    def track_to_source(self, track_s: ArrayLike) -> Floats:
        """Seconds in the recording of moments of the track."""
        return mapped(track_s, self.track_s, self.source_s)

    def track_to_song(self, track_s: ArrayLike) -> Floats:
        """Song seconds of moments of the track."""
        return np.asarray(track_s, dtype=np.float64) + self.offset_s

    def song_to_track(self, song_s: ArrayLike) -> Floats:
        """Track seconds of moments of the song."""
        return np.asarray(song_s, dtype=np.float64) - self.offset_s

    def source_to_song(self, source_s: ArrayLike) -> Floats:
        """Song seconds of moments of the recording."""
        return self.track_to_song(self.source_to_track(source_s))

    def song_to_source(self, song_s: ArrayLike) -> Floats:
        """Seconds in the recording of moments of the song."""
        return self.track_to_source(self.song_to_track(song_s))
