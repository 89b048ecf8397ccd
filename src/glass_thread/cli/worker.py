"""``glass-thread worker``: lend another machine's cores to a server."""

from __future__ import annotations

import argparse
import os
from pathlib import Path

from platformdirs import user_cache_path

from ..core.signal.errors import ParameterError
from ..services.work.token import TOKEN_SETTING
from ..services.work.worker import end_with_server, work_afar, work_here

_LESS_URGENT = 10


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verb."""
    worker = verbs.add_parser(
        "worker", help="work for a server on another machine",
        description="Work for a server on another machine: set GLASS_THREAD_REDIS_URL and GLASS_THREAD_WORKER_TOKEN "
        "to the server's. Recordings are fetched from the server and kept in a folder of the worker's own.",
    )  # fmt: skip
    worker.add_argument("--server", required=True, metavar="URL", help="address of the server, http://host:port")
    worker.add_argument("--data", type=Path, help="folder for fetched recordings (default: XDG cache directory)")
    worker.add_argument("--name", default="", help=argparse.SUPPRESS)
    worker.add_argument("--tied", action="store_true", help=argparse.SUPPRESS)
    worker.set_defaults(run=run)


def run(chosen: argparse.Namespace) -> int:
    """Work until interrupted."""
    token = os.environ.get(TOKEN_SETTING, "")
    if not token:
        raise ParameterError(f"Set {TOKEN_SETTING} to the server's; it stands in worker.token of its data folder.")
    os.nice(_LESS_URGENT)  # the sound of an edit never waits for an import
    if chosen.tied:
        end_with_server()
        work_here(chosen.server, token, chosen.data, chosen.name)
    else:
        folder = chosen.data or user_cache_path("glass-thread", appauthor=False) / "worker"
        work_afar(chosen.server, token, folder.resolve(), chosen.name)
    return 0
