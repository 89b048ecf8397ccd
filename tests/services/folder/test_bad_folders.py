"""Folders and settings that cannot be worked with: a sentence, exit code 2, nothing touched."""

from __future__ import annotations

import itertools
import os
import random
import shutil
import sqlite3
from pathlib import Path

from glass_thread.bench.hostile.server_process import free_port
from glass_thread.core.signal.errors import AudioError, ParameterError
from glass_thread.services.song.songs import create_song
from glass_thread.services.work.job_queue import JobQueue
from glass_thread.services.work.token import server_token
from glass_thread.store.database import Database
from tests.command import command
from tests.services.case import TakeCase
from tests.signals import FolderCase


def bytes_in(folder: Path) -> dict[str, bytes]:
    """Every file of a folder but those that SQLite and the lock keep beside it."""
    found = (path for path in folder.rglob("*") if path.is_file() and path.suffix not in (".lock", ".sqlite3-shm"))
    return {str(path.relative_to(folder)): path.read_bytes() for path in found if not path.name.endswith("-wal")}


class RefusedTest(FolderCase):
    """Each is started as a user would, and ends at once."""

    def setUp(self) -> None:
        super().setUp()
        work = self.workspace()
        create_song(work, "Kept")
        server_token(work.folder)
        work.close()
        self.data = self.folder / "data"

    def refused(self, words: str, *settings: str, data: Path | None = None) -> None:
        where = data or self.data
        before = bytes_in(where) if where.is_dir() else {}
        done = command("serve", "--data", where, "--port", str(free_port()), *settings)
        self.assertEqual((done.returncode, done.stderr.count("\n")), (2, 1), done.stderr)
        self.assertRegex(done.stderr, words)
        self.assertEqual(bytes_in(where) if where.is_dir() else {}, before)

    def test_a_database_that_is_none(self) -> None:
        (self.data / "glass-thread.sqlite3").write_bytes(b"no database at all, and long enough to look at" * 40)
        self.refused("database of this data folder is damaged")

    def test_a_database_of_which_a_part_is_damaged(self) -> None:
        path = self.data / "glass-thread.sqlite3"
        with sqlite3.connect(path) as connection:
            connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        whole = path.read_bytes()
        for seed, first in itertools.product(range(3), (1, 2)):  # pages; what is read of them is different every time
            rng = random.Random(seed)
            with self.subTest(first=first, seed=seed):
                data = bytearray(whole)
                data[4096 * first + 8 : 4096 * (first + 2)] = rng.randbytes(4096 * 2 - 8)
                path.write_bytes(bytes(data))
                self.refused("database of this data folder is damaged")

    def test_tokens_that_are_none(self) -> None:
        path = self.data / "worker.token"
        for content in (b"", b" \n", b"\xf4\xff\x00"):
            with self.subTest(content):
                path.write_bytes(content)
                self.refused("is no worker token")
        path.unlink()
        path.mkdir()
        self.refused("is no worker token")

    def test_a_file_where_a_folder_should_be(self) -> None:
        self.refused("cannot be used", data=self.data / "glass-thread.sqlite3")
        shutil.rmtree(self.data / "audio")
        (self.data / "audio").write_bytes(b"in the way")
        self.refused("audio cannot be used: file exists")

    def test_an_address_that_this_machine_has_not(self) -> None:
        for host in ("no-such-host.invalid", "192.0.2.7"):  # RFC 5737: of no machine
            with self.subTest(host):
                self.refused("has no address", "--host", host)

    def test_a_worker_whose_redis_is_gone(self) -> None:
        from unittest import mock

        from glass_thread.services.work.worker import work_afar

        setting = {"GLASS_THREAD_REDIS_URL": f"redis://127.0.0.1:{free_port()}/0"}
        with (
            mock.patch.dict(os.environ, setting),
            mock.patch("glass_thread.services.work.server_link.ServerLink.greet"),
            self.assertRaisesRegex(ParameterError, "No Redis answers"),
        ):
            work_afar("http://127.0.0.1:1", "token", self.folder / "worker")


class MadeAnewTest(FolderCase):
    def test_a_damaged_queue_is_made_anew(self) -> None:
        for content in (b"garbage" * 600, b"x"):
            with self.subTest(content[:7]):
                folder = self.folder / str(len(content))
                folder.mkdir()
                (folder / "queue.sqlite3").write_bytes(content)
                queue = JobQueue("token", folder)
                queue.put("task", {"kind": "scan"})
                self.assertEqual(queue.length(), 1)

    def test_a_whole_database_is_not_refused(self) -> None:
        database = Database(self.folder / "x.sqlite3")
        database.refuse_damage()
        database.close()


class DamagedRecordingTest(TakeCase):
    def test_it_is_told_before_it_is_heard_and_heard_again_when_it_is_whole(self) -> None:
        path = self.work.audio.source(self.track.audio_hash)
        whole = path.read_bytes()
        damaged = bytearray(whole)
        damaged[len(whole) // 2] ^= 0xFF
        path.write_bytes(bytes(damaged))
        take = None
        with self.assertRaisesRegex(AudioError, "is damaged: it is not what was brought in"):
            take = self.desk.take(self.now())
        self.assertIsNone(take)
        path.write_bytes(whole)
        take = self.desk.take(self.now())
        self.assertEqual(take.span(0, 1000).shape, (1, 1000))

    def test_open_files_are_few_and_let_go(self) -> None:
        sound = self.desk.sound
        sound.source(self.track.audio_hash).read(0, 100)

        def held() -> int:
            names = (os.readlink(f"/proc/self/fd/{one}") for one in os.listdir("/proc/self/fd")
                     if os.path.exists(f"/proc/self/fd/{one}"))  # fmt: skip
            return sum(name.endswith(self.track.audio_hash) for name in names)

        self.assertEqual(held(), 1)
        source = sound.source(self.track.audio_hash)
        sound.let_go()
        self.assertEqual(held(), 0)
        self.assertEqual(source.read(70_000, 70_100).shape, (1, 100))  # whoever still reads has it opened anew
