"""Places on the sheet, table by table; extremes of curves against NumPy."""

from __future__ import annotations

import numpy as np

from tests.web.modules import ModuleCase
from tests.web.test_gestures import VIEW, note


class ExtremesTest(ModuleCase):
    def extremes(self, values: np.ndarray, spans: list[tuple[int, int]]) -> list:
        script = """async ([values, spans]) => {
          const { extremesIn } = await import("/extremes.js");
          const curve = Float32Array.from(values, (v) => v ?? NaN);
          return spans.map(([a, b]) => [...extremesIn(curve, a, b)].map((v) => (Number.isNaN(v) ? null : v)));
        }"""
        plain = [None if np.isnan(value) else float(value) for value in values]
        return self.page.evaluate(script, [plain, spans])

    def test_any_span_has_the_extremes_that_numpy_finds(self) -> None:
        rng = np.random.default_rng(4)
        values = rng.standard_normal(500).astype(np.float32)
        values[rng.random(500) < 0.4] = np.nan
        values[100:180] = np.nan
        spans = [tuple(sorted(map(int, rng.integers(0, 501, 2)))) for _ in range(200)] + [(110, 150), (0, 500), (7, 7)]
        for (a, b), found in zip(spans, self.extremes(values, spans), strict=True):
            part = values[a:b][~np.isnan(values[a:b])]
            with self.subTest(span=(a, b)):
                self.assertEqual(found, [float(part.min()), float(part.max())] if len(part) else [None, None])


class ViewportTest(ModuleCase):
    def test_there_and_back(self) -> None:
        lanes = self.call("viewport", "layLanes", 1000, 700)
        for time_s in (0.0, 2.5, 9.99):
            x = self.call("viewport", "timeToX", time_s, VIEW, lanes)
            self.assertAlmostEqual(self.call("viewport", "xToTime", x, VIEW, lanes), time_s)
        for midi in (50, 61.37, 70):
            y = self.call("viewport", "midiToY", midi, VIEW, lanes)
            self.assertAlmostEqual(self.call("viewport", "yToMidi", y, VIEW, lanes), midi)

    def test_pitches_are_held_in_sight_by_the_least_move(self) -> None:
        view = {**VIEW, "low": 50.0, "high": 62.0}
        table = (
            ([], (50, 62)),
            ([52, 60], (50, 62)),
            ([55, 64], (53.5, 65.5)),
            ([49, 55], (47.5, 59.5)),
            ([45, 63], (43.5, 64.5)),  # they do not fit
        )
        for pitches, wanted in table:
            with self.subTest(pitches=pitches):
                held = self.call("viewport", "holdPitches", view, pitches)
                self.assertEqual((held["low"], held["high"]), wanted)
                self.assertEqual((held["start_s"], held["end_s"]), (view["start_s"], view["end_s"]))

    def test_lanes_fill_the_sheet(self) -> None:
        for height in (300, 500, 800, 1200):
            lanes = self.call("viewport", "layLanes", 900, height)
            self.assertEqual(lanes["ruler"] + sum(lanes[lane]["height"] for lane in ("pitch", "air", "level")), height)
            self.assertEqual(lanes["air"]["top"], lanes["pitch"]["top"] + lanes["pitch"]["height"])

    def test_a_lane_that_is_made_higher_takes_it_of_the_pitch_lane(self) -> None:
        usual = {"air": 58, "level": None}
        table = (
            ("air", 100, {"air": 100, "level": None}),
            ("air", 5, {"air": 34, "level": None}),
            ("level", 150.4, {"air": 58, "level": 150}),
            ("level", 5000, {"air": 58, "level": 320}),
        )
        for lane, height, wanted in table:
            sizes = self.call("viewport", "withLane", usual, lane, height)
            self.assertEqual(sizes, wanted)
            for sheet in (260, 420, 700):
                lanes = self.call("viewport", "layLanes", 900, sheet, sizes)
                with self.subTest(lane=lane, height=height, sheet=sheet):
                    self.assertGreaterEqual(lanes["pitch"]["height"], 80)
                    if sheet == 700:
                        self.assertEqual(lanes[lane]["height"], wanted[lane])
                        self.assertEqual(lanes["level"]["top"] + lanes["level"]["height"], sheet)

    def test_views_stay_around_the_recording(self) -> None:
        for start, end, low, high in ((-50, -40, 0, 10), (500, 600, 100, 140), (5, 5.01, 60, 60.5), (-9, 999, 20, 119)):
            view = self.call("viewport", "clampView", {**VIEW, "start_s": start, "end_s": end, "low": low, "high": high}, 60)
            with self.subTest(start=start, end=end, low=low, high=high):
                self.assertGreaterEqual(view["start_s"], -1)
                self.assertLessEqual(view["end_s"], 61.001)
                self.assertGreaterEqual(view["end_s"] - view["start_s"], 0.399)
                self.assertGreaterEqual(view["high"] - view["low"], 3)
                self.assertGreaterEqual(view["low"], 12)
                self.assertLessEqual(view["high"], 120)

    def test_zooming_keeps_the_place_under_the_pointer(self) -> None:
        for at, factor in ((3.0, 0.5), (0.0, 2.0), (9.0, 1.1)):
            near = self.call("viewport", "zoomTime", VIEW, at, factor)
            was = (at - VIEW["start_s"]) / (VIEW["end_s"] - VIEW["start_s"])
            self.assertAlmostEqual((at - near["start_s"]) / (near["end_s"] - near["start_s"]), was)

    def test_lines_of_time(self) -> None:
        for scale, step in ((1000, 0.1), (100, 1), (30, 5), (0.5, 300), (0.01, 600)):
            self.assertEqual(self.call("grid", "secondStep", scale), step)
        meter = {"tempo": 120, "beats_per_bar": 4, "beat_unit": 4, "bar_one_s": 0.5}
        lines = self.call("grid", "beatLines", {**VIEW, "end_s": 4.6}, meter, 100)
        bars = [(line["time_s"], line["bar"]) for line in lines if line["isBar"]]
        self.assertEqual([(time, bar) for time, bar in bars if bar >= 1], [(0.5, 1), (2.5, 2), (4.5, 3)])


