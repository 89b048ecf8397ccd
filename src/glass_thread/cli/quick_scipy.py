"""SciPy without its own documentation: it writes that anew for every function it loads, 0.9 of 1.7 s of each start."""

from __future__ import annotations

from contextlib import suppress
from typing import Any


class _NoText(dict[str, list[Any]]):
    """In place of a function's documentation, section by section; SciPy adds to some and takes the whole as text."""

    def __init__(self, *_about: Any, **_settings: Any) -> None:
        super().__init__()

    def __missing__(self, section: str) -> list[Any]:
        return self.setdefault(section, [])

    def __str__(self) -> str:
        return "\n\n"


def leave_documentation_out() -> None:
    """Have SciPy load without it from now on; a SciPy that keeps it elsewhere loads as it always does."""
    with suppress(ImportError, AttributeError):
        from scipy._lib import _docscrape

        _docscrape.FunctionDoc = _NoText
