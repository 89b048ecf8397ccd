"""Keys and tunings over HTTP: what the screen is told to draw, Scala files, and what is refused."""

from __future__ import annotations

import io

from tests.api.test_api import API, ApiCase
from tests.core.test_temperaments import AARON, NINETEEN, WHITE_KEYS


class KeysApiTest(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        self.path = f"{API}/songs/{self.song}"

    def patch(self, **values: object):
        return self.client.patch(self.path, json=values)

    def send(self, kind: str, data: bytes):
        return self.client.post(f"{API}/{kind}", data={"file": (io.BytesIO(data), "a.scl")})

    def test_lines_names_and_steps_are_told(self) -> None:
        pitches = self.client.get(self.path).json["pitches"]
        self.assertEqual([(key["title"], key["tuning"]) for key in pitches["keys"]], [("no key", 0)])
        lines = pitches["tunings"][0]["lines"]
        self.assertEqual([line["midi"] for line in lines], list(range(128)))
        self.assertTrue(all(line["allowed"] and line["degree"] == 0 for line in lines))
        change = {"bar": 5, "tonic": 5, "scale": "major"}
        told = self.patch(
            tonic=2, scale="dorian", key_changes=[change, {**change, "bar": 9, "tonic": 2, "scale": "dorian"}]
        )
        self.assertEqual(told.status_code, 200)
        pitches = told.json["pitches"]
        self.assertEqual([(key["title"], key["bar"], key["tuning"]) for key in pitches["keys"]],
                         [("D dorian", 0, 0), ("F major", 5, 1), ("D dorian", 9, 0)])  # fmt: skip
        self.assertEqual(len(pitches["tunings"]), 2)
        self.assertEqual([line["degree"] for line in pitches["tunings"][1]["lines"][65:70]], [1, 0, 2, 0, 3])
        self.assertEqual(told.json["key_changes"][0]["classes"], [0, 2, 4, 5, 7, 9, 10])
        self.assertIsNone(self.client.get(f"{API}/songs").json["songs"][0]["pitches"])  # lists stay small

    def test_a_scala_file_is_read_taken_and_named(self) -> None:
        read = self.send("scala-scale", NINETEEN.encode()).json
        self.assertEqual((read["words"], read["twelve"]), ("19 equal steps: 19 steps to 1200.0 cents", False))
        self.assertTrue(self.send("scala-scale", AARON.encode()).json["twelve"])
        mapping = self.send("scala-mapping", WHITE_KEYS.encode()).json
        self.assertEqual(mapping["words"], "12 keys to its octave, A4 at 440 Hz")
        told = self.patch(temperament={"name": "scala", "scl": read["text"], "kbm": mapping["text"]}).json
        self.assertEqual(told["temperament"], {"name": "scala", "title": "19 equal steps", "mapped": True})
        self.assertEqual(told["pitches"]["tunings"][0]["steps"], 7)
        self.assertEqual(self.client.get(self.path).json["key_title"], "7 steps on C")

    def test_malformed_files_get_a_sentence_with_the_line(self) -> None:
        for kind, data, words in (
            ("scala-scale", b"x\n2\n3/2\nfoo\n", "Line 4, “foo”"), ("scala-scale", b"\x00\x01", "not a text"),
            ("scala-scale", b"", "ends before"), ("scala-mapping", b"x", "Line 1, “x”"),
            ("scala-scale", b"x" * (300 << 10), "larger than"),
        ):  # fmt: skip
            answer = self.send(kind, data)
            with self.subTest(words):
                self.assertEqual(answer.status_code, 422)
                self.assertIn(words, answer.json["message"])
        self.assertEqual(self.client.post(f"{API}/scala-scale", data={}).status_code, 422)

    def test_what_is_refused_changes_nothing(self) -> None:
        before = self.client.get(self.path).json
        deep = {"name": "scala", "scl": "x\n1\n" + "9" * 400 + ".0\n"}
        for values in (
            {"temperament": {"name": "well"}}, {"temperament": {"name": "scala"}},
            {"temperament": {"name": "just", "x": 1}},
            {"temperament": deep}, {"temperament": None}, {"reference_key": 200}, {"reference_key": 60},
            {"reference_hz": 1e300}, {"reference_key": 1.5},
            {"key_changes": [{"bar": 2}]}, {"key_changes": [{"bar": 10**400, "tonic": 0, "scale": "major"}]},
            {"key_changes": [{"bar": 2, "beat": "x", "tonic": 0, "scale": "major"}]}, {"key_changes": "all"},
            {"scale": "custom", "classes": []}, {"scale": "custom", "classes": [99]},
            {"scale": "custom", "classes": [-1]},
            {"temperament": {"name": "scala", "scl": "x\n1\n1.0\n"}},  # 1,200 steps to the octave
        ):  # fmt: skip
            with self.subTest(values=str(values)[:80]):
                for answer in (self.patch(**values), self.client.post(f"{self.path}/key-preview", json=values)):
                    self.assertIn(answer.status_code, (400, 422), answer.text[:200])
                    self.assertTrue(answer.json["message"])
        for body in ('{"reference_hz": 1e400}', '{"temperament": {"name": "scala", "scl": "\\ud800"}}'):
            answer = self.client.patch(self.path, data=body, content_type="application/json")
            self.assertIn(answer.status_code, (400, 422), answer.text[:200])
        self.assertEqual(self.client.get(self.path).json, before)

    def test_what_would_round_elsewhere_is_told_with_the_pitches_there_would_be(self) -> None:
        self.ready_track()
        told = self.client.post(f"{self.path}/key-preview", json={"tonic": 4, "scale": "major"}).json
        self.assertEqual(told["tuned"], 0)
        self.assertEqual(told["untuned_moved"], len(told["elsewhere"]))
        self.assertTrue(all(one["now"] != one["then"] and not one["tuned"] for one in told["elsewhere"]))
        self.assertEqual(told["pitches"]["keys"][0]["title"], "E major")
        self.assertEqual(self.client.get(self.path).json["key_title"], "no key")
        self.assertEqual(self.client.post(f"{API}/songs/none/key-preview", json={}).status_code, 404)

    def test_scales_and_tunings_by_name(self) -> None:
        told = self.client.get(f"{API}/scales").json
        scales = {scale["name"]: scale for scale in told["scales"]}
        self.assertEqual(scales["natural minor"]["tonics"][3], "E♭")
        self.assertEqual(scales["major"]["steps"], [0, 2, 4, 5, 7, 9, 11])
        self.assertEqual([one["name"] for one in told["temperaments"]],
                         ["equal", "just", "pythagorean", "meantone", "scala"])  # fmt: skip
        self.assertIn({"key": 69, "name": "A4"}, told["references"])
