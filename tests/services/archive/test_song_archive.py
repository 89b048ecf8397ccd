"""A song packed and unpacked is the same song; an archive that is not whole changes nothing."""

from __future__ import annotations

import hashlib
import json
import random
import shutil
import tempfile
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from glass_thread.bench.hostile.archives import drawn_song
from glass_thread.core.signal.errors import GlassThreadError, NotFoundError, ParameterError
from glass_thread.core.signal.types import Floats
from glass_thread.services.archive.backing_up import back_up
from glass_thread.services.archive.packing import pack, song_named
from glass_thread.services.archive.unpacking import unpack
from glass_thread.services.folder.workspace import Workspace, open_workspace
from glass_thread.services.history.comps import make_comp
from glass_thread.services.history.edit import edit, jump
from glass_thread.services.history.versions import make_version
from glass_thread.services.linked.catching_up import catch_up
from glass_thread.services.linked.deriving import derive
from glass_thread.services.prints.handoff import link
from glass_thread.services.prints.printing import print_file, request_print
from glass_thread.services.session.desk import Desk
from glass_thread.services.session.sounding import sounding_notes
from glass_thread.services.song.song_steps import undo_song
from glass_thread.services.song.songs import change_song
from glass_thread.services.upkeep.checking import check_folder
from glass_thread.services.work.here import run_task
from glass_thread.store.records import Song
from tests.services.case import TakeCase

Members = dict[str, bytes]


def repacked(archive: Path, change: Callable[[Members, dict[str, Any]], None]) -> Path:
    """An archive with other files in it, with sizes and hashes that are theirs; in `change` a manifest can be hurt."""
    with zipfile.ZipFile(archive) as source:
        members = {name: source.read(name) for name in source.namelist()}
    manifest = json.loads(members.pop("song.json"))
    change(members, manifest)
    for one in manifest["members"]:
        data = members.get(one["path"], b"")
        if not one.pop("kept", False):
            one.update(size=len(data), sha256=hashlib.sha256(data).hexdigest())
    target = archive.with_name("hurt.gtsong")
    with zipfile.ZipFile(target, "w") as out:
        for name, data in members.items():
            packed = name.startswith("tables/")
            out.writestr(name, data, zipfile.ZIP_DEFLATED if packed else zipfile.ZIP_STORED)
        out.writestr("song.json", json.dumps(manifest))
    return target


def rows_of(members: Members, table: str) -> list[dict[str, Any]]:
    return [json.loads(line) for line in members[f"tables/{table}.jsonl"].splitlines()]


def put_rows(members: Members, table: str, rows: list[dict[str, Any]]) -> None:
    members[f"tables/{table}.jsonl"] = b"".join(json.dumps(row).encode() + b"\n" for row in rows)


def with_value(table: str, number: int, **values: Any) -> Callable[[Members, dict[str, Any]], None]:
    """A hurt: values of one row are others."""

    def change(members: Members, _manifest: dict[str, Any]) -> None:
        rows = rows_of(members, table)
        rows[number].update(values)
        put_rows(members, table, rows)

    return change


class ArchiveCase(TakeCase):
    """A song in which something of everything was done."""

    def setUp(self) -> None:
        super().setUp()
        notes = list(self.now().content.notes)
        change_song(self.work, self.song.id, {"tonic": 2, "scale": "major", "tempo": 96.0})
        link(self.desk, self.song.id, "studio", make=True)
        self.do(type="tune", note_ids=notes)
        self.do(type="glaze", start_s=0.0, end_s=4.0, values={"settle_ms": 80.0})
        softer = make_version(self.desk, self.track.id, "Softer")
        edit(self.desk, self.track.id, {"type": "set", "note_ids": notes[:2], "values": {"movement": 0.4}},
             base=softer.head_id, version_id=softer.id)  # fmt: skip
        comp = make_comp(self.desk, self.track.id, "Best of")
        edit(self.desk, self.track.id, {"type": "choose", "version_id": softer.id, "start_s": 0.5, "end_s": 1.5},
             base=comp.head_id, version_id=comp.id)  # fmt: skip
        (self.third,) = derive(self.desk, self.track.id, {"type": "harmony", "steps": 2, "human": 0.3})
        self.do(type="move", note_ids=notes[:1], cents=-20)
        catch_up(self.desk, self.third.id, base=str(self.desk.at(self.third.id).step_id))
        task = request_print(self.desk, self.track.id, {"container": "wav", "bits": 24})
        run_task(self.work, task.id)
        self.archive = self.folder / "song.gtsong"
        pack(self.work, self.song.id, self.archive)


