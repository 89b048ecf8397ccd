"""Previews, split proposals, repeated phrases, marks and saved passes over HTTP."""

import struct

from tests.api.test_api import ApiCase


class GestureApiTest(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        self.track = self.ready_track()

    def samples(self, kind: str, **more: int) -> list[float]:
        query = {"kind": kind, "begin": 22_050, "end": 30_000, **more}
        data = self.client.get(f"/api/v1/tracks/{self.track}/audio", query_string=query).data
        return list(struct.unpack(f"<{len(data) // 4}f", data))

    def test_a_preview_is_heard_and_changes_nothing(self) -> None:
        operation = {"type": "tune", "note_ids": ["n0001"]}
        answer = self.client.post(f"/api/v1/tracks/{self.track}/preview", json={"operation": operation})
        self.assertEqual(answer.status_code, 200)
        self.assertEqual((answer.json["changed_notes"], answer.json["lost"]), (1, []))
        self.assertNotEqual(self.samples("preview"), self.samples("sung"))
        self.assertEqual(self.samples("tuned"), self.samples("sung"))
        document = self.client.get(f"/api/v1/tracks/{self.track}/document").json
        self.assertEqual((document["revision"], document["can_undo"]), (0, False))

    def test_a_preview_that_was_never_made_is_not_found(self) -> None:
        answer = self.client.get(f"/api/v1/tracks/{self.track}/tuned-curve?preview=true")
        self.assertEqual(answer.status_code, 404)
        self.assertIn("no preview", answer.json["message"])

    def test_a_cut_again_lists_what_would_be_lost(self) -> None:
        self.edit(self.track, 0, type="tune", note_ids=["n0001"])
        self.edit(self.track, 1, type="split", note_id="n0004", at_s=3.3, exact=True)
        self.edit(self.track, 2, type="set", note_ids=["n0005"], values={"drift": 0.5})
        recut = {"operation": {"type": "recut", "sensitivity": 0.0}}
        answer = self.client.post(f"/api/v1/tracks/{self.track}/preview", json=recut).json
        self.assertEqual(len(answer["lost"]), 1)
        self.assertIn("drift", answer["lost"][0])

    def test_split_proposal(self) -> None:
        query = {"note_id": "n0004", "at_s": 3.3}
        answer = self.client.get(f"/api/v1/tracks/{self.track}/split-proposal", query_string=query)
        self.assertEqual(answer.status_code, 200)
        self.assertAlmostEqual(answer.json["left_midi"], 65.2, delta=0.3)
        query["note_id"] = "n9999"
        missing = self.client.get(f"/api/v1/tracks/{self.track}/split-proposal", query_string=query)
        self.assertEqual(missing.status_code, 404)

    def test_the_sound_as_it_was_after_a_step(self) -> None:
        self.edit(self.track, 0, type="tune", note_ids=["n0001"])
        self.assertEqual(self.samples("marked", step=0), self.samples("sung"))
        self.assertEqual(self.samples("marked", step=1), self.samples("tuned"))

    def test_no_phrase_repeats_the_first(self) -> None:
        answer = self.client.get(f"/api/v1/tracks/{self.track}/phrases/0/alike")
        self.assertEqual(answer.json, {"phrases": []})

    def test_passes(self) -> None:
        wanted = {"name": "Mine", "pull": 0.5, "drift": 1.0, "vibrato": 1.0, "rounding": "scale",
                  "beyond_cents": 5.0, "keep_edited": True}  # fmt: skip
        self.assertEqual(self.client.post("/api/v1/tune-passes", json=wanted).status_code, 201)
        passes = self.client.get("/api/v1/tune-passes").json["passes"]
        self.assertEqual([p["name"] for p in passes if not p["shipped"]], ["Mine"])
        self.assertTrue(all(p["hint"] for p in passes if p["shipped"]))
        self.assertEqual(self.client.delete("/api/v1/tune-passes/Mine").status_code, 204)
        self.assertEqual(self.client.post("/api/v1/tune-passes", json={**wanted, "pull": 7}).status_code, 422)
        self.assertEqual(self.client.delete("/api/v1/tune-passes/Clear lead").status_code, 422)
