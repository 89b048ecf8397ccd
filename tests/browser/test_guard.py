"""That a browser test fails when the server does."""

from tests.browser.hatchery import failed_answers, which_says_what_it_failed_at
from tests.signals import FolderCase


class GuardTest(FolderCase):
    def test_an_answer_of_5xx_is_written_down_until_it_is_asked_for(self) -> None:
        app = which_says_what_it_failed_at(self.workspace(), None)
        app.add_url_rule("/divided", "divided", lambda: {"it": 1 // 0})
        client = app.test_client()
        self.assertEqual(client.get("/nowhere").status_code, 404)
        self.assertEqual(failed_answers(self.folder), [])
        with self.assertLogs("glass_thread", "ERROR"):
            self.assertEqual(client.get("/divided").status_code, 500)
        self.assertEqual(failed_answers(self.folder), ["500 GET http://localhost/divided"])
        self.assertEqual(failed_answers(self.folder), [])
