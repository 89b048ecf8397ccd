"""``glass-thread bench edits``: what edits, answers, sound, prints and analyses cost as work grows."""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import soundfile as sf

from ...api.app import PREFIX
from ...services.folder.workspace import open_workspace
from ...services.prints.printing import request_print
from ...services.song.import_audio import import_audio
from ...services.song.songs import change_song, create_song
from ..hostile.edits import hostile_edits
from .one_track import REPEATS, Table, in_bench, median_ms


def bench_history(steps: tuple[int, ...] = (10, 500, 1_000, 2_000, 10_000)) -> Table:
    """One-note edits on a minute of song as its history grows."""
    rows: Table = []
    with in_bench(1) as bench:
        done = 0
        for wanted in steps:
            for i in range(done, wanted):
                bench.edit(i)
            offset = wanted
            edit_ms = median_ms(lambda i, offset=offset: bench.edit(offset + i))
            done = wanted + REPEATS
            opened = median_ms(lambda _: bench.refresh(), 3)
            rows.append({"steps": wanted, "edit ms": edit_ms, "to 10 steps": edit_ms / (rows[0]["edit ms"] if rows
                         else edit_ms), "undo ms": median_ms(lambda _: (bench.post("undo"), bench.post("redo")), 5) / 2,
                         "open ms": opened})  # fmt: skip
    return rows


def bench_length(minutes: tuple[int, ...] = (1, 5, 10, 60)) -> Table:
    """One-note edits, their answers, and sound, as the recording grows; the last row is the hour-long take."""
    rows: Table = []
    for length in minutes:
        with in_bench(length) as bench:
            opened = median_ms(lambda _, b=bench: b.refresh(), 1)
            bench.edit(0)
            edit_ms = median_ms(lambda i, b=bench: b.edit(i + 1))
            answer = bench.edit(40)
            size = bench.answered + bench.curves(answer)
            undo_ms = median_ms(lambda _, b=bench: (b.post("undo"), b.post("redo")), 5) / 2
            bench.post("edits", operation={"type": "tune_pass", "note_ids": bench.notes, "pull": 0.8})
            bench.sound(20)
            rows.append({"minutes": length, "notes": len(bench.notes), "edit ms": edit_ms, "undo ms": undo_ms,
                         "answer and curves kB": size / 1000, "opening ms": opened,
                         "a second of sound ms": median_ms(bench.scattered, 8)})  # fmt: skip
    return rows


def bench_sound(steps: int = 3_000) -> Table:
    """A second of sound on ten minutes: untouched, with every note tuned in one step, and after a long history."""
    rows: Table = []
    with in_bench(10) as bench:
        for count in (0, 1, steps):
            if count == 1:
                bench.post("edits", operation={"type": "tune_pass", "note_ids": bench.notes, "pull": 0.8})
            for i in range(count if count > 1 else 0):
                bench.edit(i)
            first = median_ms(bench.scattered, 12)
            rows.append({"steps": count, "a second of sound, first time, ms": first,
                         "again ms": median_ms(bench.scattered, 12)})  # fmt: skip
    return rows


_CHILD = """
import sys, time
from pathlib import Path
from glass_thread.services.work.here import run_task
from glass_thread.services.folder.workspace import open_workspace
workspace = open_workspace(Path(sys.argv[1]))
begun = time.perf_counter()
run_task(workspace, sys.argv[2])
task = workspace.tasks.get(sys.argv[2])
assert task.state == "done", task.message
status = dict(line.split(":", 1) for line in Path("/proc/self/status").read_text().splitlines())
print(time.perf_counter() - begun, int(status["VmHWM"].split()[0]) / 1024)
"""


def bench_all_notes(minutes: tuple[int, ...] = (5, 60)) -> Table:
    """What is done to every note at once, answers included; each is done once, on a server that has just started."""
    rows: Table = []
    for length in minutes:
        with in_bench(length) as bench:
            change_song(bench.workspace, bench.song, {"tempo": 84.0})
            bench.start_again()
            opened = median_ms(lambda _, b=bench: b.refresh(), 1)
            bench.edit(0)
            passed = {"type": "tune_pass", "note_ids": bench.notes, "pull": 0.8, "drift": 0.7}
            whole = {"type": "quantise", "note_ids": bench.notes, "grid": "1/8"}
            rows.append({
                "minutes": length, "notes": len(bench.notes), "opening ms": opened,
                "one note ms": median_ms(lambda i, b=bench: b.edit(i + 1)),
                "pass previewed ms": median_ms(lambda _, b=bench, o=passed: b.preview(o), 1),
                "pass taken ms": median_ms(lambda _, b=bench, o=passed: b.post("edits", operation=o), 1),
                "quantised ms": median_ms(lambda _, b=bench, o=whole: b.post("edits", operation=o), 1),
                "undone ms": median_ms(lambda _, b=bench: b.post("undo"), 1),
                "server MB": _resident_mb(),
            })  # fmt: skip
    return rows


