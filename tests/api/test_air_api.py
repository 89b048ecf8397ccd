"""Air, gaps, strain and loudness over HTTP."""

import struct

import numpy as np

from tests.api.test_api import API, ApiCase
from tests.signals import RATE


class AirApiTest(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        self.track = self.ready_track()
        self.shown = self.get("content").json

    def get(self, what: str, **query: object):
        return self.client.get(f"{API}/tracks/{self.track}/{what}", query_string=query)

    def do(self, **operation: object):
        answer = self.edit(self.track, **operation)
        self.shown = self.get("content").json
        return answer

    def event(self, kind: str) -> dict:
        return next(event for event in self.shown["air"] if event["kind"] == kind)

    def samples(self, kind: str, begin: int, end: int) -> np.ndarray:
        data = self.get("audio", kind=kind, begin=begin, end=end).data
        return np.array(struct.unpack(f"<{len(data) // 4}f", data))

    def test_a_document_tells_air_gaps_and_strain(self) -> None:
        sibilant = self.event("sibilant")
        self.assertEqual((sibilant["change_db"], sibilant["muted"], sibilant["harsh_db"]), (0.0, False, None))
        self.assertIn(sibilant["owner"], [note["id"] for note in self.shown["notes"]])
        self.assertEqual(self.shown["gaps"], [])
        note = self.shown["notes"][0]
        self.assertEqual((note["strain"], note["kept"], note["advice"]), (0.0, 100.0, ""))
        self.do(type="set", note_ids=[note["id"]], values={"pull": 1.0, "target": "C#5"})
        note = self.shown["notes"][0]
        self.assertGreater(note["strain"], 50)
        self.assertIn("sung again", note["advice"])

    def test_air_is_edited_undone_and_refused(self) -> None:
        event = self.event("sibilant")
        self.do(type="nudge_air", air_ids=[event["id"]], by_db=-3)
        self.assertEqual(self.event("sibilant")["change_db"], -3.0)
        self.do(type="clear_gaps")
        self.assertGreater(len(self.shown["gaps"]), 0)
        self.assertEqual(self.shown["version"]["head_label"].split()[0], "Clear")
        for operation in (
            {"type": "set_air", "air_ids": [event["id"]], "values": {"level_db": 99}},
            {"type": "set_air", "air_ids": [event["id"]], "values": {"kind": "click"}},
            {"type": "move_air_edge", "air_id": event["id"], "side": "top", "at_s": 1.0},
        ):
            answer = self.do(**operation)
            with self.subTest(operation):
                self.assertEqual(answer.status_code, 422)
                self.assertGreater(len(answer.json["message"]), 10)
        self.assertEqual(self.do(type="remove_air", air_ids=["a9999"]).status_code, 404)
        gaps = [gap["id"] for gap in self.shown["gaps"]]
        undone = self.client.post(f"{API}/tracks/{self.track}/undo", json={"base": self.shown["step_id"]}).json
        self.assertEqual(undone["gone"], gaps)

    def test_a_preview_says_which_air_would_change(self) -> None:
        operation = {"type": "set_breaths", "values": {"muted": True}}
        answer = self.client.post(f"{API}/tracks/{self.track}/preview", json={"operation": operation}).json
        self.assertEqual((answer["changed_notes"], answer["changed_air"]), (0, 1))
        self.assertEqual([event["kind"] for event in answer["air"] if event["muted"]], ["breath"])
        self.assertFalse(any(event["muted"] for event in self.get("content").json["air"]))

    def test_air_alone_and_notes_alone(self) -> None:
        event = self.event("sibilant")
        begin, end = (round(event[side] * RATE) for side in ("start_s", "end_s"))
        whole = self.samples("tuned", begin + 500, end - 500)
        np.testing.assert_array_equal(self.samples("air", begin + 500, end - 500), whole)
        self.assertFalse(self.samples("notes", begin + 500, end - 500).any())
        self.assertEqual(self.get("audio", kind="words", begin=0, end=10).status_code, 422)

    def test_loudness(self) -> None:
        whole = self.get("loudness").json
        self.assertEqual(whole["sung"], whole["tuned"])
        self.assertTrue(-40 < whole["sung"]["integrated_lufs"] < -5)
        short = self.get("loudness", begin_s=0, end_s=0.1).json
        self.assertIsNone(short["sung"]["integrated_lufs"])
        self.assertEqual(self.get("loudness", begin_s=-1).status_code, 422)

    def test_energy_over_frequency(self) -> None:
        frames = self.get("analysis").json["frames"]
        picture = np.frombuffer(self.get("spectrum").data, dtype=np.uint8).reshape(frames, 24)
        event, note = self.event("sibilant"), self.shown["notes"][0]
        hiss, vowel = (
            picture[round((e["start_s"] + e["end_s"]) / 2 / 0.005)].astype(int).argmax() for e in (event, note)
        )
        self.assertGreater(hiss, 16)
        self.assertLess(vowel, 10)

    def test_the_sung_curve_follows_how_a_note_is_read(self) -> None:
        note = self.shown["notes"][0]
        frame = round((note["start_s"] + note["end_s"]) / 2 / 0.005)

        def sung() -> float:
            data = self.get("curves").data
            return float(np.frombuffer(data, "<f4", 5 * (len(data) // 23)).reshape(5, -1)[2, frame])

        before = sung()
        self.do(type="move_octave", note_ids=[note["id"]], octaves=1)
        self.assertAlmostEqual(sung(), before + 12.0, places=4)
        self.do(type="make_air", note_ids=[note["id"]])
        self.assertTrue(np.isnan(sung()))
