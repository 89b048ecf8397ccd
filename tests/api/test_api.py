import base64
import io
import json
import unittest
from functools import lru_cache

import numpy as np
import soundfile as sf
from apiflask import APIFlask

from glass_thread.api.app import Settings, serve, with_routes
from glass_thread.api.errors import STATUS
from glass_thread.bench.hostile.edits import hostile_edits
from glass_thread.core.document.operations.registry import OPERATIONS, parse_operation
from glass_thread.core.signal import errors
from glass_thread.services.work.here import run_task
from tests.kept import analyses_kept
from tests.signals import RATE, FolderCase, sung_short, write_short

API = "/api/v1"


_laid = lru_cache(maxsize=1)(with_routes)


class ApiCase(FolderCase):
    """A client over an application whose tasks run when asked."""

    def setUp(self) -> None:
        super().setUp()
        self.work = self.workspace()
        self.client = self.application().test_client()
        self.client.environ_base["HTTP_ORIGIN"] = "http://localhost"  # as the program's own page sends it
        self.song = self.client.post(f"{API}/songs", json={"title": "Test"}).json["id"]

    def application(self) -> APIFlask:
        """One for all tests, as laying its routes costs more than many of them do, over this test's workspace."""
        app = _laid(Settings())
        serve(app, self.work)
        return app

    def bring_in(self, data: bytes | None = None, name: str = "take.wav", **form: object):
        data = write_short(self.folder).read_bytes() if data is None else data
        fields = {"file": (io.BytesIO(data), name), **form}
        return self.client.post(f"{API}/songs/{self.song}/tracks", data=fields)

    def ready_track(self) -> str:
        answer = self.bring_in().json
        self.run_task(answer["task"]["id"])
        return answer["track"]["id"]

    def run_task(self, task_id: str) -> None:
        with analyses_kept():
            run_task(self.work, task_id)

    def content(self, track: str) -> dict:
        return self.client.get(f"{API}/tracks/{track}/content").json

    def edit(self, track: str, **operation: object):
        body = {"base": self.content(track)["step_id"], "operation": operation}
        return self.client.post(f"{API}/tracks/{track}/edits", json=body)


class SongsTest(ApiCase):
    def test_life_of_a_song(self) -> None:
        path = f"{API}/songs/{self.song}"
        changed = self.client.patch(path, json={"title": "Other", "tonic": 2, "scale": "dorian", "tempo": 91.5})
        self.assertEqual(
            (changed.status_code, changed.json["title"], changed.json["classes"]),
            (200, "Other", [0, 2, 4, 5, 7, 9, 11]),
        )
        self.assertTrue(changed.json["key_chosen"])
        self.assertEqual(len(self.client.get(f"{API}/songs").json["songs"]), 1)
        self.assertEqual(self.client.delete(path).status_code, 204)
        self.assertEqual(self.client.get(path).status_code, 404)

    def test_bad_values_get_a_sentence(self) -> None:
        for body in ({"tempo": 0}, {"tonic": 12}, {"scale": "x"}, {"tempo": "fast"}, {"reference_hz": 10}):
            answer = self.client.patch(f"{API}/songs/{self.song}", json=body)
            self.assertEqual(answer.status_code, 422, body)
            self.assertGreater(len(answer.json["message"]), 10)
        self.assertEqual(self.client.post(f"{API}/songs", json={"title": ""}).status_code, 422)
        self.assertEqual(self.client.post(f"{API}/songs", data="{", content_type="application/json").status_code, 400)


