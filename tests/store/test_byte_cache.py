import threading
import unittest

from glass_thread.store.byte_cache import ByteCache


class ByteCacheTest(unittest.TestCase):
    def test_it_never_holds_more_than_it_may_and_drops_what_was_used_longest_ago(self) -> None:
        cache: ByteCache[str] = ByteCache(10, len)
        for key in "abc":
            cache.keep(key, key * 3)
        self.assertEqual(cache.get("a"), "aaa")
        cache.keep("d", "dddd")
        self.assertEqual([cache.get(key) for key in "abcd"], ["aaa", None, "ccc", "dddd"])
        self.assertLessEqual(cache.held_bytes, 10)

    def test_a_value_that_is_replaced_counts_once_and_one_too_large_is_held_alone(self) -> None:
        cache: ByteCache[str] = ByteCache(10, len)
        cache.keep("a", "x" * 6)
        cache.keep("a", "x" * 4)
        self.assertEqual(cache.held_bytes, 4)
        cache.keep("b", "y" * 50)
        self.assertEqual((cache.get("a"), len(cache.get("b") or "")), (None, 50))
        cache.keep("c", "z")
        self.assertEqual((cache.get("b"), cache.held_bytes), (None, 1))

    def test_a_value_is_made_once_and_an_empty_one_is_a_value(self) -> None:
        cache: ByteCache[tuple[int, ...]] = ByteCache(100, len)
        for _ in range(2):
            self.assertEqual(cache.made("a", lambda: ()), ())
            self.assertEqual(cache.made("b", lambda: (1, 2)), (1, 2))
        self.assertEqual(cache.made("b", lambda: (3,)), (1, 2))

    def test_who_asks_meanwhile_waits_for_what_is_being_made(self) -> None:
        cache: ByteCache[str] = ByteCache(100, len)
        begun, go_on, calls, found = threading.Event(), threading.Event(), [], []

        def make() -> str:
            calls.append(1)
            begun.set()
            go_on.wait(60)
            return "made"

        def ask() -> None:
            found.append(cache.made("key", make))

        threads = [threading.Thread(target=ask) for _ in range(3)]
        for thread in threads:
            thread.start()
        self.assertTrue(begun.wait(60))
        self.assertEqual(cache.made("another", lambda: "at once"), "at once")
        go_on.set()
        for thread in threads:
            thread.join()
        self.assertEqual((len(calls), found), (1, ["made"] * 3))

    def test_what_cannot_be_made_is_tried_again(self) -> None:
        cache: ByteCache[str] = ByteCache(100, len)
        with self.assertRaises(ZeroDivisionError):
            cache.made("key", lambda: str(1 / 0))
        self.assertEqual(cache.made("key", lambda: "made"), "made")
