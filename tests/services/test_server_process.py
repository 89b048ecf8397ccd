"""The server and its worker as processes: killed, ended, started twice on one folder."""

import json
import os
import signal
import socket
import subprocess
import unittest
import urllib.request
from collections import Counter
from pathlib import Path
from typing import Any

import numpy as np
import soundfile as sf

from glass_thread.core.signal.errors import ConflictError
from glass_thread.services.folder_lock import folder_lock
from glass_thread.services.import_audio import import_audio
from glass_thread.services.songs import create_song
from glass_thread.services.worker_process import MOST_DEATHS, take_up_interrupted
from tests.application import PATIENCE_S, Application, until
from tests.signals import RATE, FolderCase, sung_short, write_short


class ServerCase(FolderCase):
    """``glass-thread serve`` on a folder of its own."""

    def application(self) -> Application:
        application = Application(self.folder / "data", "serve")
        self.addCleanup(application.kill)
        return application

    def started(self) -> subprocess.Popen[bytes]:
        self.running = self.application()
        return self.running.start()

    def ask(self, path: str, body: dict | None = None) -> dict:
        address = f"{self.running.url}/api/v1{path}"
        sent = json.dumps(body).encode()
        request = urllib.request.Request(address, sent, {"Content-Type": "application/json"}) if body else address
        with urllib.request.urlopen(request, timeout=60) as answer:
            return json.load(answer)

    def bring_in(self, path: Path) -> str:
        """Upload with the standard library alone; returns the task's id."""
        song = self.ask("/songs", {"title": "Test"})["id"]
        edge = "edge"
        head = f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="a.flac"\r\n\r\n'
        body = head.encode() + path.read_bytes() + f"\r\n--{edge}--\r\n".encode()
        origin = self.running.url
        headers = {"Content-Type": f"multipart/form-data; boundary={edge}", "Origin": origin}
        request = urllib.request.Request(f"{origin}/api/v1/songs/{song}/tracks", body, headers)
        with urllib.request.urlopen(request, timeout=60) as answer:
            return json.load(answer)["task"]["id"]

    def long_take(self, seconds: int) -> Path:
        one = sung_short()[1].audio
        path = self.folder / "long.flac"
        sf.write(str(path), np.tile(one, int(seconds * RATE / len(one)) + 1), RATE)
        return path


def children(pid: int) -> list[int]:
    """Processes that a process started."""
    try:
        return [int(one) for file in Path(f"/proc/{pid}/task").glob("*/children") for one in file.read_text().split()]
    except OSError:
        return []


def alive(pid: int) -> bool:
    """True while a process runs; one that ended and was not yet waited for does not."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"
    except OSError:
        return False


class ProcessTest(ServerCase):
    def test_a_task_whose_worker_is_killed_is_done_by_the_next(self) -> None:
        server = self.started()
        worker = until(lambda: children(server.pid), "the worker")[0]
        task = self.bring_in(self.long_take(240))
        until(lambda: self.ask(f"/tasks/{task}")["state"] == "running", "the task to begin")
        os.kill(worker, signal.SIGKILL)
        until(lambda: self.ask(f"/tasks/{task}")["state"] == "done", "the task to be done")
        self.assertNotIn(worker, children(server.pid))
        track = self.ask("/songs")["songs"][0]["tracks"][0]
        self.assertTrue(track["ready"])

    def test_the_worker_ends_with_its_server_however_that_ends(self) -> None:
        for how in (signal.SIGTERM, signal.SIGKILL):
            with self.subTest(how.name):
                server = self.started()
                worker = until(lambda server=server: children(server.pid), "the worker")[0]
                server.send_signal(how)
                server.wait(PATIENCE_S)
                until(lambda worker=worker: not alive(worker), "the worker to end")

    def test_a_second_server_on_the_folder_is_told_so(self) -> None:
        self.started()
        second = self.application().launch(stderr=subprocess.PIPE)
        assert second.stderr is not None
        with second.stderr as said:
            self.assertIn(b"already runs on", said.read())
        self.assertEqual(second.wait(PATIENCE_S), 2)

    def test_what_never_reaches_the_application_is_refused_in_json(self) -> None:
        self.started()
        cases = {b"GET /api/v1/songs HTTP/1.1\r\nX: ".ljust(262_145, b"y"): 431,
                 b"nonsense\r\n\r\n": 400,
                 b"POST /api/v1/songs HTTP/1.1\r\nContent-Length: 3000000000\r\n\r\n": 413,
                 b"POST /api/v1/songs HTTP/1.1\r\nTransfer-Encoding: gzip\r\n\r\n": 501}  # fmt: skip
        for sent, status in cases.items():
            with self.subTest(status), socket.create_connection(("127.0.0.1", self.running.port), 30) as connection:
                connection.sendall(sent)
                answer = b""
                while part := connection.recv(65_536):
                    answer += part
                head, body = answer.split(b"\r\n\r\n", 1)
                self.assertIn(str(status).encode(), head.split(b"\r\n")[0])
                self.assertRegex(json.loads(body)["message"], r"^The .+\.$")


class InterruptedTest(FolderCase):
    """What a dead worker leaves, without the processes."""

    def setUp(self) -> None:
        super().setUp()
        self.work = self.workspace()
        song = create_song(self.work, "Test")
        with write_short(self.folder).open("rb") as stream:
            self.track, self.task = import_audio(self.work, song.id, stream, "take.wav")
        self.song = song.id

    def died(self, deaths: Counter, **values: Any) -> str:
        self.work.tasks.change(self.task.id, state="running", **values)
        take_up_interrupted(self.work, deaths)
        return self.work.tasks.get(self.task.id).state

    def test_tried_again_until_it_ended_its_worker_too_often(self) -> None:
        deaths: Counter[str] = Counter()
        for _ in range(MOST_DEATHS - 1):
            self.assertEqual(self.died(deaths), "waiting")
        self.assertEqual(self.died(deaths), "failed")
        self.assertIn("ended from outside", self.work.tasks.get(self.task.id).message)
        self.assertEqual(self.work.tracks.of_song(self.song), [])

    def test_one_that_was_to_stop_has_stopped(self) -> None:
        self.assertEqual(self.died(Counter(), cancel=True), "cancelled")
        self.assertEqual(self.work.tracks.of_song(self.song), [])

    def test_one_holder_of_a_folder(self) -> None:
        with folder_lock(self.folder), self.assertRaisesRegex(ConflictError, "already runs"), folder_lock(self.folder):
            pass
        with folder_lock(self.folder):
            pass


if __name__ == "__main__":
    unittest.main()