def _resident_mb() -> float:
    """What this process holds in memory, in megabytes."""
    lines = Path("/proc/self/status").read_text().splitlines()
    return int(next(line for line in lines if line.startswith("VmRSS")).split()[1]) / 1024


def bench_time_edits(minutes: tuple[int, ...] = (1, 5, 60)) -> Table:
    """Moving one note in time, and when it is heard, on songs whose notes were all quantised and on untouched ones."""
    rows: Table = []
    for length in minutes:
        for quantised in (False, True):
            with in_bench(length) as bench:
                if quantised:
                    change_song(bench.workspace, bench.song, {"tempo": 84.0})
                    whole = {"type": "quantise", "note_ids": bench.notes, "grid": "1/8"}
                    begun = time.perf_counter()
                    bench.post("edits", operation=whole)
                    quantise_ms = 1000 * (time.perf_counter() - begun)
                rows.append({"minutes": length, "notes": len(bench.notes), "quantised": "yes" if quantised else "no",
                             "quantise ms": quantise_ms if quantised else float("nan"),
                             "edit and sound ms": median_ms(bench.move_and_hear, 11),
                             "answer kB": bench.answered / 1000})  # fmt: skip
    return rows


def _in_worker(folder: Path, task_id: str) -> tuple[float, float]:
    """Seconds and peak in megabytes of a task in a process of its own, as the worker runs it."""
    command = [sys.executable, "-c", _CHILD, str(folder), task_id]
    out = subprocess.run(command, check=True, capture_output=True, text=True).stdout.split()
    return float(out[0]), float(out[1])


def bench_memory(minutes: int = 60) -> Table:
    """Analysis and print of a long take, every note of it tuned, each in a process of its own."""
    with in_bench(minutes, analysed=False) as bench:
        seconds, peak = _in_worker(bench.workspace.folder, bench.import_task)
        rows: Table = [{"work": f"analysis of {minutes} min", "seconds": seconds, "peak MB": peak}]
        bench.refresh()
        bench.post("edits", operation={"type": "tune_pass", "note_ids": bench.notes, "pull": 0.8})
        task = request_print(bench.desk, bench.track, {"container": "wav", "bits": 16})
        seconds, peak = _in_worker(bench.workspace.folder, task.id)
        rows.append({"work": f"print of {minutes} min, every note tuned", "seconds": seconds, "peak MB": peak})
    bomb_s, bomb_mb, size = _bomb()
    rows.append({"work": f"import of a FLAC of {size:.1f} MB that holds two hours", "seconds": bomb_s,
                 "peak MB": bomb_mb})  # fmt: skip
    return rows


def _bomb() -> tuple[float, float, float]:
    """Two hours of near silence at 96 kHz in stereo, packed small."""
    with tempfile.TemporaryDirectory() as folder:
        workspace = open_workspace(Path(folder))
        song = create_song(workspace, "Bomb")
        path = Path(folder) / "bomb.flac"
        with sf.SoundFile(str(path), "w", 96_000, 2, "PCM_16", format="FLAC") as file:
            block = np.zeros((96_000 * 60, 2), dtype=np.int16)
            for _ in range(120):
                file.write(block)
        size = path.stat().st_size / 1e6
        with path.open("rb") as stream:
            _track, task = import_audio(workspace, song.id, stream, path.name)
        out = subprocess.run(
            [sys.executable, "-c", _CHILD, folder, task.id], check=True, capture_output=True, text=True
        )
        workspace.close()
    return float(out.stdout.split()[0]), float(out.stdout.split()[1]), size


def bench_hostile() -> Table:
    """Hostile edit documents and what they were answered with."""
    with in_bench(1) as bench:
        statuses: dict[int, int] = {}
        for document in hostile_edits(bench.notes[2], bench.air[1]):
            body = json.dumps({"base": bench.head, "operation": document})
            answer = bench.client.post(f"{PREFIX}/tracks/{bench.track}/edits", data=body,
                                       content_type="application/json")  # fmt: skip
            statuses[answer.status_code] = statuses.get(answer.status_code, 0) + 1
            if answer.status_code == 200:
                bench.head = answer.get_json()["version"]["head_id"]
        bench.refresh()
    refused = sum(count for status, count in statuses.items() if 400 <= status < 500)
    failed = sum(count for status, count in statuses.items() if status >= 500)
    row = {"documents": sum(statuses.values()), "answered 500": failed, "refused": refused}
    return [{**row, "taken": statuses.get(200, 0)}]


TABLES: dict[str, Callable[[], Table]] = {
    "Edits as the history grows, one minute": bench_history,
    "Edits as the recording grows": bench_length,
    "Sound after a long history, ten minutes": bench_sound,
    "Notes moved in time": bench_time_edits,
    "All notes at once": bench_all_notes,
    "Memory of the worker": bench_memory,
    "Hostile edit documents": bench_hostile,
}
