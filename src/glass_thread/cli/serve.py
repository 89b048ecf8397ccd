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
from ..api.door.http_server import serve
from ..core.signal.errors import ParameterError
from ..demo.build import ensure_demo
from ..services.access.codes import Code, Codes
from ..services.folder.folder_lock import folder_lock
from ..services.folder.workspace import default_data_folder, open_workspace, tidy
from ..services.sound.warm_up import warm_up
from ..services.work import own_workers
from ..services.work.job_queue import JobQueue
from ..services.work.tasks import take_up_again
from ..services.work.token import server_token

DEFAULT_PORT = 4380
MOST_WORKERS = 64
EVERYWHERE = {"0.0.0.0": "127.0.0.1", "::": "::1"}


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
        parser.add_argument(
            "--name", action="append", default=[], metavar="HOST",
            help="another name that the server is reached by, such as studio.example.org; may be given again",
        )  # fmt: skip
        parser.add_argument(
            "--behind-proxy", action="store_true",
            help="a reverse proxy with TLS stands before it; what that says of its clients is trusted",
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
    codes = Codes(folder) if chosen.behind_proxy or chosen.host not in LOOPBACK else None
    hosts = LOOPBACK | {chosen.host, *chosen.name} | (own_names() if codes else frozenset())
    app = create_app(workspace, Settings(hosts, token, chosen.front_end.resolve(), codes))
    queue = JobQueue(token, folder)
    queue.clear()
    foreman = app.extensions["foreman"]
    workers = own_workers.OwnWorkers(workspace, foreman, _own_address(chosen), token, chosen.workers)
    keeper = threading.Thread(
        target=own_workers.keep_working, args=(foreman, queue, workers, wake, stop, _say), daemon=True
    )
    keeper.start()
    threading.Thread(target=_prepare_engine, daemon=True).start()
    _greet(chosen, folder, codes)
    try:
        serve(app, listener, behind_proxy=chosen.behind_proxy)
    finally:
        stop.set()
        wake.set()
        keeper.join()
        workspace.close()


def _greet(chosen: argparse.Namespace, folder: Path, codes: Codes | None) -> None:
    """Say where the program is and, when others reach it, how they come in."""
    where = [_address(chosen.host, chosen.port)]
    if codes and chosen.host in EVERYWHERE:
        where = [_address(own_address() or socket.gethostname(), chosen.port)]
    if chosen.behind_proxy:
        where += [f"https://{name}" for name in chosen.name]
    _say(f"Glass Thread is at {'/ and '.join(where)}/  (data in {folder}; Ctrl+C stops it)")
    if codes is None:
        return
    code: Code = codes.all()[0]
    _say(f"Sign in with the code {code.text}, or open {where[-1]}/#sign-in={code.text}")
    if not chosen.behind_proxy:
        _say("Whoever shares this network could listen in, as the traffic is plain: put a proxy with TLS before it "
             "(docs/security.md).")  # fmt: skip


def _say(sentence: str) -> None:
    print(sentence, flush=True)


def _address(host: str, port: int) -> str:
    return f"http://[{host}]:{port}" if ":" in host else f"http://{host}:{port}"


def _own_address(chosen: argparse.Namespace) -> str:
    """Where the server's own workers reach it."""
    return _address(EVERYWHERE.get(chosen.host, chosen.host), chosen.port)


def own_address() -> str:
    """The address by which this machine reaches others; empty without a network."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as asked:
        try:
            asked.connect(("192.0.2.1", 9))  # an address for documentation (RFC 5737); nothing is sent
            return str(asked.getsockname()[0])
        except OSError:
            return ""


def own_names() -> frozenset[str]:
    """The names that this machine goes by in its network; addresses need none."""
    name = socket.gethostname().lower()
    return frozenset({name, f"{name.split('.')[0]}.local", name.split(".")[0]})


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
