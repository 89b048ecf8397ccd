"""Work that leaves the machine: workers with folders of their own, one Redis (Debian's), one server."""

import os
import signal
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import mock

import soundfile as sf

from glass_thread.bench.hostile.server_process import free_port
from glass_thread.services.folder.workspace import open_workspace
from glass_thread.services.history.edit import edit
from glass_thread.services.prints.printing import request_print
from glass_thread.services.session.desk import Desk
from glass_thread.services.song.import_audio import import_audio
from glass_thread.services.song.songs import create_song
from glass_thread.services.work.here import run_task
from glass_thread.services.work.job_queue import REDIS_SETTING
from glass_thread.services.work.token import TOKEN_SETTING
from tests.application import PATIENCE_S, until
from tests.services.process_case import ServerCase
from tests.signals import RATE, sung_short

IMPORTS = 20
TOKEN = "a token of this test's own"


class AfarTest(ServerCase):
    """A Redis that keeps nothing, and a server that does no work of its own."""

    redis: subprocess.Popen[bytes]

    settings = ("--workers", "0")

    @classmethod
    def setUpClass(cls) -> None:
        cls.redis_port = free_port()
        setting = {REDIS_SETTING: f"redis://127.0.0.1:{cls.redis_port}/0", TOKEN_SETTING: TOKEN}
        patched = mock.patch.dict(os.environ, setting)
        patched.start()
        cls.addClassCleanup(patched.stop)
        cls.start_redis()
        super().setUpClass()

    @classmethod
    def start_redis(cls) -> None:
        command = ["redis-server", "--port", str(cls.redis_port), "--bind", "127.0.0.1", "--save", "",
                   "--dir", tempfile.gettempdir()]  # fmt: skip
        cls.redis = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        cls.addClassCleanup(cls.redis.wait)
        cls.addClassCleanup(cls.redis.kill)

    def worker(self, name: str, **settings: object) -> subprocess.Popen[bytes]:
        command = [sys.executable, "-m", "glass_thread", "worker", "--server", self.running.url,
                   "--data", str(self.folder / name)]  # fmt: skip
        process = subprocess.Popen(command, stdout=subprocess.DEVNULL, **{"stderr": subprocess.DEVNULL, **settings})
        self.addCleanup(process.wait)
        self.addCleanup(process.kill)
        return process

    def fetched(self, name: str) -> set[str]:
        """Hashes of the recordings that a worker fetched."""
        found = (self.folder / name).glob("audio-*")
        return {path.name.removeprefix("audio-") for path in found}

    def take(self, number: int) -> Path:
        """A take like no other."""
        path = self.folder / f"take-{number}.wav"
        sf.write(str(path), sung_short()[1].audio * (1.0 - 0.02 * number), RATE, subtype="FLOAT")
        return path

    def state(self, task: str) -> str:
        return self.ask(f"/tasks/{task}")["state"]

    def made(self, folder: Path) -> set[bytes]:
        """Bytes of everything that was made in a data folder."""
        return {path.read_bytes() for made in ("analysis", "prints") for path in (folder / made).glob("*")}

    def test_twenty_imports_over_two_workers_and_a_redis_that_forgets(self) -> None:
        before = len(self.ask("/songs")["songs"])
        tasks = [self.bring_in(self.take(number)) for number in range(IMPORTS)]
        self.redis.kill()  # and all that was sent is gone
        self.redis.wait()
        self.start_redis()
        self.worker("one")
        self.worker("two")
        until(lambda: all(self.state(task) == "done" for task in tasks), "twenty imports")
        spread = [self.fetched(name) for name in ("one", "two")]
        self.assertEqual(len(spread[0] | spread[1]), IMPORTS)
        self.assertTrue(all(spread), [len(one) for one in spread])
        self.assertEqual(list((self.running.folder / "results").iterdir()), [])
        found = [song["tracks"][0]["notes_found"] for song in self.ask("/songs")["songs"]]
        self.assertEqual(found[before:], [4] * IMPORTS)

    def test_the_task_of_a_killed_worker_is_done_by_the_other(self) -> None:
        first = self.worker("one")
        task = self.bring_in(self.long_take(60))
        until(lambda: self.ask(f"/tasks/{task}")["share"] > 0.02, "the recording to be fetched")
        self.worker("two")
        first.send_signal(signal.SIGKILL)
        until(lambda: self.state(task) == "done", "the task to be done")
        self.assertEqual(self.fetched("one"), self.fetched("two"))

    def test_a_wrong_token_is_refused_in_a_sentence(self) -> None:
        with mock.patch.dict(os.environ, {TOKEN_SETTING: "another"}):
            refused = self.worker("one", stderr=subprocess.PIPE)
        assert refused.stderr is not None
        with refused.stderr as said:
            self.assertIn(b"worker token is not this server's", said.read())
        self.assertEqual(refused.wait(PATIENCE_S), 2)

    def test_an_analysis_and_a_print_are_those_of_this_process_to_the_last_bit(self) -> None:
        before = self.made(self.running.folder)
        self.worker("one")
        path, notes = self.take(IMPORTS), ["n0001", "n0002"]
        task = self.bring_in(path)
        until(lambda: self.state(task) == "done", "the import")
        track = self.ask("/songs")["songs"][-1]["tracks"][0]["id"]
        base = self.ask(f"/tracks/{track}/content")["step_id"]
        self.ask(f"/tracks/{track}/edits", {"base": base, "operation": {"type": "tune", "note_ids": notes}})
        printed = self.ask(f"/tracks/{track}/prints", {"container": "wav", "bits": 24})["id"]
        until(lambda: self.state(printed) == "done", "the print")

        work = open_workspace(self.folder / "here")
        self.addCleanup(work.close)
        desk, song = Desk(work), create_song(work, "Test")
        with path.open("rb") as stream:
            here, task_here = import_audio(work, song.id, stream, "a.flac")
        run_task(work, task_here.id)
        edit(desk, here.id, {"type": "tune", "note_ids": notes}, base=str(desk.at(here.id).step_id))
        run_task(work, request_print(desk, here.id, {"container": "wav", "bits": 24}).id)
        self.assertEqual(len(self.made(self.folder / "here")), 2)
        self.assertEqual(self.made(self.running.folder) - before, self.made(self.folder / "here"))
