"""The pitch marks of an opened track are found before the first edit asks for them, and are the same."""

import unittest
from unittest import mock

import numpy as np

from glass_thread.core.synthesis.render import voiced_runs
from glass_thread.services.session.desk import Desk
from glass_thread.services.sound import sound
from glass_thread.services.sound.marks_ahead import MarksAhead
from glass_thread.services.sound.turns import Turns
from tests.services.case import TakeCase
from tests.signals import RATE


class MarksAheadTest(TakeCase):
    def setUp(self) -> None:
        super().setUp()
        self.turns = Turns()
        self.ahead = MarksAhead(self.desk.sound, self.turns)
        self.plan = self.desk.plan(self.now())
        self.found = mock.patch.object(sound, "prepare_run", side_effect=sound.prepare_run).start()
        self.addCleanup(mock.patch.stopall)

    def find(self, audio_hash: str) -> None:
        self.ahead.find(audio_hash, self.plan)

    def test_the_first_edit_has_them(self) -> None:
        self.find(self.track.audio_hash)
        self.ahead.rest()
        runs = len(voiced_runs(self.plan.contour))
        self.assertGreater(runs, 1)
        self.assertEqual(self.found.call_count, runs)
        self.do(type="move", note_ids=list(self.now().content.notes), cents=70)
        ahead = self.desk.take(self.now()).span(0, 4 * RATE)
        self.assertEqual(self.found.call_count, runs)
        np.testing.assert_array_equal(ahead, Desk(self.work).take(self.now()).span(0, 4 * RATE))
        self.assertGreater(self.found.call_count, runs)

    def test_who_waits_for_sound_goes_first_and_the_track_opened_last_is_the_one(self) -> None:
        with self.turns.first():
            self.find(self.track.audio_hash)
            self.find("0" * 64)  # that recording is gone, which whoever asks for its sound is told
            self.assertEqual(self.found.call_count, 0)
        self.ahead.rest()
        self.assertLessEqual(self.found.call_count, 1)
        self.find(self.track.audio_hash)
        self.ahead.rest()
        self.assertEqual(self.found.call_count, len(voiced_runs(self.plan.contour)))


if __name__ == "__main__":
    unittest.main()
