"""The whole analysis of one track: pitch, notes, phrases, air, levels, key."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import scipy
from numpy.typing import NDArray

from ..signal.errors import AudioError
from ..signal.levels import level_contour, mean_level
from ..signal.recording import Mono, Recording, blocks_of, held
from ..signal.types import HOP_S, AirEvent, Analysis, Contour, Floats, Note, Phrase
from ..signal.validation import refuse_no_sound
from .air import AirFeatures, air_features, find_air, high_level, rumble_in_sibilants, voice_level
from .creak import find_creak, with_creak
from .holes import close_holes
from .hum import find_hum
from .key import estimate_keys, estimate_reference
from .lows import STEADY_HZ, WithoutLows
from .notes.contour import split_contour
from .notes.segmentation import note_ranges
from .notes.speech import mark_spoken
from .pitch.confidence import doubted
from .pitch.f0 import track_f0
from .presence import ringing, singers_own
from .two_voices import sounds_like_two

ANALYSIS_VERSION = 7
PHRASE_GAP_S = 0.32
PUFF_DB = 6.0  # that the lows are over all that is above them: no voice, not even creak
Progress = Callable[[str, float], None]


def _silent(_stage: str, _share: float) -> None:
    return None


def analyse(audio: Floats, sample_rate: int, *, sensitivity: float = 0.0, progress: Progress = _silent) -> Analysis:
    """Find everything in a recorded voice; `audio` has shape (n,) or (channels, n).  See `analyse_recording`."""
    return analyse_recording(held(audio, sample_rate), sensitivity=sensitivity, progress=progress)


def analyse_recording(recording: Recording, *, sensitivity: float = 0.0, progress: Progress = _silent) -> Analysis:
    """Find everything in a recorded voice, reading it piece by piece.

    Parameters
    ----------
    recording : Recording
        Full scale ±1; channels are averaged for the analysis.
    sensitivity : float
        0 as shipped; positive finds more notes, negative fewer.
    progress : callable
        Called with the name of each stage and the share done, 0 to 1; may raise to cancel.

    Raises
    ------
    AudioError
        If a sample is not a number, or there is less than a twentieth of a second.
    """
    rate = recording.sample_rate
    if recording.frames < 0.05 * rate:
        raise AudioError("The recording is shorter than a twentieth of a second; there is nothing to find in it.")
    progress("Reading the sound", 0.02)
    outline, cancels = scan(recording)
    mono = Mono(recording, mean=not cancels)
    contour, level, features, creak = _who_sings(mono, rate, progress)
    air = find_air(features, contour.voiced | creak, level)
    progress("Cutting notes", 0.8)
    contour = doubted(contour, level)
    notes = find_notes(contour, level, air, sensitivity=sensitivity, creak=creak)
    progress("Finding the key", 0.95)
    sung = tuple(note for note in notes if not note.spoken)
    reference = estimate_reference(sung)
    return Analysis(
        rate,
        recording.frames / rate,
        contour,
        notes,
        air,
        find_phrases(notes),
        estimate_keys(sung, reference_hz=reference),
        reference,
        level,
        _sounds_polyphonic(contour, level) or sounds_like_two(mono, rate, contour, level),
        high_level(features),
        outline,
    )


def _who_sings(mono: Mono, rate: int, progress: Progress) -> tuple[Contour, Floats, AirFeatures, NDArray[np.bool_]]:
    """The singer's pitch, the level in dBFS, what tells air, and where the voice creaks, all on one grid."""
    progress("Finding the pitch", 0.05)
    above, steady = WithoutLows(mono, rate), WithoutLows(mono, rate, STEADY_HZ)
    hum = find_hum(above, rate)
    contour = track_f0(mono, rate, hum_hz=hum.hz)
    n_frames = len(contour.midi)
    progress("Measuring levels", 0.6)
    level = level_contour(above, rate, n_frames)
    progress("Finding sibilants and breaths", 0.7)
    features = air_features(steady, rate, n_frames)
    rumble = rumble_in_sibilants(contour.midi, features)
    contour = Contour(np.where(rumble, np.nan, contour.midi), np.where(rumble, 0.0, contour.confidence))
    contour = close_holes(contour, level, features)
    rings = ringing(contour, voice_level(features))
    contour = singers_own(contour, level, rings, hum)
    puffs = level_contour(steady, rate, n_frames) - level > PUFF_DB
    creak = find_creak(contour.midi, level, features) & ~puffs & ~rings
    contour = Contour(np.where(creak, np.nan, contour.midi), np.where(creak, 0.0, contour.confidence))
    return contour, level, features, creak


