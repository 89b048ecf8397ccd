"""Servers that begin as copies of one process that has loaded everything, since loading it takes seconds of its own."""

from __future__ import annotations

import atexit
import gc
import json
import os
import selectors
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import threading
from contextlib import suppress
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Any
from unittest import mock

from tests.application import Application, until
from tests.kept import ROOT, kept_folder
from tests.signals import REAL_TAKE

if TYPE_CHECKING:
    from glass_thread.services.folder.workspace import Workspace
    from glass_thread.services.session.desk import Desk


FAILED = "failed-answers.txt"


class Hatched(Application):
    """The same application, begun as a copy."""

    number = 0  # of the process, 0 when there is none

    def launch(self, *settings: str, **_unused: Any) -> Any:
        """Start it without waiting."""
        _have_looked()
        self.number = _hatchery().ask("hatch", [*self.command()[3:], *settings])

    def kill(self) -> None:
        """End server and workers with -9."""
        if self.number:
            with suppress(ProcessLookupError):  # it may have ended by itself
                os.killpg(self.number, signal.SIGKILL)
            _hatchery().ask("bury", self.number)
        self.number = 0


def failed_answers(folder: Path) -> list[str]:
    """What servers with their data in a folder, or in one within it, answered with 5xx since this was asked last."""
    found: list[str] = []
    for path in (*folder.glob(FAILED), *folder.glob(f"*/{FAILED}")):
        found += path.read_text().splitlines()
        path.unlink()
    return found


def prepared() -> Path:
    """A data folder with the demo song in it and nothing else."""
    return kept_folder("demo", lambda folder: _hatchery().ask("demo", str(folder)))


def first_half() -> Path:
    """The same of the song's first half alone: for journeys that render all of it again and again."""
    return kept_folder("half", lambda folder: _hatchery().ask("half demo", str(folder)))


def with_real_take() -> Path:
    """The same with a song of a user's own: a real take, as it was brought in."""
    demo = prepared()

    def make(folder: Path) -> None:
        shutil.copytree(demo, folder, dirs_exist_ok=True)
        _hatchery().ask("own take", str(folder))

    return kept_folder("own", make)


@lru_cache(maxsize=1)
def _hatchery() -> _Hatchery:
    return _Hatchery()


@lru_cache(maxsize=1)
def _have_looked() -> None:
    _hatchery().ask("look", str(with_real_take()))


class _Hatchery:
    """The one that `./glass test` has begun for all processes of tests, or else one of this process alone."""

    def __init__(self) -> None:
        place = os.environ.get("GLASS_THREAD_HATCHERY") or self._begun()
        self._line = socket.socket(socket.AF_UNIX)
        self._line.connect(place)
        self._answers = self._line.makefile("rb")

    def _begun(self) -> str:
        folder = tempfile.TemporaryDirectory()
        place = f"{folder.name}/hatchery"
        process = subprocess.Popen([sys.executable, "-W", "ignore", "-m", "tests.browser.hatchery", place], cwd=ROOT)
        atexit.register(folder.cleanup)
        atexit.register(process.kill)
        until(lambda: Path(place).exists() or process.poll() is not None, "the hatchery")
        return place

    def ask(self, what: str, about: Any) -> int:
        """Have something done; a number comes back."""
        self._line.sendall(json.dumps([what, about]).encode() + b"\n")
        return int(self._answers.readline())


def _load() -> None:
    """Load and compile what every server needs."""
    from huey.consumer import Consumer

    from glass_thread.cli import serve
    from glass_thread.services.sound.warm_up import warm_up
    from glass_thread.services.work.own_workers import OwnWorkers

    warm_up()
    serve._prepare_engine = lambda: None  # it is
    serve.create_app = which_says_what_it_failed_at
    OwnWorkers._start = _begin_beside
    Consumer._set_signal_handlers = lambda _self: None  # only a process of its own has them


def which_says_what_it_failed_at(workspace: Workspace, settings: Any) -> Any:
    """The application; whatever it answers with 5xx, whoever asked, stands in a file beside its data."""
    from flask import request

    from glass_thread.api.app import create_app

    app = create_app(workspace, settings)
    path = workspace.folder.with_name(FAILED)

    @app.after_request
    def note(response: Any) -> Any:
        if response.status_code >= 500:
            with path.open("a") as stream:
                stream.write(f"{response.status_code} {request.method} {request.url}\n")
        return response

    return app


class _Beside:
    """A worker in the server's own process, which ends with it: these tests are about the page."""

    def poll(self) -> None:
        """It runs."""


def _begin_beside(workers: Any) -> None:
    from glass_thread.services.work.worker import work_here

    workers._started += 1
    name = f"beside-{workers._started}"
    about = (workers._server, workers._token, workers._workspace.folder, name)
    threading.Thread(target=work_here, args=about, daemon=True).start()
    workers._running[name] = _Beside()


