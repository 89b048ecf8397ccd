"""A data folder that cannot be written: a sentence that says which way, nothing changed, and well again afterwards."""

import errno
from unittest import mock

from sqlalchemy import event

from tests.api.test_api import API, ApiCase


class DiskTest(ApiCase):
    def fill(self, pages: int) -> None:
        """Let the database grow to so many pages and no further, as a full disk does."""
        self.work.database.close()

        def limit(connection, _record) -> None:
            connection.execute(f"PRAGMA max_page_count={pages}")

        event.listen(self.work.database.engine, "connect", limit)

    def test_a_full_database_is_said_and_recovers(self) -> None:
        track = self.ready_track()
        before = self.content(track)
        self.fill(1)
        codes = set()
        for number in range(40):
            answer = self.edit(track, type="set", note_ids=["n0001"], values={"pull": 0.01 * number})
            codes.add(answer.status_code)
            if answer.status_code != 200:
                self.assertRegex(answer.json["message"], "disk is full. Nothing was changed")
        self.assertEqual(codes - {200, 507}, set())
        self.assertIn(507, codes)
        stood = self.content(track)
        self.fill(1 << 20)
        self.assertEqual(self.content(track), stood)
        self.assertEqual(self.edit(track, type="tune", note_ids=["n0003"]).status_code, 200)
        self.assertEqual(len(before["notes"]), len(stood["notes"]))

    def test_each_failure_has_its_own_word(self) -> None:
        cases = ((errno.ENOSPC, 507, "disk is full"), (errno.EDQUOT, 507, "disk is full"),
                 (errno.EACCES, 503, "permissions"), (errno.EROFS, 503, "only be read"),
                 (errno.EIO, 503, "damaged"), (errno.EMFILE, 503, "Too many files"))  # fmt: skip
        for code, status, words in cases:
            with self.subTest(errno.errorcode[code]):
                with mock.patch("glass_thread.store.files.audio_files.os.fsync", side_effect=OSError(code, "no")):
                    answer = self.bring_in()
                self.assertEqual(answer.status_code, status)
                self.assertRegex(answer.json["message"], words)
                self.assertEqual(list((self.folder / "data" / "incoming").iterdir()), [])
                self.assertEqual(self.client.get(f"{API}/songs").json["songs"][0]["tracks"], [])
        self.assertEqual(self.bring_in().status_code, 202)

    def test_an_import_that_finds_no_room_leaves_no_half_track(self) -> None:
        answer = self.bring_in().json
        with mock.patch(
            "glass_thread.store.files.audio_files.write_whole", side_effect=OSError(errno.ENOSPC, "no room")
        ):
            self.run_task(answer["task"]["id"])
        task = self.client.get(f"{API}/tasks/{answer['task']['id']}").json
        self.assertEqual(task["state"], "failed")
        self.assertIn("disk is full", task["message"])
        self.assertEqual(self.client.get(f"{API}/songs").json["songs"][0]["tracks"], [])
