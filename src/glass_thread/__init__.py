"""Glass Thread: offline, note-by-note tuning of recorded vocals."""

__version__ = "0.1.0"
