"""The server and its worker as processes: killed, ended, started twice on one folder."""

import json
import os
import re
import signal
import socket
import subprocess
import unittest
from pathlib import Path
from unittest import mock

from glass_thread.bench.hostile.victim import children
from glass_thread.core.signal.errors import CancelledError, ConflictError
from glass_thread.services.folder.folder_lock import folder_lock
from glass_thread.services.session.desk import Desk
from glass_thread.services.song.import_audio import import_audio
from glass_thread.services.song.songs import create_song
from glass_thread.services.work.foreman import MOST_DEATHS, Foreman
from glass_thread.services.work.here import run_task
from glass_thread.services.work.jobs import Outcome
from glass_thread.services.work.tasks import cancel_task
from tests.application import PATIENCE_S, Application, until
from tests.services.process_case import ServerCase
from tests.signals import FolderCase, write_short


def alive(pid: int) -> bool:
    """True while a process runs; one that ended and was not yet waited for does not."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"
    except OSError:
        return False


class RunningTest(ServerCase):
    def test_a_task_whose_worker_is_killed_is_done_by_the_next(self) -> None:
        assert self.running.process is not None
        server = self.running.process.pid
        worker = until(lambda: children(server), "the worker")[0]
        task = self.bring_in(self.long_take(60))
        until(lambda: self.ask(f"/tasks/{task}")["state"] == "running", "the task to begin")
        os.kill(worker, signal.SIGKILL)
        until(lambda: self.ask(f"/tasks/{task}")["state"] == "done", "the task to be done")
        self.assertNotIn(worker, children(server))
        track = self.ask("/songs")["songs"][0]["tracks"][0]
        self.assertTrue(track["ready"])

    def test_a_second_server_on_the_folder_is_told_so(self) -> None:
        another = Application(self.running.folder, "serve")
        self.addCleanup(another.kill)
        second = another.launch(stderr=subprocess.PIPE)
        assert second.stderr is not None
        with second.stderr as said:
            self.assertIn(b"already runs on", said.read())
        self.assertEqual(second.wait(PATIENCE_S), 2)

    def test_what_never_reaches_the_application_is_refused_in_json(self) -> None:
        cases = {b"GET /api/v1/songs HTTP/1.1\r\nX: ".ljust(262_145, b"y"): 431,
                 b"nonsense\r\n\r\n": 400,
                 b"POST /api/v1/songs HTTP/1.1\r\nHost: localhost\r\nOrigin: http://localhost\r\n"
                 b"Content-Length: 3000000000\r\n\r\n": 413,
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


class EndTest(FolderCase):
    def test_the_worker_ends_with_its_server_however_that_ends(self) -> None:
        for how in (signal.SIGTERM, signal.SIGKILL):
            with self.subTest(how.name):
                application = Application(self.folder / "data", "serve")
                self.addCleanup(application.kill)
                server = application.start()
                worker = until(lambda server=server: children(server.pid), "the worker")[0]
                server.send_signal(how)
                server.wait(PATIENCE_S)
                until(lambda worker=worker: not alive(worker), "the worker to end")


class ForemanTest(FolderCase):
    """What becomes of a task whose worker is gone, without the processes."""

    def setUp(self) -> None:
        super().setUp()
        self.work = self.workspace()
        song = create_song(self.work, "Test")
        with write_short(self.folder).open("rb") as stream:
            self.track, self.task = import_audio(self.work, song.id, stream, "take.wav")
        self.song = song.id
        self.foreman = Foreman(Desk(self.work))
        self.queue = Sent()

    def state(self) -> str:
        return self.work.tasks.get(self.task.id).state

    def died(self) -> str:
        self.assertTrue(self.foreman.begin(self.task.id, "one"))
        self.foreman.died("one")
        return self.state()

    def test_tried_again_until_it_ended_its_worker_too_often(self) -> None:
        for _ in range(MOST_DEATHS - 1):
            self.assertEqual(self.died(), "waiting")
        self.assertEqual(self.died(), "failed")
        self.assertIn("ended from outside", self.work.tasks.get(self.task.id).message)
        self.assertEqual(self.work.tracks.of_song(self.song), [])

    def test_one_that_was_to_stop_has_stopped(self) -> None:
        self.foreman.begin(self.task.id, "one")
        cancel_task(self.work, self.task.id)
        with self.assertRaises(CancelledError):
            self.foreman.progress(self.task.id, "one", "Reading", 0.1)
        self.foreman.died("one")
        self.assertEqual((self.state(), self.work.tracks.of_song(self.song)), ("cancelled", []))

    def test_one_that_waits_is_stopped_at_once(self) -> None:
        cancel_task(self.work, self.task.id)
        self.foreman.look(self.queue)
        self.assertEqual((self.state(), self.queue.sent), ("cancelled", []))

    def test_a_job_is_sent_once_and_again_when_the_queue_lost_it(self) -> None:
        for _ in range(3):
            self.foreman.look(self.queue)
        self.assertEqual(self.queue.sent, [self.task.id])
        with mock.patch("glass_thread.services.work.foreman.SENT_S", 0.0):
            self.queue.waiting = 1
            self.foreman.look(self.queue)
            self.assertEqual(len(self.queue.sent), 1)
            self.queue.waiting = 0  # as after a Redis that kept nothing
            self.foreman.look(self.queue)
        self.assertEqual(len(self.queue.sent), 2)

    def test_a_worker_that_is_silent_loses_its_task_and_its_late_result_is_thrown_away(self) -> None:
        self.assertTrue(self.foreman.begin(self.task.id, "one"))
        self.assertFalse(self.foreman.begin(self.task.id, "two"))
        with mock.patch("glass_thread.services.work.foreman.HEARD_S", 0.0):
            self.foreman.look(self.queue)
        self.assertTrue(self.foreman.begin(self.task.id, "two"))
        with self.assertRaises(CancelledError):
            self.foreman.progress(self.task.id, "one", "Reading", 0.1)
        self.foreman.done(self.task.id, "one", Outcome({"notes": 99}))
        self.foreman.ended(self.task.id, "one", "failed", "No.")
        self.assertEqual(self.state(), "running")

    def test_a_fault_is_kept_in_the_log_under_the_reference_that_the_user_reads(self) -> None:
        with mock.patch("glass_thread.services.work.jobs.analyse_recording", side_effect=ZeroDivisionError("inside")):
            run_task(self.work, self.task.id)
        said = self.work.tasks.get(self.task.id).message
        reference = re.search(r"faults.log as ([0-9A-F]{6})", said)
        assert reference is not None, said
        log = (self.folder / "data" / "faults.log").read_text()
        self.assertIn("ZeroDivisionError: inside", log.split(reference[1])[1])

    def test_one_holder_of_a_folder(self) -> None:
        with folder_lock(self.folder), self.assertRaisesRegex(ConflictError, "already runs"), folder_lock(self.folder):
            pass
        with folder_lock(self.folder):
            pass


class Sent:
    """A queue that nobody reads."""

    def __init__(self) -> None:
        self.sent: list[str] = []
        self.waiting = 0

    def put(self, task_id: str, job: dict) -> None:
        json.dumps(job)
        self.sent.append(task_id)

    def length(self) -> int:
        return self.waiting


if __name__ == "__main__":
    unittest.main()
