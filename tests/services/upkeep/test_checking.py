"""A data folder looked through: what is in order is found so, and each kind of damage is told."""

from __future__ import annotations

import json
import zlib

from glass_thread.services.history.comps import make_comp
from glass_thread.services.linked.deriving import derive
from glass_thread.services.prints.mixing import request_mix
from glass_thread.services.prints.printing import print_file, request_print
from glass_thread.services.upkeep.checking import check_folder
from glass_thread.services.work.here import run_task
from tests.command import command
from tests.services.case import TakeCase


class CheckTest(TakeCase):
    def setUp(self) -> None:
        super().setUp()
        notes = list(self.now().content.notes)
        for number in range(52):  # past a snapshot
            self.do(type="nudge", note_ids=[notes[number % 4]], values={"level_db": 0.1})
        self.do(type="glaze", start_s=0.0, end_s=2.0, values={"settle_ms": 60.0})
        derive(self.desk, self.track.id, {"type": "double"})
        make_comp(self.desk, self.track.id, "Comp")
        tasks = [
            request_print(self.desk, self.track.id, {"container": "wav"}),
            request_mix(self.desk, self.song.id, {}),
        ]
        for task in tasks:
            run_task(self.work, task.id)
        self.first = self.work.prints.get(tasks[0].id)

    def found(self) -> list[str]:
        return [f"{one.about}: {one.trouble}" for one in check_folder(self.work)]

    def test_a_folder_in_order(self) -> None:
        self.assertEqual(self.found(), [])

    def test_a_damaged_recording_and_a_print_that_is_another_or_gone(self) -> None:
        path = print_file(self.desk, self.first)
        data = bytearray(path.read_bytes())
        data[-5_000:-4_000] = bytes(1_000)
        path.write_bytes(bytes(data))
        (told,) = self.found()
        self.assertRegex(told, "Print .*does not sound like what it was made of")
        path.unlink()
        self.assertRegex("".join(self.found()), "Its file is gone")
        source = self.work.audio.source(self.track.audio_hash)
        source.write_bytes(source.read_bytes()[:-2])
        self.assertRegex("".join(self.found()), "not what was brought in")

    def test_what_is_kept_of_a_step_and_is_wrong_is_told_and_mended(self) -> None:
        with self.work.database.write() as session:
            connection = session.connection()
            rows = connection.exec_driver_sql("SELECT step_id, content FROM snapshot").all()
            self.assertGreater(len(rows), 0)
            for step_id, content in rows:
                data = json.loads(zlib.decompress(content))
                first = next(iter(data.values()))
                first["note"]["gesture" if "gesture" in first["note"] else "centre_midi"] = 61.0
                packed = zlib.compress(json.dumps(data).encode())
                connection.exec_driver_sql("UPDATE snapshot SET content = ? WHERE step_id = ?", (packed, step_id))
        told = [one for one in check_folder(self.work, prints=False) if "not what its steps lead to" in one.trouble]
        self.assertEqual(len(told), 1)
        self.assertIn("--mend", told[0].mend)
        list(check_folder(self.work, prints=False, mend=True))
        self.assertEqual(list(check_folder(self.work, prints=False)), [])

    def test_from_the_command_line(self) -> None:
        self.work.close()
        data = self.folder / "data"
        whole = command("check", "--data", data, "--no-prints")
        self.assertEqual((whole.returncode, whole.stdout.strip()), (0, "1 songs looked through, nothing out of order."))
        self.assertEqual(command("check", "--data", self.folder / "nowhere").returncode, 2)
