"""``glass-thread serve`` and ``demo``: the application and its background work."""

from __future__ import annotations

import argparse
import errno
import signal
import socket
import sys
import threading
import time
from pathlib import Path

from ..api.app import FRONT_END, LOOPBACK, Settings, create_app
from ..api.http_server import serve
from ..core.signal.errors import ParameterError
from ..demo.build import ensure_demo
from ..services.folder.folder_lock import folder_lock
from ..services.folder.workspace import default_data_folder, open_workspace, tidy
from ..services.sound.warm_up import warm_up
from ..services.work import own_workers
from ..services.work.job_queue import JobQueue
from ..services.work.tasks import take_up_again
from ..services.work.token import server_token

DEFAULT_PORT = 4380
MOST_WORKERS = 64


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verbs."""
    for name, text in (("serve", "start the application"), ("demo", "start the application with the demo song")):
        parser = verbs.add_parser(name, help=text, description=text.capitalize() + ".")
        parser.add_argument("--data", type=Path, help="data folder (default: XDG data directory or $GLASS_THREAD_DATA)")
        parser.add_argument("--port", type=int, default=DEFAULT_PORT, help=f"port (default {DEFAULT_PORT})")
        parser.add_argument("--host", default="127.0.0.1", help="address to listen on (default 127.0.0.1)")
        parser.add_argument(
            "--workers", type=int, default=own_workers.cores(), metavar="N",
            help="how many tasks this machine does at a time (default: one a core; 0: only other machines work)",
        )  # fmt: skip
        parser.add_argument("--front-end", type=Path, default=FRONT_END, help=argparse.SUPPRESS)
        parser.set_defaults(run=run, with_demo=name == "demo")


def run(chosen: argparse.Namespace) -> int:
    """Serve until interrupted."""
    if not 1 <= chosen.port <= 65535:
        raise ParameterError("A port is a number from 1 to 65535.")
    if not 0 <= chosen.workers <= MOST_WORKERS:
        raise ParameterError(f"Workers are 0 to {MOST_WORKERS} at a time.")
    folder = (chosen.data or default_data_folder()).resolve()
    listener = _listen(chosen.host, chosen.port)
    signal.signal(signal.SIGTERM, lambda _number, _frame: sys.exit(0))
    with folder_lock(folder):
        _serve(chosen, folder, listener)
    return 0


def _serve(chosen: argparse.Namespace, folder: Path, listener: socket.socket) -> None:
    wake, stop = threading.Event(), threading.Event()
    workspace = open_workspace(folder, announce=wake.set)
    workspace.database.refuse_damage()
    token = server_token(folder)
    if chosen.with_demo:
        ensure_demo(workspace)
    workspace.audio.clean()
    tidy(workspace)
    take_up_again(workspace)
    app = create_app(workspace, Settings(LOOPBACK | {chosen.host}, token, chosen.front_end.resolve()))
    queue = JobQueue(token, folder)
    queue.clear()
    foreman = app.extensions["foreman"]
    workers = own_workers.OwnWorkers(workspace, foreman, _own_address(chosen), token, chosen.workers)
    keeper = threading.Thread(
        target=own_workers.keep_working, args=(foreman, queue, workers, wake, stop, _say), daemon=True
    )
    keeper.start()
    threading.Thread(target=_prepare_engine, daemon=True).start()
    _say(f"Glass Thread is at {_address(chosen.host, chosen.port)}/  (data in {folder}; Ctrl+C stops it)")
    try:
        serve(app, listener)
    finally:
        stop.set()
        wake.set()
        keeper.join()
        workspace.close()


def _say(sentence: str) -> None:
    print(sentence, flush=True)


def _address(host: str, port: int) -> str:
    return f"http://[{host}]:{port}" if ":" in host else f"http://{host}:{port}"


def _own_address(chosen: argparse.Namespace) -> str:
    """Where the server's own workers reach it."""
    everywhere = {"0.0.0.0": "127.0.0.1", "::": "::1"}
    return _address(everywhere.get(chosen.host, chosen.host), chosen.port)


def _listen(host: str, port: int) -> socket.socket:
    listener = socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET, socket.SOCK_STREAM)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind((host, port))
    except OSError as error:
        listener.close()
        if isinstance(error, socket.gaierror) or error.errno == errno.EADDRNOTAVAIL:
            raise ParameterError(
                f"This machine has no address “{host}”; leave --host out for this machine alone."
            ) from error
        raise ParameterError(
            f"Port {port} on {host} is taken or not allowed; is Glass Thread running already? Try --port {port + 1}."
        ) from error
    return listener


def _prepare_engine() -> None:
    begun = time.monotonic()
    timer = threading.Timer(3.0, lambda: _say("Compiling the sound engine, once; this takes a minute…"))
    timer.start()
    warm_up()
    timer.cancel()
    if time.monotonic() - begun > 3.0:
        _say("The sound engine is ready.")
