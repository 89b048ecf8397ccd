"""Gestures table by table: where the pointer goes, what is shown meanwhile, and what is asked for at the end."""

from __future__ import annotations

from typing import Any

from glass_thread.core.song.keys import make_tuning
from tests.web.modules import ModuleCase

VIEW = {"start_s": 0, "end_s": 10, "times": {"offset_s": 0, "source_s": [], "track_s": []}, "low": 50, "high": 70}
LINES = [line._asdict() for line in make_tuning(0, "major").lines]
PLAY = """async ([module, begin, given, places]) => {
  const gesture = (await import(`/${module}.js`))[begin](...given);
  const shown = places.map((at) => gesture.move(at));
  return { shown: shown.at(-1) ?? null, ending: gesture.end(places.at(-1) ?? {}) };
}"""


def note(name: str = "n1", start_s: float = 1.0, end_s: float = 2.0, midi: float = 60.3, **gesture: Any) -> dict:
    """A note as the server sends it, as far as gestures look at it."""
    asked = {"pull": 1, "rounding": "scale", "glide_ms": 60, "glide_bend": 0, **gesture}
    return {"id": name, "start_s": start_s, "end_s": end_s, "centre_midi": midi, "target_midi": round(midi),
            "gesture": asked}  # fmt: skip


def at(x: float = 0, y: float = 0, time_s: float = 0, **held: Any) -> dict:
    """A place of the pointer."""
    place = {"x": x, "y": y, "time_s": time_s, "song_s": time_s, "midi": 60, "grain": "own", "alone": False,
             "adding": False}  # fmt: skip
    return {**place, **held}


class GestureCase(ModuleCase):
    def play(self, module: str, begin: str, given: list[Any], places: list[dict]) -> dict:
        """Begin a gesture, go to every place, and let go at the last."""
        return self.page.evaluate(PLAY, [module, begin, given, places])


class NoteTest(GestureCase):
    def drag(self, ids: list[str], y: float, *, leaves: bool = False, **held: Any) -> dict:
        drag = {"note": note(), "noteIds": ids, "fromY": 100, "perPixel": -0.1, "moved": False}
        script = PLAY.replace("[begin](...given)", "[begin](given[0], given[1], new Set(given[2]), given[3])")
        script = script.replace("return {", "const plain = gesture.end(places.at(-1)); return {").replace(
            "ending: gesture.end(places.at(-1) ?? {})",
            "ending: { ...plain, selection: plain.selection ? [...plain.selection] : undefined }",
        )
        return self.page.evaluate(script, ["drag_note", "noteGesture", [drag, LINES, ids, leaves], [at(y=y, **held)]])

    def test_where_a_drag_ends(self) -> None:
        for y, grain, target in ((80, "own", 62), (103, "own", 60), (90, "fine", 61.0), (91, "fine", 60.9),
                                 (0, "coarse", 72), (60, "coarse", 60), (220, "coarse", 48)):  # fmt: skip
            with self.subTest(y=y, grain=grain):
                ended = self.drag(["n1"], y, grain=grain)["ending"]["operation"]
                self.assertEqual((ended["type"], ended["note_ids"]), ("set", ["n1"]))
                self.assertAlmostEqual(ended["values"]["target_midi"], target)

    def test_several_move_together(self) -> None:
        ended = self.drag(["n1", "n2"], 80)["ending"]["operation"]
        self.assertEqual((ended["type"], ended["note_ids"]), ("move", ["n1", "n2"]))
        self.assertAlmostEqual(ended["cents"], 200)

    def test_a_press_alone_chooses(self) -> None:
        for ids, leaves, adding, selection in ((["n1"], False, False, None), (["n1", "n2"], False, False, ["n1"]),
                                               (["n1", "n2"], True, True, ["n2"]), (["n1", "n2"], False, True, None)):  # fmt: skip
            with self.subTest(ids=ids, leaves=leaves, adding=adding):
                ended = self.drag(ids, 101, leaves=leaves, adding=adding)["ending"]
                self.assertIsNone(ended.get("operation"))
                self.assertEqual(ended.get("selection"), selection)