def sounds(work: Workspace, song: Song) -> dict[tuple[str, str], Floats]:
    """The sound of every version and comp of a song, by name."""
    desk, found = Desk(work), {}
    for track in work.tracks.of_song(song.id):
        for version in work.history.versions(track.id):
            take = desk.take(desk.at(track.id, version.head_id))
            found[track.name, version.name] = take.span(0, take.length)[0]
    return found


class ArchiveTest(ArchiveCase):
    def elsewhere(self) -> Workspace:
        work = open_workspace(self.folder / "elsewhere")
        self.addCleanup(work.close)
        return work

    def test_an_unpacked_song_sounds_the_same_and_goes_back_to_its_first_step(self) -> None:
        work = self.elsewhere()
        song = unpack(work, self.archive)
        wanted, found = sounds(self.work, self.song), sounds(work, song)
        self.assertEqual(found.keys(), wanted.keys())
        self.assertGreater(len(found), 5)
        for name, sound in wanted.items():
            np.testing.assert_array_equal(found[name], sound, str(name))
        self.assertEqual(list(check_folder(work)), [])  # prints too
        (made,), (before,) = work.prints.of_song(song.id), self.work.prints.of_song(self.song.id)
        files = print_file(Desk(work), made), print_file(self.desk, before)
        self.assertEqual(files[0].read_bytes(), files[1].read_bytes())
        lead = work.tracks.of_song(song.id)[0]
        desk = Desk(work)
        version = work.history.version(str(lead.version_id))
        jump(desk, lead.id, to=work.history.root_of(lead.id), base=version.head_id, version_id=version.id)
        self.assertTrue(all(not note.edited.gesture.pull for note in sounding_notes(desk, desk.at(lead.id))))

    def test_the_links_of_an_unpacked_song_are_its_own(self) -> None:
        here = unpack(self.work, self.archive)
        self.assertEqual([one.title for one in self.work.songs.all()], ["Test", "Test"])
        lead, third = self.work.tracks.of_song(here.id)
        self.assertEqual(third.derived_from, lead.id)
        (link,) = self.desk.at(third.id).content.links.values()
        self.assertEqual((link.lead_track, link.rule and link.rule["type"]), (lead.id, "harmony"))
        self.assertNotIn(self.track.id, {lead.id, third.id})
        self.work.songs.forget([self.song.id])  # nothing of one hangs on the other
        self.assertEqual(list(check_folder(self.work)), [])

    def test_folders_of_the_machine_do_not_travel(self) -> None:
        self.assertNotIn(b'"studio"', b"".join(self._members().values()))
        work = self.elsewhere()
        song = unpack(work, self.archive)
        self.assertIsNone(song.handoff)
        desk = Desk(work)
        for _ in range(20):
            if work.log.latest(song.id) is None:
                break
            try:
                undo_song(desk, song.id)
            except ParameterError:  # a step of its tracks has to be taken back first
                break
            self.assertIsNone(work.songs.get(song.id).handoff)
        hostile = repacked(self.archive, with_value("song", 0, handoff="/etc", handoff_seen={"/etc": {}}))
        self.assertIsNone(unpack(work, hostile).handoff)
        step = rows_of(self._members(), "song_step")[0]
        hostile = repacked(self.archive, with_value("song_step", 0, change={
            **step["change"], "song.handoff": ["/etc", None]}))  # fmt: skip
        unpack(work, hostile)
        with work.database.look() as connection:
            rows = connection.exec_driver_sql("SELECT count(*) FROM song_step WHERE change LIKE '%/etc%'")
            self.assertEqual(rows.scalar(), 0)

    def _members(self) -> Members:
        with zipfile.ZipFile(self.archive) as source:
            return {name: source.read(name) for name in source.namelist()}

    def test_the_same_song_gives_the_same_bytes(self) -> None:
        again = self.folder / "again.gtsong"
        pack(self.work, self.song.id, again)
        self.assertEqual(again.read_bytes(), self.archive.read_bytes())

    def test_recordings_are_in_it_as_they_were_brought_in(self) -> None:
        members = self._members()
        (name,) = [one for one in members if one.startswith("recordings/")]  # the harmony shares it
        self.assertEqual(name, "recordings/01 take.wav")
        self.assertEqual(members[name], (self.folder / "take.wav").read_bytes())

    def test_a_song_is_named_by_its_title_or_id(self) -> None:
        self.assertEqual(song_named(self.work, "Test").id, self.song.id)
        self.assertEqual(song_named(self.work, self.song.id).id, self.song.id)
        with self.assertRaisesRegex(NotFoundError, "there is “Test”"):
            song_named(self.work, "Other")
        unpack(self.work, self.archive)
        with self.assertRaisesRegex(ParameterError, "2 songs are called “Test”"):
            song_named(self.work, "Test")

    def test_a_folder_is_copied_while_it_is_worked_on(self) -> None:
        target = self.folder / "copy"
        done = back_up(self.work.folder, target)
        self.assertGreater(done.files, 3)
        self.do(type="move", note_ids=["n0001"], cents=5)
        copy = open_workspace(target)
        self.addCleanup(copy.close)
        self.assertEqual(list(check_folder(copy)), [])
        self.assertEqual(len(copy.songs.all()), 1)
        self.assertFalse((target / "worker.token").exists())
        with self.assertRaisesRegex(ParameterError, "There is something at"):
            back_up(self.work.folder, target)
        with self.assertRaisesRegex(ParameterError, "outside of it"):
            back_up(self.work.folder, self.work.folder / "copy")