class TracksTest(ApiCase):
    def test_import_and_what_was_found(self) -> None:
        answer = self.bring_in()
        self.assertEqual(answer.status_code, 202)
        task = f"{API}/tasks/{answer.json['task']['id']}"
        self.assertEqual(self.client.get(task).json["state"], "waiting")
        run_task(self.work, answer.json["task"]["id"])
        self.assertEqual(self.client.get(task).json["state"], "done")
        track = answer.json["track"]["id"]
        analysis = self.client.get(f"{API}/tracks/{track}/analysis").json
        self.assertEqual(len(analysis["phrases"]), 2)
        frames = analysis["frames"]
        curves = self.client.get(f"{API}/tracks/{track}/curves").data
        self.assertEqual(len(curves), 23 * frames)
        midi = np.frombuffer(curves, "<f4", frames)
        self.assertAlmostEqual(float(np.nanmedian(midi[90:170])), 59.6, delta=0.1)
        part = self.client.get(f"{API}/tracks/{track}/curves?first=90&last=170").data
        np.testing.assert_array_equal(np.frombuffer(part, "<f4", 80), midi[90:170])

    def test_bad_files(self) -> None:
        short = io.BytesIO()
        sf.write(short, np.zeros((9, 5)), RATE, format="WAV")
        cases = [(b"", 422), (b"no sound", 422), (short.getvalue(), 422)]
        for data, status in cases:
            answer = self.bring_in(data)
            self.assertEqual(answer.status_code, status)
            self.assertTrue(answer.json["message"].endswith("."))
        self.bring_in()
        self.assertEqual(self.bring_in().status_code, 409)
        self.assertEqual(self.client.post(f"{API}/songs/{self.song}/tracks", data={}).status_code, 422)
        self.assertEqual(
            self.client.post(f"{API}/songs/none/tracks", data={"file": (io.BytesIO(b"x"), "x")}).status_code, 404
        )

    def test_change_and_remove(self) -> None:
        track = self.ready_track()
        path = f"{API}/tracks/{track}"
        self.assertEqual(self.client.patch(path, json={"name": "Voice", "offset_s": 1.5}).json["name"], "Voice")
        self.assertEqual(self.client.patch(path, json={"level_db": 99}).status_code, 422)
        words = {"0": " slow   tide ", "1": ""}
        self.assertEqual(self.client.patch(path, json={"words": words}).json["words"], {"0": "slow tide"})
        for bad in ({"first": "x"}, {"0": "x" * 301}, {"0": 3}, []):
            answer = self.client.patch(path, json={"words": bad})
            self.assertEqual((bad, answer.status_code), (bad, 422))
        self.assertEqual(self.client.get(f"{API}/songs/{self.song}").json["tracks"][0]["words"], {"0": "slow tide"})
        self.assertEqual(self.client.delete(path).status_code, 204)
        self.assertEqual(self.client.get(f"{path}/content").status_code, 404)


