import contextlib
import csv
import io
import json
import socket
import unittest

import numpy as np
import soundfile as sf

from glass_thread.cli.main import build_parser, main
from glass_thread.core.analysis.pitch.f0 import track_f0
from glass_thread.core.document.operations.registry import OPERATIONS
from glass_thread.demo import backing
from tests.command import command
from tests.services.case import TakeCase
from tests.signals import RATE, REAL_TAKE, FolderCase, sung_short, write_short


class CliCase(FolderCase):
    def run_verb(self, *arguments: object) -> tuple[int, str, str]:
        """Exit code, output, error output."""
        done = command(*arguments)
        return done.returncode, done.stdout, done.stderr


class WordsTest(CliCase):
    def test_words_lie_on_the_notes_of_a_file(self) -> None:
        source, words, out = write_short(self.folder), self.folder / "words.txt", self.folder / "words.json"
        words.write_text("slow silver\n\nmoon\n", encoding="utf-8")
        code, said, _ = self.run_verb("words", source, words, "--language", "en", "--json", out)
        self.assertEqual(code, 0)
        rows = json.loads(out.read_text())["syllables"]
        self.assertEqual({name for row in rows for name in row},
                         {"text", "word", "phrase", "note_id", "start_s", "end_s"})  # fmt: skip
        self.assertEqual([row["text"] for row in rows], ["slow", "sil", "ver", "moon"])
        self.assertEqual(rows, sorted(rows, key=lambda row: row["start_s"]))
        self.assertIn("language en", said)
        for arguments in ((source, self.folder / "none.txt"), (source, words, "--language", "qq"), (words, words)):
            code, _, trouble = self.run_verb("words", *arguments)
            self.assertEqual((code, trouble.count("\n")), (2, 1), trouble)

    def test_chords_of_a_file(self) -> None:
        source, out = self.folder / "backing.wav", self.folder / "chords.json"
        sf.write(source, backing.play(22_050)[:, : 12 * 22_050].T, 22_050)
        code, said, _ = self.run_verb("chords", source, "--tempo", "84", "--json", out)
        self.assertEqual(code, 0)
        rows = json.loads(out.read_text())["chords"]
        self.assertEqual([row["label"] for row in rows][:3], ["D:min", "A#:maj", "F:maj"])
        self.assertIn("D:min", said)


class AnalyseTest(CliCase):
    def test_documents(self) -> None:
        source = write_short(self.folder)
        code, out, _ = self.run_verb("analyse", source, "--json", self.folder / "a.json", "--f0", self.folder / "a.csv")
        self.assertEqual(code, 0)
        self.assertIn("4 notes in 2 phrases", out)
        data = json.loads((self.folder / "a.json").read_text())
        wanted = {
            "format",
            "version",
            "sample_rate",
            "duration_s",
            "f0",
            "notes",
            "air",
            "phrases",
            "key",
            "reference_hz",
        }
        self.assertTrue(wanted <= data.keys())
        with (self.folder / "a.csv").open() as file:
            rows = list(csv.DictReader(file))
        self.assertEqual(len(rows), len(data["f0"]["midi"]))
        self.assertEqual(rows[0]["midi"], "")


