"""The chords of a sound file outside the data folder, for the command line."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

from ...core.signal.errors import ParameterError
from ...core.song.beats import Meter
from ...core.song.harmony.chords import HeardChord
from ...core.song.harmony.hearing import hear_chords
from ...core.song.onsets import onsets_of
from ...core.song.tempo import estimate_tempo
from ..sound.recordings import CachedRecording
from .sound_files import opened_file

_SAME_TEMPO = 0.03  # share by which a tempo that was heard may be off the one that is given


def chords_of_file(source: Path, tempo: float | None = None) -> tuple[list[HeardChord], Meter]:
    """The chords of a file, and the tempo and bar 1 that they are counted by.

    Without `tempo` it is heard in the file, as bar 1 always is where the tempo heard is the given one.

    Raises
    ------
    ParameterError
        When no tempo is given and none is to be heard.
    """
    with opened_file(source) as file:
        meter = _meter(file.recording, tempo)
        return hear_chords(file.recording, (meter,)), meter


def _meter(recording: CachedRecording, tempo: float | None) -> Meter:
    heard = estimate_tempo(onsets_of(recording))
    if heard is None:
        if tempo is None:
            raise ParameterError("No tempo is to be heard in this file; give it with --tempo.")
        return Meter(0.0, tempo)
    found = heard.tempos[0]
    if tempo is None:
        return Meter(found.bar_one_s, found.bpm, found.beats_per_bar)
    near = [one for one in heard.tempos if abs(math.log(one.bpm / tempo)) < _SAME_TEMPO]
    return Meter(near[0].bar_one_s, tempo, near[0].beats_per_bar) if near else Meter(0.0, tempo)


def chord_rows(chords: list[HeardChord]) -> list[dict[str, Any]]:
    """Chords as JSON has them: start_s, end_s, label in the syntax of Harte et al. (ISMIR 2005), confidence."""
    return [{"start_s": round(one.start_s, 3), "end_s": round(one.end_s, 3), "label": one.chord.label,
             "confidence": round(one.confidence, 3)} for one in chords]  # fmt: skip
