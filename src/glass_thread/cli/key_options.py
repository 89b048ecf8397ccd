"""Options that name a key and a tuning."""

from __future__ import annotations

import argparse
from pathlib import Path

from ..core.signal.errors import ParameterError
from ..core.song.keys import KeyMap, Temper, one_key, parse_key
from ..core.song.temperaments import TEMPERAMENTS
from ..formats.scala import LARGEST_TEXT, read_mapping, read_scale, text_of


def add_key_options(parser: argparse.ArgumentParser) -> None:
    """Which pitches notes round to."""
    parser.add_argument("--key", help="for example 'F# minor'; default: the key found")
    parser.add_argument(
        "--tuning", default="equal", metavar="NAME|FILE.scl",
        help=f"{', '.join(TEMPERAMENTS)}, or a Scala scale (default equal)",
    )  # fmt: skip
    parser.add_argument("--keyboard", type=Path, metavar="FILE.kbm", help="a Scala keyboard mapping for the scale")
    parser.add_argument("--reference", type=float, default=440.0, metavar="HZ", help="A4 in Hz (default 440)")


def asked_keys(chosen: argparse.Namespace) -> tuple[KeyMap | None, Temper]:
    """The key, None for the one that is found, and the tuning it is in."""
    temper = Temper(chosen.tuning, reference_hz=chosen.reference)
    if chosen.tuning not in TEMPERAMENTS:
        scale = read_scale(_text(Path(chosen.tuning), "scale file"))
        keyboard = read_mapping(_text(chosen.keyboard, "keyboard mapping")) if chosen.keyboard else None
        temper = Temper("scala", scale, keyboard, reference_hz=chosen.reference)
    elif chosen.keyboard:
        raise ParameterError("A keyboard mapping needs a Scala scale: --tuning FILE.scl.")
    temper.steps_on(0)
    return (one_key(parse_key(chosen.key, temper=temper)) if chosen.key else None), temper


def _text(path: Path, what: str) -> str:
    try:
        with path.open("rb") as stream:
            return text_of(stream.read(LARGEST_TEXT + 1), what)
    except OSError as error:
        raise ParameterError(
            f"“{path.name}” is no tuning we know ({', '.join(TEMPERAMENTS)}), and as a {what} it cannot be read: "
            f"{error.strerror or error}."
        ) from error