@lru_cache(maxsize=1)
def _look_at(folder: Path) -> int:
    """Do what a page asks for when it opens each song's lead: servers begin with what is loaded and worked out for it.

    It is kept by content, and what they serve are copies of this folder.
    """
    from glass_thread.api.app import PREFIX, create_app
    from glass_thread.services.folder.workspace import open_workspace

    with tempfile.TemporaryDirectory() as copies:
        workspace = open_workspace(shutil.copytree(folder, Path(copies) / "data"))
        app = create_app(workspace)
        ask = app.test_client().get
        for song in ask(f"{PREFIX}/songs").json["songs"]:
            tracks = [f"{PREFIX}/tracks/{one['id']}" for one in ask(f"{PREFIX}/songs/{song['id']}").json["tracks"]]
            for path in _asked_of_a_lead(ask(f"{tracks[0]}/content").json["step_id"], song["tracks"][0]["frames"]):
                assert ask(f"{tracks[0]}/{path}").status_code == 200, path
            for track in tracks:
                assert ask(f"{track}/outline?columns=240").status_code == 200
                ask(f"{track}/progress")  # a backing has none
            app.extensions["marks_ahead"].rest()
        _begin_with(app.extensions["desk"])
        workspace.close()
    gc.freeze()  # a copy in which nothing of this is collected touches, and so copies, less
    return 0


def _asked_of_a_lead(step: str, frames: int) -> list[str]:
    pieces = [(at, min(at + 441_000, frames)) for at in range(0, frames, 441_000)]
    sound = [f"audio?kind=tuned&step={step}&begin={begin}&end={end}" for begin, end in pieces]
    return ["analysis", "versions", f"curves?step={step}&first=0&last=2000", *sound]


def _begin_with(known: Desk) -> None:
    """Let every desk begin with what one remembers."""
    from glass_thread.services.session.desk import Desk
    from glass_thread.store.byte_cache import ByteCache

    begin = Desk.__init__

    def with_what_is_known(desk: Desk, workspace: Workspace) -> None:
        begin(desk, workspace)
        for known_part, part in ((known, desk), (known.sound, desk.sound), (known.heard, desk.heard)):
            vars(part).update({name: kept for name, kept in vars(known_part).items() if isinstance(kept, ByteCache)})

    Desk.__init__ = with_what_is_known


def _make_demo(folder: Path) -> int:
    from glass_thread.demo.build import ensure_demo
    from glass_thread.services.folder.workspace import open_workspace

    workspace = open_workspace(folder)
    ensure_demo(workspace)
    workspace.close()
    return 0


def _make_half_demo(folder: Path) -> int:
    import soundfile as sf

    from glass_thread.demo import build, song

    half = round(song.start_of(12) * build.SAMPLE_RATE)
    with tempfile.TemporaryDirectory() as cut:
        for name, *_about in build.FILES:
            samples, rate = sf.read(build.FOLDER / name, frames=half, dtype="int16")
            sf.write(Path(cut) / name, samples, rate)
        with mock.patch.object(build, "FOLDER", Path(cut)):
            return _make_demo(folder)


def _bring_in_own(folder: Path) -> int:
    from glass_thread.bench.speed.screen import bring_in
    from glass_thread.services.folder.workspace import open_workspace
    from glass_thread.services.song.songs import create_song

    workspace = open_workspace(folder)
    bring_in(workspace, create_song(workspace, "Own take").id, REAL_TAKE)
    workspace.close()
    return 0


def _hatch(arguments: list[str]) -> int:
    from glass_thread.cli.main import main

    number = os.fork()
    if number:
        return number
    os.setsid()
    nothing = os.open(os.devnull, os.O_RDWR)
    for stream in (0, 1):
        os.dup2(nothing, stream)
    os._exit(main(arguments))


def _told(what: str, about: Any) -> int:
    if what == "hatch":
        return _hatch(about)
    if what == "bury":
        return os.waitpid(about, 0)[0]
    return {"look": _look_at, "demo": _make_demo, "half demo": _make_half_demo, "own take": _bring_in_own}[what](
        Path(about)
    )


def _answer(place: str) -> None:
    """Do what is asked for, one after the other, whoever asks."""
    _load()
    part = Path(f"{place}.part")
    part.unlink(missing_ok=True)  # of one that was ended here
    door = socket.socket(socket.AF_UNIX)
    door.bind(str(part))
    door.listen()
    part.rename(place)  # there once it can be asked
    waiting = selectors.DefaultSelector()
    waiting.register(door, selectors.EVENT_READ)
    while True:
        for key, _events in waiting.select():
            if key.fileobj is door:
                line, _ = door.accept()
                waiting.register(line, selectors.EVENT_READ, line.makefile("rb"))
            elif asked := key.data.readline():
                key.fileobj.sendall(b"%d\n" % _told(*json.loads(asked)))
            else:
                waiting.unregister(key.fileobj)


if __name__ == "__main__":
    _answer(sys.argv[1])
