"""The null test: source minus print, which must be silent to the bit outside of what the list says was edited."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile as sf

from ..core.signal.errors import GlassThreadError, NotFoundError
from ..core.signal.signal_tools import merged_ranges, runs
from ..formats.audio import AudioInfo, probe_audio
from ..formats.handoff_folder import IN, OUT, SOUND, HandedOver, files_in, read_list

JOINED_S = 0.05  # differences nearer together than this are told as one
_BLOCK = 1 << 20
_LOOK, _PIECES, _FURTHEST_S = 1 << 13, 24, 2.0  # samples of a piece that is looked for, how many, and how far
_SILENCE = 1e-6  # mean power of a piece that says nothing


@dataclass(frozen=True)
class Found:
    """What the test says of one print: a sentence, whether it is as it should be, and the seconds of its source in
    which it differs."""

    file: str
    source: str | None
    good: bool
    sentence: str
    spans: tuple[tuple[float, float], ...] = ()


def check_folder(folder: Path) -> list[Found]:
    """Test every print of a hand-off folder.

    Raises
    ------
    NotFoundError
        If this is no hand-off folder.
    """
    if not (folder / IN).is_dir() and not (folder / OUT).is_dir():
        raise NotFoundError(f"{folder} is no hand-off folder: it has neither “{IN}” nor “{OUT}”.")
    listed = {one.file: one for one in read_list(folder)}
    found = [_check(folder, path, listed.get(path.name)) for path in files_in(folder / OUT, SOUND)]
    gone = [name for name in listed if not (folder / OUT / name).is_file()]
    return found + [
        Found(name, listed[name].source, False, "It is in the list but not in the folder.") for name in gone
    ]


def _check(folder: Path, path: Path, entry: HandedOver | None) -> Found:
    if entry is None:
        return Found(
            path.name, None, False, "The list does not name it, so nothing can be said of what it was made from."
        )
    if entry.source is None or not (folder / IN / entry.source).is_file():
        return Found(path.name, entry.source, False, f"Its source is not in “{IN}”.")
    source = folder / IN / entry.source
    try:
        old, new = probe_audio(source), probe_audio(path)
        trouble = _shape(old, new)
        if trouble:
            return Found(path.name, entry.source, False, trouble)
        return _nulled(path.name, entry, source, path, (old, new))
    except GlassThreadError as error:
        return Found(path.name, entry.source, False, str(error))


def _shape(old: AudioInfo, new: AudioInfo) -> str:
    """What keeps a print from being laid over its source; "" when nothing does."""
    if new.sample_rate != old.sample_rate:
        return f"Its rate is {new.sample_rate} Hz, its source's {old.sample_rate} Hz: they cannot be nulled."
    if new.channels != old.channels:
        return f"It has {new.channels} channels, its source {old.channels}."
    if new.time_reference is None and old.time_reference is not None:
        return "It has no time stamp, so its place is unknown."
    return ""


def _nulled(name: str, entry: HandedOver, source: Path, path: Path, infos: tuple[AudioInfo, AudioInfo]) -> Found:
    old, new = infos
    shift = (new.time_reference or 0) - (old.time_reference or 0)  # where the print begins in the source
    differs = _differences(source, path, shift, old.frames)
    rate = old.sample_rate
    spans = _told(differs, rate)
    allowed = np.zeros(len(differs), dtype=bool)
    for a, b in entry.spans:
        allowed[max(0, int(a * rate)) : max(0, int(np.ceil(b * rate)))] = True
    strange = differs & ~allowed
    if not strange.any():
        share = 100.0 * float(1.0 - differs.mean()) if len(differs) else 100.0
        return Found(name, entry.source, True, f"Silent but for its edits: {share:.2f} % is as recorded.", spans)
    moved = displacement(source, path, shift)
    if moved:
        ms = 1000.0 * moved / rate
        return Found(name, entry.source, False, f"It lies {ms:+.1f} ms ({moved:+d} samples) from its place.", spans)
    first = float(np.flatnonzero(strange)[0]) / rate
    places = len(_told(strange, rate))
    said = f"It differs where nothing was edited, in {places} places; the first is at {first:.3f} s."
    return Found(name, entry.source, False, said, spans)


def _differences(source: Path, path: Path, shift: int, frames: int) -> np.ndarray:
    """True for every sample of the source that the print covers and has otherwise, shape (frames,)."""
    differs = np.zeros(frames, dtype=bool)
    with sf.SoundFile(str(source)) as old, sf.SoundFile(str(path)) as new:
        low, high = max(0, shift), min(frames, shift + new.frames)
        for begin in range(low, high, _BLOCK):
            end = min(begin + _BLOCK, high)
            old.seek(begin)
            new.seek(begin - shift)
            pair = [file.read(end - begin, dtype="float64", always_2d=True) for file in (old, new)]
            differs[begin:end] = (pair[0] != pair[1]).any(axis=1)
    return differs


def _told(differs: np.ndarray, rate: int) -> tuple[tuple[float, float], ...]:
    """Stretches of differences in seconds, those near together as one."""
    return tuple((round(a / rate, 4), round(b / rate, 4)) for a, b in merged_ranges(runs(differs), JOINED_S * rate))


def displacement(source: Path, path: Path, shift: int) -> int:
    """By how many samples a print lies later than its source says, 0 when that cannot be told.

    Its loudest pieces are looked for in the source; what was edited is not found there, the rest at the same distance.
    """
    with sf.SoundFile(str(source)) as old, sf.SoundFile(str(path)) as new:
        whole = old.read(dtype="float64", always_2d=True)[:, 0]
        printed = new.read(dtype="float64", always_2d=True)[:, 0]
        reach = int(_FURTHEST_S * old.samplerate)
    begins = np.arange(0, max(1, len(printed) - _LOOK), _LOOK)
    power = np.array([float(np.square(printed[at : at + _LOOK]).sum()) for at in begins])
    votes: Counter[int] = Counter()
    for at in begins[np.argsort(-power)][:_PIECES].tolist():
        low = max(0, at + shift - reach)
        best = _place(whole[low : at + shift + _LOOK + reach], printed[at : at + _LOOK])
        if best is not None:
            votes[at + shift - (low + best)] += 1
    return votes.most_common(1)[0][0] if votes else 0


def _place(near: np.ndarray, piece: np.ndarray) -> int | None:
    """Where a piece is found in a longer stretch, None when it is not there."""
    power = float(np.square(piece).sum())
    if len(near) < len(piece) or power < _SILENCE * len(piece):
        return None
    size = 1 << int(np.ceil(np.log2(len(near) + len(piece))))
    score = np.fft.irfft(np.fft.rfft(near, size) * np.conj(np.fft.rfft(piece, size)), size)
    best = int(score[: len(near) - len(piece) + 1].argmax())
    apart = float(np.square(near[best : best + len(piece)] - piece).sum())
    return best if apart < 1e-3 * power else None