class HandleTest(GestureCase):
    def test_edges_leave_the_note_a_length(self) -> None:
        for side, time_s, wanted in (("start", 0.7, 0.7), ("start", 5.0, 1.96), ("end", 2.4, 2.4), ("end", 0.0, 1.04),
                                     ("start", -3.0, 0.0)):  # fmt: skip
            for alone in (False, True):
                with self.subTest(side=side, time_s=time_s, alone=alone):
                    given = [side, note(), {"x": 0, "y": 0}]
                    done = self.play("drag_handle", "handleGesture", given, [at(time_s=time_s, alone=alone)])
                    operation = done["ending"]["operation"]
                    self.assertEqual((operation["type"], operation["side"]), ("move_edge", side))
                    self.assertEqual(operation["follow"], not alone)
                    self.assertAlmostEqual(operation["at_s"], wanted)

    def test_glides(self) -> None:
        for dx, dy, ms, bend in ((0, 0, 60, 0), (20, 0, 100, 0), (-90, 0, 10, 0), (900, 0, 400, 0), (0, 30, 60, -0.5),
                                 (0, -90, 60, 1), (0, 3, 60, 0)):  # fmt: skip
            given = ["glide", note(), {"x": 10, "y": 10}]
            done = self.play("drag_handle", "handleGesture", given, [at(10 + dx, 10 + dy)])
            with self.subTest(dx=dx, dy=dy):
                self.assertEqual(done["ending"]["operation"]["values"], {"glide_ms": ms, "glide_bend": bend})

    def test_a_glide_that_is_as_sung_is_dragged_from_the_usual_length(self) -> None:
        sung = {**note(), "gesture": {**note()["gesture"], "glide_ms": None}}
        done = self.play("drag_handle", "handleGesture", ["glide", sung, {"x": 10, "y": 10}], [at(20, 10)])
        self.assertEqual(done["ending"]["operation"]["values"]["glide_ms"], 90)

    def test_a_press_alone_asks_for_nothing(self) -> None:
        self.assertEqual(self.play("drag_handle", "handleGesture", ["end", note(), {"x": 0, "y": 0}], []),
                         {"shown": None, "ending": {"operation": None}})  # fmt: skip


class LevelStretchTest(GestureCase):
    STRETCH = {"id": "l1", "start_s": 1.0, "end_s": 1.5, "level_db": -3.0, "muted": False, "fade_ms": 20}  # noqa: RUF012

    def drag(self, part: str, **to: object) -> dict | None:
        hit = {"stretch": {**self.STRETCH, **to.pop("stretch", {})}, "part": part}
        done = self.play("drag_level_stretch", "stretchGesture", [hit, 100], [at(**to)])
        operation = done["ending"]["operation"]
        return operation and operation["values"]

    def test_its_ends_keep_it_a_length(self) -> None:
        for part, time_s, wanted in (("start", 1.2, (1.2, 1.5)), ("start", 2.0, (1.48, 1.5)), ("start", -1, (0, 1.5)),
                                     ("end", 1.9, (1.0, 1.9)), ("end", 0.2, (1.0, 1.02))):  # fmt: skip
            values = self.drag(part, time_s=time_s)
            with self.subTest(part=part, time_s=time_s):
                self.assertAlmostEqual(values["start_s"], wanted[0])
                self.assertAlmostEqual(values["end_s"], wanted[1])
                self.assertEqual(values["level_db"], -3.0)

    def test_its_cap_goes_by_steps(self) -> None:
        for y, grain, db in ((80, "own", 2.0), (80, "fine", -2.0), (80, "coarse", 3.0), (300, "own", -24), (-200, "own", 12)):
            with self.subTest(y=y, grain=grain):
                self.assertEqual(self.drag("cap", y=y, grain=grain)["level_db"], db)
        self.assertIsNone(self.drag("cap", y=99))

    def test_a_silent_one_stays_silent_until_its_cap_is_dragged(self) -> None:
        self.assertNotIn("level_db", self.drag("end", time_s=1.8, stretch={"muted": True}))
        self.assertEqual(self.drag("cap", y=60, stretch={"muted": True})["level_db"], -14)

    def test_a_new_one_either_way_along(self) -> None:
        for from_s, to_s in ((1.0, 1.4), (1.4, 1.0)):
            done = self.play("drag_level_stretch", "newStretchGesture", [from_s, -3], [at(time_s=to_s)])
            self.assertEqual(done["ending"]["operation"],
                             {"type": "level_stretch", "start_s": 1.0, "end_s": 1.4, "level_db": -3})  # fmt: skip
        short = self.play("drag_level_stretch", "newStretchGesture", [1.0, -3], [at(time_s=1.01)])
        self.assertIsNone(short["ending"]["operation"])


