"""Hand-off folders as they may be found: odd names, sparse files, links that lead elsewhere."""

from __future__ import annotations

import json
import os
import shutil

from glass_thread.core.signal.errors import AudioError, ParameterError, TooLargeError
from glass_thread.services.prints.handoff import link, state_of
from glass_thread.services.song.songs import change_track
from tests.services.prints.test_handoff import FolderCase as HandOffCase


class OddNamesTest(HandOffCase):
    def test_names_that_are_no_text_are_said_and_the_rest_works(self) -> None:
        odd = os.fsencode(str(self.place / "in")) + b"/caf\xe9.wav"
        shutil.copyfile(self.place / "in" / "Lead.wav", odd)
        state = state_of(self.desk, self.song.id)
        told = {one.file: one for one in state.incoming}
        self.assertIn("not text", told["caf?.wav"].problem)
        self.assertEqual(told["Lead.wav"].state, "new")
        json.dumps([vars(one) for one in state.incoming])

    def test_a_long_name_is_shortened_before_its_ending(self) -> None:
        track = self.brought("Lead.wav")
        change_track(self.work, track.id, {"name": "ü" * 120})
        done = self.handed_over(track)
        self.assertEqual((done.state, done.result["trouble"]), ("done", ""))
        (path,) = (self.place / "out").glob("*.wav")
        self.assertLessEqual(len(path.name.encode()), 200)
        with self.assertRaisesRegex(ParameterError, "too long for a folder"):
            link(self.desk, self.song.id, "語" * 80, make=True)

    def test_a_file_that_is_longer_than_its_room_on_the_disk_is_refused_by_its_length(self) -> None:
        path = self.place / "in" / "sparse.wav"
        path.write_bytes((self.place / "in" / "Lead.wav").read_bytes())
        os.truncate(path, 3 << 30)
        told = {one.file: one for one in state_of(self.desk, self.song.id).incoming}
        self.assertIn("larger than 2 GB", told["sparse.wav"].problem)
        with path.open("rb") as stream, self.assertRaisesRegex(TooLargeError, "larger than 2 GB"):
            self.work.audio.receive(stream)
        self.assertEqual(list((self.work.folder / "incoming").iterdir()), [])

    def test_a_link_that_leads_out_of_the_folder_is_not_followed(self) -> None:
        track = self.brought("Lead.wav")
        elsewhere = self.folder / "elsewhere"
        elsewhere.mkdir()
        shutil.rmtree(self.place / "out", ignore_errors=True)
        (self.place / "out").symlink_to(elsewhere)
        self.assertIn("leads out of it", state_of(self.desk, self.song.id).problem)
        with self.assertRaisesRegex(AudioError, "leads out of it"):
            self.handed_over(track)
        self.assertEqual(list(elsewhere.iterdir()), [])

    def test_a_folder_that_is_unlinked_and_linked_again_knows_what_was_brought_in(self) -> None:
        self.brought("Lead.wav")
        name = self.work.songs.get(self.song.id).handoff
        link(self.desk, self.song.id, None)
        link(self.desk, self.song.id, name)
        self.assertEqual([one.state for one in state_of(self.desk, self.song.id).incoming], ["known"])