class TuneTest(CliCase):
    def centre(self, path: object, start: float, end: float) -> float:
        x, rate = sf.read(str(path))
        return float(np.nanmedian(track_f0(x, rate).midi[int(start / 0.005) : int(end / 0.005)]))

    def test_pass(self) -> None:
        source = write_short(self.folder)
        code, out, _ = self.run_verb("tune", source, self.folder / "o.wav", "--key", "C major")
        self.assertEqual(code, 0)
        self.assertRegex(out, r"^4 notes changed, \d+\.\d\d % of samples bit-identical, peak −?-?\d+\.\d dBFS\n$")
        self.assertAlmostEqual(self.centre(self.folder / "o.wav", 0.5, 0.8), 60.0, delta=0.05)
        self.assertAlmostEqual(self.centre(self.folder / "o.wav", 1.65, 2.0), 62.0, delta=0.08)

    def test_nothing_to_do_is_the_source(self) -> None:
        source = write_short(self.folder)
        self.run_verb("tune", source, self.folder / "o.wav", "--pull", "0")
        a, b = (sf.read(str(p), dtype="int16")[0] for p in (source, self.folder / "o.wav"))
        np.testing.assert_array_equal(a, b)

    def test_curve(self) -> None:
        source = write_short(self.folder)
        rows = "".join(f"{t:.2f},66.0\n" for t in np.arange(2.75, 3.95, 0.01))
        (self.folder / "c.csv").write_text("time_s,target_midi\n" + rows)
        code, _, _ = self.run_verb("tune", source, self.folder / "o.flac", "--curve", self.folder / "c.csv")
        self.assertEqual(code, 0)
        self.assertAlmostEqual(self.centre(self.folder / "o.flac", 3.0, 3.8), 66.0, delta=0.03)
        self.assertAlmostEqual(self.centre(self.folder / "o.flac", 0.5, 0.8), 59.6, delta=0.05)

    def test_edit_document(self) -> None:
        source = write_short(self.folder)
        operations = [
            {"type": "move", "note_ids": ["n0001"], "cents": 100},
            {"type": "set", "note_ids": "all", "values": {"level_db": -3}},
        ]
        edits = {"format": "glass-thread-edits", "version": 1, "operations": operations}
        (self.folder / "e.json").write_text(json.dumps(edits))
        code, out, _ = self.run_verb("tune", source, self.folder / "o.wav", "--edits", self.folder / "e.json")
        self.assertEqual((code, out[:15]), (0, "4 notes changed"))
        self.assertAlmostEqual(self.centre(self.folder / "o.wav", 0.5, 0.8), 60.6, delta=0.05)

    def test_time_map(self) -> None:
        source = write_short(self.folder)
        (self.folder / "m.csv").write_text("source_s,track_s\n0,0\n1.555,1.755\n2.115,2.4\n")
        target = self.folder / "o.wav"
        code, out, _ = self.run_verb("tune", source, target, "--pull", "0", "--time", self.folder / "m.csv")
        self.assertEqual(code, 0)
        self.assertRegex(
            out, r"^0 notes changed, \d+\.\d\d % of samples bit-identical in place and \d+\.\d\d % moved, "
        )
        before, after = (sf.read(str(p), dtype="int16")[0] for p in (source, target))
        later = round(2.4 * RATE) - round(2.115 * RATE)
        self.assertEqual(len(after) - len(before), later)
        np.testing.assert_array_equal(after[round(3.0 * RATE) + later :], before[round(3.0 * RATE) :])
        hiss = slice(round(1.46 * RATE), round(1.54 * RATE))
        moved = slice(*(at + round(0.2 * RATE) for at in (hiss.start, hiss.stop)))
        np.testing.assert_array_equal(after[moved], before[hiss])
        self.assertAlmostEqual(self.centre(target, 1.9, 2.3), self.centre(source, 1.7, 2.05), delta=0.04)

    def test_time_maps_that_cannot_be(self) -> None:
        source = write_short(self.folder)
        for rows, words in (
            ("0,0\n1,1.2\n1,1.4\n", "rise from row to row"), ("0,0\n90,90\n", "after the end"), ("", "rise"),
            ("0,0\n0.5,0.5\n0.8,4\n", "cannot be held"), ("0,0\n3.9,0.4\n", "no room between"),
            ("a,b\n", "needs the columns"), ("0,nan\n", "rise"),
        ):  # fmt: skip
            (self.folder / "m.csv").write_text("source_s,track_s\n" + rows)
            code, _, error = self.run_verb("tune", source, self.folder / "o.wav", "--time", self.folder / "m.csv")
            with self.subTest(rows=rows):
                self.assertEqual(code, 2)
                self.assertIn(words, error)
                self.assertFalse((self.folder / "o.wav").exists())

    def test_movement_within_and_what_lies_off_its_place(self) -> None:
        moved = {"type": "move", "note_ids": ["n0010"], "cents": 37.0}  # 0.2 s of a low voice that is sung on
        (self.folder / "e.json").write_text(
            json.dumps({"format": "glass-thread-edits", "version": 1, "operations": [moved]})
        )
        code, out, _ = self.run_verb("tune", REAL_TAKE, self.folder / "o.wav", "--edits", self.folder / "e.json")
        self.assertEqual(code, 0)
        self.assertRegex(out, r", 1\.\d\d s after short notes up to half a cycle off their place$")
        code, out, _ = self.run_verb("tune", REAL_TAKE, self.folder / "p.wav", "--movement", 0.5, "--within", 10)
        self.assertRegex(out, r"^2\d notes changed")
        code, _, error = self.run_verb("tune", REAL_TAKE, self.folder / "q.wav", "--within", 900)
        self.assertEqual(code, 2)
        self.assertIn("“within_cents” must be a number from 0 to 100", error)

    def test_edits_of_air_and_level(self) -> None:
        source = write_short(self.folder)
        operations = [
            {"type": "set_breaths", "values": {"muted": True}},
            {"type": "nudge_air", "air_ids": "all", "by_db": -6},
            {"type": "clear_gaps"},
        ]
        (self.folder / "e.json").write_text(
            json.dumps({"format": "glass-thread-edits", "version": 1, "operations": operations})
        )
        code, out, _ = self.run_verb("tune", source, self.folder / "o.wav", "--edits", self.folder / "e.json")
        self.assertEqual(code, 0)
        self.assertRegex(out, r"^0 notes and \d air events, gaps and stretches changed, ")
        before, after = (sf.read(str(p))[0] for p in (source, self.folder / "o.wav"))
        hiss = slice(round(1.46 * RATE), round(1.51 * RATE))
        change = 10 * np.log10(np.mean(after[hiss] ** 2) / np.mean(before[hiss] ** 2))
        self.assertAlmostEqual(change, -6.0, delta=0.05)
        self.assertFalse(after[: round(0.2 * RATE)].any())

    def test_stereo_float(self) -> None:
        both = np.stack((sung_short()[1].audio, 0.5 * sung_short()[1].audio), axis=1)
        sf.write(str(self.folder / "s.wav"), both, RATE, subtype="FLOAT")
        self.run_verb("tune", self.folder / "s.wav", self.folder / "o.wav", "--key", "C major")
        out, _ = sf.read(str(self.folder / "o.wav"))
        np.testing.assert_allclose(out[:, 1], 0.5 * out[:, 0], atol=1e-6)

    def test_failures_are_one_sentence_and_leave_no_file(self) -> None:
        source = write_short(self.folder)
        (self.folder / "bad.csv").write_text("x")
        (self.folder / "bad.wav").write_text("x")
        target = self.folder / "o.wav"
        cases = [
            (self.folder / "none.wav", target),
            (self.folder / "bad.wav", target),
            (source, self.folder / "o.mp3"),
            (source, source),
            (source, self.folder / "no" / "folder.wav"),
            (source, target, "--key", "Z"),
            (source, target, "--pull", "7"),
            (source, target, "--pull", "nan"),
            (source, target, "--curve", self.folder / "bad.csv"),
            (source, target, "--edits", self.folder / "bad.csv"),
        ]
        before = source.read_bytes()
        for case in cases:
            with self.subTest(case=[str(c) for c in case]):
                code, _, err = self.run_verb("tune", *case)
                self.assertEqual(code, 2)
                self.assertEqual(len(err.strip().splitlines()), 1)
                self.assertFalse(target.exists())
        self.assertEqual(source.read_bytes(), before)
        self.assertEqual(list(self.folder.glob("*.part")), [])


