"""Sign-in codes of a data folder: one that is made at the first start, and named ones that can be withdrawn."""

from __future__ import annotations

import hmac
import json
import os
import secrets
import threading
import time
import uuid
from dataclasses import asdict, dataclass
from pathlib import Path

from itsdangerous import BadSignature, TimestampSigner

from ...core.signal.errors import ConflictError, NotFoundError, ParameterError
from ..folder.names import one_line

FILE = "sign-in.json"
FULL, LISTENING = "full", "listening"
FIRST = "owner"
TICKET_S = 30 * 86_400  # how long a browser stays signed in
LONGEST_NAME = 60
_ALPHABET = "abcdefghjkmnpqrstuvwxyz23456789"  # nothing that is read as something else
_GROUPS, _A_GROUP = 5, 5  # 124 bits


@dataclass(frozen=True)
class Code:
    """What lets somebody in: its name, whether it may change things (`full`) or only `listening`, and its text."""

    name: str
    kind: str
    text: str
    made_at: float


class Codes:
    """The codes of a data folder; what another process changed in its file counts at once; for several threads."""

    def __init__(self, folder: Path) -> None:
        self._path = folder / FILE
        self._lock = threading.Lock()
        self._known: tuple[Code, ...] = ()
        self._stamp: tuple[int, int] | None = None

    def all(self) -> tuple[Code, ...]:
        """The codes, the first one made at its first use.

        Raises
        ------
        ParameterError
            When the file is none of codes.
        """
        with self._lock:
            try:
                found = self._path.stat()
            except FileNotFoundError:
                self._write((_new(FIRST, FULL),))
                found = self._path.stat()
            stamp = found.st_mtime_ns, found.st_ino
            if stamp != self._stamp:
                self._known, self._stamp = _read(self._path), stamp
            return self._known

    def add(self, name: str, kind: str = FULL) -> Code:
        """Make a code; ConflictError when there is one of the name."""
        title = one_line(name, "The name of a code", LONGEST_NAME)
        known = self.all()
        if title in {one.name for one in known}:
            raise ConflictError(f"There is a code “{title}” already; rotate it, or choose another name.")
        made = _new(title, kind)
        with self._lock:
            self._write((*known, made))
        return made

    def rotate(self, name: str) -> Code:
        """Give a code a new text; whoever came in with the old one is out. NotFoundError when there is none."""
        before = self._named(name)
        made = _new(before.name, before.kind)
        with self._lock:
            self._write(tuple(made if one.name == name else one for one in self._known))
        return made

    def withdraw(self, name: str) -> None:
        """Take a code away; whoever came in with it is out. NotFoundError when there is none."""
        gone = self._named(name)
        if len([one for one in self._known if one.kind == FULL and one != gone]) == 0:
            raise ParameterError("This is the last code that can change anything; rotate it instead.")
        with self._lock:
            self._write(tuple(one for one in self._known if one != gone))

    def of(self, text: str) -> Code | None:
        """The code with a text; every one is compared, in the same time whatever they have in common."""
        typed = "".join(text.lower().split()).encode()
        found = [one for one in self.all() if hmac.compare_digest(one.text.encode(), typed)]
        return found[0] if found else None

    def ticket(self, code: Code) -> str:
        """What a browser keeps in place of the code."""
        return TimestampSigner(code.text, salt="sign-in").sign("in").decode()

    def holder(self, ticket: str) -> Code | None:
        """The code that a ticket was given for; None when it is forged, too old, or its code is gone or another now."""
        for one in self.all():
            try:
                TimestampSigner(one.text, salt="sign-in").unsign(ticket, max_age=TICKET_S)
                return one
            except BadSignature:
                continue
        return None

    def _named(self, name: str) -> Code:
        found = [one for one in self.all() if one.name == name]
        if not found:
            names = ", ".join(f"“{one.name}”" for one in self.all())
            raise NotFoundError(f"There is no code “{name[:LONGEST_NAME]}”; there is {names}.")
        return found[0]

    def _write(self, codes: tuple[Code, ...]) -> None:
        part = self._path.with_name(f"{uuid.uuid4().hex}.part")
        with os.fdopen(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as file:
            json.dump({"codes": [asdict(one) for one in codes]}, file, indent=1)
            file.flush()
            os.fsync(file.fileno())
        part.replace(self._path)
        self._stamp = None


def _new(name: str, kind: str) -> Code:
    groups = ("".join(secrets.choice(_ALPHABET) for _ in range(_A_GROUP)) for _ in range(_GROUPS))
    return Code(name, kind, "-".join(groups), time.time())


def _read(path: Path) -> tuple[Code, ...]:
    try:
        codes = tuple(Code(**one) for one in json.loads(path.read_text())["codes"])
        fine = codes and all(isinstance(one.text, str) and len(one.text) >= 20 and one.kind in (FULL, LISTENING)
                             and isinstance(one.name, str) for one in codes)  # fmt: skip
    except (ValueError, TypeError, KeyError, OSError):
        fine = False
    if not fine:
        raise ParameterError(f"{path} holds no sign-in codes. Take it away, and a new one is made.")
    return codes
