"""Power cuts: what is on the disk when the machine stops, with everything that was not yet flushed whole, cut or gone.

A commit is flushed before it is acknowledged. So at a cut the database and its log hold all of the last acknowledged
change; of the one after it any blocks may be there and any may not; and of a checkpoint, which moves pages from the log
into the database, any pages may have arrived while the log is still whole (SQLite, "Atomic commit" and "Write-ahead
logging", sqlite.org, from memory). A disk that keeps what it said is flushed is taken for granted.
"""

from __future__ import annotations

import random
import shutil
import tempfile
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np

from ...services.folder.workspace import DATABASE, Workspace, open_workspace
from ...store.database import Database
from .histories import DrawnHistory, holdings

Table = list[dict[str, Any]]
CUTS = 400
LOG, INDEX = f"{DATABASE}-wal", f"{DATABASE}-shm"
_BLOCK, _HEAD = 4096, 32  # bytes a block of the disk, and of the log's own head


class _Disk(NamedTuple):
    """The database and its log at an acknowledged change, and what the folder holds then."""

    data: bytes
    log: bytes
    holds: Any


def attack_with_power_cuts(begin: Callable[[Path], None], cuts: int = CUTS, seed: int = 1) -> Table:
    """Cut the power among drawn changes of a song and in checkpoints, open what is left, and compare."""
    rng, found, done = random.Random(seed), Counter[str](), 0
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "data"
        begin(folder)
        workspace = open_workspace(folder)
        history = DrawnHistory(workspace, rng)
        last = _now(folder, workspace)
        while done < cuts:
            history.step()
            now = _now(folder, workspace)
            if now.log != last.log:
                held = _opened(folder, Path(name) / "left", _cut_in_commit(last, now, rng), (last.holds, now.holds))
                found[held] += 1
                held = _opened(folder, Path(name) / "left", _cut_in_checkpoint(now, rng), (now.holds,))
                found[held] += 1
                done += 2
            last = now
        workspace.close()
    shown = ("before", "after", "neither", "damaged")
    return [{"cuts": done, **{f"as {name}" if name in ("before", "after") else name: found[name] for name in shown}}]


def _now(folder: Path, workspace: Workspace) -> _Disk:
    return _Disk((folder / DATABASE).read_bytes(), (folder / LOG).read_bytes(), holdings(workspace))


def _cut_in_commit(last: _Disk, now: _Disk, rng: random.Random) -> tuple[bytes, bytes]:
    """Of what was written since the last change that was acknowledged, blocks are whole, zero or noise, or cut off."""
    kept = _shared(last.log, now.log)
    tail = bytearray(now.log[kept:])
    for at in range(0, len(tail), _BLOCK):
        fate, size = rng.random(), len(tail[at : at + _BLOCK])
        if fate < 0.35:
            tail[at : at + size] = bytes(size) if fate < 0.25 else rng.randbytes(size)
    if rng.random() < 0.5:
        del tail[rng.randrange(len(tail) + 1) :]
    begun_anew = now.log[:_HEAD] != last.log[:_HEAD]  # once all that was in it has been moved and flushed
    return now.data if begun_anew else last.data, now.log[:kept] + bytes(tail)


def _cut_in_checkpoint(now: _Disk, rng: random.Random) -> tuple[bytes, bytes]:
    """Some of the log's pages have arrived in the database, one perhaps half."""
    whole, data = _checkpointed(now), bytearray(now.data)
    data += bytes(max(0, len(whole) - len(data)))
    for at in range(0, len(whole), _BLOCK):
        if rng.random() < 0.5:
            end = at + (_BLOCK if rng.random() < 0.9 else _BLOCK // 2)
            data[at:end] = whole[at:end]
    return bytes(data), now.log


def _checkpointed(now: _Disk) -> bytes:
    """The database after a checkpoint."""
    with tempfile.TemporaryDirectory() as name:
        (Path(name) / DATABASE).write_bytes(now.data)
        (Path(name) / LOG).write_bytes(now.log)
        Database(Path(name) / DATABASE).close()  # the last to leave moves the pages
        return (Path(name) / DATABASE).read_bytes()


def _shared(one: bytes, other: bytes) -> int:
    """How many bytes at the beginning two have in common."""
    length = min(len(one), len(other))
    apart = np.flatnonzero(np.frombuffer(one, np.uint8, length) != np.frombuffer(other, np.uint8, length))
    return int(apart[0]) if len(apart) else length


def _opened(folder: Path, place: Path, left: tuple[bytes, bytes], holds: tuple[Any, ...]) -> str:
    """Which of some states, "before" and "after" or the one that must be, a folder holds that is opened after a cut."""
    shutil.copytree(folder, place, ignore=shutil.ignore_patterns(DATABASE, LOG, INDEX))
    (place / DATABASE).write_bytes(left[0])
    (place / LOG).write_bytes(left[1])
    try:
        workspace = open_workspace(place)
        try:
            workspace.database.refuse_damage()
            now = holdings(workspace)
        finally:
            workspace.close()
    except Exception:  # whatever it is, the folder does not come back
        return "damaged"
    finally:
        shutil.rmtree(place)
    return "after" if now == holds[-1] else "before" if now == holds[0] else "neither"
