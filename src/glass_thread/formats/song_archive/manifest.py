"""What stands in the ``song.json`` of a song archive."""

from __future__ import annotations

import json
import math
from dataclasses import asdict, dataclass, fields
from typing import Any, Literal, get_args

from ...core.signal.errors import ParameterError

FORMAT, VERSION = "glass-thread-song", 1
MANIFEST = "song.json"
Kind = Literal["table", "recording", "analysis", "print"]


@dataclass(frozen=True)
class Member:
    """One file of an archive: where it lies in it, what it is, the name it goes by in a data folder, its size in bytes
    and the SHA-256 of its bytes, hexadecimal."""

    path: str
    kind: Kind
    name: str
    size: int
    sha256: str


@dataclass(frozen=True)
class Manifest:
    """What an archive holds: the song in words, for whoever looks in; which program made it; the number of the layout
    of its rows; and all other files of it."""

    about: dict[str, Any]
    made_by: str
    layout: str
    members: tuple[Member, ...]

    def of_kind(self, kind: Kind) -> list[Member]:
        """The files of one kind, in their order."""
        return [one for one in self.members if one.kind == kind]

    def to_json(self) -> bytes:
        """As it stands in the archive."""
        data = {"format": FORMAT, "version": VERSION, **asdict(self)}
        return json.dumps(data, ensure_ascii=False, indent=1).encode()


def broken(what: str) -> ParameterError:
    """What is said of an archive that cannot be unpacked."""
    return ParameterError(f"This song archive cannot be unpacked: {what[:200]} Nothing was changed.")


def strict_json(text: bytes) -> Any:
    """A value that any reader of JSON takes.

    Raises
    ------
    ValueError
        When it is no JSON, is nested without end, or has a number that JSON does not have.
    """

    def refuse(name: str) -> float:
        raise ValueError(f"{name} is no number")

    def number(digits: str) -> float:
        value = float(digits)
        return value if math.isfinite(value) else refuse(digits[:20])

    try:
        return json.loads(text.decode(), parse_constant=refuse, parse_float=number)
    except RecursionError as error:
        raise ValueError("it is nested too deeply") from error


def read_manifest(text: bytes) -> Manifest:
    """A manifest from its bytes.

    Raises
    ------
    ParameterError
        When it is none, or one of a newer program.
    """
    try:
        data = strict_json(text)
    except ValueError as error:
        raise broken(f"its {MANIFEST} is not JSON that can be read.") from error
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise broken(f"its {MANIFEST} is not that of a song.")
    if data.get("version") != VERSION:
        raise broken(f"it is of version {str(data.get('version'))[:20]}, and this program knows {VERSION}. Update it.")
    members = data.get("members")
    about, made_by, layout = data.get("about"), data.get("made_by"), data.get("layout")
    if not (isinstance(members, list) and isinstance(about, dict) and isinstance(made_by, str)
            and isinstance(layout, str)):  # fmt: skip
        raise broken(f"its {MANIFEST} lacks what belongs there.")
    return Manifest(about, made_by, layout, tuple(_member(one) for one in members))


def _member(data: object) -> Member:
    wanted = {field.name: int if field.name == "size" else str for field in fields(Member)}
    if not isinstance(data, dict) or {name: type(value) for name, value in data.items()} != wanted:
        raise broken(f"its {MANIFEST} names a file without saying all of it.")
    if data["kind"] not in get_args(Kind) or data["size"] < 0:
        raise broken(f"its {MANIFEST} names a file that no song has.")
    return Member(**data)
