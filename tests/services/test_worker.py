"""The background queue with a worker in a process of its own, as ``glass-thread serve`` runs it."""

import os
import signal
import subprocess
import sys
import unittest
from pathlib import Path

from glass_thread.services.import_audio import import_audio
from glass_thread.services.songs import create_song
from glass_thread.services.tasks import take_up_again
from glass_thread.services.worker import open_queue
from glass_thread.services.workspace import Workspace, default_data_folder, open_workspace
from tests.application import until
from tests.signals import FolderCase, write_short


class WorkerTest(FolderCase):
    def start(self) -> subprocess.Popen[bytes]:
        """A worker on the folder."""
        command = [sys.executable, "-m", "glass_thread", "worker", "--data", str(self.folder / "data")]
        worker = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        self.addCleanup(worker.wait)
        self.addCleanup(worker.kill)
        return worker

    def opened(self) -> Workspace:
        """A workspace whose tasks go to the queue."""
        _queue, enqueue = open_queue(self.folder / "data")
        work = open_workspace(self.folder / "data", enqueue=enqueue)
        self.addCleanup(work.close)
        return work

    def test_an_import_is_worked_on_and_survives_a_killed_worker(self) -> None:
        work = self.opened()
        song = create_song(work, "Test")
        with write_short(self.folder).open("rb") as stream:
            track, task = import_audio(work, song.id, stream, "take.wav")
        doomed = self.start()
        doomed.send_signal(signal.SIGKILL)  # before or while it works: either way nothing is lost
        doomed.wait()
        if work.tasks.get(task.id).state != "done":
            take_up_again(work)
            self.start()
        until(lambda: work.tasks.get(task.id).state == "done", "the task to be done")
        self.assertTrue(work.tracks.get(track.id).ready)
        self.assertEqual(work.tracks.get(track.id).notes_found, 4)


class FolderSettingTest(unittest.TestCase):
    def test_override_then_xdg_then_home(self) -> None:
        kept = {name: os.environ.get(name) for name in ("GLASS_THREAD_DATA", "XDG_DATA_HOME")}
        try:
            os.environ["XDG_DATA_HOME"] = "/x/share"
            os.environ["GLASS_THREAD_DATA"] = "/y"
            self.assertEqual(default_data_folder(), Path("/y"))
            del os.environ["GLASS_THREAD_DATA"]
            self.assertEqual(default_data_folder(), Path("/x/share/glass-thread"))
            del os.environ["XDG_DATA_HOME"]
            self.assertEqual(default_data_folder(), Path.home() / ".local/share/glass-thread")
        finally:
            for name, value in kept.items():
                if value is None:
                    os.environ.pop(name, None)
                else:
                    os.environ[name] = value


if __name__ == "__main__":
    unittest.main()
