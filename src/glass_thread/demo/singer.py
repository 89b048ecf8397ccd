"""A synthesised singer: LF source, moving formants, consonants, breaths, jitter and shimmer.

Vowel formants: G. E. Peterson, H. L. Barney, "Control methods used in a study
of the vowels", J. Acoust. Soc. Am. 24, 1952, table II, men (F1 to F3, from
memory); F4 and F5 are round values of common practice, no source.
"""

from __future__ import annotations

from dataclasses import dataclass

import numba
import numpy as np
import scipy
from numpy.typing import NDArray

from ..core.signal.signal_tools import resample, smoothstep
from ..core.signal.types import Floats
from ..core.signal.units import db_to_gain, midi_to_hz
from ..core.synthesis.voice.glottal import lf_pulse
from .score import Performance, SungAir, SungNote

OVERSAMPLING = 4
_BLOCK_S = 0.005
_RING_S = 0.06
_CHUNK = 256
_CONTROL_HZ = 1000
WANDER_HZ = (0.7, 7.0)
FORMANTS = {
    "a": (730, 1090, 2440, 3400, 4500),
    "e": (530, 1840, 2480, 3500, 4500),
    "i": (270, 2290, 3010, 3600, 4500),
    "o": (570, 840, 2410, 3300, 4400),
    "u": (300, 870, 2240, 3300, 4400),
    "er": (490, 1350, 1690, 3300, 4400),
    "nasal": (270, 1100, 2200, 3200, 4300),
}
_WIDTHS = (80, 95, 125, 170, 230)
# sound: (low Hz, high Hz, order, attack s, release s)
AIR_COLOURS = {
    "s": (4800, 9800, 3, 0.025, 0.025),
    "sh": (2500, 7000, 3, 0.025, 0.025),
    "f": (1300, 11000, 1, 0.02, 0.015),
    "h": (500, 3400, 1, 0.02, 0.015),
    "t": (2200, 7500, 1, 0.002, 0.03),
    "k": (1100, 4200, 1, 0.002, 0.03),
    "breath": (650, 5200, 1, 0.16, 0.12),
    "z": (4800, 9800, 3, 0.025, 0.025),
    "zh": (2500, 7000, 3, 0.025, 0.025),
    "v": (1300, 11000, 1, 0.02, 0.02),
}
VOICED_AIR = ("z", "zh", "v")
_VOICE_BAR = (250, 1300, 2400, 3300, 4400)
_BAR_DIP_DB = 11.0


@dataclass(frozen=True)
class Sung:
    """A rendered performance: samples, and per sample the pitch in MIDI (NaN unvoiced)."""

    audio: Floats
    midi: Floats
    sample_rate: int


def voiced_groups(notes: tuple[SungNote, ...]) -> list[list[SungNote]]:
    """Notes sung through without a break, together."""
    groups: list[list[SungNote]] = []
    for note in notes:
        if groups and abs(groups[-1][-1].end_s - note.start_s) < 1e-6:
            groups[-1].append(note)
        else:
            groups.append([note])
    return groups


def _slow_noise(rng: np.random.Generator, n: int, sample_rate: int, low_hz: float, high_hz: float) -> Floats:
    """Unit-rms noise in a band below 500 Hz, shape (n,)."""
    m = int(n / sample_rate * _CONTROL_HZ) + 400
    band = [low_hz, high_hz] if low_hz else high_hz
    sos = scipy.signal.butter(2, band, "band" if low_hz else "low", fs=_CONTROL_HZ, output="sos")
    noise = scipy.signal.sosfilt(sos, rng.standard_normal(m + 400))[400:]
    return scipy.interpolate.CubicSpline(np.arange(m) / _CONTROL_HZ, noise / noise.std())(np.arange(n) / sample_rate)


def _wander(seed: int, n: int, sample_rate: int) -> Floats:
    """Unit-rms noise with nothing outside of `WANDER_HZ`, shape (n,): irregular, as restless voices move."""
    m = int(n / sample_rate * _CONTROL_HZ) + 2
    spectrum = scipy.fft.rfft(np.random.default_rng([seed, 31]).standard_normal(m))
    hz = scipy.fft.rfftfreq(m, 1.0 / _CONTROL_HZ)
    spectrum[(hz < WANDER_HZ[0]) | (hz > WANDER_HZ[1])] = 0.0
    noise = scipy.fft.irfft(spectrum, m)
    return np.interp(np.arange(n) / sample_rate, np.arange(m) / _CONTROL_HZ, noise / noise.std())


