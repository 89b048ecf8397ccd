"""Faults of the program: what happened goes to a log in the data folder, the user gets a short reference to it."""

from __future__ import annotations

import logging
import uuid
from logging.handlers import RotatingFileHandler
from pathlib import Path

LOG = "faults.log"
_LARGEST = 1 << 20


def record_fault(folder: Path, trace: str) -> str:
    """Write a trace to the log; returns a sentence with its reference for the user."""
    reference = uuid.uuid4().hex[:6].upper()
    try:
        handler = RotatingFileHandler(folder / LOG, maxBytes=_LARGEST, backupCount=1, encoding="utf-8")
        handler.setFormatter(logging.Formatter("%(asctime)s %(message)s"))
        handler.emit(logging.LogRecord("faults", logging.ERROR, LOG, 0, f"{reference}\n{trace}", None, None))
        handler.close()
    except OSError:
        logging.getLogger(__name__).error("%s %s", reference, trace)
    return f"This did not work because of a fault in the program. What happened stands in {LOG} as {reference}."
