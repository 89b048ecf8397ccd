"""One track that is worked on through the HTTP interface, and how long that takes."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from statistics import median
from typing import Any

import numpy as np
import soundfile as sf

from ...api.app import PREFIX, create_app
from ...demo.build import FOLDER, SAMPLE_RATE
from ...services.folder.workspace import Workspace, open_workspace
from ...services.song.import_audio import import_audio
from ...services.song.songs import create_song
from ...services.work.here import run_task

REPEATS = 15
Table = list[dict[str, Any]]


class Bench:
    """One track in a data folder of its own, worked on through the HTTP interface."""

    def __init__(self, folder: Path, minutes: int) -> None:
        self.workspace: Workspace = open_workspace(folder)
        self.start_again()
        song = create_song(self.workspace, "Bench")
        take = folder / "take.flac"
        write_long(take, minutes)
        with take.open("rb") as stream:
            track, task = import_audio(self.workspace, song.id, stream, take.name)
        take.unlink()
        self.import_task, self.track, self.seconds = task.id, track.id, 60 * minutes
        self.song = song.id

    def start_again(self) -> None:
        """Answer as a server that has just started: nothing is at hand."""
        app = create_app(self.workspace)
        self.desk = app.extensions["desk"]
        self.client = app.test_client()
        self.client.environ_base["HTTP_ORIGIN"] = "http://localhost"

    def analyse(self) -> None:
        """Have the import done in this process."""
        run_task(self.workspace, self.import_task)
        self.refresh()

    def refresh(self) -> None:
        """Read where the track stands."""
        content = self.client.get(f"{PREFIX}/tracks/{self.track}/content").get_json()
        self.head, self.notes = content["step_id"], [note["id"] for note in content["notes"]]
        self.air = [event["id"] for event in content["air"]]

    def post(self, path: str, **body: Any) -> dict[str, Any]:
        """One request that must go well; the answer's size is kept."""
        answer = self.client.post(f"{PREFIX}/tracks/{self.track}/{path}", json={"base": self.head, **body})
        assert answer.status_code == 200, answer.get_data(as_text=True)
        self.answered = len(answer.data)
        data = answer.get_json()
        self.head = data["version"]["head_id"]
        return data

    def preview(self, operation: dict[str, Any]) -> None:
        """Try an operation."""
        body = {"step": self.head, "operation": operation}
        assert self.client.post(f"{PREFIX}/tracks/{self.track}/preview", json=body).status_code == 200

    def edit(self, i: int) -> dict[str, Any]:
        """A change of one note that is different every time."""
        values = {"pull": 0.2 + 0.6 * ((i * 7) % 11) / 11, "drift": 0.5 + 0.5 * ((i * 5) % 13) / 13}
        note = self.notes[(i * 17) % len(self.notes)]
        return self.post("edits", operation={"type": "set", "note_ids": [note], "values": values})

    def curves(self, answer: dict[str, Any]) -> int:
        """Bytes of the curves that an answer says have changed."""
        size = 0
        for part in answer["curves"]:
            query = {"step": self.head, "first": part["first"], "last": part["last"]}
            size += len(self.client.get(f"{PREFIX}/tracks/{self.track}/curves", query_string=query).data)
        return size

    def sound(self, second: int) -> None:
        """One second of tuned sound."""
        query = {"begin": second * SAMPLE_RATE, "end": (second + 1) * SAMPLE_RATE, "step": self.head}
        assert self.client.get(f"{PREFIX}/tracks/{self.track}/audio", query_string=query).status_code == 200

    def move_and_hear(self, i: int) -> None:
        """One note moved by a few ms, and the first quarter second that sounds otherwise."""
        note = self.notes[(3 + i * 17) % len(self.notes)]
        answer = self.post("edits", operation={"type": "slip", "note_ids": [note], "by_ms": 4.0 + i % 3})
        begin = int(min(span["start_s"] for span in answer["changed"]) * SAMPLE_RATE)
        query = {"begin": begin, "end": begin + SAMPLE_RATE // 4, "step": self.head}
        assert self.client.get(f"{PREFIX}/tracks/{self.track}/audio", query_string=query).status_code == 200

    def scattered(self, i: int) -> None:
        """One second of tuned sound, each time in another phrase."""
        self.sound((22 + 37 * i) % (self.seconds - 2))


def write_long(path: Path, minutes: int) -> None:
    """The demo's lead, over and over, at slightly different levels so that no two minutes are alike."""
    minute, rate = sf.read(str(FOLDER / "lead.flac"))
    with sf.SoundFile(str(path), "w", rate, 1, "PCM_16", format="FLAC") as file:
        for i in range(minutes):
            file.write(minute * (0.9 + 0.1 * np.cos(i)))


@contextmanager
def in_bench(minutes: int, *, analysed: bool = True) -> Iterator[Bench]:
    """A track of some minutes in a folder that goes when it is done."""
    with tempfile.TemporaryDirectory() as folder:
        bench = Bench(Path(folder), minutes)
        try:
            if analysed:
                bench.analyse()
            yield bench
        finally:
            bench.workspace.close()


def median_ms(work: Callable[[int], Any], times: int = REPEATS) -> float:
    """The median of how many milliseconds some work takes."""
    found = []
    for i in range(times):
        begun = time.perf_counter()
        work(i)
        found.append(1000 * (time.perf_counter() - begun))
    return median(found)