def _without(name: str) -> Callable[[Members, dict[str, Any]], None]:
    def change(members: Members, manifest: dict[str, Any]) -> None:
        path = next(one for one in members if one.startswith(name))
        del members[path]
        manifest["members"] = [one for one in manifest["members"] if one["path"] != path]

    return change


def _flipped(members: Members, manifest: dict[str, Any]) -> None:
    """A recording with other bytes than its hash says, in the manifest or in its name."""
    path = next(one for one in members if one.startswith("recordings/"))
    data = bytearray(members[path])
    data[-100] ^= 1
    members[path] = bytes(data)


def _kept_hash(members: Members, manifest: dict[str, Any]) -> None:
    _flipped(members, manifest)
    next(one for one in manifest["members"] if one["kind"] == "recording")["kept"] = True


def _more(name: str) -> Callable[[Members, dict[str, Any]], None]:
    return lambda members, _manifest: members.update({name: b"x"})


def _said(**values: Any) -> Callable[[Members, dict[str, Any]], None]:
    return lambda _members, manifest: manifest.update(values)


def _bomb(members: Members, _manifest: dict[str, Any]) -> None:
    members["tables/step.jsonl"] = b" " * (30 << 20)


def _named(name: str) -> Callable[[Members, dict[str, Any]], None]:
    return lambda _members, manifest: next(
        one for one in manifest["members"] if one["kind"] == "recording").update(name=name)  # fmt: skip


def _cycle(members: Members, _manifest: dict[str, Any]) -> None:
    rows = rows_of(members, "step")
    rows[1]["parent_id"], rows[2]["parent_id"] = rows[2]["id"], rows[1]["id"]
    put_rows(members, "step", rows)