class LaneTest(GestureCase):
    LEVEL = {"kind": "level", "of": "note", "ids": ["n1"], "fromY": 100, "moved": False}

    def test_levels(self) -> None:
        for y, grain, db in ((90, "own", 5), (90, "fine", 1), (90, "coarse", 6), (110, "own", -5), (96, "coarse", 3),
                             (101, "own", None)):  # fmt: skip
            with self.subTest(y=y, grain=grain):
                done = self.play("drag_in_lane", "laneGesture", [self.LEVEL, [], False], [at(y=y, grain=grain)])
                operation = done["ending"].get("operation")
                self.assertEqual(operation and operation["values"]["level_db"], db)

    def test_air_edges_and_levels(self) -> None:
        event = {"id": "a1", "start_s": 1.0, "end_s": 1.2}
        for side, time_s, wanted in (("start", 0.9, 0.9), ("start", 3.0, 1.185), ("end", 0.5, 1.015), ("end", 1.5, 1.5)):
            drag = {"kind": "air_edge", "event": event, "side": side}
            done = self.play("drag_in_lane", "laneGesture", [drag, ["a1"], False], [at(time_s=time_s)])
            with self.subTest(side=side, time_s=time_s):
                self.assertEqual(done["ending"]["operation"]["type"], "move_air_edge")
                self.assertAlmostEqual(done["ending"]["operation"]["at_s"], wanted)
        drag = {**self.LEVEL, "of": "air", "ids": ["a1"]}
        done = self.play("drag_in_lane", "laneGesture", [drag, ["a1"], False], [at(y=106)])
        self.assertEqual(done["ending"]["operation"], {"type": "nudge_air", "air_ids": ["a1"], "by_db": -3})

    def test_stretches_stay_marked_and_a_press_places_the_cursor(self) -> None:
        for to, playing, ending in (
            (4.0, False, {"sketch": {"kind": "stretch", "start_s": 3.0, "end_s": 4.0, "done": True}}),
            (2.0, False, {"sketch": {"kind": "stretch", "start_s": 2.0, "end_s": 3.0, "done": True}}),
            (3.01, False, {"cursor_s": 3.01}),
            (3.01, True, {}),
        ):
            drag = {"kind": "stretch", "from_s": 3.0}
            with self.subTest(to=to, playing=playing):
                done = self.play("drag_in_lane", "laneGesture", [drag, [], playing], [at(time_s=to)])
                self.assertEqual(done["ending"], ending)


class DrawTest(GestureCase):
    def drawn(self, times: list[float], *, exact: bool = False, **held: Any) -> Any:
        places = [at(time_s=time_s, **{"midi": 60 + time_s, **held}) for time_s in times]
        done = self.play("draw_line", "lineGesture", [{"time_s": 1.0, "midi": 61.0}, exact], places)
        return done["ending"]["operation"]

    def test_lines(self) -> None:
        for times, held, wanted in (
            ([1.1, 1.2], {}, [1.0, 1.1, 1.2]),
            ([1.1, 1.2, 1.15], {}, [1.0, 1.1, 1.15]),  # going back rubs out
            ([1.1, 1.2, 1.3], {"alone": True}, [1.0, 1.3]),  # straight
            ([1.1, 1.1004, 1.102], {}, [1.0, 1.102]),  # the later of two that are too near
            ([0.5], {}, None),
        ):
            with self.subTest(times=times, **held):
                operation = self.drawn(times, **held)
                self.assertEqual(operation and [round(time, 3) for time, _ in operation["points"]], wanted)
        self.assertEqual([self.drawn([1.2], exact=exact)["keep_fine"] for exact in (False, True)], [True, False])

    def test_rubbing_out_goes_both_ways(self) -> None:
        for to, span in ((3.0, (2.0, 3.0)), (1.0, (1.0, 2.0))):
            operation = self.play("rub_out", "rubGesture", [2.0], [at(time_s=to)])["ending"]["operation"]
            self.assertEqual((operation["type"], operation["start_s"], operation["end_s"]), ("rub_out", *span))

    def test_the_cursor_never_goes_before_the_song(self) -> None:
        for song_s, cursor in ((3.5, 3.5), (-2.0, 0)):
            done = self.play("place_cursor", "cursorGesture", [], [at(song_s=song_s)])
            self.assertEqual(done, {"shown": {"cursor_s": cursor}, "ending": {}})


