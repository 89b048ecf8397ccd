"""The secret by which a server knows its workers."""

from __future__ import annotations

import os
import secrets
from pathlib import Path

from ...core.signal.errors import ParameterError

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
    if not path.exists():
        with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as file:
            file.write(secrets.token_urlsafe(32))
    try:
        token = path.read_text().strip()
    except (IsADirectoryError, UnicodeDecodeError):
        token = ""
    if not token or not token.isprintable():
        raise ParameterError(f"{path} is no worker token. Take it away, and a new one is made.")
    return token
