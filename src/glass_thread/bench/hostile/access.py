"""Strangers at a server that other machines reach: without a code, with a wrong one, with one that is for less, with
forged cookies, slow hands and hurt archives; while somebody honest goes on working."""

from __future__ import annotations

import random
import socket
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any, NamedTuple

import requests

from ...api.app import PREFIX
from ...api.door.gate import COOKIE
from ...services.access.codes import LISTENING, Codes
from ...services.work.token import server_token
from .files import RATE, short_take, sound_file
from .victim import Victim

Table = list[dict[str, Any]]
BOUND = "127.0.0.2"
GUESSES, BODIES, SLOW, DEAF, ARCHIVES = 60, 20, 200, 40, 300
_BODY = 400_000_000
_READ = ("get", "head")


class Found(NamedTuple):
    """How often something was tried, how often it was let in, and what else there is to say."""

    tried: int
    let_in: int
    note: str = ""


class Reached(Victim):
    """A server that is bound to an address of its own, and so wants codes."""

    @property
    def url(self) -> str:
        """Where it answers."""
        return f"http://{BOUND}:{self.port}"

    def command(self) -> list[str]:
        """How it is started."""
        return [*super().command(), "--host", BOUND]


class Honest:
    """Somebody with a code, who asks for the songs again and again and notes how long the longest answer took."""

    def __init__(self, victim: Reached, code: str) -> None:
        self._victim, self._over = victim, threading.Event()
        self.session = signed_in(victim, code)
        self.slowest_s, self.asked, self.wrong = 0.0, 0, 0

    @contextmanager
    def working(self) -> Iterator[Honest]:
        """Have it work meanwhile."""
        self._over.clear()
        self.slowest_s, self.asked = 0.0, 0
        thread = threading.Thread(target=self._work)
        thread.start()
        try:
            yield self
        finally:
            self._over.set()
            thread.join()

    def _work(self) -> None:
        while not self._over.wait(0.05):
            begun = time.monotonic()
            try:
                answer = self.session.get(f"{self._victim.url}{PREFIX}/songs", timeout=60)
                self.wrong += answer.status_code != 200
            except OSError:
                self.wrong += 1
            self.asked += 1
            self.slowest_s = max(self.slowest_s, time.monotonic() - begun)


def signed_in(victim: Reached, code: str) -> requests.Session:
    """A browser that came in with a code."""
    session = requests.Session()
    session.headers["Origin"] = victim.url
    answer = session.post(f"{victim.url}{PREFIX}/sign-in", json={"code": code}, timeout=60)
    answer.raise_for_status()
    return session


def attack_with_access(seed: int = 1) -> Table:
    """What strangers read or changed, and how long the longest answer to somebody honest took meanwhile."""
    rng = random.Random(seed)
    with tempfile.TemporaryDirectory() as name:
        victim = Reached(Path(name) / "data")
        victim.start()
        codes = Codes(victim.folder)
        owner = codes.all()[0]
        honest = Honest(victim, owner.text)
        song = honest.session.post(f"{victim.url}{PREFIX}/songs", json={"title": "Secret"}, timeout=60).json()["id"]
        data = sound_file(short_take(1), RATE, "WAV", "PCM_16")
        brought = honest.session.post(f"{victim.url}{PREFIX}/songs/{song}/tracks", files={"file": ("lead.wav", data)},
                                      timeout=60).json()  # fmt: skip
        _wait(honest, victim, brought["task"]["id"])
        scene = _Scene(victim, honest, codes, song, brought["track"]["id"], rng)
        rows = []
        for words, attack in _ATTACKS.items():
            before, wrong = scene.stands(), honest.wrong
            with honest.working():
                found = attack(scene)
            rows.append({"by": words, **found._asdict(), "changed": int(scene.stands() != before),
                         "honest answers": honest.asked, "failed": honest.wrong - wrong,
                         "slowest s": round(honest.slowest_s, 3)})  # fmt: skip
        victim.kill()
    return rows


def _wait(honest: Honest, victim: Reached, task: str) -> None:
    while honest.session.get(f"{victim.url}{PREFIX}/tasks/{task}", timeout=60).json().get("state") in (
        "waiting", "running",
    ):  # fmt: skip
        time.sleep(0.2)


