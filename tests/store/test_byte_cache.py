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
