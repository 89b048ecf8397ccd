"""Archives whose hashes are right and whose rows are not: by somebody who knows how songs are packed."""

from __future__ import annotations

import hashlib
import io
import json
import random
import tempfile
import zipfile
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

from flask.testing import FlaskClient

from ...api.app import PREFIX, create_app
from ...core.signal.errors import GlassThreadError
from ...services.archive.packing import pack
from ...services.archive.unpacking import unpack
from ...services.folder.workspace import open_workspace
from .edits import WRONG
from .histories import DrawnHistory

Table = list[dict[str, Any]]
ARCHIVES = 400
_READS = ("", "/steps", "/prints", "/tempo", "/loudness", "/handoff")
_TRACK_READS = ("/content", "/analysis", "/versions", "/comps", "/curves", "/notes.csv", "/melody.mid", "/contour.csv",
                "/melody.musicxml", "/notes.TextGrid", "/steps", "/tuning-sheet", "/singer-notes", "/keys",
                "/audio?kind=tuned&begin=0&end=20000", "/audio?kind=sung&begin=0&end=20000", "/links",
                "/progress")  # fmt: skip


def attack_with_rows(begin: Callable[[Path], None], count: int = ARCHIVES, seed: int = 1) -> Table:
    """Unpack songs with one to three wrong values, and read everything of those that are taken."""
    rng, found = random.Random(seed), Counter[str]()
    with tempfile.TemporaryDirectory() as name:
        workspace = open_workspace(Path(name) / "data")
        begin(Path(name) / "drawn")
        song = drawn_song(Path(name) / "drawn", rng)
        client = create_app(workspace).test_client()
        for number in range(count):
            path = Path(name) / f"{number}.gtsong"
            path.write_bytes(with_wrong_rows(song, rng))
            try:
                taken = unpack(workspace, path)
            except GlassThreadError as error:
                found["refused"] += 1
                found["without a sentence"] += not str(error).endswith(".")
            except Exception as error:  # what nobody foresaw is what is looked for
                found["faults"] += 1
                found[f"fault: {error!r}"[:100]] += 1
            else:
                found["taken"] += 1
                answers = _read(client, taken.id, [track.id for track in workspace.tracks.of_song(taken.id)])
                found["5xx"] += sum(status >= 500 for status in answers)
                workspace.songs.forget([taken.id])
            path.unlink()
        workspace.close()
    shown = ("refused", "taken", "faults", "5xx", "without a sentence")
    return [{"archives": count, **{name: found.pop(name, 0) for name in shown}, **found}]


def drawn_song(folder: Path, rng: random.Random, steps: int = 25) -> bytes:
    """A packed song with a history drawn over all operations, in a data folder that has a song."""
    workspace = open_workspace(folder)
    try:
        drawn = DrawnHistory(workspace, rng)
        for _ in range(steps):
            drawn.step()
        pack(workspace, workspace.songs.all()[0].id, folder / "song.gtsong")
    finally:
        workspace.close()
    return (folder / "song.gtsong").read_bytes()


def with_wrong_rows(archive: bytes, rng: random.Random) -> bytes:
    """The same archive with other values in some of its rows, and with sizes and hashes that fit."""
    with zipfile.ZipFile(io.BytesIO(archive)) as source:
        members = {name: source.read(name) for name in source.namelist()}
    for _ in range(rng.randint(1, 3)):
        table = rng.choice([name for name in members if name.startswith("tables/") and members[name]])
        rows = [json.loads(line) for line in members[table].splitlines()]
        _hurt(rng.choice(rows), rng)
        if rng.random() < 0.1:
            rows.append(rng.choice(rows))
        members[table] = b"".join(json.dumps(row).encode() + b"\n" for row in rows)
    manifest = json.loads(members.pop("song.json"))
    for one in manifest["members"]:
        data = members[one["path"]]
        one.update(size=len(data), sha256=hashlib.sha256(data).hexdigest())
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as target:
        for name, data in members.items():
            how = zipfile.ZIP_DEFLATED if name.startswith("tables/") else zipfile.ZIP_STORED
            target.writestr(name, data, how)
        target.writestr("song.json", json.dumps(manifest))
    return out.getvalue()


def _hurt(value: Any, rng: random.Random) -> None:
    """Put something wrong in a place drawn in nested JSON."""
    keys = list(value) if isinstance(value, dict) else list(range(len(value)))
    if not keys:
        return
    key = rng.choice(keys)
    if isinstance(value[key], (dict, list)) and value[key] and rng.random() < 0.8:
        _hurt(value[key], rng)
    elif isinstance(value, dict) and rng.random() < 0.15:
        del value[key]
    else:
        value[key] = rng.choice((*WRONG, 0, 1, -1, "x", "0" * 32, [], {}, 1e6))


def _read(client: FlaskClient, song: str, tracks: list[str]) -> list[int]:
    paths = [f"/songs/{song}{part}" for part in _READS]
    paths += [f"/tracks/{track}{part}" for track in tracks for part in _TRACK_READS]
    return [client.get(f"{PREFIX}{path}").status_code for path in paths]
