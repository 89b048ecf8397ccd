"""The stack over HTTP: edits of several tracks, what is heard of each, tracks in small."""

from __future__ import annotations

import io

import numpy as np
import soundfile as sf

from tests.api.test_api import API, ApiCase
from tests.signals import RATE, sung_short


class StackApiTest(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        self.track = self.ready_track()

    def double(self) -> str:
        data = io.BytesIO()
        sf.write(data, 0.7 * sung_short(6)[1].audio, RATE, format="WAV")
        answer = self.bring_in(data.getvalue(), name="d.wav", role="double").json
        self.run_task(answer["task"]["id"])
        return answer["track"]["id"]

    def test_breaths_of_the_doubles(self) -> None:
        path, double = f"{API}/songs/{self.song}/edits", self.double()
        breaths = {"type": "set_breaths", "values": {"muted": True}}
        changed = self.client.post(path, json={"operation": breaths, "tracks": [double]})
        self.assertEqual(changed.status_code, 200)
        self.assertEqual([(t["track_id"], t["changed"]) for t in changed.json["tracks"]], [(double, 1)])
        for wanted, status in (({"operation": breaths, "tracks": []}, 422), ({"operation": breaths}, 422),
                               ({"operation": {"type": "x"}, "tracks": [double]}, 422),
                               ({"operation": breaths, "tracks": ["none"]}, 422)):  # fmt: skip
            self.assertEqual(self.client.post(path, json=wanted).status_code, status, wanted)
        wanted = {"operation": breaths, "tracks": [double]}
        self.assertEqual(self.client.post(f"{API}/songs/none/edits", json=wanted).status_code, 404)

    def test_undo_says_which_tracks_went_along(self) -> None:
        double = self.double()
        wanted = {"operation": {"type": "tune"}, "tracks": [self.track, double]}
        self.client.post(f"{API}/songs/{self.song}/edits", json=wanted)
        content = self.client.get(f"{API}/tracks/{double}/content").json
        undone = self.client.post(f"{API}/tracks/{double}/undo", json={"base": content["step_id"]})
        self.assertEqual((undone.status_code, undone.json["others"]), (200, [self.track]))

    def test_heard_version_and_in_small(self) -> None:
        versions = self.client.get(f"{API}/tracks/{self.track}/versions").json["versions"]
        path = f"{API}/tracks/{self.track}"
        answer = self.client.patch(path, json={"heard_version": versions[0]["id"]})
        self.assertEqual((answer.status_code, answer.json["head_id"]), (200, versions[0]["head_id"]))
        self.assertEqual(self.client.patch(path, json={"heard_version": "none"}).status_code, 404)
        self.assertEqual(self.client.patch(path, json={"heard_version": None}).json["heard_version"], None)
        small = self.client.get(f"{path}/in-small", query_string={"step": versions[0]["head_id"]})
        self.assertEqual(small.status_code, 200)
        self.assertTrue(small.json["notes"] and max(small.json["outline"]) > 10)
        self.assertEqual(self.client.get(f"{path}/in-small", query_string={"step": "none"}).status_code, 404)
        self.assertEqual(self.client.get(f"{API}/tracks/none/in-small").status_code, 404)

    def test_melody_match(self) -> None:
        path = f"{API}/tracks/{self.track}/melody-match"
        notes = self.client.get(f"{API}/tracks/{self.track}/content").json["notes"]
        melody = [[notes[0]["start_s"], notes[0]["end_s"], 64.0], [900.0, 901.0, 64.0]]
        found = self.client.post(path, json={"melody": melody, "note_ids": [one["id"] for one in notes[:2]]})
        self.assertEqual(found.status_code, 200)
        self.assertEqual(found.json, {"alone": [notes[1]["id"]], "melody_alone": [1]})
        for wrong in ({"melody": []}, {"melody": [[1, 2]]}, {"melody": melody, "match": "luck"}, {}):
            self.assertEqual(self.client.post(path, json=wrong).status_code, 422, wrong)
        self.assertEqual(self.client.post(path, json={"melody": melody, "note_ids": ["n9"]}).status_code, 404)

    def test_followers_catch_up(self) -> None:
        third = {"operation": {"type": "harmony", "steps": 2}}
        made = self.client.post(f"{API}/tracks/{self.track}/derived", json=third).json["tracks"][0]["id"]
        self.edit(made, type="set_link")
        path = f"{API}/tracks/{self.track}/followers/catch-up"
        self.assertEqual(self.client.post(path).json, {"tracks": []})
        self.edit(self.track, type="put_air_back")
        note = self.client.get(f"{API}/tracks/{self.track}/content").json["notes"][0]["id"]
        self.edit(self.track, type="set", note_ids=[note], values={"target": "E4", "pull": 1.0})
        (caught,) = self.client.post(path).json["tracks"]
        self.assertEqual((caught["track_id"], caught["trouble"]), (made, ""))
        self.assertEqual(self.client.post(f"{API}/tracks/none/followers/catch-up").status_code, 404)

    def test_the_melody_as_a_tone(self) -> None:
        note = self.client.get(f"{API}/tracks/{self.track}/content").json["notes"][0]
        begin, end = (round(note[side] * RATE) for side in ("start_s", "end_s"))
        query = {"kind": "melody", "begin": begin, "end": end}
        answer = self.client.get(f"{API}/tracks/{self.track}/audio", query_string=query)
        tone = np.frombuffer(answer.data, "<f4")
        spectrum = np.abs(np.fft.rfft(tone * np.hanning(len(tone)), 1 << 18))
        peak = np.argmax(spectrum) * RATE / (1 << 18)
        self.assertAlmostEqual(69 + 12 * np.log2(peak / 440.0), note["tuned_midi"], delta=0.05)

    def test_hostile_edits_of_several_tracks_get_sentences(self) -> None:
        """Whatever is sent, the answer is a sentence and nothing changed."""
        path, head = f"{API}/songs/{self.song}/edits", self.content(self.track)["step_id"]
        wrong = [None, 5, "x", [], {}, {"type": "melody"}, {"type": ["a"]}, {"type": "choose"},
                 {"type": "follow", "lead_track": self.track},
                 {"type": "harmony", "melody": [[1, 2, 3]], "match": "luck"},
                 {"type": "harmony", "melody": [[1e308, 2, 3]]}, {"type": "harmony", "melody": [[3, 2]]},
                 {"type": "melody", "melody": [[900, 901, 60]]}, {"type": "set_link", "by_itself": "yes"},
                 {"type": "set_link", "link_ids": ["f0009"]}, {"type": "slip", "by_ms": -1e9}]  # fmt: skip
        for operation in wrong:
            with self.subTest(operation=operation):
                answer = self.client.post(path, json={"operation": operation, "tracks": [self.track]})
                self.assertIn(answer.status_code, (404, 422))
                self.assertRegex(answer.json["message"], r"[.?]$")
        for tracks in (None, "x", [1], [""], [self.track] * 300, ["none"]):
            with self.subTest(tracks=tracks):
                answer = self.client.post(path, json={"operation": {"type": "tune"}, "tracks": tracks})
                self.assertEqual(answer.status_code, 422)
        self.assertEqual(self.content(self.track)["step_id"], head)

    def test_the_song_is_undone_and_done_again(self) -> None:
        path = f"{API}/songs/{self.song}"
        first, content = self.client.get(f"{path}/steps").json["steps"], self.content(self.track)
        self.client.post(f"{path}/edits", json={"operation": {"type": "tune"}, "tracks": [self.track]})
        steps = self.client.get(f"{path}/steps").json["steps"]
        self.assertEqual((steps[0]["label"], steps[0]["state"], steps[1:]), ("Tune · 1 track", "done", first))
        undone = self.client.post(f"{path}/undo")
        self.assertEqual((undone.status_code, undone.json["tracks"]), (200, [self.track]))
        self.assertEqual(self.content(self.track)["step_id"], content["step_id"])
        redone = self.client.post(f"{path}/redo").json
        self.assertEqual((redone["tracks"], redone["song"]["turn"]), ([self.track], undone.json["song"]["turn"] + 1))
        self.assertEqual(self.client.post(f"{path}/redo").status_code, 422)
        for way in ("undo", "redo", "steps"):
            asked = self.client.get if way == "steps" else self.client.post
            self.assertEqual(asked(f"{API}/songs/none/{way}").status_code, 404)

    def test_what_was_changed_elsewhere_is_not_overwritten(self) -> None:
        path = f"{API}/songs/{self.song}"
        turn = self.client.get(path).json["turn"]
        self.assertEqual(self.client.patch(path, json={"tempo": 96, "base": turn}).status_code, 200)
        self.assertEqual(self.client.patch(path, json={"tonic": 2, "scale": "major", "base": turn}).status_code, 200)
        late = self.client.patch(path, json={"tempo": 120, "base": turn})
        self.assertEqual(late.status_code, 409)
        self.assertIn("“Tempo · 96, 4/4” was done elsewhere meanwhile", late.json["message"])
        self.assertIn("“Tempo · 120, 4/4” would overwrite it", late.json["message"])
        self.assertEqual(self.client.get(path).json["tempo"], 96)
        one = f"{API}/tracks/{self.track}"
        self.assertEqual(self.client.patch(one, json={"name": "A", "base": turn}).status_code, 200)
        self.assertEqual(self.client.patch(one, json={"name": "B", "base": turn}).status_code, 409)

    def test_removed_songs_and_tracks_come_back_until_they_are_swept(self) -> None:
        song, track = f"{API}/songs/{self.song}", f"{API}/tracks/{self.track}"
        before = self.content(self.track)
        self.assertEqual(self.client.delete(track).status_code, 204)
        self.assertEqual(self.client.get(f"{track}/content").status_code, 404)
        (gone,) = self.client.get(f"{API}/removed").json["removed"]
        self.assertEqual((gone["kind"], gone["id"]), ("track", self.track))
        self.assertEqual(self.client.post(f"{track}/restore").status_code, 204)
        self.assertEqual(self.content(self.track), before)
        self.client.delete(song)
        self.assertEqual(self.client.get(song).status_code, 404)
        self.assertNotIn(self.song, [one["id"] for one in self.client.get(f"{API}/songs").json["songs"]])
        self.assertEqual(self.client.post(f"{song}/restore").status_code, 204)
        self.assertEqual(self.content(self.track), before)
        self.client.delete(song)
        self.assertGreater(self.client.delete(f"{API}/removed").json["files"], 0)
        self.assertEqual(self.client.post(f"{song}/restore").status_code, 404)
        self.assertEqual(self.client.post(f"{track}/restore").status_code, 404)

    def test_a_line_is_typed(self) -> None:
        path = f"{API}/songs/{self.song}/typed-melody"
        self.assertEqual(self.client.post(path, json={"text": "A4 – Bb3"}).json, {"pitches": [69.0, None, 58.0]})
        for text in ("H4", "", "-", 5, "A4 " * 9000):
            self.assertEqual(self.client.post(path, json={"text": text}).status_code, 422, text)
        self.assertEqual(self.client.post(f"{API}/songs/none/typed-melody", json={"text": "A4"}).status_code, 404)
