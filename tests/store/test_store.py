import hashlib
import io
import os
import sqlite3
import subprocess
import sys
import textwrap
import unittest
from dataclasses import replace

import numpy as np

from glass_thread.core.signal.errors import AudioError, ConflictError, NotFoundError, StaleEditError, TooLargeError
from glass_thread.services.folder.workspace import Workspace
from glass_thread.services.song.songs import create_song
from glass_thread.store.database import Database
from glass_thread.store.files.analysis_cache import write_analysis
from glass_thread.store.files.audio_files import hash_of
from glass_thread.store.history import Move, NewStep
from glass_thread.store.records import Version
from tests.signals import FolderCase, analysed_short

TRACK = {
    "name": "Lead", "role": "lead", "audio_hash": "a" * 64, "sample_rate": 44100, "channels": 1, "frames": 10,
    "container": "WAV", "subtype": "PCM_16", "time_reference": None, "offset_s": 0.0, "level_db": 0.0, "muted": False,
    "ready": True, "notes_found": 0, "position": 0,
}  # fmt: skip


def new_step(version: Version, label: str) -> NewStep:
    return NewStep(version.id, version.head_id, label, {"type": "tune"}, {})


def begun(workspace: Workspace) -> Version:
    """Tuned of a new track."""
    track, _task = workspace.tracks.add(lambda: None, song_id=create_song(workspace, "A").id, **TRACK)
    workspace.history.begin(track.id, "found")
    return workspace.history.versions(track.id)[1]


class RepositoryTest(FolderCase):
    def test_songs_and_tracks(self) -> None:
        workspace = self.workspace()
        song = create_song(workspace, "A")
        track, _task = workspace.tracks.add(lambda: None, song_id=song.id, **TRACK)
        self.assertEqual(workspace.tracks.of_song(song.id), [track])
        with self.assertRaises(ConflictError):
            workspace.tracks.add(lambda: None, song_id=song.id, **TRACK)
        workspace.songs.forget([song.id])
        with self.assertRaises(NotFoundError):
            workspace.tracks.get(track.id)

    def test_what_is_found_is_what_was_stored(self) -> None:
        workspace = self.workspace()
        song = workspace.songs.change(create_song(workspace, "A").id, {"done": ["key"]})
        track, task = workspace.tracks.add(lambda: None, song_id=song.id, **TRACK | {"words": {"0": "ü"}})
        self.assertEqual((workspace.songs.get(song.id), workspace.songs.all()), (song, [song]))
        self.assertEqual((workspace.tracks.get(track.id), workspace.tasks.get(task.id)), (track, task))
        self.assertEqual((workspace.tasks.of_song(song.id), workspace.tasks.unfinished()), ([task], [task]))
        workspace.tasks.change(task.id, state="done")
        self.assertEqual((workspace.tasks.of_song(song.id), workspace.tasks.unfinished()), ([], []))

        history, version = workspace.history, begun(workspace)
        ((version, step),) = history.append([new_step(version, "one")])
        place = history.place(step.id)
        self.assertEqual((place, place.at_s), (history.place_of(version.track_id, step.id), None))
        self.assertEqual(replace(place, at_s=0.0), replace(history.path(step.id)[0], at_s=0.0))
        with self.assertRaisesRegex(NotFoundError, "this track's history"):
            history.place_of(track.id, step.id)
        self.assertEqual(history.version(version.id), version)
        gone = history.change_version(version.id, removed_at=1.0)
        self.assertEqual(history.versions(version.track_id, removed=True), [gone])
        self.assertNotIn(gone, history.versions(version.track_id))

    def test_heads_move_and_stale_bases_are_refused(self) -> None:
        history = (workspace := self.workspace()).history
        root = begun(workspace)
        ((one, first),) = history.append([new_step(root, "one")])
        ((two, second),) = history.append([new_step(one, "two")])
        with self.assertRaises(StaleEditError) as caught:
            history.append([new_step(one, "late")])
        self.assertEqual(caught.exception.current, second.id)
        (back,) = history.move_heads([Move(two.id, second.id, first.id)])
        self.assertEqual((back.head_id, back.tip_id), (first.id, second.id))
        self.assertEqual(history.next_towards(first, back.tip_id).id, second.id)
        ((branched, third),) = history.append([new_step(back, "instead")])
        self.assertEqual((third.parent_id, third.number, third.line), (first.id, 2, 1))
        self.assertEqual([s.label for s in history.path(branched.head_id)], ["instead", "one", "As found"])
        self.assertEqual(history.step(second.id).label, "two")

    def test_steps_over_several_tracks_are_stored_together_or_not_at_all(self) -> None:
        history = (workspace := self.workspace()).history
        first = begun(workspace)
        stale = replace(first, head_id="0" * 32)
        with self.assertRaises(StaleEditError):
            logged = workspace.songs.all()[0].id, "both"
            history.append([new_step(first, "one"), new_step(stale, "two")], logged=logged)
        self.assertNotIn("both", [step.label for step in workspace.log.all(logged[0])])
        self.assertEqual(history.version(first.id).head_id, first.head_id)

    def test_removing_a_song_removes_its_history(self) -> None:
        workspace = self.workspace()
        version = begun(workspace)
        workspace.history.append([new_step(version, "one")])
        workspace.songs.forget([workspace.songs.all()[0].id])
        with sqlite3.connect(self.folder / "data" / "glass-thread.sqlite3") as connection:
            for table in ("track", "step", "version", "song_step"):
                self.assertEqual(connection.execute(f"select count(*) from {table}").fetchone(), (0,), table)

    def test_tasks(self) -> None:
        workspace = self.workspace()
        song = create_song(workspace, "A")
        task = workspace.tasks.add(kind="import", song_id=song.id, track_id=None, wanted={})
        workspace.tasks.change(task.id, share=0.5)
        self.assertEqual(workspace.tasks.of_song(song.id)[0].share, 0.5)
        workspace.tasks.remove(task.id)
        self.assertEqual(workspace.tasks.unfinished(), [])

    def test_an_existing_database_is_opened_again(self) -> None:
        first = Database(self.folder / "x.sqlite3")
        first.close()
        Database(self.folder / "x.sqlite3").close()
        with sqlite3.connect(self.folder / "x.sqlite3") as connection:
            tables = {row[0] for row in connection.execute("select name from sqlite_master")}
        self.assertTrue({"song", "track", "step", "version", "snapshot", "task", "alembic_version"} <= tables)

    def test_a_step_that_was_acknowledged_survives_kill_9(self) -> None:
        code = """
            import os, sys
            sys.path.insert(0, {root!r})
            from pathlib import Path
            from glass_thread.services.folder.workspace import open_workspace
            from tests.store.test_store import begun, new_step
            w = open_workspace(Path({folder!r}))
            (version, _step), = w.history.append([new_step(begun(w), "kept")])
            print(version.head_id, flush=True)
            os.kill(os.getpid(), 9)
        """
        root = os.path.dirname(os.path.dirname(os.path.dirname(os.path.abspath(__file__))))
        script = textwrap.dedent(code).format(root=root, folder=str(self.folder / "data"))
        done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, cwd=root)
        self.assertEqual(done.returncode, -9, done.stderr)
        path = self.workspace().history.path(done.stdout.strip())
        self.assertEqual([step.label for step in path], ["kept", "As found"])