class OverFullScaleTest(CliCase):
    def test_lowered_or_kept_as_float_like_on_the_screen(self) -> None:
        source, edits = write_short(self.folder), self.folder / "louder.json"
        louder = {"type": "set", "note_ids": "all", "values": {"level_db": 12.0}}
        edits.write_text(json.dumps({"format": "glass-thread-edits", "version": 1, "operations": [louder]}))
        target = self.folder / "out.wav"
        code, _, err = self.run_verb("tune", source, target, "--edits", edits)
        self.assertEqual((code, target.exists()), (2, False))
        self.assertIn("over full scale: lower the print, or keep 32-bit float", err)
        self.assertEqual(self.run_verb("tune", source, target, "--edits", edits, "--float")[0], 0)
        self.assertEqual(sf.info(str(target)).subtype, "FLOAT")
        peak = np.abs(sf.read(str(target))[0]).max()
        self.assertGreater(peak, 1.0)
        down = float(20 * np.log10(peak)) + 0.1
        self.assertEqual(self.run_verb("tune", source, target, "--edits", edits, "--lower", f"{down:.3f}")[0], 0)
        self.assertEqual(sf.info(str(target)).subtype, "PCM_16")
        self.assertAlmostEqual(20 * np.log10(np.abs(sf.read(str(target))[0]).max()), -0.1, delta=0.02)

    def test_every_operation_is_listed(self) -> None:
        with self.assertRaises(SystemExit) as stop, contextlib.redirect_stdout(io.StringIO()) as out:
            main(["tune", "--help-edits"])
        self.assertEqual(stop.exception.code, 0)
        for operation in OPERATIONS.values():
            self.assertIn(f"{operation.type}: {operation.__doc__}", out.getvalue())


