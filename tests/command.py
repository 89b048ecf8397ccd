"""The command line, run in the process of the test: another process would load the sound engine anew."""

from __future__ import annotations

import contextlib
import io
from dataclasses import dataclass
from pathlib import Path

from glass_thread.cli.main import main


@dataclass(frozen=True)
class Done:
    """How a command ended and what it wrote."""

    returncode: int
    stdout: str
    stderr: str


def command(*arguments: object, folder: Path | None = None) -> Done:
    """Run ``glass-thread`` with these arguments, in a folder."""
    out, err = io.StringIO(), io.StringIO()
    with (
        contextlib.redirect_stdout(out),
        contextlib.redirect_stderr(err),
        contextlib.chdir(folder) if folder else contextlib.nullcontext(),
    ):
        try:
            code = main([str(a) for a in arguments])
        except SystemExit as ended:  # as the parser of arguments ends it
            code = int(ended.code or 0)
    return Done(code, out.getvalue(), err.getvalue())
