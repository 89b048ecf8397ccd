"""Requests drawn from the API's own description, at a song in whatever state the ones before left it."""

from __future__ import annotations

import json
import random
import tempfile
import traceback
from collections import Counter
from collections.abc import Callable, Mapping
from contextlib import suppress
from pathlib import Path
from typing import Any
from urllib.parse import quote

from flask import got_request_exception

from ...api.app import create_app
from ...core.document.content import Content
from ...core.signal.errors import GlassThreadError
from ...services.folder.workspace import Workspace, open_workspace
from ...services.session.agreement import disagreements
from ...services.session.desk import Desk
from ...services.song.removed import restore_song, restore_track
from ...services.upkeep.checking import check_folder
from ...store.records import Track, Version
from .draws import Around, draw_operation, from_schema
from .edits import WRONG
from .histories import holdings

Table = list[dict[str, Any]]
REQUESTS, _OF_A_SONG, _LOOK_EVERY = 10_000, 1000, 100
# Left to other attacks, as these know what to send: files, workers, codes, archives; news are a stream without an end.
_LEFT = ("/work", "/sign-in", "/archives", "/news", "/archive")
_NO_IDS = ("", "nothing", "..", "../../etc/passwd", "x" * 300, "%00", "0", "n0001", "ä/ö", "'; --")
_RARELY = {"delete": 0.06, "get": 0.6}  # how often of such a route that is drawn
_WRONG_ID, _WRONG_BODY, _OFTEN, _THIS = 0.08, 0.35, 0.45, 0.85


def attack_with_requests(begin: Callable[[Path], None], count: int = REQUESTS, seed: int = 1) -> Table:
    """Ask for that many drawn things, in data folders that `begin` makes; a new one whenever all was swept away."""
    asked, songs, statuses, faults = 0, 0, Counter[int](), Counter[str]()
    while asked < count:
        songs += 1
        with tempfile.TemporaryDirectory() as name:
            begin(Path(name) / "data")
            workspace = open_workspace(Path(name) / "data")
            drawn = DrawnRequests(workspace, random.Random(f"{seed} {songs}"))
            for number in range(min(_OF_A_SONG, count - asked)):
                drawn.step()
                asked += 1
                if drawn.over:
                    break
                if number % _LOOK_EVERY == _LOOK_EVERY - 1:
                    drawn.look_through()
            faults.update(one.about + ": " + one.trouble for one in check_folder(workspace))
            workspace.close()
        statuses += drawn.statuses
        faults += drawn.faults
    return [{"requests": count, "songs": songs, **{str(status): n for status, n in sorted(statuses.items())},
             "faults": faults.total(), **{name: n for name, n in faults.most_common(5)}}]  # fmt: skip


