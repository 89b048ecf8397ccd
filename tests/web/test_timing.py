"""Time on the screen, table by table: dragging in time, typed moments, tempo that changes, and maps that arrive."""

import numpy as np

from glass_thread.core.song.beats import Meter, TempoChange, grid_lines, tempo_map
from tests.web.modules import ModuleCase
from tests.web.test_gestures import VIEW, GestureCase, at, note

METER = {"tempo": 120, "beats_per_bar": 4, "beat_unit": 4, "bar_one_s": 0.0}
CHANGES = [
    {"bar": 3, "beat": 1, "tempo": 60, "beats_per_bar": 3, "beat_unit": 4},
    {"bar": 4, "beat": 2, "tempo": 90, "beats_per_bar": 3, "beat_unit": 4},
    {"bar": 6, "beat": 1, "tempo": 90, "beats_per_bar": 6, "beat_unit": 8},
]


class MoveTimeTest(GestureCase):
    def drag(self, places: list[dict], *, chosen: tuple[str, ...] = ("n1",), **values: object) -> dict:
        drag = {"noteIds": list(chosen), "edge": "both", "place_s": 1.0, "fromX": 100, "secondsPerPixel": 0.01,
                "follow": False, "meter": METER, "room": None, **values}  # fmt: skip
        script = """async ([drag, note, chosen, places]) => {
          const { timeGesture } = await import("/move_time.js");
          const gesture = timeGesture(drag, note, new Set(chosen));
          const shown = places.map((at) => gesture.move(at)).at(-1) ?? null;
          const ending = gesture.end(places.at(-1));
          return { shown, ending: { ...ending, selection: ending.selection && [...ending.selection] } };
        }"""
        return self.page.evaluate(script, [drag, note(), list(chosen), places])

    def by(self, places: list[dict], **values: object) -> float | None:
        operation = self.drag(places, **values)["ending"].get("operation")
        return operation and operation["by_ms"]

    def test_how_far_it_moves(self) -> None:
        table = (
            ([at(x=102)], {}, None),
            ([at(x=104)], {}, 40),
            ([at(x=104.3)], {}, 45),
            ([at(x=104.3, grain="fine")], {}, 43),
            ([at(x=108, grain="coarse")], {}, 125),
            ([at(x=108, grain="coarse")], {"meter": None}, 80),
            ([at(x=110, grain="coarse")], {"place_s": 1.03}, 95),
            ([at(x=150)], {"room": {"least_ms": -20, "most_ms": 312.5}}, 312.5),
            ([at(x=50)], {"room": {"least_ms": -20, "most_ms": 312.5}}, -20),
            ([at(x=150), at(x=101)], {}, None),
        )
        for places, values, wanted in table:
            with self.subTest(places=places, values=values):
                self.assertEqual(self.by(places, **values), wanted)

    def test_what_follows_stays_with_alt(self) -> None:
        for follow, alone, wanted in ((True, False, True), (True, True, False), (False, False, False)):
            done = self.drag([at(x=120, alone=alone)], follow=follow)
            self.assertEqual(done["ending"]["operation"]["follow"], wanted)

    def test_a_press_alone_chooses(self) -> None:
        self.assertEqual(self.drag([at(x=100)], chosen=("n1", "n2"))["ending"]["selection"], ["n1"])
        self.assertIsNone(self.drag([at(x=100)])["ending"].get("selection"))

    def test_edges_are_near_the_ends_and_short_notes_keep_a_middle(self) -> None:
        for x, start, end, wanted in ((101, 100, 200, "start"), (150, 100, 200, "both"), (196, 100, 200, "end"),
                                      (104, 100, 108, "both"), (101, 100, 108, "start")):  # fmt: skip
            self.assertEqual(self.call("move_time", "edgeUnder", x, start, end), wanted)

    def test_a_pin_is_dragged_by_its_head(self) -> None:
        pins = [{"id": "p1", "at_s": 1.0, "track_s": 1.0}, {"id": "p2", "at_s": 5.0, "track_s": 5.0}]
        script = """async ([x, pins]) => (await import("/move_pin.js")).pinUnder(x, pins, (s) => 100 * s)?.id ?? null"""
        self.assertEqual([self.page.evaluate(script, [x, pins]) for x in (97, 90, 504)], ["p1", None, "p2"])
        drag = {"pinId": "p1", "fromX": 100, "secondsPerPixel": 0.01}
        done = self.play("move_pin", "pinGesture", [drag], [at(x=112.3)])
        self.assertEqual(done["ending"]["operation"], {"type": "move_pins", "pin_ids": ["p1"], "by_ms": 125})
        self.assertIsNone(self.play("move_pin", "pinGesture", [drag], [at(x=101)])["ending"]["operation"])


class TempoMapTest(ModuleCase):
    song = {**METER, "tempo_changes": CHANGES}

    def test_bars_lie_where_the_core_puts_them(self) -> None:
        meters = tempo_map(Meter(0.0, 120.0), [TempoChange(**change) for change in CHANGES])
        view = {**VIEW, "start_s": -3, "end_s": 40}
        lines = self.call("grid", "beatLines", view, self.song, 100)
        np.testing.assert_allclose([one["time_s"] for one in lines], grid_lines(meters, "beat", -3, 40), atol=1e-9)
        bars = [one for one in lines if one["isBar"]]
        np.testing.assert_allclose([one["time_s"] for one in bars], grid_lines(meters, "bar", -3, 40), atol=1e-9)
        self.assertEqual([one["bar"] for one in bars], list(range(bars[0]["bar"], bars[0]["bar"] + len(bars))))

    def test_moments_as_text_and_back(self) -> None:
        for song in (METER, self.song, {**METER, "bar_one_s": 1.3, "tempo": 84}):
            for moment in (0.1, 1.5, 3.999, 4.0, 6.2, 9.4, 17.77, 30.0):
                text = self.call("time_text", "beatText", moment, song)
                again = self.call("time_text", "readMoment", text, song)
                self.assertAlmostEqual(again, moment, delta=0.0006, msg=text)

    def test_typed_moments(self) -> None:
        table = (
            ("1:04.25", METER, 64.25), ("64.25 s", METER, 64.25), ("3", METER, 4.0), ("3.2", METER, 4.5),
            ("3.2 +35", METER, 4.535), ("3.2 −35 ms", METER, 4.465), ("3.5", METER, None), ("-1.1", METER, -2.0),
            ("4,25", None, 4.25), ("x", METER, None), ("", None, None), ("1:75", METER, 135.0),
        )  # fmt: skip
        for typed, meter, wanted in table:
            with self.subTest(typed=typed):
                self.assertEqual(self.call("time_text", "readMoment", typed, meter), wanted)


class MapThatArrivesTest(ModuleCase):
    def test_only_what_changed_is_laid_in(self) -> None:
        rng = np.random.default_rng(3)
        for _ in range(40):
            old, new = (np.sort(rng.uniform(0, 9, int(rng.integers(0, 7)))).tolist() for _ in range(2))
            shared = [11.0, 12.0][: int(rng.integers(0, 3))]
            before, after = old + shared, new + shared
            change = {"head": 0, "tail": len(shared), "source_s": new, "track_s": new}
            laid = self.call("times", "withAnchors", {"source_s": before, "track_s": before}, change)
            self.assertEqual(laid, {"source_s": after, "track_s": after})
        same = {"source_s": [1.0], "track_s": [2.0]}
        self.assertEqual(self.call("times", "withAnchors", same, None), same)