def _note_cents(note: SungNote, t: Floats) -> Floats:
    """Pitch of one note over time `t` in seconds, in cents re MIDI 0."""
    since = t - note.start_s
    length = note.end_s - note.start_s
    cents = 100.0 * note.midi + note.off + note.drift * (since - length / 2)
    swell = smoothstep((since - note.vibrato_onset_s) / 0.2)
    cents = cents + note.vibrato_cents * swell * np.sin(2 * np.pi * note.vibrato_hz * (since - note.vibrato_onset_s))
    cents = cents - note.scoop * (1.0 - smoothstep(since / 0.16))
    cents = cents - note.fall * smoothstep((since - length + 0.28) / 0.28)
    return cents + 100.0 * note.second * smoothstep((since - length / 2 + 0.03) / 0.06)


def pitch_curve(performance: Performance, sample_rate: int) -> Floats:
    """Pitch in MIDI at every sample, shape (n,), NaN where nothing is sung."""
    n = round(performance.duration_s * sample_rate)
    midi = np.full(n, np.nan)
    rng = np.random.default_rng([performance.seed, 11])
    flutter = performance.voice.flutter_cents * _slow_noise(rng, n, sample_rate, 0, 7)
    if performance.voice.wander_cents:
        flutter = flutter + performance.voice.wander_cents * _wander(performance.seed, n, sample_rate)
    for group in voiced_groups(performance.notes):
        a, b = round(group[0].start_s * sample_rate), round(group[-1].end_s * sample_rate)
        t = np.arange(a, b) / sample_rate
        cents = _note_cents(group[0], t)
        for note in group[1:]:
            into = smoothstep((t - note.start_s + note.glide_s / 2) / note.glide_s)
            cents = cents + into * (_note_cents(note, t) - cents)
        midi[a:b] = (cents + flutter[a:b]) / 100.0
    return midi


def _voiced_air(performance: Performance) -> list[SungAir]:
    return [air for air in performance.air if air.sound in VOICED_AIR]


def _envelope(group: list[SungNote], t: Floats, fricatives: list[SungAir]) -> Floats:
    """Amplitude of a group over `t`: dips of nasals and voiced fricatives, onset and release."""
    level = np.zeros(len(t))
    for air in fricatives:
        level = level - _BAR_DIP_DB * smoothstep((t - air.start_s) / 0.02) * smoothstep((air.end_s - t) / 0.02)
    for note in group:
        if note.nasal:
            dip = smoothstep((t - note.start_s + 0.02) / 0.03) * (1 - smoothstep((t - note.start_s - 0.05) / 0.04))
            level = level - 9.0 * dip
    edges = smoothstep((t - group[0].start_s) / 0.03) * smoothstep((group[-1].end_s - t) / 0.07)
    return db_to_gain(level) * edges


def _source(performance: Performance, midi: Floats, sample_rate: int) -> Floats:
    """Glottal pulses with jitter and shimmer, and breath noise that pulses with them."""
    n = len(midi)
    voice = performance.voice
    rng = np.random.default_rng([performance.seed, 23])
    jitter = voice.jitter_cents * _slow_noise(rng, n, sample_rate, 20, 100)
    shimmer = voice.shimmer_db * _slow_noise(rng, n, sample_rate, 4, 60)
    breath = scipy.signal.sosfilt(
        scipy.signal.butter(1, [700, 6000], "band", fs=sample_rate, output="sos"), rng.standard_normal(n)
    )
    table = lf_pulse(voice.rd)
    source = np.zeros(n)
    for group in voiced_groups(performance.notes):
        a, b = round(group[0].start_s * sample_rate), round(group[-1].end_s * sample_rate)
        hz = midi_to_hz(midi[a:b] + jitter[a:b] / 100.0)
        phase = np.cumsum(hz) / sample_rate
        amplitude = _envelope(group, np.arange(a, b) / sample_rate, _voiced_air(performance)) * db_to_gain(shimmer[a:b])
        pulses = _pulses(phase, amplitude, np.append(table, table[0]))
        edge = np.zeros(200 * OVERSAMPLING)
        padded = resample(np.concatenate((edge, pulses, edge)), sample_rate * OVERSAMPLING, sample_rate)
        puff = 0.4 + 0.6 * np.sin(np.pi * (phase % 1.0)) ** 2
        source[a:b] += padded[200 : 200 + b - a] + breath[a:b] * puff * amplitude * db_to_gain(voice.breath_db)
    return source


