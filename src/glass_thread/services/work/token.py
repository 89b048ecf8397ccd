"""The secret by which a server knows its workers."""

from __future__ import annotations

import os
import secrets
from pathlib import Path

TOKEN_SETTING = "GLASS_THREAD_WORKER_TOKEN"
FILE = "worker.token"


def server_token(folder: Path) -> str:
    """The token of a data folder's server: from the setting, else one of its own, made once and readable by its owner.

    To let a worker on another machine in, give it the same setting.
    """
    chosen = os.environ.get(TOKEN_SETTING)
    if chosen:
        return chosen
    path = folder / FILE
    if not path.is_file():
        with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as file:
            file.write(secrets.token_urlsafe(32))
    return path.read_text().strip()
