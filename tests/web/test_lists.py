"""Lists of songs and of flags, and tapping: the screen's plain logic, table by table."""

import time

from tests.web.modules import ModuleCase


def song(title: str, created_at: float, **tracks: tuple[int, float | None]) -> dict:
    rows = [{"id": f"{title} {name}", "name": name, "progress": {"flags": flags, "worked_at": at}}
            for name, (flags, at) in tracks.items()]  # fmt: skip
    return {"title": title, "created_at": created_at, "tracks": rows}


class SongOrderTest(ModuleCase):
    def test_orders(self) -> None:
        songs = [song("Ten", 1, Lead=(3, 50.0)), song("song 2", 2, Lead=(9, None)), song("song 10", 3, Pad=(0, None)),
                 {"title": "new", "created_at": 4, "tracks": [{"id": "new raw", "name": "raw", "progress": None}]}]  # fmt: skip
        for order, wanted in (
            ("last worked", ["Ten", "new", "song 10", "song 2"]),
            ("newest", ["new", "song 10", "song 2", "Ten"]),
            ("title", ["new", "song 2", "song 10", "Ten"]),
            ("most flags", ["song 2", "Ten", "new", "song 10"]),
        ):
            with self.subTest(order):
                self.assertEqual([s["title"] for s in self.call("song_order", "ordered", songs, order, {})], wanted)

    def test_what_is_known_by_now_counts(self) -> None:
        songs = [song("one", 1, Lead=(3, 50.0)), song("two", 2, Lead=(9, 60.0))]
        for order, now, wanted in (
            ("most flags", {"one Lead": {"flags": 10, "worked_at": 50.0}}, ["one", "two"]),
            ("last worked", {"one Lead": {"flags": 3, "worked_at": 70.0}}, ["one", "two"]),
            ("last worked", {"some other": {"flags": 3, "worked_at": 70.0}}, ["two", "one"]),
        ):
            with self.subTest(order, now=now):
                self.assertEqual([s["title"] for s in self.call("song_order", "ordered", songs, order, now)], wanted)

    def test_what_the_list_itself_says_is_the_newer(self) -> None:
        songs = [song("one", 1, Lead=(3, 50.0)), {"tracks": [{"id": "raw", "progress": None}, {"id": "other", "progress": None}]}]
        known = {name: {"flags": 1, "worked_at": None} for name in ("one Lead", "raw", "gone")}
        script = """async ([songs, known]) => {
            const { beyond } = await import("/song_order.js");
            return [known, {}].map((asked) => Object.keys(beyond(songs, known, asked)));
        }"""
        # As it was when the list was asked for, and come since, which is newer than what the list says.
        self.assertEqual(self.page.evaluate(script, [songs, known]), [["raw"], ["one Lead", "raw"]])

    def test_a_song_in_which_nothing_changed_stays_the_same_thing(self) -> None:
        same = self.page.evaluate(
            """async ([before, now]) => {
              const { keptWhereAlike } = await import("/song_order.js");
              return keptWhereAlike(before, now).map((song) => before.indexOf(song));
            }""",
            [[song("one", 1), song("two", 2), song("gone", 3)], [song("new", 4), song("two", 2), song("one", 9)]],
        )
        self.assertEqual(same, [-1, 1, -1])

    def test_search_looks_at_songs_and_tracks(self) -> None:
        one = song("Harbour", 1, Lead=(0, None))
        for search, found in (("", True), ("harb", True), (" LEAD ", True), ("lead2", False)):
            self.assertEqual(self.call("song_order", "isCalled", one, search), found)

    def test_when_in_words(self) -> None:
        now = time.mktime((2026, 3, 19, 15, 0, 0, 0, 0, -1))
        for back_s, wanted in ((3600, "today 14:00"), (26 * 3600, "Wednesday"), (40 * 86400, "7 Feb 2026")):
            self.assertEqual(self.call("song_order", "whenText", now - back_s, now), wanted)