class DrawnRequests:
    """Asks an application over a workspace for what a random source draws; keeps count of what must not be."""

    def __init__(self, workspace: Workspace, rng: random.Random) -> None:
        self.workspace, self.rng = workspace, rng
        self.app = create_app(workspace)
        self.client, self._desk = self.app.test_client(), self.app.extensions["desk"]
        self.spec = dict(self.app.spec)
        self.statuses, self.faults = Counter[int](), Counter[str]()
        self._routes = [(method, path, route) for path, methods in self.spec["paths"].items()
                        for method, route in methods.items()
                        if method in ("get", "post", "put", "patch", "delete") and not path.endswith(_LEFT)
                        and "/work/" not in path and not _takes_a_file(route)]  # fmt: skip
        self._raised, self.over = "", False
        self._here: tuple[Track, Version]
        got_request_exception.connect(self._note, self.app)

    def _note(self, _app: Any, exception: BaseException, **_more: Any) -> None:
        last = traceback.extract_tb(exception.__traceback__)[-1]
        self._raised = f"{exception!r} at {last.name}, line {last.lineno}"[:160]

    def step(self) -> None:
        """Ask for one thing; a refusal must say why and leave everything as it was."""
        track = self.rng.choice(self._tracks())
        self._here = track, self.rng.choice(self.workspace.history.versions(track.id))
        method, path, route = self._draw_route()
        body = self._body(route, path) if "requestBody" in route else None
        before = None if method == "get" else holdings(self.workspace)
        address = self._filled(path) + self._query(route)
        told = {"data": json.dumps(body), "content_type": "application/json"} if "requestBody" in route else {}
        answer = self.client.open(address, method=method.upper(), headers={"Origin": "http://localhost"}, **told)
        self.statuses[answer.status_code] += 1
        about = f"{method.upper()} {path}"
        if answer.status_code >= 500:
            self.faults[f"5xx: {about}: {self._raised}"] += 1
        elif answer.status_code >= 400:
            said = answer.get_json(silent=True) or {}
            if not str(said.get("message", "")).endswith((".", "?")):
                self.faults[f"without a sentence: {about}"] += 1
            if before is not None and holdings(self.workspace) != before:
                self.faults[f"refused, and changed something: {about}"] += 1
        answer.close()
        self._revive()

    def look_through(self) -> None:
        """Compare what the application has worked out bit by bit with a fresh start."""
        fresh = Desk(self.workspace)
        for track in self._tracks():
            for what in disagreements(self._desk, fresh, self._desk.at(track.id), sound=False):
                self.faults[f"not as a fresh start: {what}"] += 1

    def _draw_route(self) -> tuple[str, str, Any]:
        while True:
            method, path, route = self.rng.choice(self._routes)
            if self.rng.random() < _RARELY.get(method, 1.0):
                return method, path, route

    def _tracks(self) -> list[Track]:
        return [track for song in self.workspace.songs.all() for track in self.workspace.tracks.of_song(song.id)
                if track.ready and track.analysis_id]  # fmt: skip

    def _track(self) -> Track:
        """The track that this request is about, mostly."""
        return self._here[0] if self.rng.random() < _THIS else self.rng.choice(self._tracks())

    def _version(self) -> Version:
        there = self.rng.random() < _THIS
        return self._here[1] if there else self.rng.choice(self.workspace.history.versions(self._track().id))

    def _content(self) -> Content:
        return self._desk.at(self._here[0].id, self._here[1].head_id).content

    def _step(self) -> str:
        return self.rng.choice(self.workspace.history.path(self._version().head_id, most=30)).id

    def _id(self, name: str) -> Any:
        """An id of the kind that a name asks for, mostly of something that is there; None for a name of no id."""
        if self.rng.random() < _WRONG_ID:
            return self.rng.choice(_NO_IDS)
        word = name.removesuffix("_ids").removesuffix("_id")
        if word == "song":
            return self.rng.choice(self.workspace.songs.all()).id
        if word in ("track", "lead_track", "from_track", "lead"):
            return self._track().id
        if word in ("version", "comp", "heard_version"):
            return self._version().id
        if word in ("step", "base", "to", "first", "second", "against"):
            return self._step()
        if word in ("task", "print"):
            there = self.workspace.tasks.of_song(self.rng.choice(self.workspace.songs.all()).id)
            return self.rng.choice(there).id if there else "nothing"
        notes = list(self._content().notes)
        return self.rng.choice(notes) if word == "note" and notes else None

    def _filled(self, path: str) -> str:
        for name in [part[1:-1] for part in path.split("/") if part.startswith("{")]:
            value = self.rng.randint(0, 3) if name == "phrase" else self._id(name)
            path = path.replace(f"{{{name}}}", quote(str(value if value not in (None, "") else "x"), safe=""), 1)
        return path

    def _query(self, route: Mapping[str, Any]) -> str:
        asked = [one for one in route.get("parameters", ()) if one["in"] == "query"
                 and (one.get("required") or self.rng.random() < _OFTEN)]  # fmt: skip
        return "?" + "&".join(f"{one['name']}={quote(str(self._value(one['name'], one['schema'])))}" for one in asked)

    def _body(self, route: Mapping[str, Any], path: str) -> Any:
        schema = self._resolved(next(iter(route["requestBody"]["content"].values()))["schema"])
        body = self._object(schema, path)
        if self.rng.random() < _WRONG_BODY:
            body = self._hurt(body)
        return body

    def _object(self, schema: Mapping[str, Any], path: str = "") -> dict[str, Any]:
        known, needed = schema.get("properties", {}), schema.get("required", ())
        body = {name: self._value(name, one, path) for name, one in known.items()
                if name in needed or self.rng.random() < _OFTEN}  # fmt: skip
        if "base" in known and "version_id" in known and self.rng.random() < _THIS:  # from where the version stands
            body |= {"version_id": self._here[1].id, "base": self._here[1].head_id}
        return body

    def _value(self, name: str, schema: Mapping[str, Any], path: str = "") -> Any:
        schema = self._resolved(schema)
        if name == "operation":
            rule = {"type": self.rng.choice(("double", "harmony")), "steps": 2}
            content, around = self._content(), self._around()
            operation = rule if "derived" in path else draw_operation(self.rng, content, around)
            return self._hurt(operation) if self.rng.random() < _WRONG_BODY else operation
        if name.endswith("_ids"):
            return [self._id(name) or "n0001" for _ in range(self.rng.randint(0, 3))]
        kind = schema.get("type")
        if kind in ("string", ["string", "null"], None) and "enum" not in schema:
            found = self._id(name)
            return found if found is not None else self.rng.choice(("a", "C4", "Am | F", "1.1", "ein Wort", ""))
        if kind == "object" and schema.get("properties"):
            return self._object(schema)
        if kind == "array":
            return [self._value(name.removesuffix("s"), schema.get("items", {})) for _ in range(self.rng.randint(0, 3))]
        return from_schema(self.rng, schema)

    def _around(self) -> Around:
        tracks = {track.id: list(self._desk.at(track.id).content.notes) for track in self._tracks()}
        versions = [version.id for version in self.workspace.history.versions(self._track().id)]
        return Around(4.0, tracks, versions)

    def _hurt(self, body: dict[str, Any]) -> Any:
        """A body with one thing wrong about it."""
        way = self.rng.random()
        if not body or way < 0.1:
            return self.rng.choice(WRONG)
        name = self.rng.choice(list(body))
        if way < 0.75:
            return {**body, name: self.rng.choice(WRONG)}
        return {**body, "surprise": 1} if way < 0.85 else {key: one for key, one in body.items() if key != name}

    def _resolved(self, schema: Mapping[str, Any]) -> Mapping[str, Any]:
        while "$ref" in schema:
            schema = self.spec["components"]["schemas"][schema["$ref"].rsplit("/", 1)[1]]
        return self._resolved(schema["allOf"][0]) if "allOf" in schema else schema

    def _revive(self) -> None:
        """Bring back what was removed when nothing is left to ask about; `over` when that was swept away."""
        if self._tracks():
            return
        for song in self.workspace.songs.removed():
            restore_song(self.workspace, song.id)
        for track in self.workspace.tracks.removed():
            with suppress(GlassThreadError):
                restore_track(self.workspace, track.id)
        self.over = not self._tracks()


def _takes_a_file(route: Mapping[str, Any]) -> bool:
    content = route.get("requestBody", {}).get("content", {})
    return bool(content) and "application/json" not in content
