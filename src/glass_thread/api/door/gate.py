"""The one place that decides whether a request is let in, from its headers alone.

The HTTP server asks before a byte of a body is read, and the application again, whoever calls it.
"""

from __future__ import annotations

import hmac
from collections.abc import Callable
from dataclasses import dataclass
from http.cookies import CookieError, SimpleCookie
from ipaddress import ip_address
from typing import NamedTuple
from urllib.parse import urlsplit

from ...core.signal.errors import ParameterError
from ...services.access.codes import LISTENING, Code, Codes

PREFIX = "/api/v1"
SIGN_IN = f"{PREFIX}/sign-in"
COOKIE = "glass_thread"
LARGEST_JSON = 4 << 20
_READING = ("GET", "HEAD", "OPTIONS")


class Refused(NamedTuple):
    """Why a request is not let in: its status and a sentence."""

    status: int
    sentence: str


@dataclass(frozen=True)
class Asked:
    """What the headers of a request say; `body` is the declared size in bytes, None for one that is not declared."""

    method: str
    path: str
    header: Callable[[str], str | None]
    scheme: str = "http"

    @property
    def host(self) -> str:
        """Name or address that it was sent to, "" for one that cannot be read."""
        try:
            return urlsplit(f"//{self.header('host') or ''}").hostname or ""
        except ValueError:
            return ""

    @property
    def is_json(self) -> bool:
        """Whether it says that its body is JSON."""
        kind = (self.header("content-type") or "").split(";")[0].strip().lower()
        return kind == "application/json" or (kind.startswith("application/") and kind.endswith("+json"))

    @property
    def body(self) -> int | None:
        """How many bytes its body has, None when that is not said."""
        length = self.header("content-length") or ""
        return int(length) if length.isascii() and length.isdigit() and len(length) < 20 else None

    @property
    def ticket(self) -> str:
        """What its browser keeps in place of a code."""
        try:
            found = SimpleCookie(self.header("cookie") or "").get(COOKIE)
        except CookieError:
            return ""
        return found.value if found else ""


@dataclass(frozen=True)
class Gate:
    """The rules of one server: names it answers to, the token of its workers, the largest body in bytes, and its
    sign-in codes when it is reached from other machines."""

    hosts: frozenset[str]
    worker_token: str
    largest_body: int
    codes: Codes | None = None

    def refusal(self, asked: Asked) -> Refused | None:
        """Why a request is not let in; None when it is."""
        return self._misdirected(asked) or self._too_much(asked) or self._stranger(asked)

    def holder(self, asked: Asked) -> Code | None:
        """The code that a request comes with; None without one, or where none is needed."""
        return self.codes.holder(asked.ticket) if self.codes and asked.ticket else None

    def is_worker(self, asked: Asked) -> bool:
        """Whether a request comes with the token of the server's workers."""
        sent = (asked.header("authorization") or "").removeprefix("Bearer ").encode()
        return bool(self.worker_token) and hmac.compare_digest(sent, self.worker_token.encode())

    def _misdirected(self, asked: Asked) -> Refused | None:
        """Requests for other hosts (DNS rebinding), and changes that another origin asks for.

        A page elsewhere can make a browser send forms without asking, but neither JSON nor an Origin of its choosing
        (Fetch standard, "CORS-safelisted request-header"): so a change either names our origin or has a JSON body.
        """
        if asked.host not in self.hosts and not (self.codes and _is_address(asked.host)):
            return Refused(403, "This address is not one the program answers to.")
        if asked.method in _READING:
            return None
        site, origin = asked.header("sec-fetch-site") or "same-origin", asked.header("origin")
        if site not in ("same-origin", "none") or origin not in (None, f"{asked.scheme}://{asked.header('host')}"):
            return Refused(403, "Changes are only taken from the program's own page.")
        if origin is None and not asked.is_json:
            return Refused(415, "A change needs a JSON body (Content-Type: application/json) or the program's own "
                           "Origin.")  # fmt: skip
        return None

    def _too_much(self, asked: Asked) -> Refused | None:
        if asked.header("transfer-encoding"):
            return Refused(411, "A body needs its size in Content-Length.")
        size = asked.body or 0
        if asked.is_json and size > LARGEST_JSON:
            return Refused(413, "The request is larger than the 4 MB of JSON that are taken.")
        if size > self.largest_body:
            return Refused(413, f"The file is larger than {self.largest_body / 1024**3:.0f} GB.")
        return None

    def _stranger(self, asked: Asked) -> Refused | None:
        """Requests without a code, where one is needed, and changes by a code that may only listen."""
        if not asked.path.startswith("/api/"):
            return None  # the page itself, which holds nothing of anybody's
        if asked.path.startswith(f"{PREFIX}/work"):
            if self.is_worker(asked):
                return None
            return Refused(401, "The worker token is not this server's: set GLASS_THREAD_WORKER_TOKEN to the same on "
                           "both.")  # fmt: skip
        if self.codes is None or asked.path == SIGN_IN:
            return None
        try:
            code = self.holder(asked)
        except ParameterError:  # its file is damaged, whose place is nobody else's affair
            return Refused(503, "The sign-in codes of this server cannot be read.")
        if code is None:
            return Refused(401, "Sign in first, with a code of this server's.")
        if code.kind == LISTENING and asked.method not in _READING:
            return Refused(403, f"“{code.name}” may listen and look, but not change anything.")
        return None


def _is_address(host: str) -> bool:
    """An address cannot be rebound by a name server, as a name can."""
    try:
        ip_address(host)
    except ValueError:
        return False
    return True