class FrameTest(GestureCase):
    def test_a_frame_chooses_what_it_touches(self) -> None:
        lanes = self.call("viewport", "layLanes", 1000, 700)
        notes = [note(f"n{i}", i, i + 0.8, 58.0 + i) for i in range(6)]
        x = [self.call("viewport", "timeToX", time_s, VIEW, lanes) for time_s in (1.1, 3.5)]
        y = [self.call("viewport", "midiToY", midi, VIEW, lanes) for midi in (70, 50)]
        script = PLAY.replace("[begin](...given)", "[begin](given[0], given[1], new Set(given[2]))")
        script = script.replace("shown.at(-1)", "[...shown.at(-1).selection]")
        for before, to_y, wanted in (([], y[1], ["n1", "n2", "n3"]), (["n5"], y[1], ["n5", "n1", "n2", "n3"]),
                                     ([], y[0] + 1, [])):  # fmt: skip
            places = [at(x[1], to_y, view=VIEW, lanes=lanes)]
            given = [{"x": x[0], "y": y[0]}, notes, before]
            with self.subTest(before=before, to_y=to_y):
                done = self.page.evaluate(script, ["choose_notes", "frameGesture", given, places])
                self.assertEqual(done["shown"], wanted)


class KeyTest(ModuleCase):
    """A change of key is dragged from bar to bar; with Shift from beat to beat."""

    METER = {"tempo": 120, "beats_per_bar": 4, "beat_unit": 4, "bar_one_s": 0, "tempo_changes": [
        {"bar": 3, "beat": 1, "tempo": 60, "beats_per_bar": 3, "beat_unit": 4}]}  # fmt: skip
    CHANGES = [{"bar": 2, "beat": 1, "tonic": 4, "scale": "major"}, {"bar": 9, "beat": 1, "tonic": 0, "scale": "dorian"}]

    def test_the_nearest_place(self) -> None:
        """Bars of 2 s up to bar 3 at 4 s, then of 3 s, with beats of a second."""
        for at_s, bar, fine in ((0.2, 1, (1, 1)), (0.9, 1, (1, 3)), (1.1, 2, (1, 3)), (4.4, 3, (3, 1)), (5.6, 4, (3, 3)),
                                (-3.0, 1, (1, 1)), (6.9, 4, (4, 1))):  # fmt: skip
            with self.subTest(at_s):
                self.assertEqual(self.call("move_key", "nearestPlace", at_s, self.METER, False), {"bar": bar, "beat": 1})
                found = self.call("move_key", "nearestPlace", at_s, self.METER, True)
                self.assertEqual((found["bar"], found["beat"]), fine)

    def drag(self, *places: dict, index: int = 0) -> dict:
        drag = {"index": index, "changes": self.CHANGES, "fromX": 100, "meter": self.METER}
        return self.page.evaluate(PLAY, ["move_key", "keyGesture", [drag], list(places)])

    def test_it_is_asked_for_at_the_end(self) -> None:
        done = self.drag(at(104, 5, 4.3))
        self.assertEqual(done["shown"]["sketch"], {"kind": "key", "at_s": 4, "words": "bar 3"})
        self.assertEqual(done["ending"]["keyChanges"], [self.CHANGES[1], {**self.CHANGES[0], "bar": 3}])
        fine = self.drag(at(104, 5, 4.9, grain="fine"))
        self.assertEqual(fine["shown"]["sketch"]["words"], "bar 3.2")

    def test_a_press_alone_asks_for_nothing(self) -> None:
        self.assertEqual(self.drag(at(101, 5, 4.3))["ending"], {})

    def test_it_takes_the_place_of_another(self) -> None:
        done = self.drag(at(300, 5, 22.0))
        self.assertEqual(done["ending"]["keyChanges"], [{**self.CHANGES[0], "bar": 9}])

    def test_the_mark_under_the_pointer(self) -> None:
        script = """async ([x, marks]) => (await import("/move_key.js")).markUnder(x, marks, (at) => 10 * at)"""
        for x, found in ((19, 0), (26, 0), (27, -1), (90, 1)):
            self.assertEqual(self.page.evaluate(script, [x, [2, 9]]), found)
