"""Tables as CSV (RFC 4180), in which no cell is run as a formula by a spreadsheet."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence

_BEGINNINGS = ("=", "+", "-", "@", "\t", "\r", "\n")  # OWASP, "CSV Injection"


def csv_table(columns: Sequence[str], rows: Iterable[Sequence[object]], *, line_end: str = "\r\n") -> str:
    """A table with its header.

    A text that begins as a formula does is led by an apostrophe, as people may have typed it; numbers stay numbers,
    also negative ones.
    """
    out = io.StringIO()
    writer = csv.writer(out, lineterminator=line_end)
    writer.writerow(columns)
    writer.writerows([_guarded(value) for value in row] for row in rows)
    return out.getvalue()


def _guarded(value: object) -> object:
    return f"'{value}" if isinstance(value, str) and value.startswith(_BEGINNINGS) and not _is_number(value) else value


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return text == text.strip()
