"""``glass-thread bench attack``: what is left after hostile input, kill -9, a full disk, a second server."""

from __future__ import annotations

import io
import os
import random
import shutil
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Any

import numpy as np

from ...services.folder.workspace import DATABASE, open_workspace, tidy
from ...services.song.import_audio import import_audio
from ...services.song.songs import create_song
from ...services.work.here import run_task
from ...store.database import MIGRATIONS_KNOWN, laid_back
from ..speed.edits import bench_hostile
from ..speed.engineer import Engineer
from .access import attack_with_access
from .archives import attack_with_rows
from .files import RATE, hostile_files, short_take, sound_file
from .histories import DrawnHistory, holdings
from .power import attack_with_power_cuts
from .requests import attack_with_requests
from .victim import Victim
from .workers import attack_with_workers

Table = list[dict[str, Any]]
FILES, KILLS, SMALL_MB, HISTORIES = 300, 1000, 48, 2000


def attack_with_files(count: int = FILES) -> Table:
    """Upload hostile files, each also as far as it goes, and remove what came of them."""
    with tempfile.TemporaryDirectory() as name:
        victim = Victim(Path(name) / "data")
        victim.start()
        song, states, slowest = victim.song("Attack"), Counter[str](), 0.0
        for file_name, data in hostile_files(short_take(1), RATE, count):
            for as_far in ("false", "true"):
                begun = time.monotonic()
                answer = victim.bring_in(song, file_name, data, as_far=as_far)
                state = victim.settled(answer.json()["task"]["id"]) if answer.status_code == 202 else "refused"
                slowest = max(slowest, time.monotonic() - begun)
                states[state] += 1
        victim.ask("DELETE", f"/songs/{song}")
        victim.ask("DELETE", "/removed")
        left = victim.left_behind() + sum(len(list((victim.folder / place).iterdir())) for place in _PLACES)
        victim.kill()
    return [{"files": count, "uploads": sum(states.values()), **dict(sorted(states.items())),
             "5xx": victim.server_errors(), "without a sentence": victim.wordless, "left behind": left,
             "slowest s": slowest}]  # fmt: skip


_PLACES = ("audio", "analysis", "prints", "unpacked")


_TOLD_EVERY = 50


def attack_with_kills(count: int = KILLS, seed: int = 1) -> Table:
    """kill -9 at random moments among edits, imports and prints; what was acknowledged is looked for each time."""
    rng = random.Random(seed)
    with tempfile.TemporaryDirectory() as name:
        victim = Victim(Path(name) / "data")
        victim.start()
        engineer = Engineer(victim, seed, lambda number: sound_file(short_take(number), RATE, "FLAC", "PCM_16"))
        engineer.open_song()
        kills = Counter[str]()
        for number in range(count):
            if number % _TOLD_EVERY == 0:  # it lasts for hours, and what was found by then is worth something
                print(f"{number} kills, {engineer.counts()}, {victim.server_errors()} 5xx", file=sys.stderr, flush=True)
            working = threading.Thread(target=engineer.work)
            working.start()
            time.sleep(rng.uniform(0.1, 1.6))
            whole = rng.random() < 0.75
            kills["server" if whole else "worker"] += 1
            victim.kill() if whole else victim.kill_a_worker(rng)
            engineer.rest()
            working.join()
            if whole:
                victim.start()
            engineer.look_for_what_was_acknowledged()
        engineer.wait_for_everything()
        counts = engineer.counts()  # what was handed over lies in the folder
        victim.kill()
        workspace = open_workspace(victim.folder)
        names = {path.name for path in victim.folder.rglob("*") if path.is_file()}
        swept, left = tidy(workspace).files, victim.left_behind()
        gone = sorted(names - {path.name for path in victim.folder.rglob("*") if path.is_file()})
        workspace.close()
    return [{"kills of the server": kills["server"], "of a worker": kills["worker"], **counts,
             "5xx": victim.server_errors(), "left behind": left + swept, "which": ", ".join(gone)[:200]}]  # fmt: skip


def attack_with_a_full_disk(megabytes: int = SMALL_MB) -> Table:
    """Imports, edits and prints on a small mounted folder until nothing more goes in, then room is made."""
    with tempfile.TemporaryDirectory() as name:
        mounted = subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={megabytes}m", "none", name], check=False)
        if mounted.returncode:
            return [{"small disk": "not measured: mounting needs the rights of root"}]
        try:
            return [_fill(Path(name), megabytes)]
        finally:
            subprocess.run(["umount", "-l", name], check=True)


def _fill(disk: Path, megabytes: int) -> dict[str, Any]:
    victim = Victim(disk / "data")
    victim.start()
    engineer = Engineer(victim, 1, lambda number: sound_file(short_take(number), RATE, "WAV", "FLOAT"))
    engineer.open_song()
    engineer.work(acts=60)  # edits, imports and prints while there is room
    noise = np.random.default_rng(1)
    spare = victim.song("Spare")
    failed, number = 0, 0
    while failed < 5 and number < 200:  # then ever more imports, until five did not go in
        number += 1
        data = sound_file(noise.uniform(-0.5, 0.5, 10 * RATE), RATE, "WAV", "FLOAT")
        answer = victim.bring_in(spare, f"{number}.wav", data, role="backing")
        state = victim.settled(answer.json()["task"]["id"]) if answer.status_code == 202 else "refused"
        failed += state != "done"
    (disk / "ballast").write_bytes(b"")
    with (disk / "ballast").open("ab", buffering=0) as file, suppress(OSError):  # and now not one byte
        while file.write(bytes(1 << 12)):
            pass
    engineer.work(acts=60)
    full = victim.answers.get(507, 0)
    (disk / "ballast").unlink()
    victim.ask("DELETE", f"/songs/{spare}")
    victim.ask("DELETE", "/removed")
    before = victim.answers.get(507, 0)
    engineer.look_for_what_was_acknowledged()
    engineer.work(acts=30)
    engineer.wait_for_everything()
    row = {"disk MB": megabytes, "imports until it was full": number, "answered 507": full, **engineer.counts(),
           "507 after room was made": victim.answers.get(507, 0) - before, "5xx other than 507": victim.server_errors(),
           "without a sentence": victim.wordless}  # fmt: skip
    victim.kill()
    workspace = open_workspace(victim.folder)
    row["left behind"] = tidy(workspace).files + victim.left_behind()
    workspace.close()
    return row


