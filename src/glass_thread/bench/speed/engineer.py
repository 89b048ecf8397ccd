"""Somebody who works on a song over HTTP and remembers what was acknowledged."""

from __future__ import annotations

import random
import threading
from collections.abc import Callable
from pathlib import Path

import requests
import soundfile as sf

from ..hostile.victim import Victim

_EVERY = {"print": 9, "import": 13, "undo": 5, "song": 7, "voice": 11, "removal": 17, "comp": 4, "borrow": 6}
MOST_VOICES = 3
HANDOFF = "kept"


class Engineer:
    """Edits, brings in takes and prints as fast as answers come; `take` gives the file of a numbered take."""

    def __init__(self, victim: Victim, seed: int, take: Callable[[int], bytes]) -> None:
        self._victim, self._take = victim, take
        self._rng = random.Random(seed)
        self._stop = threading.Event()
        self._acts = self._takes = 0
        self.edits: list[str] = []  # steps by id
        self.imports: dict[str, str] = {}  # track: task
        self.prints: list[str] = []
        self.song_steps: list[str] = []  # tempos given, each once
        self.voices: list[str] = []  # tracks made of the lead
        self.choices: list[str] = []  # steps of a comp by id
        self.borrowed = 0
        self.lost = self.refused = 0

    def open_song(self) -> None:
        """Make a song with one take to work on."""
        self._song = self._victim.song("Kept")
        answer = self._bring_in()
        assert answer is not None and self._victim.settled(answer["task"]["id"]) == "done"
        self._track = answer["track"]["id"]
        content = self._victim.ask("GET", f"/tracks/{self._track}/content").json()
        self._head, self._notes = content["step_id"], [note["id"] for note in content["notes"]]
        self._versions = [
            one["id"] for one in self._victim.ask("GET", f"/tracks/{self._track}/versions").json()["versions"]
        ]
        self._comp = self._victim.ask("POST", f"/tracks/{self._track}/comps", json={"name": "Comp"}).json()
        self._victim.ask("PUT", f"/songs/{self._song}/handoff", json={"folder": HANDOFF, "make": True})

    def work(self, acts: int = 100_000) -> None:
        """Work until told to rest, or nobody answers."""
        self._stop.clear()
        for _ in range(acts):
            if self._stop.is_set():
                return
            try:
                self._act()
            except (requests.RequestException, OSError):
                return

    def rest(self) -> None:
        """Stop after what is being done."""
        self._stop.set()

    def _act(self) -> None:
        self._acts += 1
        if self._acts % _EVERY["import"] == 0:
            self._bring_in()
        elif self._acts % _EVERY["print"] == 0:
            answer = self._victim.ask(
                "POST",
                f"/tracks/{self._track}/prints",
                json={"container": "wav", "bits": 16, "handoff": True, "replace": True},
            )
            if answer.status_code == 202:
                self.prints.append(answer.json()["id"])
        elif self._acts % _EVERY["undo"] == 0:
            self._step("undo")
        elif self._acts % _EVERY["song"] == 0:
            self._change_song()
        elif self._acts % _EVERY["voice"] == 0:
            self._make_or_catch_up()
        elif self._acts % _EVERY["removal"] == 0 and self.voices:
            self._remove_and_bring_back()
        elif self._acts % _EVERY["borrow"] == 0 and self.voices:
            self._borrow()
        elif self._acts % _EVERY["comp"] == 0:
            self._choose()
        else:
            values = {"pull": round(self._rng.random(), 3), "level_db": round(self._rng.uniform(-3, 3), 1)}
            operation = {"type": "set", "note_ids": [self._rng.choice(self._notes)], "values": values}
            self._step("edits", operation=operation)

    def _step(self, verb: str, **body: object) -> None:
        answer = self._victim.ask("POST", f"/tracks/{self._track}/{verb}", json={"base": self._head, **body})
        if answer.status_code == 200:
            self._head = answer.json()["version"]["head_id"]
            if verb == "edits":
                self.edits.append(self._head)
        elif answer.status_code == 409:  # stored, but the answer did not arrive; or nothing to undo
            self._head = self._victim.ask("GET", f"/tracks/{self._track}/content").json()["step_id"]

    def _borrow(self) -> None:
        (note, other), before = self._rng.sample(self._notes, 2), len(self.edits)
        operation = {
            "type": "borrow",
            "note_ids": [note],
            "from_track": self._rng.choice(self.voices),
            "from_note_ids": [other],
        }
        self._step("edits", operation=operation)
        self.borrowed += len(self.edits) - before

    def _choose(self) -> None:
        start_s = round(self._rng.uniform(0.0, 3.0), 2)
        operation = {"type": "choose", "version_id": self._rng.choice(self._versions), "start_s": start_s}
        edit = {"version_id": self._comp["id"], "base": self._comp["head_id"], "operation": operation}
        answer = self._victim.ask("POST", f"/tracks/{self._track}/edits", json=edit)
        if answer.status_code == 200:
            self._comp = answer.json()["version"]
            self.choices.append(self._comp["head_id"])
        elif answer.status_code == 409:
            comps = self._victim.ask("GET", f"/tracks/{self._track}/comps").json()["comps"]
            self._comp = next(comp for comp in comps if comp["id"] == self._comp["id"])

    def _change_song(self) -> None:
        tempo = round(40.0 + 0.01 * self._acts, 2)
        if self._victim.ask("PATCH", f"/songs/{self._song}", json={"tempo": tempo}).status_code == 200:
            self.song_steps.append(f"Tempo · {tempo:g}, 4/4")

    def _make_or_catch_up(self) -> None:
        if len(self.voices) < MOST_VOICES:
            made = self._victim.ask("POST", f"/tracks/{self._track}/derived", json={"operation": {"type": "double"}})
            if made.status_code == 201:
                self.voices += [track["id"] for track in made.json()["tracks"]]
            return
        voice = self._rng.choice(self.voices)
        content = self._victim.ask("GET", f"/tracks/{voice}/content")
        if content.status_code == 200:
            asked = {"base": content.json()["step_id"], "operation": {"type": "catch_up"}}
            self._victim.ask("POST", f"/tracks/{voice}/edits", json=asked)

    def _remove_and_bring_back(self) -> None:
        voice = self._rng.choice(self.voices)
        self._victim.ask("DELETE", f"/tracks/{voice}")
        self._victim.ask("POST", f"/tracks/{voice}/restore")

    def _bring_in(self) -> dict | None:
        self._takes += 1
        answer = self._victim.bring_in(self._song, f"take {self._takes}.flac", self._take(self._takes))
        if answer.status_code != 202:
            return None
        self.imports[answer.json()["track"]["id"]] = answer.json()["task"]["id"]
        return answer.json()

    def look_for_what_was_acknowledged(self) -> None:
        """Count what is not there: the last steps, and every take that was brought in."""
        found = self._victim.ask("GET", f"/tracks/{self._track}/content").json()["step_id"]
        self.lost += sum(not self._stands(step) for step in self.edits[-3:])
        self._head = found
        tracks = {track["id"] for song in self._victim.ask("GET", "/songs").json()["songs"] for track in song["tracks"]}
        for track in self.imports.keys() - tracks:
            self.lost += self._victim.ask("GET", f"/tasks/{self.imports[track]}").json().get("state") != "failed"
        steps = {one["label"] for one in self._victim.ask("GET", f"/songs/{self._song}/steps").json()["steps"]}
        self.lost += sum(label not in steps for label in self.song_steps)
        removed = {one["id"] for one in self._victim.ask("GET", "/removed").json()["removed"]}
        for voice in removed & set(self.voices):  # killed between the two
            self._victim.ask("POST", f"/tracks/{voice}/restore")
        self.lost += len(set(self.voices) - tracks - removed)
        self.lost += sum(not self._is_chosen(step) for step in self.choices[-3:])

    def _stands(self, step: str) -> bool:
        path = f"/tracks/{self._track}/curves?step={step}&first=0&last=1"
        return self._victim.ask("GET", path).status_code == 200

    def _is_chosen(self, step: str) -> bool:
        path = f"/tracks/{self._track}/comps/{self._comp['id']}?step={step}"
        return self._victim.ask("GET", path).status_code == 200

    def wait_for_everything(self) -> None:
        """Wait for all imports and prints; what neither goes well nor fails with a sentence is lost."""
        for task in (*self.imports.values(), *self.prints):
            state = self._victim.settled(task)
            self.refused += state == "failed"
            self.lost += state not in ("done", "failed")
        self.lost += sum(not self._stands(step) for step in self.edits)
        self.lost += sum(not self._is_chosen(step) for step in self.choices)
        self.lost += sum(not _whole(file) for file in self.handed_over())

    def handed_over(self) -> list[Path]:
        """The prints in the hand-off folder."""
        return sorted((self._victim.folder / "handoff" / HANDOFF / "out").glob("*.wav"))

    def counts(self) -> dict[str, int]:
        """What was acknowledged, and how much of it is lost."""
        return {"edits": len(self.edits), "imports": len(self.imports), "prints": len(self.prints),
                "song steps": len(self.song_steps), "voices": len(self.voices), "borrows": self.borrowed,
                "choices": len(self.choices), "handed over": len(self.handed_over()),
                "failed with a sentence": self.refused, "lost": self.lost}  # fmt: skip


def _whole(file: Path) -> bool:
    try:
        return len(sf.read(file)[0]) == sf.info(file).frames
    except sf.LibsndfileError:
        return False
