"""What workers hand in, and what they are sent: taken in beside other work, signed, and by names of content alone."""

from __future__ import annotations

import json
import threading
from unittest import mock

import soundfile as sf

from glass_thread import __version__
from glass_thread.core.analysis.analysis import ANALYSIS_VERSION
from glass_thread.core.signal.errors import AudioError, ParameterError
from glass_thread.services.session.desk import Desk
from glass_thread.services.song.import_audio import import_audio
from glass_thread.services.song.songs import create_song
from glass_thread.services.work.folder_depot import FolderDepot
from glass_thread.services.work.foreman import HEARD_S, Foreman
from glass_thread.services.work.job_queue import JsonSerializer
from glass_thread.services.work.jobs import Outcome
from glass_thread.services.work.server_link import ServerLink, libraries
from tests.application import PATIENCE_S
from tests.services.work.test_server_process import Sent
from tests.signals import RATE, FolderCase, sung_short, write_short


class SettlingTest(FolderCase):
    """A result that takes long to take in holds up nobody, and is taken from nobody."""

    def test_other_workers_are_heard_while_a_result_is_taken_in(self) -> None:
        work = self.workspace()
        song = create_song(work, "Test")
        tasks = []
        for number in range(2):
            sf.write(str(self.folder / "a.wav"), sung_short()[1].audio * (1.0 - 0.1 * number), RATE)
            with (self.folder / "a.wav").open("rb") as stream:
                tasks.append(import_audio(work, song.id, stream, "a.wav")[1])
        foreman, queue = Foreman(Desk(work)), Sent()
        begun, go_on, clock = threading.Event(), threading.Event(), [1000.0]

        def slow(*_asked: object) -> dict:
            begun.set()
            go_on.wait(PATIENCE_S)
            return {}

        self.enterContext(mock.patch("glass_thread.services.work.foreman.time", monotonic=lambda: clock[0]))
        for number, task in enumerate(tasks):
            self.assertTrue(foreman.begin(task.id, f"worker {number}"))
        with mock.patch("glass_thread.services.work.foreman.settle", side_effect=slow):
            handing_in = threading.Thread(target=foreman.done, args=(tasks[0].id, "worker 0", Outcome()))
            handing_in.start()
            begun.wait(PATIENCE_S)
            clock[0] += 10.0 * HEARD_S  # longer than a worker may be silent
            foreman.progress(tasks[1].id, "worker 1", "Reading the file", 0.5)
            foreman.done(tasks[0].id, "worker 0", Outcome())  # said twice
            foreman.look(queue)
            foreman.died("worker 0")
            self.assertEqual([work.tasks.get(task.id).state for task in tasks], ["running", "running"])
            go_on.set()
            handing_in.join(PATIENCE_S)
        self.assertEqual(work.tasks.get(tasks[0].id).state, "done")


class MessagesTest(FolderCase):
    def test_a_message_that_nobody_signed_is_thrown_away(self) -> None:
        serializer, other = JsonSerializer("token"), JsonSerializer("another token")
        message = serializer.serialize({"kind": "print"})
        self.assertEqual(serializer.deserialize(message), {"kind": "print"})
        forged = json.dumps({"value": {"kind": "print"}}).encode()
        for wrong in (forged, other.serialize({"kind": "print"}), message.replace(b"print", b"scan!"), b"", b":"):
            with self.subTest(wrong), self.assertRaises(ValueError):
                serializer.deserialize(wrong)

    def test_a_worker_reads_and_writes_by_names_of_content_alone(self) -> None:
        outside = self.folder / "secret.wav"
        outside.write_bytes(write_short(self.folder).read_bytes())
        work = self.workspace()
        depot = FolderDepot(work.folder)
        for name in (str(outside), "../../secret.wav", "", "." * 64, "x" * 64, "0" * 63):
            with self.subTest(name):
                for ask in (depot.reader, depot.analysis, lambda name: work.audio.take_result(name, outside),
                            work.audio.print_path):  # fmt: skip
                    with self.assertRaises(AudioError):
                        ask(name)

    def test_a_worker_with_other_libraries_does_not_begin(self) -> None:
        told = {"version": __version__, "analysis_version": str(ANALYSIS_VERSION), "libraries": libraries()}
        for wrong, words in (({"version": "0.0"}, "different versions"), ({"libraries": {"numpy": "1.0"}}, "numpy 1.0"),
                             ({"libraries": {}}, "numpy unknown there")):  # fmt: skip
            answer = mock.Mock(status_code=200, json=lambda wrong=wrong: {**told, **wrong})
            with (
                self.subTest(words),
                mock.patch("requests.request", return_value=answer),
                self.assertRaisesRegex(ParameterError, words),
            ):
                ServerLink("http://127.0.0.1:1", "token", "w").greet()
        with mock.patch("requests.request", return_value=mock.Mock(status_code=200, json=lambda: told)):
            ServerLink("http://127.0.0.1:1", "token", "w").greet()
