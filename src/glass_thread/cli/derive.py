"""``glass-thread double`` and ``harmony``: another voice of a recording."""

from __future__ import annotations

import argparse
from pathlib import Path

from ..core.document.operations.rules.voices.derived_edits import AIR_WAYS
from ..core.document.voices.melodies import WAYS
from ..core.signal.errors import ParameterError
from ..services.files.derived_file import Derived, double_file, harmony_file
from .key_options import add_key_options, asked_keys
from .tune import add_peak_options


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verbs."""
    double = _parser(
        verbs, "double", "sing a recording again, slightly otherwise",
        "Write one to four doubles of a recording into one file, without the recording itself.",
    )  # fmt: skip
    double.add_argument("--voices", type=int, default=1, metavar="N", help="how many voices, 1 to 4 (default 1)")
    double.add_argument("--timing", type=float, default=16.0, metavar="MS", help="how far times wander (default 16)")
    double.add_argument("--pitch", type=float, default=9.0, metavar="CENTS", help="how far pitches wander (default 9)")
    double.set_defaults(run=run_double)
    harmony = _parser(
        verbs, "harmony", "sing another line with the voice of a recording",
        "Write a recording again on other notes: by steps of a scale, by semitones, or by a melody.",
    )  # fmt: skip
    by = harmony.add_mutually_exclusive_group(required=True)
    by.add_argument("--steps", type=int, metavar="N", help="steps of the scale above (below when negative)")
    by.add_argument("--semitones", type=float, metavar="N", help="semitones above (below when negative)")
    by.add_argument("--midi", type=Path, metavar="FILE", help="a Standard MIDI file with the line, from the same start")
    harmony.add_argument("--match", choices=WAYS, default="time", help="how notes find theirs in it (default time)")
    add_key_options(harmony)
    harmony.add_argument("--lean", type=float, default=0.12, help="how far formants lean along, 0 to 1 (default 0.12)")
    harmony.add_argument("--human", type=float, default=0.6, help="how human it is, 0 to 1 (default 0.6)")
    harmony.set_defaults(run=run_harmony)


def _parser(verbs: argparse._SubParsersAction, name: str, words: str, description: str) -> argparse.ArgumentParser:
    parser: argparse.ArgumentParser = verbs.add_parser(name, help=words, description=description)
    parser.add_argument("source", type=Path, metavar="IN.wav")
    parser.add_argument("target", type=Path, metavar="OUT.wav")
    parser.add_argument("--seed", type=int, default=1, metavar="N", help="the same seed, the same samples (default 1)")
    parser.add_argument("--air", choices=AIR_WAYS, default="lowered", help="sibilants and breaths (default lowered)")
    add_peak_options(parser)
    return parser


def run_double(chosen: argparse.Namespace) -> int:
    """Make the doubles, and say what came of them in one line."""
    made = double_file(
        chosen.source, chosen.target, voices=chosen.voices, seed=chosen.seed, lower_db=chosen.lower,
        as_float=chosen.as_float, timing_ms=chosen.timing, pitch_cents=chosen.pitch, air=chosen.air,
    )  # fmt: skip
    return _say(made, f"{chosen.voices} {'voice' if chosen.voices == 1 else 'voices'}")


def run_harmony(chosen: argparse.Namespace) -> int:
    """Make the harmony, and say what came of it in one line."""
    keys, temper = asked_keys(chosen)
    if chosen.steps == 0 or chosen.semitones == 0.0:
        raise ParameterError("A harmony needs an interval: steps or semitones that are not 0.")
    interval = {"steps": chosen.steps} if chosen.steps else {"semitones": chosen.semitones} if chosen.semitones else {}
    made = harmony_file(
        chosen.source, chosen.target, keys=keys, temper=temper, midi=chosen.midi, lower_db=chosen.lower,
        as_float=chosen.as_float, lean=chosen.lean, human=chosen.human, seed=chosen.seed, air=chosen.air,
        match=chosen.match, **interval,
    )  # fmt: skip
    return _say(made, "1 voice")


def _say(made: Derived, what: str) -> int:
    strained = f", {made.strained} of them strained" if made.strained else ""
    print(f"{what} of {made.notes} notes{strained}, peak {made.summary.peak_dbfs:.1f} dBFS")
    return 0