HURTS: dict[str, tuple[Callable[[Members, dict[str, Any]], None], str]] = {
    "a recording is missing": (_without("recordings/"), "missing"),
    "an analysis is missing": (_without("analyses/"), "missing|again"),
    "another recording under the hash": (_flipped, "not the one that its edits belong to"),
    "a recording that was hurt": (_kept_hash, "is damaged"),
    "a file beside": (_more("readme.txt"), "differ"),
    "a path upwards": (_more("../../etc/cron.d/x"), "differ"),
    "an absolute path": (_more("/tmp/x"), "differ"),
    "a name that is a path": (_named("../../outside"), "no name by content"),
    "a newer version": (_said(version=2), "version 2"),
    "newer rows": (_said(layout="9999"), "'9999'"),
    "older rows than there ever were archives": (_said(layout="0001"), "'0001'"),
    "another format": (_said(format="zip"), "not that of a song"),
    "no list of files": (_said(about=None), "lacks"),
    "a bomb": (_bomb, "too large"),
    "an unknown value": (with_value("track", 0, password="x"), "'password'"),
    "a text for a number": (with_value("track", 0, offset_s="x"), "“offset_s”"),
    "a number that is none": (with_value("song", 0, tempo=1e300), "“tempo”"),
    "a length that is not the recording's": (with_value("track", 0, frames=12), "recording"),
    "a role that there is none of": (with_value("track", 0, role="<b>"), "role"),
    "an id that is none": (with_value("version", 0, id="x"), "“id”"),
    "a version that stands nowhere": (with_value("version", 0, head_id="0" * 32), "stands nowhere"),
    "steps in a circle": (_cycle, "follows none"),
    "a step of nobody": (with_value("step", 1, track_id="0" * 32), "belong to others"),
    "a change of nothing": (with_value("step", 1, change={"n0001": [None, {"x": 1}]}), "cannot be"),
    "a change that is no JSON": (with_value("step", 1, change=""), "“change”"),
    "a change that is a number": (with_value("step", 1, change=3), "“change”"),
    "a tempo that nobody beats": (with_value("song", 0, tempo=-3.0), "cannot be"),
    "a key that there is none of": (with_value("song", 0, scale="blue"), "cannot be"),
    "a step of the song that gives what it cannot have": (
        with_value("song_step", 0, change={"song.tempo": ["fast", 96.0]}),
        "kind of value",
    ),
    "a step of the song that moves a track off": (
        with_value("song_step", 0, change={f"track.{'0' * 32}.name": ["a", "b"]}),
        "steps cannot be",
    ),
    "a print with a path": (with_value("print", 0, file="../../x.wav"), "name of a print|print"),
}


class HostileArchiveTest(ArchiveCase):
    def refused(self, archive: Path, words: str) -> None:
        before = {path: path.stat().st_mtime_ns for path in self.work.folder.rglob("*") if path.suffix != ".sqlite3-shm"
                  and path.is_file() and "sqlite3" not in path.name}  # fmt: skip
        songs = self.work.songs.all()
        with self.assertRaisesRegex(GlassThreadError, f"(?s)({words}).*Nothing was changed"):
            unpack(self.work, archive)
        after = {path: path.stat().st_mtime_ns for path in self.work.folder.rglob("*")
                 if path.is_file() and "sqlite3" not in path.name}  # fmt: skip
        self.assertEqual(after, before)
        self.assertEqual(self.work.songs.all(), songs)

    def test_what_is_no_whole_archive_is_refused(self) -> None:
        for name, (hurt, words) in HURTS.items():
            with self.subTest(name):
                self.refused(repacked(self.archive, hurt), words)

    def test_what_is_no_zip_is_refused(self) -> None:
        data = self.archive.read_bytes()
        for name, other in (("empty", b""), ("text", b"hello"), ("cut off", data[: len(data) // 2]),
                            ("its end alone", data[len(data) // 2 :])):  # fmt: skip
            with self.subTest(name):
                path = self.folder / "other.gtsong"
                path.write_bytes(other)
                self.refused(path, "no zip file|damaged|lie over|song.json")

    def test_flipped_bytes_are_refused_or_change_nothing(self) -> None:
        data, rng = self.archive.read_bytes(), random.Random(5)
        wanted = sounds(self.work, self.song)
        for _ in range(12):
            hurt = bytearray(data)
            for _ in range(4):
                hurt[rng.randrange(len(hurt))] ^= 1 << rng.randrange(8)
            path = self.folder / "flipped.gtsong"
            path.write_bytes(bytes(hurt))
            try:
                song = unpack(self.work, path)
            except ParameterError as error:
                self.assertIn("Nothing was changed", str(error))
                continue
            for name, sound in sounds(self.work, song).items():  # bits that say when or by whom a file was packed
                np.testing.assert_array_equal(sound, wanted[name])

    def test_two_files_of_one_name_are_refused(self) -> None:
        with zipfile.ZipFile(self.archive, "a") as out, self.assertWarns(UserWarning):
            out.writestr("song.json", b"{}")
        self.refused(self.archive, "two of one name")


class DrawnTest(TakeCase):
    def test_whatever_was_done_to_a_song_it_is_unpacked_again(self) -> None:
        folder = self.work.folder
        for seed in range(6):
            with self.subTest(seed=seed), tempfile.TemporaryDirectory() as name:
                drawn, archive = Path(name) / "drawn", Path(name) / "song.gtsong"
                shutil.copytree(folder, drawn)
                archive.write_bytes(drawn_song(drawn, random.Random(seed), 15))
                song = unpack(self.work, archive)
                self.assertEqual(list(check_folder(self.work, prints=False)), [])
                self.work.songs.forget([song.id])
