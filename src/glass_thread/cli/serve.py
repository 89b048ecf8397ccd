"""``glass-thread serve``, ``demo`` and ``worker``: the application and its background work."""

from __future__ import annotations

import argparse
import signal
import socket
import sys
import threading
import time
from pathlib import Path

from ..api.app import LOOPBACK, Settings, create_app
from ..api.http_server import serve
from ..core.signal.errors import ParameterError
from ..demo.build import ensure_demo
from ..services.folder_lock import folder_lock
from ..services.tasks import take_up_again
from ..services.warm_up import warm_up
from ..services.worker import open_queue, work
from ..services.worker_process import end_with_server, keep_worker
from ..services.workspace import default_data_folder, open_workspace, tidy

DEFAULT_PORT = 4380


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verbs."""
    for name, text in (("serve", "start the application"), ("demo", "start the application with the demo song")):
        parser = verbs.add_parser(name, help=text, description=text.capitalize() + ".")
        parser.add_argument("--data", type=Path, help="data folder (default: XDG data directory or $GLASS_THREAD_DATA)")
        parser.add_argument("--port", type=int, default=DEFAULT_PORT, help=f"port (default {DEFAULT_PORT})")
        parser.add_argument("--host", default="127.0.0.1", help="address to listen on (default 127.0.0.1)")
        parser.set_defaults(run=run, with_demo=name == "demo")
    worker = verbs.add_parser("worker", help="work on the background queue", description="Work on the queue.")
    worker.add_argument("--data", type=Path, help="data folder")
    worker.add_argument("--workers", type=int, default=1, help="how many tasks at a time (default 1)")
    worker.add_argument("--tied", action="store_true", help="end when standard input closes, as the server's own does")
    worker.set_defaults(run=run_worker)


def run_worker(chosen: argparse.Namespace) -> int:
    """Work until interrupted."""
    if chosen.tied:
        end_with_server()
    work(chosen.data or default_data_folder(), workers=chosen.workers)
    return 0


def run(chosen: argparse.Namespace) -> int:
    """Serve until interrupted."""
    if not 1 <= chosen.port <= 65535:
        raise ParameterError("A port is a number from 1 to 65535.")
    folder = (chosen.data or default_data_folder()).resolve()
    listener = _listen(chosen.host, chosen.port)
    signal.signal(signal.SIGTERM, lambda _number, _frame: sys.exit(0))
    with folder_lock(folder):
        _serve(chosen, folder, listener)
    return 0


def _serve(chosen: argparse.Namespace, folder: Path, listener: socket.socket) -> None:
    _queue, enqueue = open_queue(folder)
    workspace = open_workspace(folder, enqueue=enqueue)
    if chosen.with_demo:
        ensure_demo(workspace)
    workspace.audio.clean()
    tidy(workspace)
    take_up_again(workspace)
    stop = threading.Event()
    keeper = threading.Thread(target=keep_worker, args=(workspace, stop), daemon=True)
    keeper.start()
    threading.Thread(target=_prepare_engine, daemon=True).start()
    app = create_app(workspace, Settings(allowed_hosts=LOOPBACK | {chosen.host}))
    print(f"Glass Thread is at http://{chosen.host}:{chosen.port}/  (data in {folder}; Ctrl+C stops it)", flush=True)
    try:
        serve(app, listener)
    finally:
        stop.set()
        keeper.join()
        workspace.close()


def _listen(host: str, port: int) -> socket.socket:
    listener = socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET, socket.SOCK_STREAM)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind((host, port))
    except OSError as error:
        listener.close()
        raise ParameterError(
            f"Port {port} on {host} is taken or not allowed; is Glass Thread running already? Try --port {port + 1}."
        ) from error
    return listener


def _prepare_engine() -> None:
    begun = time.monotonic()
    timer = threading.Timer(3.0, lambda: print("Compiling the sound engine, once; this takes a minute…", flush=True))
    timer.start()
    warm_up()
    timer.cancel()
    if time.monotonic() - begun > 3.0:
        print("The sound engine is ready.", flush=True)
