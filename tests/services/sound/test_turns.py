"""What is loaded ahead waits while somebody waits for a sound."""

import threading
import unittest

from glass_thread.services.sound.turns import Turns


class TurnsTest(unittest.TestCase):
    def setUp(self) -> None:
        self.turns = Turns()
        self.told: list[str] = []

    def go_on(self) -> threading.Thread:
        """Somebody who gives way, on a thread of its own."""

        def wait() -> None:
            self.told.append("gave way" if self.turns.give_way() else "waited long enough")

        thread = threading.Thread(target=wait)
        thread.start()
        self.addCleanup(thread.join)
        return thread

    def test_nobody_waits_for_nothing(self) -> None:
        self.assertTrue(self.turns.give_way())

    def test_it_goes_on_when_the_last_one_is_served(self) -> None:
        with self.turns.first():
            with self.turns.first():
                thread = self.go_on()
            thread.join(0.05)
            self.assertEqual(self.told, [])
        thread.join(5)
        self.assertEqual(self.told, ["gave way"])

    def test_a_failure_does_not_hold_the_others_up(self) -> None:
        with self.assertRaises(ValueError), self.turns.first():
            raise ValueError
        self.assertTrue(self.turns.give_way())

    def test_it_does_not_wait_for_ever(self) -> None:
        with self.turns.first():
            self.go_on().join(30)
        self.assertEqual(self.told, ["waited long enough"])
