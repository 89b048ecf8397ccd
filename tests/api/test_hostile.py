"""Every path of the description with values nobody should send: a sentence, never a server error."""

import json
from collections.abc import Iterator
from typing import Any

from glass_thread.bench.hostile.edits import WRONG
from tests.api.test_api import API, ApiCase

QUERIES = ("", "x", "-1", "1e999", "nan", "9" * 400, "\x00", "%ff", "é" * 50, "../..", "0", "1")


class HostileTest(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        self.track = self.ready_track()
        self.asked = 0
        self.spec = self.client.get(f"{API}/openapi.json").json
        self.places = {"song_id": self.song, "track_id": self.track, "name": "x", "phrase": "0", "task_id": "x",
                       "version_id": str(self.work.tracks.get(self.track).version_id)}  # fmt: skip

    def calls(self) -> Iterator[tuple[str, str, dict]]:
        for path, methods in self.spec["paths"].items():
            for method, described in methods.items():
                if method in ("get", "post", "patch", "delete", "put"):
                    yield path, method, described

    def answered(self, path: str, method: str, **more: Any) -> None:
        for name, value in self.places.items():
            path = path.replace("{" + name + "}", value)
        self.asked += 1
        answer = self.client.open(path, method=method.upper(), **more)
        self.assertLess(answer.status_code, 500, (path, method, str(more)[:200].encode("utf-8", "replace")))
        if answer.status_code >= 400:
            self.assertRegex(answer.json["message"], r"^.{8,}", (path, method))
        answer.close()

    def test_ids_that_are_none(self) -> None:
        for path, method, _described in self.calls():
            if method == "get":
                for wrong in ("0", "x" * 300, "%00", "%F0%9F%8E%B5", "%ff"):
                    place = path
                    for name in self.places:
                        place = place.replace("{" + name + "}", wrong)
                    with self.subTest(path=path, id=wrong):
                        self.answered(place, method)

    def test_queries(self) -> None:
        for path, method, described in self.calls():
            asked = [one["name"] for one in described.get("parameters", ()) if one.get("in") == "query"]
            for name in asked:
                usual = {"begin": "0", "end": "100", "note_id": "n0001", "at_s": "1", "first": "0", "second": "0"}
                for wrong in QUERIES:
                    query = {**{key: usual[key] for key in asked if key in usual}, name: wrong}
                    with self.subTest(path=path, query=name, value=wrong[:20]):
                        self.answered(path, method, query_string=query)
        self.assertGreater(self.asked, 200)

    def test_bodies(self) -> None:
        schemas = self.spec["components"]["schemas"]
        for path, method, described in self.calls():
            body = described.get("requestBody", {}).get("content", {}).get("application/json")
            if body is None or path.endswith("/edits"):
                continue
            names = list(schemas[body["schema"]["$ref"].rsplit("/", 1)[1]]["properties"])
            for name in names:
                for wrong in WRONG:
                    with self.subTest(path=path, field=name):
                        data = json.dumps({name: wrong})
                        self.answered(path, method, data=data, content_type="application/json")
        self.assertGreater(self.asked, 1000)