class _Scene:
    def __init__(
        self, victim: Reached, honest: Honest, codes: Codes, song: str, track: str, rng: random.Random
    ) -> None:
        self.victim, self.honest, self.codes, self.rng = victim, honest, codes, rng
        self.song, self.track = song, track
        self.paths = honest.session.get(f"{victim.url}{PREFIX}/openapi.json", timeout=60).json()["paths"]

    def stands(self) -> str:
        """All songs as they stand, as text."""
        return self.honest.session.get(f"{self.victim.url}{PREFIX}/songs", timeout=60).text

    def calls(self) -> Iterator[tuple[str, str]]:
        """Every call of the interface but signing in, about the song that is there."""
        for path, methods in self.paths.items():
            place = path.replace("{song_id}", self.song).replace("{track_id}", self.track)
            place = place.replace("{name}", "0" * 64).replace("{", "").replace("}", "")
            yield from ((method, place) for method in methods if method != "parameters" and "sign-in" not in path)

    def ask(self, method: str, path: str, **settings: Any) -> int:
        """The status of an answer."""
        return requests.request(method.upper(), f"{self.victim.url}{path}", timeout=60, **settings).status_code

    def all_calls(self, reading: bool = True, **settings: Any) -> Found:
        """Every call with some headers: how many were made, and how many were let in."""
        found = [self.ask(method, path, **({} if method in _READ else {"json": {}}), **settings)
                 for method, path in self.calls() if reading or method not in _READ]  # fmt: skip
        return Found(len(found), sum(status not in (401, 403) for status in found))


def _without_a_code(scene: _Scene) -> Found:
    return scene.all_calls()


def _with_forged_cookies(scene: _Scene) -> Found:
    ticket = scene.codes.ticket(scene.codes.all()[0])
    gone = scene.codes.add("gone")
    stale = scene.codes.ticket(gone)
    scene.codes.withdraw("gone")
    drawn = [
        "",
        "in",
        ticket[:-1],
        ticket.swapcase(),
        ticket.replace("in.", "In."),
        stale,
        gone.text,
        "\x7f",
        "=" * 3000,
    ]
    drawn += ["".join(scene.rng.choice(ticket) for _ in ticket) for _ in range(60)]
    found = [scene.ask("get", f"{PREFIX}/songs", headers={"Cookie": f"{COOKIE}={one}"}) for one in drawn]
    return Found(len(found), sum(status < 400 for status in found))


def _with_a_listening_code(scene: _Scene) -> Found:
    cookie = f"{COOKIE}={scene.codes.ticket(scene.codes.add('client', LISTENING))}"
    return scene.all_calls(reading=False, headers={"Cookie": cookie, "Origin": scene.victim.url})


def _with_the_workers_token(scene: _Scene) -> Found:
    headers = {"Authorization": f"Bearer {server_token(scene.victim.folder)}"}
    found = [scene.ask(method, path, headers=headers, **({} if method in _READ else {"json": {}}))
             for method, path in scene.calls() if "/work" not in path]  # fmt: skip
    audio = [scene.ask("get", f"{PREFIX}/work/audio/{path.name}", headers=headers)
             for path in (scene.victim.folder / "audio").iterdir()]  # fmt: skip
    wrong = sum(status not in (401, 403) for status in found) + sum(status != 404 for status in audio)
    return Found(len(found) + len(audio), wrong)


def _by_guessing(scene: _Scene) -> Found:
    found = [scene.ask("post", f"{PREFIX}/sign-in", json={"code": f"guess-{number}"}) for number in range(GUESSES)]
    return Found(len(found), sum(status < 400 for status in found),
                 f"{sum(status == 401 for status in found)} listened to")  # fmt: skip


def _under_other_names(scene: _Scene) -> Found:
    cookie = {"Cookie": f"{COOKIE}={scene.codes.ticket(scene.codes.all()[0])}"}
    hosts = ["evil.example", "127.0.0.1.evil.example", "", "localhost.", "[::1", "a" * 300, "evil.example:80"]
    found = [scene.ask("get", f"{PREFIX}/songs", headers={**cookie, "Host": host}) for host in hosts]
    for origin in ("http://evil.example", "null", f"https://{BOUND}:{scene.victim.port}", f"http://{BOUND}:1", "x"):
        headers = {**cookie, "Origin": origin}
        found.append(scene.ask("patch", f"{PREFIX}/songs/{scene.song}", headers=headers, json={"title": "Mine"}))
        found.append(scene.ask("post", f"{PREFIX}/songs", headers=headers, data={"title": "Mine"}))
    return Found(len(found), sum(status < 400 for status in found))