class FlagsTest(ModuleCase):
    NOTES = (
        {"start_s": 0, "flags": [{"kind": "loud", "reason": "5 dB", "hurt": 1.2}]},
        {"start_s": 1, "flags": [{"kind": "off centre", "reason": "40 cents flat", "hurt": 2.5},
                                 {"kind": "loud", "reason": "4 dB", "hurt": 1.0}]},
        {"start_s": 2, "flags": []},
        {"start_s": 3, "flags": [{"kind": "off centre", "reason": "20 cents sharp", "hurt": 1.2}]},
    )  # fmt: skip

    def test_the_worst_first_of_one_kind_or_all(self) -> None:
        for kind, starts in ((None, [1, 0, 3]), ("loud", [0, 1]), ("drifting", [])):
            self.assertEqual([n["start_s"] for n in self.call("flags", "byHurt", list(self.NOTES), kind)], starts)

    def test_kinds_are_counted(self) -> None:
        self.assertEqual(self.call("flags", "countKinds", list(self.NOTES)), [["loud", 2], ["off centre", 2]])
        self.assertEqual(self.call("flags", "flagsText", self.NOTES[1]), "off centre: 40 cents flat; loud: 4 dB")

    def test_the_singer_in_words(self) -> None:
        for usual, lean, words in ((16.8, 23.4, "Usually ±17 ct as sung, all 23 ct sharp"), (0.9, -3, "Usually ±1 ct as sung"),
                                   (12, -9, "Usually ±12 ct as sung, all 9 ct flat")):  # fmt: skip
            self.assertEqual(self.call("flags", "singerText", usual, lean), words)

    def test_what_is_left_in_seconds(self) -> None:
        phrases = [{"start_s": 0, "end_s": 4, "done": True}, {"start_s": 5, "end_s": 8, "done": False}]
        self.assertEqual(self.call("flags", "leftToDo", phrases), [3, 7])
        self.assertEqual(self.call("flags", "leftToDo", []), [0, 0])


class TappingTest(ModuleCase):
    def test_tempo_of_taps(self) -> None:
        even = [2.0 + 0.5 * i for i in range(8)]
        loose = [t + (0.02 if i % 2 else -0.02) for i, t in enumerate(even)]
        one_missed = even[:3] + even[4:]
        after_a_pause = [0.0, 0.9, *[30.0 + 0.5 * i for i in range(5)]]
        for name, taps, bpm in (("even", even, 120), ("loose", loose, 120), ("one missed", one_missed, 120),
                                ("after a pause", after_a_pause, 120)):  # fmt: skip
            with self.subTest(name):
                self.assertAlmostEqual(self.call("tapping", "tempoOfTaps", taps)["bpm"], bpm, delta=2)
        self.assertAlmostEqual(self.call("tapping", "tempoOfTaps", even)["first_s"], 2.0, places=9)
        for few in ([], [1.0], [1, 2, 3], [1, 1, 1, 1]):
            self.assertIsNone(self.call("tapping", "tempoOfTaps", few))


class PlacesTest(ModuleCase):
    """Bars and beats as they are typed."""

    def test_read_and_written(self) -> None:
        for typed, bar, beat, text in (("9", 9, 1, "9"), (" 12.3 ", 12, 3, "12.3"), ("4.2.5", 4, 2.5, "4.2.5")):
            place = self.call("places", "readPlace", typed)
            with self.subTest(typed):
                self.assertEqual(place, {"bar": bar, "beat": beat})
                self.assertEqual(self.call("places", "placeText", place), text)
        for typed in ("", "nine", "-1", "9.", "9.x", "1 2"):
            self.assertIsNone(self.call("places", "readPlace", typed), typed)

    def test_in_order(self) -> None:
        self.assertLess(self.call("places", "byPlace", {"bar": 2}, {"bar": 2, "beat": 3}), 0)
        self.assertGreater(self.call("places", "byPlace", {"bar": 3}, {"bar": 2, "beat": 3}), 0)
