"""Notes on a singer over HTTP."""

from __future__ import annotations

import csv

from tests.api.test_api import API, ApiCase


class SingerApiTest(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        self.track = self.ready_track()

    def get(self, what: str, **query: str):
        return self.client.get(f"{API}/tracks/{self.track}/{what}", query_string=query)

    def test_of_a_take_and_its_numbers(self) -> None:
        found = self.get("singer-notes")
        self.assertEqual((found.status_code, found.json["takes"]), (200, 1))
        self.assertGreater(found.json["notes"], 2)
        self.assertEqual(found.json["claims"], [])  # four notes carry nothing
        table = self.get("singer-notes.csv")
        self.assertEqual((table.status_code, table.mimetype), (200, "text/csv"))
        self.assertEqual(next(csv.reader(table.text.splitlines()))[:3], ["claim", "kind", "value"])

    def test_whose_takes_are_asked_for(self) -> None:
        self.assertEqual(self.get("singer-notes", scope="singer").status_code, 422)
        named = self.client.patch(f"{API}/tracks/{self.track}", json={"singer": " Mara  Lind "})
        self.assertEqual((named.status_code, named.json["singer"]), (200, "Mara Lind"))
        found = self.get("singer-notes", scope="singer")
        self.assertEqual((found.status_code, found.json["singer"]), (200, "Mara Lind"))
        for wrong, status in (({"singer": "x" * 81}, 422), ({"singer": 5}, 422)):
            self.assertEqual(self.client.patch(f"{API}/tracks/{self.track}", json=wrong).status_code, status, wrong)
        self.assertEqual(self.get("singer-notes", scope="choir").status_code, 422)
        self.assertEqual(self.client.get(f"{API}/tracks/none/singer-notes").status_code, 404)
