"""Steps reach other windows as they are made: server-sent events over the real server."""

from __future__ import annotations

import json
import queue
import threading
import urllib.request

from glass_thread.bench.hostile.server_process import ServerProcess
from glass_thread.services.session.news import MOST_LISTENERS, News
from glass_thread.services.song.songs import change_song
from tests.services.case import TakeCase

PATIENCE_S = 20.0


class NewsTest(TakeCase):
    def test_how_a_song_stands_is_told_at_first_and_after_every_change(self) -> None:
        told = News(self.work).of(self.song.id)
        begun = next(told)
        assert begun is not None
        self.assertEqual(begun["heads"][self.track.id][self.track.version_id], self.head())
        self.do(type="tune", note_ids=["n0001"])
        stepped = next(told)
        assert stepped is not None
        self.assertEqual(stepped["heads"][self.track.id][self.track.version_id], self.head())
        change_song(self.work, self.song.id, {"tempo": 91.0})
        changed = next(told)
        assert changed is not None
        self.assertEqual((changed["turn"], changed["heads"]), (begun["turn"] + 1, stepped["heads"]))
        told.close()

    def test_one_window_too_many_takes_the_place_of_the_oldest(self) -> None:
        news = News(self.work)
        listening = [news.of(self.song.id) for _ in range(MOST_LISTENERS)]
        for one in listening:
            next(one)
        one_more = news.of(self.song.id)
        next(one_more)
        change_song(self.work, self.song.id, {"tempo": 91.0})
        self.assertEqual(list(listening[0]), [])  # it has ended
        self.assertIsNotNone(next(listening[1]))
        for one in (*listening[1:], one_more):
            one.close()


class OverTheWireTest(TakeCase):
    def test_a_step_made_by_another_process_reaches_a_listening_window(self) -> None:
        folder, song = self.folder / "data", self.song.id
        self.work.close()
        server = ServerProcess(folder)
        self.addCleanup(server.kill)
        server.start()
        heard: queue.Queue[dict] = queue.Queue()

        def listen() -> None:
            url = f"{server.url}/api/v1/songs/{song}/news"
            with urllib.request.urlopen(url, timeout=PATIENCE_S) as answer:
                for line in answer:
                    if line.startswith(b"data: "):
                        heard.put(json.loads(line[6:]))

        threading.Thread(target=listen, daemon=True).start()
        begun = heard.get(timeout=PATIENCE_S)
        body = json.dumps({"tempo": 77.0}).encode()
        headers = {"Content-Type": "application/json", "Origin": server.url}
        request = urllib.request.Request(f"{server.url}/api/v1/songs/{song}", body, headers, method="PATCH")
        with urllib.request.urlopen(request, timeout=PATIENCE_S) as answer:
            self.assertEqual(answer.status, 200)
        self.assertGreater(heard.get(timeout=PATIENCE_S)["turn"], begun["turn"])
