"""Comps, prints, files for other programs and hand-off folders over HTTP: what is answered, whatever is sent."""

import io

import mido
import numpy as np

from tests.api.test_api import API, ApiCase


class CompApiTest(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        self.track = self.ready_track()
        self.at = f"{API}/tracks/{self.track}"
        self.edit(self.track, type="tune", note_ids=["n0001", "n0003"])
        made = self.client.post(f"{self.at}/comps", json={"name": "Best"})
        self.assertEqual(made.status_code, 201)
        self.comp = made.json

    def choose(self, **operation: object):
        """One edit of the comp, on where it stands now."""
        base = self.client.get(f"{self.at}/comps/{self.comp['id']}").json["step_id"]
        body = {"version_id": self.comp["id"], "base": base, "operation": operation}
        return self.client.post(f"{self.at}/edits", json=body)

    def versions(self) -> list[str]:
        return [one["id"] for one in self.client.get(f"{self.at}/versions").json["versions"]]

    def test_it_is_listed_apart_chosen_in_and_heard(self) -> None:
        sung, tuned = self.versions()
        self.assertEqual([one["name"] for one in self.client.get(f"{self.at}/comps").json["comps"]], ["Best"])
        answer = self.choose(type="choose", version_id=sung, start_s=1.0, end_s=2.0)
        self.assertEqual(answer.status_code, 200)
        self.assertEqual([c["version_id"] for c in answer.json["choices"]], [sung, tuned])
        (span,) = answer.json["changed"]
        self.assertTrue(span["start_s"] < 1.0 and 2.0 < span["end_s"] < 3.0)
        shown = self.client.get(f"{self.at}/comps/{self.comp['id']}").json
        self.assertEqual([c["name"] for c in shown["choices"]], ["Tuned", "As sung", "Tuned"])
        self.assertEqual([b["choice_id"] for b in shown["borders"]], [c["id"] for c in shown["choices"][1:]])
        steps = self.client.get(f"{self.at}/steps?version={self.comp['id']}").json
        self.assertEqual([one["label"] for one in steps["steps"]][:1], ["Choose · 2 choices"])
        self.assertEqual(self.client.get(f"{self.at}/steps").json["branches"], [])
        made = self.client.post(f"{self.at}/comps/{self.comp['id']}/version", json={"name": "As one"})
        self.assertEqual(made.status_code, 201)

    def test_whatever_is_chosen_there_is_a_comp_and_no_server_error(self) -> None:
        rng = np.random.default_rng(8)
        times = [0.0, 1e-9, 1.0, 1.0000001, 1.0001, 1.02, 3.9, 4.199, 4.3, 77.0, 1e6]
        versions = [*self.versions(), "nobody", self.comp["id"], ""]
        for _ in range(120):
            start, end = (float(rng.choice(times) + rng.choice([0.0, 1e-7, rng.random()])) for _ in range(2))
            version = str(rng.choice(versions))
            operation = [
                {"type": "choose", "version_id": version, "start_s": start, "end_s": end},
                {"type": "choose", "version_id": version, "start_s": start},
                {"type": "choose_air", "version_id": version, "start_s": start, "end_s": end},
                {"type": "choose_least_strain", "version_ids": [version], "above": 1.0, "flagged": True},
                {"type": "move_border", "choice_id": f"c000{int(rng.integers(9))}", "to_s": start},
                {"type": "catch_up"},
            ][int(rng.integers(6))]
            self.assertIn(self.choose(**operation).status_code, (200, 404, 422), operation)
            shown = self.client.get(f"{self.at}/comps/{self.comp['id']}")
            self.assertEqual(shown.status_code, 200, operation)
            starts = [c["start_s"] for c in shown.json["choices"]]
            self.assertEqual(starts, sorted(set(starts)))
        step = shown.json["step_id"]
        sound = self.client.get(f"{self.at}/audio?step={step}&begin=0&end=100000")
        self.assertTrue(np.isfinite(np.frombuffer(sound.data, "<f4")).all())

    def test_files_for_other_programs(self) -> None:
        melody = self.client.get(f"{self.at}/melody.mid?bend=2")
        self.assertEqual((melody.status_code, melody.mimetype), (200, "audio/midi"))
        self.assertEqual(mido.MidiFile(file=io.BytesIO(melody.data)).type, 1)
        for kind in ("notes.csv", "notes.json", "contour.csv"):
            self.assertEqual(self.client.get(f"{self.at}/{kind}").status_code, 200)
        for wanted in ("melody.mid?bend=25", "melody.mid?bend=x", "notes.csv?step=nothing"):
            self.assertIn(self.client.get(f"{self.at}/{wanted}").status_code, (404, 422))

    def test_prints_that_cannot_be(self) -> None:
        song = self.client.get(f"{API}/songs").json["songs"][0]["id"]
        nothing = [{"start_s": 9e4, "end_s": 9e4}]
        for body in ({"tracks": ["nobody"]}, {"sample_rate": 7}, {"pattern": "{x}"}, {"spans": nothing},
                     {"handoff": True}, {"fade_ms": -1}):  # fmt: skip
            answer = self.client.post(f"{API}/songs/{song}/prints", json=body)
            self.assertEqual(answer.status_code, 422, body)
            self.assertTrue(answer.json["message"])
        self.assertEqual(self.client.get(f"{API}/songs/{song}/prints").json["prints"], [])
        self.assertEqual(self.client.delete(f"{API}/prints/nothing").status_code, 404)

    def test_hand_off_folders_are_chosen_by_name(self) -> None:
        song = self.client.get(f"{API}/songs").json["songs"][0]["id"]
        place = f"{API}/songs/{song}/handoff"
        self.assertEqual(self.client.put(place, json={"folder": "../..", "make": True}).status_code, 422)
        self.assertEqual(self.client.put(place, json={"folder": "nowhere"}).status_code, 404)
        half = self.client.put(place, data=rb'{"folder": "\ud800", "make": true}', content_type="application/json")
        self.assertEqual(half.status_code, 422)
        made = self.client.put(place, json={"folder": "One", "make": True})
        self.assertEqual((made.status_code, made.json["folder"], made.json["incoming"]), (200, "One", []))
        self.assertEqual(self.client.get(f"{API}/handoff-folders").json["folders"], ["One"])
        self.assertEqual(self.client.post(f"{place}/bring", json={"files": ["../x.wav"]}).status_code, 404)
        self.assertEqual(self.client.post(f"{place}/tempo", json={"file": "x.mid"}).status_code, 404)
        self.assertIsNone(self.client.put(place, json={"folder": None}).json["folder"])

    def test_glazes(self) -> None:
        answer = self.edit(self.track, type="glaze", values={"settle_ms": 30.0})
        self.assertEqual([one["settle_ms"] for one in answer.json["glazes"]], [30.0])
        cut = self.edit(self.track, type="glaze", start_s=1.0, end_s=2.0, values={"strength": 0.5}).json
        spans = sorted((one["start_s"], one["end_s"]) for one in self.content(self.track)["glazes"])
        self.assertEqual([start for start, _ in spans], [0.0, 1.0, 2.0])
        self.assertEqual(len(cut["glazes"]), 3)
        for values in ({"settle_ms": 900}, {"rounding": "free"}, {"nothing": 1}, {"keep_vibrato": 2}):
            self.assertEqual(self.edit(self.track, type="glaze", values=values).status_code, 422)
        self.assertEqual(self.edit(self.track, type="remove_glaze", glaze_ids=["z9999"]).status_code, 404)
        self.assertEqual(len(self.client.get(f"{API}/glaze-presets").json["presets"]), 3)
