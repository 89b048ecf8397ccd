"""The tuning sheet: every change with before and after, of versions, comps and against each other."""

import csv
import io
import json

from glass_thread.services.history.comps import list_comps, make_comp
from glass_thread.services.history.edit import edit
from glass_thread.services.history.versions import list_versions, make_version, switch_version
from glass_thread.services.report.tuning_sheet import TuningSheet, sheet_csv, sheet_data, sheet_of_version, tuning_sheet
from glass_thread.services.song.songs import change_song, change_track
from tests.command import command
from tests.services.case import TakeCase
from tests.services.voices.test_borrowing import BorrowCase


class SheetCase(TakeCase):
    def sheet(self) -> TuningSheet:
        return tuning_sheet(self.desk, self.now(), "Tuned")

    def rows(self, sheet: TuningSheet | None = None) -> list:
        return [row for phrase in (sheet or self.sheet()).phrases for row in phrase.rows]


class SheetTest(SheetCase):
    def test_nothing_changed_is_an_empty_sheet(self) -> None:
        sheet = self.sheet()
        self.assertEqual((sheet.phrases, sheet.notes_changed, sheet.notes, sheet.against), ((), 0, 4, "as sung"))

    def test_each_change_stands_with_its_values(self) -> None:
        """Values worked out by hand: the first note was sung 40 cents flat of C4, half of it is pulled."""
        change_song(self.work, self.song.id, {"tempo": 60.0, "beats_per_bar": 4})
        self.do(type="set", note_ids=["n0001"], values={"target_midi": 60.0, "pull": 0.5, "level_db": -2.0})
        self.do(type="set", note_ids=["n0003"], values={"drift": 0.3, "formant_shift": -1.0, "glide_ms": 40.0})
        self.do(type="shift_edge", note_ids=["n0004"], by_ms=-60.0, edge="end")
        breath = next(i for i, air in self.now().content.air.items() if air.event.kind == "breath")
        self.do(type="set_air", air_ids=[breath], values={"muted": True})
        rows = self.rows()
        first, third, breath_row, last = rows
        self.assertEqual((first.what, first.bar, first.changed), ("C4", "1.1", ("pull 50 %", "level −2.0 dB")))
        self.assertAlmostEqual(first.before_cents, -40.0, delta=3.0)
        self.assertAlmostEqual(first.after_cents, first.before_cents / 2, delta=0.2)
        self.assertEqual(third.changed, ("drift 30 %", "glide 40 ms", "formant −1.0 st"))
        self.assertEqual((breath_row.kind, breath_row.changed, breath_row.before_cents), ("breath", ("silent",), None))
        self.assertEqual(last.changed, ("length −60 ms",))
        sheet = self.sheet()
        self.assertEqual((sheet.notes_changed, sheet.air_changed), (3, 1))
        self.assertEqual(sheet.strongest[0], first)

    def test_two_versions_against_each_other(self) -> None:
        self.do(type="tune", note_ids=["n0001", "n0002"])
        softer = make_version(self.desk, self.track.id, "Softer")
        switch_version(self.desk, self.track.id, softer.id)
        self.do(type="set", note_ids=["n0001"], values={"pull": 0.6})
        tuned = list_versions(self.desk, self.track.id)[1]
        sheet = sheet_of_version(self.desk, self.track.id, softer.id, against=tuned.id)
        (row,) = self.rows(sheet)
        self.assertEqual(row.changed, ("pull 100 % → pull 60 %",))
        self.assertAlmostEqual(row.before_cents, 0.0, delta=0.01)
        self.assertEqual((sheet.version, sheet.against), ("Softer", "Tuned"))

    def test_a_comp_has_what_sounds_in_it(self) -> None:
        self.do(type="tune", note_ids=["n0001", "n0004"])
        sung, tuned = list_versions(self.desk, self.track.id)
        comp = make_comp(self.desk, self.track.id, "Best", version_id=tuned.id)
        head = list_comps(self.desk, self.track.id)[0].head_id
        choose = {"type": "choose", "version_id": sung.id, "start_s": 2.4, "end_s": None}
        edit(self.desk, self.track.id, choose, base=head, version_id=comp.id)
        (row,) = self.rows(sheet_of_version(self.desk, self.track.id, comp.id))
        self.assertEqual((row.version, row.phrase), ("Tuned", 0))

    def test_what_people_typed_is_no_formula_and_no_markup(self) -> None:
        change_track(self.work, self.track.id, {"words": {"0": "=1+1"}, "name": "<b>Lead</b>"})
        self.do(type="tune", note_ids=["n0001"])
        (row,) = csv.DictReader(io.StringIO(sheet_csv(self.sheet())))
        self.assertEqual((row["words"], row["kind"]), ("'=1+1", "note"))
        told = json.loads(json.dumps(sheet_data(self.sheet())))
        self.assertEqual((told["format"], told["track"]), ("glass-thread-sheet", "<b>Lead</b>"))

    def test_on_the_command_line(self) -> None:
        self.do(type="tune", note_ids=["n0001"])
        verb = ("sheet", "--data", self.work.folder, "--track")
        done = command(*verb, self.track.name)
        self.assertIn("1 of 4 notes changed", done.stdout)
        wrong = command(*verb, "nobody")
        self.assertEqual((wrong.returncode, wrong.stdout), (2, ""))
        self.assertIn("no vocal of that name", wrong.stderr)
        out = self.folder / "sheet.csv"
        command(*verb, self.track.name, "--csv", out)
        self.assertEqual(len(out.read_text().splitlines()), 2)


class BorrowedSheetTest(BorrowCase):
    def test_what_is_borrowed_is_named(self) -> None:
        self.borrow(self.notes(0)[1], self.notes(1)[1])
        sheet = tuning_sheet(self.desk, self.now(), "Tuned")
        (row,) = (row for phrase in sheet.phrases for row in phrase.rows)
        self.assertEqual((row.kind, row.changed, sheet.borrowed), ("borrowed", (f"from {self.laid().name}",), 1))