class VersionsTest(CliCase):
    def test_list_make_and_compare(self) -> None:
        case = TakeCase()
        case.setUp()
        self.addCleanup(case.doCleanups)
        case.do(type="tune", note_ids=["n0001"])
        data = case.folder / "data"
        code, out, _ = self.run_verb("versions", "--data", data)
        self.assertEqual(code, 0)
        self.assertRegex(out, r"version: As sung .*\n.*version: Tuned  steps: 1  last: Tune to .*  open: True")
        self.run_verb("versions", "--data", data, "--track", "take", "--make", "From the start", "--begin", "As sung")
        rows = json.loads(self.run_verb("versions", "--data", data, "--json")[1])
        self.assertEqual([row["version"] for row in rows], ["As sung", "Tuned", "From the start"])
        code, out, _ = self.run_verb("versions", "--data", data, "--compare", "From the start", "Tuned")
        self.assertRegex(out, r"^start_s: 0\.\d+  note: n0001  From the start: .*  Tuned: ")
        for bad in (("--track", "x"), ("--compare", "Tuned", "nothing"), ("--make", "a", "--begin", "nothing")):
            self.assertEqual(self.run_verb("versions", "--data", data, *bad)[0], 2, bad)


class HelpTest(CliCase):
    def test_every_verb_explains_itself(self) -> None:
        for verb in (
            "demo",
            "serve",
            "worker",
            "analyse",
            "tune",
            "build-demo",
            "warm",
            "openapi",
            "versions",
            "bench",
        ):
            with (
                self.subTest(verb),
                self.assertRaises(SystemExit) as stop,
                contextlib.redirect_stdout(io.StringIO()) as out,
            ):
                build_parser().parse_args([verb, "--help"])
            self.assertEqual(stop.exception.code, 0)
            self.assertIn("usage: glass-thread", out.getvalue())
            self.assertIn(f"examples:\n  glass-thread {verb}", out.getvalue())

    def test_a_taken_port_is_said(self) -> None:
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            port = taken.getsockname()[1]
            code, _, err = self.run_verb("serve", "--port", port, "--data", self.folder / "d")
        self.assertEqual(code, 2)
        self.assertIn(f"Port {port}", err)


if __name__ == "__main__":
    unittest.main()