class EditsTest(ApiCase):
    def move(self, track: str, way: str, **body: object):
        return self.client.post(f"{API}/tracks/{track}/{way}", json={"base": self.content(track)["step_id"], **body})

    def test_edit_undo_redo_jump(self) -> None:
        track = self.ready_track()
        before = self.content(track)
        self.assertEqual((before["version"]["can_undo"], before["version"]["name"]), (False, "Tuned"))
        after = self.edit(track, type="tune", note_ids=["n0003"], rounding="semitone").json
        self.assertEqual((after["step"]["number"], after["version"]["can_undo"]), (1, True))
        note = next(n for n in after["notes"] if n["id"] == "n0003")
        self.assertEqual((note["target_midi"], note["edited"]), (62.0, True))
        self.assertTrue(any(s["start_s"] < note["end_s"] and s["end_s"] > note["start_s"] for s in after["changed"]))
        tuned = self.content(track)
        undone = self.move(track, "undo").json
        self.assertEqual((undone["step"], undone["version"]["can_redo"]), (None, True))
        self.assertEqual(self.content(track)["notes"], before["notes"])
        self.move(track, "redo")
        self.assertEqual(self.content(track)["notes"], tuned["notes"])
        self.assertEqual(self.move(track, "jump", to=before["step_id"]).status_code, 200)
        self.assertEqual(self.content(track)["step_id"], before["step_id"])
        self.assertEqual(self.move(track, "jump", to="nowhere").status_code, 404)
        self.assertEqual(self.move(track, "undo").status_code, 422)

    def test_an_answer_holds_only_what_changed(self) -> None:
        track = self.ready_track()
        whole = self.content(track)
        answer = self.edit(track, type="set", note_ids=["n0004"], values={"pull": 0.4}).json
        self.assertEqual([note["id"] for note in answer["notes"]], ["n0004"])
        self.assertEqual((answer["air"], answer["gaps"], answer["gone"]), ([], [], []))
        merged = {note["id"]: note for note in whole["notes"]} | {note["id"]: note for note in answer["notes"]}
        self.assertEqual(list(merged.values()), self.content(track)["notes"])
        (part,) = answer["curves"]
        piece = base64.b64decode(part["data"])
        query = {"step": answer["version"]["head_id"], "first": part["first"], "last": part["first"] + len(piece) // 23}
        self.assertEqual(piece, self.client.get(f"{API}/tracks/{track}/curves", query_string=query).data)
        everything = self.client.get(f"{API}/tracks/{track}/curves").data
        whole, few = (np.frombuffer(data, "<f4", 5 * (len(data) // 23)).reshape(5, -1) for data in (everything, piece))
        np.testing.assert_array_equal(few, whole[:, part["first"] :][:, : few.shape[1]])
        split = self.edit(track, type="split", note_id="n0004", at_s=3.3, exact=True).json
        self.assertEqual([note["id"] for note in split["notes"]], ["n0004", "n0005"])
        self.assertEqual(self.move(track, "undo").json["gone"], ["n0005"])

    def test_answers_fit_their_description(self) -> None:
        track = self.ready_track()
        spec = self.client.get(f"{API}/openapi.json").json["components"]["schemas"]
        self.edit(track, type="draw", points=[[0.5, 60.0], [0.7, 60.4]])
        self.edit(track, type="clear_gaps")
        fits(self.content(track), {"$ref": "ContentOut"}, spec)
        fits(self.edit(track, type="tune", note_ids=["n0004"]).json, {"$ref": "EditOut"}, spec)
        tried = {"operation": {"type": "tune", "note_ids": ["n0002"]}}
        fits(self.client.post(f"{API}/tracks/{track}/preview", json=tried).json, {"$ref": "PreviewOut"}, spec)

    def test_stale_edit(self) -> None:
        track = self.ready_track()
        root = self.content(track)["step_id"]
        self.edit(track, type="tune", note_ids=["n0003"])
        body = {"base": root, "operation": {"type": "put_back", "note_ids": ["n0003"]}}
        late = self.client.post(f"{API}/tracks/{track}/edits", json=body)
        self.assertEqual((late.status_code, late.json["head"]), (409, self.content(track)["step_id"]))
        body = {"base": root, "operation": {"type": "tune", "note_ids": ["n0001"]}}
        on_top = self.client.post(f"{API}/tracks/{track}/edits", json=body)
        changed = {note["id"] for note in on_top.json["notes"] if note["edited"]}
        self.assertEqual((on_top.status_code, changed), (200, {"n0001", "n0003"}))

    def test_hostile_edits_get_a_sentence_and_change_nothing(self) -> None:
        track = self.ready_track()
        head = self.content(track)["step_id"]
        air = self.content(track)["air"][0]["id"]
        version = self.work.tracks.get(track).version_id
        path = f"{API}/tracks/{track}/edits"
        for document in hostile_edits("n0002", air):
            data = json.dumps({"base": head, "operation": document})
            answer = self.client.post(path, data=data, content_type="application/json")
            with self.subTest(document=repr(document)[:120].encode("utf-8", "replace")):
                self.assertIn(answer.status_code, (200, 400, 404, 422))
                if answer.status_code == 200:
                    head = answer.json["version"]["head_id"]
                else:
                    self.assertRegex(answer.json["message"], r"^.{10,}$")
                    self.assertEqual(self.work.history.version(version).head_id, head)
        self.assertEqual(self.work.tracks.get(track).version_id, version)
        self.assertEqual(self.client.get(f"{API}/tracks/{track}/content").status_code, 200)

    def test_bodies_that_are_no_edit(self) -> None:
        track = self.ready_track()
        base = self.content(track)["step_id"]
        deep = "[" * 100_000 + "]" * 100_000
        bodies = (
            "", "{", "null", "[]", "3", '"x"', "{}", '{"base": 3}', deep, f'{{"base": "{base}", "operation": {deep}}}',
            f'{{"base": "{base}"}}', f'{{"base": "{base}", "operation": {{}}, "more": 1}}', '{"base": "\\ud800"}',
            '{"base": "' + "x" * 100 + '", "operation": {}}', f'{{"base": "{base}", "operation": {"9" * 5000}}}',
        )  # fmt: skip
        for way in ("edits", "undo", "jump", "preview"):
            for body in bodies:
                answer = self.client.post(f"{API}/tracks/{track}/{way}", data=body, content_type="application/json")
                with self.subTest(way=way, body=body[:60]):
                    allowed = (200, 400, 422) if way == "undo" else (400, 422)
                    self.assertIn(answer.status_code, allowed)
                    self.assertIn("message", answer.json)
        self.assertEqual(self.content(track)["step_id"], base)

    def test_what_no_reader_could_work_with_is_named(self) -> None:
        track = self.ready_track()
        base = self.content(track)["step_id"]
        for value, words in (
            ("NaN", "“operation.values.pull” must be a finite number."),
            ("1e999", "“operation.values.pull” must be a finite number."),
            ("9" * 60, "“operation.values.pull” is too large a number."),
            ('"\\ud800"', "“operation.values.pull” holds half a character (a lone surrogate)."),
            ("[" * 40 + "]" * 40, "“operation.values.pull” is nested too deeply."),
            ("[]", "Pull must be a number from 0 to 1; got [] (field “values.pull”)."),
        ):
            operation = f'{{"type": "set", "note_ids": ["n0001"], "values": {{"pull": {value}}}}}'
            data = f'{{"base": "{base}", "operation": {operation}}}'
            answer = self.client.post(f"{API}/tracks/{track}/edits", data=data, content_type="application/json")
            with self.subTest(value=value[:20]):
                self.assertEqual((answer.status_code, answer.json["message"]), (422, words))
        self.assertEqual(self.content(track)["step_id"], base)


def fits(value: object, schema: dict, spec: dict, place: str = "") -> None:
    """Check a value against the part of JSON Schema that the description uses."""
    if "$ref" in schema:
        return fits(value, spec[schema["$ref"].rsplit("/", 1)[-1]], spec, place)
    for part in schema.get("allOf", ()):
        fits(value, part, spec, place)
    if "anyOf" in schema:
        if value is None:
            return None
        return fits(value, next(one for one in schema["anyOf"] if one.get("type") != "null"), spec, place)
    kinds = schema.get("type", [])
    kinds = kinds if isinstance(kinds, list) else [kinds]
    if value is None:
        assert not kinds or "null" in kinds, f"{place} is null"
        return None
    python = {"object": dict, "array": list, "string": str, "number": (int, float), "integer": int, "boolean": bool}
    assert not kinds or any(isinstance(value, python[kind]) for kind in kinds if kind != "null"), (place, value, kinds)
    if isinstance(value, dict) and "properties" in schema:
        assert set(schema.get("required", ())) <= set(value), (place, set(schema["required"]) - set(value))
        assert set(value) <= set(schema["properties"]), (place, set(value) - set(schema["properties"]))
        for name, inner in schema["properties"].items():
            if name in value:
                fits(value[name], inner, spec, f"{place}.{name}")
    if isinstance(value, list):
        for one in value:
            fits(one, schema["items"], spec, f"{place}[]")
    return None


class SoundTest(ApiCase):
    def samples(self, track: str, kind: str, begin: int, end: int, more: str = "") -> np.ndarray:
        path = f"{API}/tracks/{track}/audio?kind={kind}&begin={begin}&end={end}{more}"
        return np.frombuffer(self.client.get(path).data, "<f4")

    def test_spans(self) -> None:
        track = self.ready_track()
        source = sung_short()[1].audio
        sung = self.samples(track, "sung", 1000, 9000)
        np.testing.assert_allclose(sung, source[1000:9000], atol=1 / 32768)
        np.testing.assert_array_equal(self.samples(track, "tuned", 1000, 9000), sung)
        self.edit(track, type="move", note_ids=["n0003"], cents=50)
        whole = self.samples(track, "tuned", 0, 4 * RATE)
        difference = self.samples(track, "difference", 0, 4 * RATE)
        self.assertGreater(np.abs(difference).max(), 0.05)
        np.testing.assert_array_equal(self.samples(track, "tuned", 70_000, 90_000), whole[70_000:90_000])

    def test_what_is_loaded_ahead_is_the_same_sound(self) -> None:
        track = self.ready_track()
        self.edit(track, type="move", note_ids=["n0003"], cents=50)
        for kind in ("sung", "tuned", "difference", "air", "notes", "melody"):
            with self.subTest(kind=kind):
                ahead = self.samples(track, kind, 20_011, 150_000, "&ahead=true")
                np.testing.assert_array_equal(ahead, self.samples(track, kind, 20_011, 150_000))
        past = self.samples(track, "tuned", 0, 6 * RATE, "&ahead=true")
        np.testing.assert_array_equal(past, self.samples(track, "tuned", 0, 6 * RATE))

    def test_bad_spans(self) -> None:
        track = self.ready_track()
        for query in ("begin=5&end=5", "begin=-1&end=4", "begin=0&end=99999999", "begin=0", "begin=0&end=9&kind=loud"):
            self.assertEqual(self.client.get(f"{API}/tracks/{track}/audio?{query}").status_code, 422, query)

    def test_print(self) -> None:
        track = self.ready_track()
        summary = self.client.get(f"{API}/tracks/{track}/print-summary").json
        self.assertEqual((summary["untouched_share"], summary["usual_bits"]), (1.0, 16))
        task = self.client.post(f"{API}/tracks/{track}/prints", json={"container": "wav"})
        self.assertEqual(task.status_code, 202)
        path = f"{API}/prints/{task.json['id']}/file"
        self.assertEqual(self.client.get(path).status_code, 404)
        run_task(self.work, task.json["id"])
        answer = self.client.get(path)
        samples, _rate = sf.read(io.BytesIO(answer.data), dtype="int16")
        np.testing.assert_array_equal(samples, sf.read(str(self.folder / "take.wav"), dtype="int16")[0])
        self.assertIn("take tuned.wav", answer.headers["Content-Disposition"])
        answer.close()
        self.assertEqual(self.client.post(f"{API}/tracks/{track}/prints", json={"bits": 12}).status_code, 422)
        next((self.folder / "data" / "prints").iterdir()).unlink()
        gone = self.client.get(path)
        self.assertEqual((gone.status_code, "print again" in gone.json["message"]), (404, True))

    def test_names_that_no_header_can_hold(self) -> None:
        track = self.ready_track()
        for name, shown in (("a\nb\r\nX-Evil: 1", "a b X-Evil: 1"), ("so\tlow", "so low")):
            renamed = self.client.patch(f"{API}/tracks/{track}", json={"name": name})
            self.assertEqual((renamed.status_code, renamed.json["name"]), (200, shown))
        for name in ("a\x00b", "\u202eevil", " \n ", "x" * 121):
            refused = self.client.patch(f"{API}/tracks/{track}", json={"name": name})
            self.assertEqual(refused.status_code, 422, name)
        self.work.log.change(
            self.work.tracks.get(track).song_id, "Name", {f"track.{track}.name": "old\nname/of:it"}
        )  # as earlier releases stored it
        task = self.client.post(f"{API}/tracks/{track}/prints", json={"container": "wav"}).json["id"]
        self.run_task(task)
        answer = self.client.get(f"{API}/prints/{task}/file")
        self.assertIn("oldname-of-it tuned.wav", answer.headers["Content-Disposition"])
        answer.close()


class SecurityTest(ApiCase):
    def test_other_hosts_and_origins_are_refused(self) -> None:
        self.assertEqual(self.client.get(f"{API}/songs", headers={"Host": "evil.example"}).status_code, 403)
        crossed = self.client.post(f"{API}/songs", json={"title": "x"}, headers={"Origin": "http://evil.example"})
        self.assertEqual(crossed.status_code, 403)
        for origin in ("http://[", "null", "https://localhost", "http://localhost:81", "http://localhost/", "\x00"):
            with self.subTest(origin):
                answer = self.client.post(f"{API}/songs", json={"title": "x"}, headers={"Origin": origin})
                self.assertEqual((answer.status_code, "own page" in answer.json["message"]), (403, True))
        for site, code in (("cross-site", 403), ("same-site", 403), ("same-origin", 201), ("none", 201)):
            answer = self.client.post(f"{API}/songs", json={"title": "x"}, headers={"Sec-Fetch-Site": site})
            self.assertEqual(answer.status_code, code, site)
        own = self.client.post(f"{API}/songs", json={"title": "x"}, headers={"Origin": "http://localhost"})
        self.assertEqual(own.status_code, 201)
        self.assertEqual(self.client.get(f"{API}/songs", headers={"Host": "["}).status_code, 403)

    def test_a_form_without_origin_is_refused(self) -> None:
        form = self.application().test_client()
        for answer in (form.post(f"{API}/songs", data={"title": "x"}), form.delete(f"{API}/songs/{self.song}"),
                       form.post(f"{API}/songs", data='{"title":"x"}', content_type="text/plain")):  # fmt: skip
            self.assertEqual(answer.status_code, 415)
            self.assertIn("application/json", answer.json["message"])
        self.assertEqual(form.post(f"{API}/songs", json={"title": "x"}).status_code, 201)

    def test_json_of_more_than_4_mb_is_refused(self) -> None:
        answer = self.client.post(f"{API}/songs", json={"title": "x" * (4 << 20)})
        self.assertEqual(answer.status_code, 413)
        self.assertRegex(answer.json["message"], "4 MB")

    def test_headers(self) -> None:
        headers = self.client.get(f"{API}/songs").headers
        self.assertIn("default-src 'none'", headers["Content-Security-Policy"])
        self.assertEqual(headers["X-Content-Type-Options"], "nosniff")
        self.assertEqual(headers["Cache-Control"], "no-store")

    def test_paths_do_not_reach_the_file_system(self) -> None:
        for path in ("/assets/../index.html", "/assets/%2e%2e/%2e%2e/pyproject.toml", f"{API}/prints/..%2f..%2fx/file"):
            self.assertIn(self.client.get(path).status_code, (404, 405), path)


class DescriptionTest(ApiCase):
    def test_openapi_names_every_route(self) -> None:
        spec = self.client.get(f"{API}/openapi.json").json
        self.assertTrue(spec["openapi"].startswith("3."))
        for path in ("/songs", "/tracks/{track_id}/edits", "/tracks/{track_id}/audio", "/tasks/{task_id}"):
            self.assertIn(API + path, spec["paths"])

    def test_every_expected_failure_has_a_status(self) -> None:
        for name in (
            "NotFoundError",
            "ConflictError",
            "StaleEditError",
            "AudioError",
            "ParameterError",
            "TooLargeError",
        ):
            self.assertIn(getattr(errors, name), STATUS)

    def test_every_operation_is_described_with_an_example_that_is_taken(self) -> None:
        schemas = self.client.get(f"{API}/openapi.json").json["components"]["schemas"]
        union = schemas["Operation"]
        self.assertEqual(set(union["discriminator"]["mapping"]), set(OPERATIONS))
        self.assertEqual(len(union["oneOf"]), len(OPERATIONS))
        for place in union["discriminator"]["mapping"].values():
            schema = schemas[place.rsplit("/", 1)[1]]
            with self.subTest(schema["title"]):
                self.assertGreater(len(schema["description"]), 15)
                self.assertTrue(all("description" in one for one in list(schema["properties"].values())[1:]))
                parse_operation(schema["example"])
        edit = schemas["EditIn"]["properties"]["operation"]
        self.assertEqual(edit, {"$ref": "#/components/schemas/Operation"})

    def test_errors_are_json(self) -> None:
        answer = self.client.get("/nowhere")
        self.assertEqual((answer.status_code, list(json.loads(answer.data))), (404, ["message"]))


if __name__ == "__main__":
    unittest.main()