@numba.njit(cache=True, nogil=True)
def _pulses(phase, amplitude, table):  # pragma: no cover - compiled
    """A cycle's shape at every phase times the amplitude, `OVERSAMPLING` values a sample, straight in between."""
    n, size = len(phase), len(table) - 1
    out = np.empty(n * OVERSAMPLING)
    for i in range(n):
        after = min(i + 1, n - 1)
        for k in range(OVERSAMPLING):
            share = k / OVERSAMPLING
            place = ((phase[after] - phase[i]) * share + phase[i]) % 1.0 * size
            at = int(place)
            pulse = (table[at + 1] - table[at]) * (place - at) + table[at]
            out[i * OVERSAMPLING + k] = pulse * ((amplitude[after] - amplitude[i]) * share + amplitude[i])
    return out


def _formant_tracks(performance: Performance, n_blocks: int, block: int, sample_rate: int) -> tuple[Floats, Floats]:
    """Formant frequencies and bandwidths in Hz, shape (n_blocks, 5) each."""
    t = np.arange(n_blocks) * block / sample_rate
    times: list[float] = []
    rows: list[Floats] = []
    for note in performance.notes:
        shape = np.array(FORMANTS[note.vowel], dtype=np.float64) * performance.voice.formants
        shape[0] = max(shape[0], 1.05 * float(midi_to_hz(note.midi)))  # high notes open the mouth
        shape[1] = max(shape[1], shape[0] + 260)
        settle = min(0.09, 0.3 * (note.end_s - note.start_s))
        if note.nasal:
            times.append(note.start_s + 0.02)
            rows.append(np.array(FORMANTS["nasal"]) * performance.voice.formants)
        times += [note.start_s + settle, note.end_s - settle]
        rows += [shape, shape * np.array([1.03, 0.97, 1.01, 1.0, 1.0])]
    for air in _voiced_air(performance):
        times += [air.start_s + 0.015, air.end_s - 0.015]
        rows += [np.array(_VOICE_BAR) * performance.voice.formants] * 2
    order = np.argsort(times, kind="stable")
    times, table = [times[i] for i in order], np.array(rows)[order]
    tracks = np.stack([np.interp(t, times, table[:, k]) for k in range(5)], axis=1)
    smooth = np.hanning(max(3, int(0.03 * sample_rate / block)))
    padded = np.pad(tracks, ((len(smooth), len(smooth)), (0, 0)), "edge")
    tracks = scipy.signal.convolve(padded, (smooth / smooth.sum())[:, None], "same")[len(smooth) : -len(smooth)]
    return tracks, np.tile(np.array(_WIDTHS, dtype=np.float64), (n_blocks, 1))


def _response(frequency: Floats, width: Floats, hz: Floats) -> NDArray[np.complex128]:
    """Transmission of a cascade of formants, shape (n_blocks, n_hz), 1 at 0 Hz (G. Fant, Acoustic Theory of Speech
    Production, 1960, eq. 1.3-3, from memory)."""
    result = np.empty((len(frequency), len(hz)), dtype=np.complex128)
    _cascade(1.0 / frequency**2, width / frequency**2, hz, result)
    return result


@numba.njit(cache=True, nogil=True)
def _cascade(inverse_square, width, hz, out):  # pragma: no cover - compiled
    for block in range(len(inverse_square)):
        for bin in range(len(hz)):
            product = 1.0 + 0.0j
            for k in range(inverse_square.shape[1]):
                square = hz[bin] * hz[bin]
                product *= complex(1.0 - square * inverse_square[block, k], hz[bin] * width[block, k])
            out[block, bin] = 1.0 / product


