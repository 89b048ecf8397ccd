"""The hand-off folder: what a recording host leaves in `in/`, and what goes back to it in `out/`, with a list.

Sound lies at its place by its time stamp (EBU Tech 3285).  `out/handoff.json` says of every print which file of `in/`
it was made from and in which seconds of that file it differs.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from ..core.signal.errors import AudioError
from .atomic import write_bytes_whole

IN, OUT, LIST = "in", "out", "handoff.json"
FORMAT = "glass-thread-handoff"
SOUND = frozenset({".wav", ".flac", ".aif", ".aiff"})
MIDI = frozenset({".mid", ".midi"})


@dataclass(frozen=True)
class HandedOver:
    """A print in `out/`: the file of `in/` it was made from, and seconds of that file in which it differs."""

    file: str
    source: str | None
    spans: tuple[tuple[float, float], ...]
    made_from: str = ""


def files_in(folder: Path, kinds: frozenset[str]) -> list[Path]:
    """Files of some kinds in a folder by name; none when it is not there."""
    if not folder.is_dir():
        return []
    return sorted(path for path in folder.iterdir() if path.is_file() and path.suffix.lower() in kinds)


def read_list(folder: Path) -> list[HandedOver]:
    """What the list in `out/` says; nothing when there is none.

    Raises
    ------
    AudioError
        If there is one that cannot be read.
    """
    path = folder / OUT / LIST
    if not path.is_file():
        return []
    try:
        return [_entry(one) for one in json.loads(path.read_text())["prints"]]
    except (OSError, ValueError, KeyError, TypeError) as error:
        raise AudioError(f"The list {OUT}/{LIST} in this folder is damaged; hand the prints over again.") from error


def _entry(data: dict[str, Any]) -> HandedOver:
    spans = tuple((float(a), float(b)) for a, b in data["spans"])
    source = data.get("source")
    return HandedOver(str(data["file"]), None if source is None else str(source), spans, str(data.get("made_from", "")))


def write_list(folder: Path, entries: Sequence[HandedOver]) -> None:
    """Replace the list, whole or not at all."""
    text = json.dumps({"format": FORMAT, "prints": [asdict(one) for one in entries]}, indent=1)
    write_bytes_whole(folder / OUT / LIST, text.encode())
