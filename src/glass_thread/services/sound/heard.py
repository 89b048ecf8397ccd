"""What is heard in the kept recordings around a voice: remembered by recording, worked out when it is first wanted."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...core.alignment.timbre import performance, timbre
from ...core.analysis.analysis import scan
from ...core.document.surroundings import Surroundings
from ...core.signal.recording import Mono
from ...core.signal.types import Analysis, Floats
from ...core.song.beats import Meter
from ...core.song.chroma import HARMONY_HOP_S, chroma, harmony
from ...core.song.harmony.chords import HeardChord
from ...core.song.harmony.hearing import hear_chords
from ...core.song.onsets import onsets_of
from ...core.song.tempo import TempoEstimate, estimate_tempo
from ...store.byte_cache import ByteCache
from .sound import Sound

CHROMA_BYTES, ROWS_BYTES, TIMBRE_BYTES = 1 << 16, 8 << 20, 96 << 20


class Setting(NamedTuple):
    """What a track is heard against, by name: the first bar and its length in seconds, once a tempo was chosen, and the
    backing with where it begins, all on the track's own clock."""

    bar_s: tuple[float, float] | None = None
    backing: str | None = None
    begins_s: float = 0.0
    reference_hz: float = 440.0


class Heard:
    """Chroma, harmony, tempo and outline of recordings by their content; safe to use from several threads."""

    def __init__(self, sound: Sound) -> None:
        self._sound = sound
        self._chromas: ByteCache[Floats] = ByteCache(CHROMA_BYTES, lambda found: found.nbytes)
        self._harmonies: ByteCache[Floats] = ByteCache(ROWS_BYTES, lambda rows: rows.nbytes)
        self._outlines: ByteCache[NDArray[np.int8]] = ByteCache(ROWS_BYTES, lambda outline: outline.nbytes)
        self._timbres: ByteCache[Floats] = ByteCache(TIMBRE_BYTES, lambda found: found.nbytes)
        self._chords: ByteCache[tuple[HeardChord, ...]] = ByteCache(ROWS_BYTES, lambda found: 200 * len(found))
        self._tempos: ByteCache[tuple[TempoEstimate | None]] = ByteCache(CHROMA_BYTES, lambda _: 100)

    def chroma(self, audio_hash: str, reference_hz: float) -> Floats:
        """The chroma of a kept recording, shape (12,)."""
        key = (audio_hash, reference_hz)
        return self._chromas.made(key, lambda: chroma(self._sound.source(audio_hash), reference_hz=reference_hz))

    def harmony(self, audio_hash: str, reference_hz: float) -> Floats:
        """The harmony of a kept recording over time, shape (n, 12)."""

        def rows() -> Floats:
            return harmony(self._sound.source(audio_hash), reference_hz=reference_hz).astype(np.float32)

        return self._harmonies.made((audio_hash, reference_hz), rows)

    def tempo(self, audio_hash: str) -> TempoEstimate | None:
        """The tempo that is heard in a kept recording."""
        return self._tempos.made(audio_hash, lambda: (estimate_tempo(onsets_of(self._sound.source(audio_hash))),))[0]

    def chords(self, audio_hash: str, meters: tuple[Meter, ...]) -> tuple[HeardChord, ...]:
        """The chords of a kept recording on the beats of meters in its clock."""

        def found() -> tuple[HeardChord, ...]:
            return tuple(hear_chords(self._sound.source(audio_hash), meters))

        return self._chords.made((audio_hash, meters), found)

    def outline(self, audio_hash: str) -> NDArray[np.int8]:
        """Lowest and highest sample of each 5 ms of the first channel, shape (n, 2), full scale 127."""
        return self._outlines.made(audio_hash, lambda: scan(self._sound.source(audio_hash))[0])

    def timbre(self, audio_hash: str, analysis: Analysis) -> Floats:
        """What is sung in a kept recording apart from its pitch, one row an analysis frame."""

        def found() -> Floats:
            source, own = self._sound.source(audio_hash), analysis.as_recorded
            return timbre(Mono(source), source.sample_rate, own.contour, own.level_db).astype(np.float32)

        return self._timbres.made(audio_hash, found)

    def performance(self, audio_hash: str, analysis: Analysis) -> Floats:
        """What a kept recording is aligned by, one row an analysis frame."""
        own = analysis.as_recorded
        return performance(self.timbre(audio_hash, analysis), own.contour, own.level_db, own.high_db)

    def surroundings(self, setting: Setting) -> Surroundings:
        """The song around a track, with the harmony of its backing; reads the whole backing the first time."""
        if setting.backing is None:
            return Surroundings(setting.bar_s)
        rows = self.harmony(setting.backing, setting.reference_hz)
        return Surroundings(setting.bar_s, rows, HARMONY_HOP_S, setting.begins_s)
