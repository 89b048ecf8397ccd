"""Nothing is left behind, and nothing that is used is taken away."""

import errno
import stat
from pathlib import Path
from unittest import mock

import soundfile as sf

from glass_thread.core.signal.errors import ConflictError
from glass_thread.services.folder.workspace import open_workspace, tidy
from glass_thread.services.prints.printing import request_print
from glass_thread.services.song.import_audio import import_audio
from glass_thread.services.song.removed import remove_song, remove_track, sweep_removed
from glass_thread.services.song.songs import create_song
from glass_thread.services.work.here import run_task
from tests.services.case import SongCase
from tests.signals import RATE, sung_short, write_no_number, write_short

PLACES = ("audio", "analysis", "prints", "unpacked", "incoming")


class TidyTest(SongCase):
    def files(self) -> dict[str, set[str]]:
        """Names of files by folder, empty folders left out."""
        data = self.folder / "data"
        found = {place: {path.name for path in (data / place).iterdir()} for place in PLACES}
        return {place: names for place, names in found.items() if names}

    def lossy(self) -> Path:
        path = self.folder / "take.ogg"
        sf.write(str(path), sung_short()[1].audio, RATE, format="OGG")
        return path

    def printed(self, track_id: str) -> None:
        task = request_print(self.desk, track_id, {"container": "wav", "bits": 16})
        run_task(self.work, task.id)
        self.assertEqual(self.work.tasks.get(task.id).state, "done")

    def test_a_removed_track_takes_its_files_along_and_no_others(self) -> None:
        kept = self.bring_in(write_short(self.folder))
        self.printed(kept.id)
        before = self.files()
        self.assertEqual(set(before), {"audio", "analysis", "prints"})
        gone = self.bring_in(self.lossy())
        self.printed(gone.id)
        self.assertGreater(len(self.files()["unpacked"]), 0)
        remove_track(self.work, gone.id)
        self.assertEqual(tidy(self.work).files, 0)  # it can still be brought back
        swept = sweep_removed(self.work)
        self.assertEqual((self.files(), swept.files), (before, 4))
        self.assertEqual(tidy(self.work).files, 0)

    def test_a_recording_that_another_song_uses_stays(self) -> None:
        path = write_short(self.folder)
        track = self.bring_in(path)
        self.song = create_song(self.work, "Other")
        other = self.bring_in(path)
        before = self.files()
        remove_track(self.work, track.id)
        sweep_removed(self.work)
        self.assertEqual(self.files(), before)
        self.assertGreater(self.work.audio.reader(other.audio_hash).frames, 0)
        remove_song(self.work, self.song.id)
        sweep_removed(self.work)
        self.assertEqual(self.files(), {})

    def test_failed_imports_leave_nothing(self) -> None:
        with write_no_number(self.folder).open("rb") as stream:
            _track, task = import_audio(self.work, self.song.id, stream, "nan.wav")
        run_task(self.work, task.id)
        self.assertEqual((self.work.tasks.get(task.id).state, self.files()), ("failed", {}))

    def test_a_file_that_cannot_be_kept_stores_neither_track_nor_task(self) -> None:
        full = OSError(errno.ENOSPC, "no room")
        with (
            mock.patch("glass_thread.store.files.audio_files.put_in_place", side_effect=full),
            write_short(self.folder).open("rb") as stream,
            self.assertRaises(OSError),
        ):
            import_audio(self.work, self.song.id, stream, "take.wav")
        self.assertEqual((self.work.tracks.of_song(self.song.id), self.work.tasks.unfinished()), ([], []))
        self.assertEqual(self.files(), {})

    def test_the_same_recording_twice_keeps_the_first(self) -> None:
        path = write_short(self.folder)
        self.bring_in(path)
        before = self.files()
        with path.open("rb") as stream, self.assertRaises(ConflictError):
            import_audio(self.work, self.song.id, stream, "again.wav")
        tidy(self.work)
        self.assertEqual(self.files(), before)

    def test_prints_are_left_alone_while_one_is_asked_for(self) -> None:
        track = self.bring_in(write_short(self.folder))
        request_print(self.desk, track.id, {"container": "wav", "bits": 16})
        fresh = self.folder / "data" / "prints" / "being-finished.wav"
        fresh.write_bytes(b"x")
        tidy(self.work)
        self.assertTrue(fresh.is_file())

    def test_the_data_folder_is_the_users_alone(self) -> None:
        open_workspace(self.folder / "new").close()
        self.assertEqual(stat.S_IMODE((self.folder / "new").stat().st_mode), 0o700)