def _tract(performance: Performance, source: Floats, sample_rate: int) -> Floats:
    """Vocal tract: five moving formants and fixed ones above; short source grains through their own response."""
    block = int(_BLOCK_S * sample_rate)
    n_blocks = -(-len(source) // block) + 1
    size = 1 << int(np.ceil(np.log2(_RING_S * sample_rate)))
    hz = np.fft.rfftfreq(size, 1.0 / sample_rate)
    frequency, width = _formant_tracks(performance, n_blocks, block, sample_rate)
    upper = np.arange(5500.0, 0.5 * sample_rate, 1000.0)
    fixed = _response(upper[None], (250.0 + 0.05 * upper)[None], hz)
    padded = np.concatenate((np.zeros(block), source, np.zeros(2 * block + size)))
    out = np.zeros(len(padded) + size)
    window = 0.5 - 0.5 * np.cos(np.pi * np.arange(2 * block) / block)
    for first in range(0, n_blocks, _CHUNK):
        rows = np.arange(first, min(first + _CHUNK, n_blocks))
        grains = np.stack([padded[r * block : (r + 2) * block] for r in rows]) * window
        heard = grains.any(axis=1)
        rows, grains = rows[heard], grains[heard]
        filtered = scipy.fft.rfft(grains, size, axis=1) * _response(frequency[rows], width[rows], hz) * fixed
        for r, sound in zip(rows, scipy.fft.irfft(filtered, size, axis=1), strict=True):
            out[r * block : r * block + size] += sound
    return scipy.signal.lfilter(
        [1.0, -0.6], [1.0, -0.2], out[block : block + len(source)]
    )  # a close, slightly bright microphone


def _even_words(performance: Performance, voice: Floats, sample_rate: int) -> Floats:
    """Bring every note to one level, as a trained singer would, then to the level the score asks for."""
    times, gains = [], []
    for note in performance.notes:
        edge = 0.15 * (note.end_s - note.start_s)
        a, b = int((note.start_s + edge) * sample_rate), int((note.end_s - edge) * sample_rate)
        level = np.sqrt(np.mean(voice[a:b] ** 2))
        times += [note.start_s + edge, note.end_s - edge]
        gains += [note.level_db - 20.0 * np.log10(level)] * 2
    return voice * db_to_gain(np.interp(np.arange(len(voice)) / sample_rate, times, gains))


def air_sound(air: SungAir, sample_rate: int, rng: np.random.Generator) -> Floats:
    """Samples of one unpitched sound."""
    low, high, order, attack, release = AIR_COLOURS[air.sound]
    n = round((air.end_s - air.start_s) * sample_rate)
    sos = scipy.signal.butter(order, [low, min(high, 0.46 * sample_rate)], "band", fs=sample_rate, output="sos")
    noise = scipy.signal.sosfilt(sos, rng.standard_normal(n + 2000))[2000:]
    t = np.arange(n) / sample_rate
    length = n / sample_rate
    shape = smoothstep(t / min(attack, length / 2)) * smoothstep((length - t) / min(release, length / 2))
    if air.sound in ("t", "k"):
        burst = t - 0.4 * length
        shape = np.where(burst < 0, 0.0, np.exp(-np.maximum(burst, 0) / 0.012)) * smoothstep((length - t) / 0.01)
    return noise / noise.std() * shape * db_to_gain(air.level_db)


def sing(performance: Performance, sample_rate: int, *, peak_db: float = -6.0) -> Sung:
    """Render a performance; the voice's loudest sample lies at `peak_db` dBFS before air is added."""
    midi = pitch_curve(performance, sample_rate)
    voice = _tract(performance, _source(performance, midi, sample_rate), sample_rate)
    voice = _even_words(performance, voice, sample_rate)
    audio = voice * (db_to_gain(peak_db) / np.max(np.abs(voice)))
    for i, air in enumerate(performance.air):
        sound = air_sound(air, sample_rate, np.random.default_rng([performance.seed, 101, i]))
        at = round(air.start_s * sample_rate)
        audio[at : at + len(sound)] += sound[: len(audio) - at]
    floor = np.random.default_rng([performance.seed, 7]).standard_normal(len(audio))
    return Sung(audio + floor * db_to_gain(performance.floor_db), midi, sample_rate)
