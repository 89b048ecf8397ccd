"""Workers that nobody should have: strangers, holders of the token that hand in nonsense, and forged messages."""

from __future__ import annotations

import hashlib
import json
import random
import tempfile
from collections import Counter
from pathlib import Path
from typing import Any

from huey import SqliteHuey

from ...services.work.job_queue import JsonSerializer, queue_name
from ...services.work.token import server_token
from .edits import WRONG
from .files import RATE, short_take, sound_file
from .victim import ENDED, Victim

Table = list[dict[str, Any]]
ANSWERS, FORGED, TASKS = 3000, 200, 12
SECRET = b"nothing that a worker may read or write"
_FIELDS = ("peak_dbfs", "true_peak_dbtp", "integrated_lufs", "untouched_share", "moved_share", "notes_changed",
           "air_changed", "borrowed_share", "borrowed", "displaced", "file", "result", "frames", "unknown")  # fmt: skip


class Stranger:
    """Draws what a worker may say, and a good deal that it may not."""

    def __init__(self, victim: Victim, token: str, rng: random.Random, outside: Path) -> None:
        self._victim, self._token, self._rng, self._outside = victim, token, rng, outside
        self.states = Counter[str]()
        self.let_in = self.read_outside = 0

    def say(self, tasks: list[str]) -> None:
        """One request; answers to whoever has not the token, and what they hold of a file outside, are counted."""
        knows = self._rng.random() < 0.8
        method, path, body = self._drawn(tasks)
        token = self._token if knows else self._wrong_token()
        headers = {"Authorization": f"Bearer {token}", "Content-Type": "application/json"}
        answer = self._victim.ask(method, path, headers=headers, data=body)
        self.states["refused" if answer.status_code >= 400 else "taken"] += 1
        self.let_in += not knows and answer.status_code < 400
        self.read_outside += SECRET in answer.content

    def _wrong_token(self) -> str:
        return self._rng.choice(("", "x", self._token[:-1], self._token + "x", self._token.swapcase(), "\x7f"))

    def _drawn(self, tasks: list[str]) -> tuple[str, str, bytes]:
        rng, task = self._rng, self._rng.choice([*tasks, "none", "0" * 32, "%00", "a" * 300])
        name = rng.choice(
            ("0" * 64, "g" * 64, str(self._outside).replace("/", "%2F"), "..%2F..%2F" + self._outside.name)
        )
        worker = rng.choice(("w1", "w1", "w1", "w1", "w2", "", 5, None, "x" * 500))
        stage, share = rng.choice(("reading", "", 3)), rng.choice((0.5, -1, *WRONG))
        file, state = rng.choice((None, "0" * 64, str(self._outside))), rng.choice(("failed", "cancelled", "done"))
        said: dict[str, dict[str, Any]] = {
            "begin": {"worker": worker},
            "progress": {"worker": worker, "stage": stage, "share": share},
            "done": {"worker": worker, "values": self._values(), "file": file},
            "ended": {"worker": worker, "state": state, "message": rng.choice(("No.", *WRONG))},
        }
        if rng.random() < 0.75:
            what = rng.choice(list(said))
            body = said[what] if rng.random() < 0.9 else rng.choice(WRONG)
            return "POST", f"/work/{task}/{what}", json.dumps(body).encode()
        if rng.random() < 0.5:
            return "GET", f"/work/{rng.choice(('audio', 'analysis'))}/{name}", b""
        made = rng.choice((b"", SECRET, rng.randbytes(5000)))
        name = rng.choice((name, hashlib.sha256(made).hexdigest()))
        return "PUT", f"/work/results/{name}", made

    def _values(self) -> Any:
        if self._rng.random() < 0.1:
            return self._rng.choice(WRONG)
        names = self._rng.sample(_FIELDS, self._rng.randint(0, 6))
        return {name: self._rng.choice((*WRONG, 0.5, 0, str(self._outside))) for name in names}


def attack_with_workers(count: int = ANSWERS, seed: int = 1) -> Table:
    """Strangers among the workers while imports and prints wait; then the server's own workers do what is left."""
    rng = random.Random(seed)
    with tempfile.TemporaryDirectory() as name:
        outside = Path(name) / "outside.wav"
        outside.write_bytes(SECRET)
        victim = Victim(Path(name) / "data")
        victim.start("--workers", "1")
        song, tracks, tasks = _begun(victim)
        stranger = Stranger(victim, server_token(victim.folder), rng, outside)
        victim.kill()
        victim.start("--workers", "0")
        for number in range(count):
            if number % max(1, count // TASKS) == 0:  # there is always something that waits
                asked = victim.ask("POST", f"/tracks/{rng.choice(tracks)}/prints", json={"bits": 24})
                tasks.append(asked.json()["id"])
            stranger.say(tasks[-4:])
            if number % 50 == 0:
                _look(victim, song)
        forged = _forge(victim, tasks)
        victim.kill()
        victim.start("--workers", "1")
        left = Counter(victim.settled(task) for task in tasks)
        _look(victim, song)
        victim.kill()
        changed = outside.read_bytes() != SECRET
    return [{"answers": count, **dict(sorted(stranger.states.items())), "forged messages": forged,
             "let in without the token": stranger.let_in, "files outside read": stranger.read_outside,
             "files outside changed": int(changed), "tasks": len(tasks),
             "tasks without an end": sum(n for state, n in left.items() if state not in ENDED),
             "5xx": victim.server_errors(), "without a sentence": victim.wordless}]  # fmt: skip


def _begun(victim: Victim) -> tuple[str, list[str], list[str]]:
    """A song with two takes, by a server that works."""
    song, tracks, tasks = victim.song("Workers"), [], []
    for number in (1, 2):
        data = sound_file(short_take(number), RATE, "WAV", "PCM_16")
        made = victim.bring_in(song, f"{number}.wav", data).json()
        assert victim.settled(made["task"]["id"]) == "done"
        tracks.append(made["track"]["id"])
        tasks.append(made["task"]["id"])
    return song, tracks, tasks


def _look(victim: Victim, song: str) -> None:
    """What a screen asks for all the time; answers are counted by the victim."""
    for path in ("/songs", f"/songs/{song}", f"/songs/{song}/prints"):
        victim.ask("GET", path)


def _forge(victim: Victim, tasks: list[str]) -> int:
    """Messages in the server's own queue, signed with another token."""
    name, file = queue_name(server_token(victim.folder)), str(victim.folder / "queue.sqlite3")
    queue = SqliteHuey(name, filename=file, serializer=JsonSerializer("another token"))

    @queue.task(name="do")  # as the server's own
    def send(task_id: str, job: dict[str, Any]) -> None: ...

    for number in range(FORGED):
        send(tasks[number % len(tasks)], {"kind": "print", "audio": "../../outside.wav"})
    return FORGED