def attack_with_a_second_server() -> Table:
    """A second server on the folder while the first is at work."""
    with tempfile.TemporaryDirectory() as name:
        victim = Victim(Path(name) / "data")
        victim.start()
        song = victim.song("Two")
        task = victim.bring_in(song, "take.wav", sound_file(np.tile(short_take(1), 30), RATE, "WAV", "PCM_16")).json()[
            "task"
        ]
        second = Victim(victim.folder)
        ended = subprocess.run(second.command(), capture_output=True, text=True, env=os.environ, check=False)
        row = {"exit code of the second": ended.returncode, "said": ended.stderr.strip().split(";")[0],
               "the first's task": victim.settled(task["id"]), "5xx": victim.server_errors()}  # fmt: skip
        row["said"] = row["said"].replace(name, "…")
        victim.kill()
    return [row]


def draw_histories(count: int = HISTORIES, steps: int = 12, seed: int = 1) -> Table:
    """Histories over everything that can be done to a song, each compared with a fresh start after every step."""
    done, refused, wrong = Counter[str](), 0, 0
    with tempfile.TemporaryDirectory() as name:
        begun = Path(name) / "begun"
        begin_with_two_takes(begun)
        for number in range(count):
            folder = shutil.copytree(begun, Path(name) / "data")
            workspace = open_workspace(folder)
            history = DrawnHistory(workspace, random.Random(f"{seed} {number}"))
            for _ in range(steps):
                history.step()
                wrong += bool(history.disagreements(sound=False))
            wrong += bool(history.disagreements(sound=True))
            refused += steps - history.done.total()
            done += history.done
            workspace.close()
            shutil.rmtree(folder)
    return [{"histories": count, "done": done.total(), "refused": refused, **dict(sorted(done.items())),
             "not as a fresh start": wrong}]  # fmt: skip


def begin_with_two_takes(folder: Path) -> None:
    """A song with a lead and a double."""
    workspace = open_workspace(folder)
    song = create_song(workspace, "Drawn")
    for seed, role in ((1, "lead"), (2, "double")):
        file = io.BytesIO(sound_file(short_take(seed), RATE, "WAV", "PCM_16"))
        _track, task = import_audio(workspace, song.id, file, f"{role}.wav", role=role)
        run_task(workspace, task.id)
    workspace.close()


def kill_inside_migrations(times: int = 40, seed: int = 1) -> Table:
    """kill -9 while a folder is brought from each earlier layout to today's; then it is opened and compared."""
    rng, rows = random.Random(seed), []
    with tempfile.TemporaryDirectory() as name:
        begun = Path(name) / "begun"
        begin_with_two_takes(begun)
        for number in MIGRATIONS_KNOWN[_WITH_BRANCHES:-1]:
            older = shutil.copytree(begun, Path(name) / "older")
            laid_back(older / DATABASE, number)
            wanted, lost, killed = _opened(shutil.copytree(older, Path(name) / "whole")), 0, 0
            for _ in range(max(1, times // (len(MIGRATIONS_KNOWN) - 1 - _WITH_BRANCHES))):
                folder = shutil.copytree(older, Path(name) / "data")
                process = subprocess.Popen([sys.executable, "-c", _OPEN, str(folder)], stdout=subprocess.PIPE)
                assert process.stdout is not None
                process.stdout.readline()
                time.sleep(rng.uniform(0.0, 0.25))
                killed += process.poll() is None
                process.kill()
                process.wait()
                lost += _opened(folder) != wanted
                shutil.rmtree(folder)
            rows.append({"from": number, "killed in the middle": killed, "not what it was": lost})
            for one in ("older", "whole"):
                shutil.rmtree(Path(name) / one)
    return rows


_OPEN = """
import sys
from pathlib import Path
from glass_thread.services.folder.workspace import open_workspace
from alembic import command
print("begins", flush=True)
open_workspace(Path(sys.argv[1])).close()
"""
_WITH_BRANCHES = 2  # the first layouts that a folder can be laid back to: before them histories had none


def _opened(folder: Path) -> Any:
    """What a folder holds once it is opened."""
    workspace = open_workspace(folder)
    try:
        return holdings(workspace)
    finally:
        workspace.close()


ATTACKS: dict[str, Callable[[], Table]] = {
    "Drawn histories": draw_histories,
    "Power cuts of the database and its log": lambda: attack_with_power_cuts(begin_with_two_takes),
    "kill -9 inside each migration": kill_inside_migrations,
    "Hostile edit documents": bench_hostile,
    "Drawn requests": lambda: attack_with_requests(begin_with_two_takes),
    "Hostile files": attack_with_files,
    "kill -9 among edits, imports and prints": attack_with_kills,
    "A full disk on a small mounted folder": attack_with_a_full_disk,
    "Two servers on one folder": attack_with_a_second_server,
    "Hostile workers and messages": attack_with_workers,
    "Access from other machines": attack_with_access,
    "Archives with wrong rows": lambda: attack_with_rows(begin_with_two_takes),
}
