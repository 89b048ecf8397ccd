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
        self.assertNotEqual(self.samples("tuned", preview=answer.json["preview_id"]), self.samples("sung"))
        self.assertEqual(self.samples("tuned"), self.samples("sung"))
        self.assertFalse(self.content(self.track)["version"]["can_undo"])

    def test_a_preview_that_was_never_made_is_not_found(self) -> None:
        answer = self.client.get(f"/api/v1/tracks/{self.track}/curves?preview=nothing")
        self.assertEqual(answer.status_code, 404)
        self.assertIn("preview is gone", answer.json["message"])

    def test_a_cut_again_lists_what_would_be_lost(self) -> None:
        self.edit(self.track, type="tune", note_ids=["n0001"])
        self.edit(self.track, type="split", note_id="n0004", at_s=3.3, exact=True)
        self.edit(self.track, type="set", note_ids=["n0005"], values={"drift": 0.5})
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

    def test_the_sound_of_any_step_whatever_happened_after(self) -> None:
        root = self.content(self.track)["step_id"]
        first = self.edit(self.track, type="tune", note_ids=["n0001"]).json["version"]["head_id"]
        marked = self.samples("tuned", step=first)
        self.client.post(f"/api/v1/tracks/{self.track}/undo", json={"base": first})
        self.edit(self.track, type="set", note_ids=["n0001"], values={"pull": 0.3})
        self.assertEqual(self.samples("tuned", step=root), self.samples("sung"))
        self.assertEqual(self.samples("tuned", step=first), marked)
        self.assertNotEqual(self.samples("tuned"), marked)
        self.assertNotEqual(self.samples("tuned"), self.samples("sung"))

    def test_steps_and_branches(self) -> None:
        self.edit(self.track, type="tune", note_ids=["n0001"])
        old = self.edit(self.track, type="tune", note_ids=["n0003"]).json["step"]
        self.client.post(f"/api/v1/tracks/{self.track}/undo", json={"base": old["id"]})
        self.edit(self.track, type="tune", note_ids=["n0004"])
        listed = self.client.get(f"/api/v1/tracks/{self.track}/steps").json
        self.assertEqual([step["number"] for step in listed["steps"]], [2, 1, 0])
        self.assertEqual(listed["head_number"], 2)
        self.assertAlmostEqual(listed["steps"][1]["at_s"], 0.4, delta=0.03)
        self.assertEqual([(b["last"]["id"], b["steps"]) for b in listed["branches"]], [(old["id"], 1)])
        older = self.client.get(f"/api/v1/tracks/{self.track}/steps?before=2&limit=1").json["steps"]
        self.assertEqual([step["number"] for step in older], [1])

    def test_versions(self) -> None:
        path = f"/api/v1/tracks/{self.track}/versions"
        first = self.edit(self.track, type="tune", note_ids=["n0001"]).json["step"]
        made = self.client.post(path, json={"name": "Mine", "note": "softer"})
        self.assertEqual((made.status_code, made.json["head_id"]), (201, first["id"]))
        one = f"{path}/{made.json['id']}"
        self.assertEqual(self.client.post(f"{one}/open").status_code, 200)
        self.edit(self.track, type="set", note_ids=["n0001"], values={"pull": 0.5})
        listed = self.client.get(path).json["versions"]
        self.assertEqual([v["name"] for v in listed], ["As sung", "Tuned", "Mine"])
        query = {"first": listed[1]["head_id"], "second": listed[2]["head_id"]}
        found = self.client.get(f"/api/v1/tracks/{self.track}/compare", query_string=query).json["notes"]
        self.assertEqual(
            [(n["note_id"], n["first"]["pull"], n["second"]["pull"]) for n in found], [("n0001", 1.0, 0.5)]
        )
        self.assertEqual(self.client.patch(one, json={"name": "Ours"}).json["name"], "Ours")
        self.assertEqual(self.client.patch(f"{path}/{listed[0]['id']}", json={"name": "x"}).status_code, 422)
        self.assertEqual(self.client.delete(f"{path}/{listed[0]['id']}").status_code, 422)
        self.assertEqual(self.client.delete(one).status_code, 200)
        self.assertEqual([v["name"] for v in self.client.get(path).json["removed"]], ["Ours"])
        self.assertEqual(self.content(self.track)["version"]["name"], "Tuned")
        self.assertEqual(self.client.post(f"{one}/restore").status_code, 200)
        self.assertEqual(self.client.post(f"{path}/none/open").status_code, 404)
        self.assertEqual(self.client.post(path, json={"name": "x", "from_step": "none"}).status_code, 404)

    def test_as_sung_is_read_only(self) -> None:
        sung = self.client.get(f"/api/v1/tracks/{self.track}/versions").json["versions"][0]
        body = {"base": sung["head_id"], "version_id": sung["id"], "operation": {"type": "clear_gaps"}}
        answer = self.client.post(f"/api/v1/tracks/{self.track}/edits", json=body)
        self.assertEqual(answer.status_code, 422)
        self.assertIn("As sung stays", answer.json["message"])

    def test_what_another_key_would_mean(self) -> None:
        self.client.patch(f"/api/v1/songs/{self.song}", json={"tonic": 0, "scale": "major"})
        self.edit(self.track, type="tune", note_ids=["n0001", "n0002"])
        key = {"tonic": 1, "scale": "major", "reference_hz": 440}
        meant = self.client.post(f"/api/v1/songs/{self.song}/key-preview", json=key).json
        self.assertEqual((meant["tuned"], meant["tuned_elsewhere"] > 0), (2, True))
        self.client.patch(f"/api/v1/songs/{self.song}", json={"tonic": 1})
        undone = self.client.post(f"/api/v1/songs/{self.song}/undo").json
        self.assertEqual((undone["song"]["tonic"], undone["label"], undone["tracks"]), (0, "Key · D♭ major", []))
        bad = {**key, "reference_hz": 1}
        self.assertEqual(self.client.post(f"/api/v1/songs/{self.song}/key-preview", json=bad).status_code, 422)

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