def _by_large_bodies(scene: _Scene) -> Found:
    head = (f"POST {PREFIX}/archives HTTP/1.1\r\nHost: {BOUND}\r\nOrigin: http://{BOUND}\r\n"
            f"Content-Type: multipart/form-data; boundary=x\r\nContent-Length: {_BODY}\r\n\r\n")  # fmt: skip
    taken = 0
    for _ in range(BODIES):
        with socket.create_connection((BOUND, scene.victim.port), timeout=30) as client, suppress(OSError):
            client.sendall(head.encode())
            for _ in range(64):
                client.sendall(b"x" * (1 << 20))
                taken += 1
    time.sleep(1.0)
    kept = sum(path.stat().st_size for path in (scene.victim.folder / "incoming").iterdir())
    return Found(BODIES, int(kept > 0), f"{taken} MB sent before the door was shut, {kept} bytes kept")


def _by_slow_hands(scene: _Scene) -> Found:
    clients = [socket.create_connection((BOUND, scene.victim.port), timeout=30) for _ in range(2 * SLOW)]
    for client in clients[::2]:
        client.sendall(f"GET {PREFIX}/songs HTTP/1.1\r\nHost: {BOUND}\r\nX-Slow: ".encode())
    time.sleep(20.0)
    for client in clients:
        client.close()
    return Found(len(clients), 0)


def _by_deaf_ears(scene: _Scene) -> Found:
    """Clients with a code of their own that ask for sound and archives and read none of it."""
    ticket = scene.codes.ticket(scene.codes.add("deaf"))
    paths = (f"{PREFIX}/songs/{scene.song}/archive", f"{PREFIX}/tracks/{scene.track}/audio?kind=sung&begin=0&end=90000")
    clients = []
    for number in range(DEAF):
        path = paths[number % 2]
        asked = f"GET {path} HTTP/1.1\r\nHost: {BOUND}\r\nCookie: {COOKIE}={ticket}\r\n\r\n".encode()
        client = socket.socket()
        client.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 4096)
        client.connect((BOUND, scene.victim.port))
        client.sendall(asked * 3)
        clients.append(client)
    time.sleep(20.0)
    for client in clients:
        client.close()
    return Found(len(clients), 0)


def _with_hurt_archives(scene: _Scene) -> Found:
    """Archives with flipped bytes, cut off, or with one of its files another: unpacked by the owner."""
    session, url = scene.honest.session, f"{scene.victim.url}{PREFIX}"
    whole = session.get(f"{url}/songs/{scene.song}/archive", timeout=60).content
    refused = taken = faults = 0
    for _ in range(ARCHIVES):
        answer = session.post(f"{url}/archives", files={"file": ("x.gtsong", hurt(whole, scene.rng))}, timeout=60)
        refused += answer.status_code == 422
        faults += answer.status_code >= 500
        if answer.status_code == 201:  # bits that say when, or by which system, a file was packed
            taken += 1
            session.delete(f"{url}/songs/{answer.json()['id']}", timeout=60)
    return Found(ARCHIVES, faults, f"{refused} refused, {taken} unpacked, {faults} answered 5xx, "
                 f"{scene.victim.left_behind()} left behind")  # fmt: skip


def hurt(data: bytes, rng: random.Random) -> bytes:
    """Some bytes with flipped bits, a stretch taken out or doubled, or their end missing."""
    found = bytearray(data)
    how = rng.choice(("flip", "flip", "cut", "out", "double"))
    at = rng.randrange(len(found))
    if how == "flip":
        for _ in range(rng.randint(1, 8)):
            place = rng.randrange(len(found) - 3000, len(found)) if rng.random() < 0.5 else rng.randrange(len(found))
            found[place] ^= 1 << rng.randrange(8)
    elif how == "cut":
        del found[at:]
    elif how == "out":
        del found[at : at + rng.randint(1, 2000)]
    else:
        found[at:at] = found[at : at + rng.randint(1, 2000)]
    return bytes(found)


_ATTACKS: dict[str, Callable[[_Scene], Found]] = {
    "strangers without a code": _without_a_code,
    "forged and withdrawn cookies": _with_forged_cookies,
    "a code for listening, changing": _with_a_listening_code,
    "the workers' token elsewhere": _with_the_workers_token,
    "guessing": _by_guessing,
    "other hosts and origins": _under_other_names,
    f"bodies of {_BODY // 1_000_000} MB without a code": _by_large_bodies,
    f"{2 * SLOW} idle and half-sent connections": _by_slow_hands,
    f"{DEAF} clients that read nothing": _by_deaf_ears,
    "hurt archives, with a code": _with_hurt_archives,
}