class HitTest(ModuleCase):
    def test_handles(self) -> None:
        lanes = self.call("viewport", "layLanes", 1000, 700)
        notes = [note("a", 0.2, 1.0), note("b", 1.0, 2.0), note("c", 3.0, 4.0)]
        for index, kinds in ((0, ["start", "end"]), (1, ["start", "end", "glide"]), (2, ["start", "end"])):
            handles = self.call("handles", "handlesOf", notes[index], notes, VIEW, lanes)
            self.assertEqual([handle["kind"] for handle in handles], kinds)
            for handle in handles:
                for dx, dy, hit in ((0, 0, True), (9, -9, True), (10, 0, False), (0, 12, False)):
                    found = self.call("handles", "handleAt", handle["x"] + dx, handle["y"] + dy, [handle])
                    self.assertEqual(found is not None, hit)

    def test_air_and_its_edges(self) -> None:
        lanes = self.call("viewport", "layLanes", 1058, 700)  # 100 pixels a second from 58 on
        air = [{"id": "wide", "start_s": 1.0, "end_s": 2.0}, {"id": "slim", "start_s": 3.0, "end_s": 3.05}]
        for x, event, side in ((158, "wide", "start"), (162, "wide", "start"), (200, "wide", None), (256, "wide", "end"),
                               (262, "wide", "end"), (150, None, None), (360, "slim", None), (355, "slim", "start"),
                               (366, "slim", "end"), (400, None, None)):  # fmt: skip
            hit = self.call("air", "airAt", x, air, VIEW, lanes)
            with self.subTest(x=x):
                self.assertEqual((hit and hit["event"]["id"], hit and hit["side"]), (event, side))


class DotsTest(ModuleCase):
    def test_dots_are_as_small_as_the_fullest_pile_asks(self) -> None:
        rows = [[[], 300, 52], [[1, 2, 3], 300, 52], [[0.0] * 5 + [100], 300, 52], [[0.0] * 20 + [100], 300, 52],
                [[0.0] * 200 + [100], 300, 52], [[i / 100 for i in range(101)], 300, 52]]  # fmt: skip
        found = self.many("dot_radius", "dotRadius", rows)
        for radius, wanted in zip(found, (2.6, 2.6, 2.6, 1.3, 1.0, 2.6), strict=True):
            self.assertAlmostEqual(radius, wanted, places=6)


class FreePlaceTest(ModuleCase):
    SCRIPT = """async ([note, size, notes, pitches, view, lanes]) => {
      const { freePlace, covers } = await import("/free_place.js");
      const curve = Float32Array.from(pitches, (v) => v ?? NaN);
      const curves = { sung: curve, tuned: curve, hop_s: 0.01 };
      const at = freePlace(note, size, notes, curves, view, lanes);
      return at && { ...at, covers: covers(at, size, notes, curves, view, lanes) };
    }"""

    def test_a_panel_lies_over_nothing_while_there_is_room(self) -> None:
        lanes = self.call("viewport", "layLanes", 1000, 700)
        size = {"width": 300, "height": 110}
        for midi in (52, 56, 60, 64, 68):
            notes = [note(f"n{i}", 1.2 * i, 1.2 * i + 1, midi + (i % 3) * 0.5) for i in range(8)]
            pitches = [None] * 1000
            for one in notes:
                for frame in range(int(100 * one["start_s"]), int(100 * one["end_s"])):
                    pitches[frame] = one["centre_midi"]
            for chosen in notes:
                place = self.page.evaluate(self.SCRIPT, [chosen, size, notes, pitches, VIEW, lanes])
                with self.subTest(midi=midi, note=chosen["id"]):
                    self.assertFalse(place["covers"])
                    self.assertGreater(place["left"], lanes["gutter"])
                    self.assertLess(place["left"] + size["width"], lanes["width"])
                    self.assertGreater(place["top"], lanes["ruler"])
                    self.assertLess(place["top"] + size["height"], lanes["air"]["top"])

    def test_without_room_there_is_no_place(self) -> None:
        lanes = self.call("viewport", "layLanes", 1000, 700)
        notes = [note(f"n{i}", 0.0, 10.0, 50.0 + i) for i in range(25)]
        pitches = [50.0 + 20.0 * (i % 7) / 7.0 for i in range(1000)]
        size = {"width": 300, "height": 110}
        self.assertIsNone(self.page.evaluate(self.SCRIPT, [notes[3], size, notes, pitches, VIEW, lanes]))
