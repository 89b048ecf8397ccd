"""Requests drawn from the API's own description: a refused one says why and changes nothing, none is a server error."""

import random
import unittest

from glass_thread.bench.hostile.requests import DrawnRequests
from tests.services.case import TakeCase


class DrawnRequestsTest(TakeCase):
    def test_whatever_is_asked_for(self) -> None:
        drawn = DrawnRequests(self.work, random.Random(5))
        for _ in range(400):
            drawn.step()
            if drawn.over:
                break
        drawn.look_through()
        self.assertEqual(dict(drawn.faults), {})
        self.assertGreater(sum(n for status, n in drawn.statuses.items() if status < 300), 100)
        self.assertGreater(sum(n for status, n in drawn.statuses.items() if 400 <= status < 500), 100)

    def test_a_refused_change_of_a_track_keeps_what_is_heard(self) -> None:
        drawn = DrawnRequests(self.work, random.Random(1))
        versions = [one.id for one in self.work.history.versions(self.track.id)]
        asked = {"heard_version": versions[0], "name": "x" * 500}
        answer = drawn.client.patch(f"/api/v1/tracks/{self.track.id}", json=asked)
        self.assertEqual((answer.status_code, self.work.tracks.get(self.track.id).heard_version), (422, None))


if __name__ == "__main__":
    unittest.main()