def scan(recording: Recording) -> tuple[NDArray[np.int8], bool]:
    """Outline of the first channel on the analysis grid, and whether the channels cancel each other out.

    Raises
    ------
    AudioError
        If a sample is NaN, infinite or far beyond full scale.
    """
    n_frames = int(recording.frames / recording.sample_rate / HOP_S) + 1
    low, high = np.zeros(n_frames), np.zeros(n_frames)
    some, some_mean = False, False
    starts = np.minimum((np.arange(n_frames) * HOP_S * recording.sample_rate).astype(np.int64), recording.frames - 1)
    for begin, samples in blocks_of(recording):
        refuse_no_sound(samples)
        some = some or bool(samples.any())
        some_mean = some_mean or bool(samples.mean(axis=0).any())
        a, b = np.searchsorted(starts, (begin, begin + samples.shape[1]))
        if a < b:
            own = starts[a:b] - begin
            low[a:b], high[a:b] = np.minimum.reduceat(samples[0], own), np.maximum.reduceat(samples[0], own)
    outline = np.clip(np.round(127 * np.stack((low, high), axis=1)), -127, 127).astype(np.int8)
    return outline, some and not some_mean


def find_notes(
    contour: Contour,
    level: Floats,
    air: tuple[AirEvent, ...] = (),
    *,
    sensitivity: float = 0.0,
    creak: NDArray[np.bool_] | None = None,
) -> tuple[Note, ...]:
    """Cut the contour into notes and describe each; `level` in dBFS on the same grid.  Frames of `creak` beside a note
    belong to it."""
    cut = note_ranges(contour.midi, level, sensitivity=sensitivity)
    if creak is not None:
        cut = with_creak(cut, creak)
    breaths = [event for event in air if event.kind == "breath"]
    notes: list[Note] = []
    phrase = 0
    for a, b in cut:
        if notes and _rests_between(notes[-1].end_s, a * HOP_S, breaths):
            phrase += 1
        notes.append(describe_note(f"n{len(notes) + 1:04d}", contour.midi, level, a, b, phrase))
    return mark_spoken(notes, find_phrases(tuple(notes)), contour.midi)


def describe_note(note_id: str, midi: Floats, level: Floats, a: int, b: int, phrase: int) -> Note:
    """The note over frames [a, b) with its centre, drift, vibrato and level."""
    parts = split_contour(midi[a:b], level[a:b])
    return Note(
        note_id,
        a * HOP_S,
        b * HOP_S,
        parts.centre,
        parts.drift_cents_per_s,
        parts.vibrato_found,
        mean_level(level[a:b]),
        phrase,
    )


def _rests_between(end_s: float, start_s: float, breaths: list[AirEvent]) -> bool:
    if start_s - end_s >= PHRASE_GAP_S:
        return True
    return any(event.start_s >= end_s - 0.02 and event.end_s <= start_s + 0.02 for event in breaths)


def find_phrases(notes: tuple[Note, ...]) -> tuple[Phrase, ...]:
    """Start and end of every phrase, from its notes."""
    spans: dict[int, tuple[float, float]] = {}
    for note in notes:
        start, end = spans.get(note.phrase, (note.start_s, note.end_s))
        spans[note.phrase] = (min(start, note.start_s), max(end, note.end_s))
    return tuple(Phrase(index, *span) for index, span in sorted(spans.items()))


def _sounds_polyphonic(contour: Contour, level: Floats) -> bool:
    """True when most loud frames have no single clear pitch, or the pitch keeps jumping."""
    if len(level) == 0 or level.max() < -70.0:
        return False
    loud = level > level.max() - 25.0
    pitched = np.mean(contour.voiced[loud]) if loud.any() else 1.0
    jumps = np.abs(np.diff(contour.midi))
    restless = np.mean(jumps[np.isfinite(jumps)] > 2.0) if np.isfinite(jumps).any() else 0.0
    unsure = np.mean(scipy.ndimage.median_filter(contour.confidence, 9)[loud] < 0.85) if loud.any() else 0.0
    return bool(restless > 0.03 or (pitched < 0.35) or unsure > 0.6)