class AudioFilesTest(FolderCase):
    def test_the_same_bytes_are_kept_once(self) -> None:
        files = self.workspace().audio
        for _ in range(2):
            incoming = files.receive(io.BytesIO(b"sound"))
            name = hash_of(incoming)
            files.keep(incoming, name)
        self.assertEqual([path.name for path in (self.folder / "data" / "audio").iterdir()], [name])
        self.assertEqual(files.source(name).read_bytes(), b"sound")
        # FIPS 180-4's function, by the standard library's own: the name is the hash of the bytes and nothing else
        self.assertEqual(name, hashlib.sha256(b"sound").hexdigest())

    def test_too_large_leaves_nothing(self) -> None:
        files = self.workspace().audio
        with self.assertRaises(TooLargeError):
            files.receive(io.BytesIO(b"x" * 100), largest=50)
        self.assertEqual(list((self.folder / "data" / "incoming").iterdir()), [])

    def test_a_missing_source_is_said(self) -> None:
        with self.assertRaisesRegex(AudioError, "missing"):
            self.workspace().audio.source("0" * 64)


FOUND = f"{'ab' * 32}-3"  # by content, as every analysis is named


class AnalysisCacheTest(FolderCase):
    def test_round_trip(self) -> None:
        cache = self.workspace().analyses
        self.assertIsNone(cache.load(FOUND))
        write_analysis(cache.path(FOUND), analysed_short())
        loaded = cache.load(FOUND)
        assert loaded is not None
        np.testing.assert_array_equal(loaded.contour.midi, analysed_short().contour.midi)
        self.assertEqual(loaded.notes, analysed_short().notes)
        self.assertEqual(loaded.air, analysed_short().air)

    def test_a_damaged_file_counts_as_none(self) -> None:
        cache = self.workspace().analyses
        write_analysis(cache.path(FOUND), analysed_short())
        next((self.folder / "data" / "analysis").glob(f"{FOUND}*")).write_bytes(b"broken")
        self.assertIsNone(cache.load(FOUND))


if __name__ == "__main__":
    unittest.main()
