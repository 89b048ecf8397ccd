"""The screen's plain logic, table by table, and against the core's where both have it."""

import numpy as np

from glass_thread.core.song.keys import Temper, make_tuning, parse_key
from glass_thread.core.plan.times import TrackTimes
from glass_thread.formats.scala import read_scale
from glass_thread.services.session.keys import KeyPlace, pitches_data
from tests.core.test_temperaments import NINETEEN
from tests.web.modules import ModuleCase

WAYS = {"sourceToTrack": "source_to_track", "trackToSource": "track_to_source", "trackToSong": "track_to_song",
        "songToTrack": "song_to_track", "sourceToSong": "source_to_song", "songToSource": "song_to_source"}  # fmt: skip


class TimesTest(ModuleCase):
    def test_it_converts_as_the_core_does(self) -> None:
        rng = np.random.default_rng(6)
        maps = [TrackTimes(), TrackTimes(3.25), TrackTimes(-1.5, (1.0,), (2.0,))]
        for _ in range(5):
            source, track = (np.cumsum(rng.uniform(0.1, 2.0, 6)) for _ in range(2))
            maps.append(TrackTimes(float(rng.uniform(-5, 5)), tuple(source.tolist()), tuple(track.tolist())))
        moments = [*rng.uniform(-4, 16, 40).tolist(), 0.0]
        for times in maps:
            plain = {"offset_s": times.offset_s, "source_s": times.source_s, "track_s": times.track_s}
            for name, own in WAYS.items():
                with self.subTest(way=name, times=times):
                    shown = self.many("times", name, [[moment, plain] for moment in moments])
                    np.testing.assert_allclose(shown, getattr(times, own)(moments), atol=1e-9)

    def test_there_and_back(self) -> None:
        times = TrackTimes(2.0, (0.5, 1.0, 3.0), (0.7, 1.6, 2.2))
        moments = np.linspace(-1, 5, 50)
        np.testing.assert_allclose(times.song_to_source(times.source_to_song(moments)), moments, atol=1e-12)

    def test_the_sheet_lays_moments_of_the_recording_where_they_lie_in_the_song(self) -> None:
        times = {"offset_s": 10, "source_s": [], "track_s": []}
        view = {"start_s": 10, "end_s": 20, "low": 50, "high": 70, "times": times}
        lanes = self.call("viewport", "layLanes", 1058, 600)
        self.assertEqual(self.call("viewport", "timeToX", 5, view, lanes), 558)
        self.assertEqual(self.call("viewport", "xToTime", 558, view, lanes), 5)
        self.assertEqual(self.call("viewport", "xToSong", 558, view, lanes), 15)
        self.assertEqual(self.call("viewport", "framesInView", view, 0.005, 1500), [0, 1500])
        shown = self.call("viewport", "clampView", {**view, "start_s": -50, "end_s": -40}, 60)
        self.assertEqual((shown["start_s"], shown["end_s"]), (9, 19))


class DeltaTest(ModuleCase):
    KINDS = ("notes", "air", "gaps", "pins", "glazes", "borrows", "links", "level_stretches")

    def merged(self, old: list[dict], kind: str = "notes", **delta: list) -> list[str]:
        none: dict[str, list] = {name: [] for name in self.KINDS}
        content = {**none, kind: old, "times": {"source_s": [], "track_s": []}, "step_id": "a"}
        change = {**none, "times": None, "gone": [], **delta}
        found = self.call("delta", "withDelta", content, change, {"step_id": "b", "version": {}})
        self.assertEqual(found["step_id"], "b")
        return [f"{item['id']}@{item['start_s']}" for item in found[kind]]

    def test_changed_new_and_gone_notes_in_order_of_time(self) -> None:
        old = [{"id": name, "start_s": start} for name, start in (("a", 1), ("b", 2), ("c", 3))]
        for delta, wanted in (
            ({}, "a@1 b@2 c@3"),
            ({"notes": [{"id": "b", "start_s": 2.5}]}, "a@1 b@2.5 c@3"),
            ({"notes": [{"id": "d", "start_s": 1.5}]}, "a@1 d@1.5 b@2 c@3"),
            ({"gone": ["a", "x"]}, "b@2 c@3"),
            ({"gone": ["b"], "notes": [{"id": "c", "start_s": 0.5}]}, "c@0.5 a@1"),
        ):
            with self.subTest(delta):
                self.assertEqual(" ".join(self.merged(old, **delta)), wanted)

    def test_every_kind_of_item_is_laid_in(self) -> None:
        old = [{"id": "a", "start_s": 1}, {"id": "b", "start_s": 2}]
        for kind in ("air", "gaps", "glazes", "borrows", "links", "level_stretches"):
            with self.subTest(kind):
                changed = {kind: [{"id": "b", "start_s": 3}, {"id": "c", "start_s": 4}], "gone": ["a"]}
                self.assertEqual(self.merged(old, kind, **changed), ["b@3", "c@4"])


class PitchTest(ModuleCase):
    """The screen computes no scale: it looks up what the server told."""

    def test_names_and_rounding_agree_with_the_core(self) -> None:
        rng = np.random.default_rng(3)
        pitches = rng.uniform(30, 95, 60).tolist()
        nineteen = Temper("scala", read_scale(NINETEEN))
        for tuning in (
            make_tuning(0, "major"), make_tuning(2, "natural minor", reference_hz=442.0),
            make_tuning(8, "harmonic minor", temper=Temper("just", reference_hz=432.0)),
            make_tuning(4, "minor pentatonic", temper=Temper("pythagorean")),
            make_tuning(2, "chromatic", temper=nineteen), make_tuning(2, "custom", classes=[1, 7], temper=nineteen),
        ):  # fmt: skip
            lines = [line._asdict() for line in tuning.lines]
            for rounding in ("scale", "semitone", "free"):
                shown = self.many("rounding", "roundPitch", [[pitch, lines, rounding] for pitch in pitches])
                np.testing.assert_allclose(shown, [tuning.nearest(pitch, rounding) for pitch in pitches], atol=1e-9)
            shown = self.many("pitch_names", "pitchLabel", [[pitch, lines] for pitch in pitches])
            self.assertEqual(shown, [tuning.label(pitch) for pitch in pitches])

    def test_the_key_at_a_moment_and_at_a_note(self) -> None:
        told = pitches_data([KeyPlace(-1e9, 0, 1.0, parse_key("C major")), KeyPlace(10.0, 6, 1.0, parse_key("Db major"))])
        song = {"pitches": told}
        for at_s, name in ((0.0, "C♯4"), (9.99, "C♯4"), (10.0, "D♭4"), (99.0, "D♭4")):
            lines = self.call("pitch_names", "linesAt", song, at_s)
            self.assertEqual(self.call("pitch_names", "pitchName", 61.2, lines), name, at_s)
        for start_s, end_s, name in ((9.5, 10.0, "C♯4 −30"), (9.95, 10.9, "D♭4 −30"), (9.93, 10.0, "C♯4 −30")):
            note = {"start_s": start_s - 2.0, "end_s": end_s - 2.0}
            self.assertEqual(self.call("pitch_names", "noteLabel", song, note, 60.7, {"offset_s": 2.0}), name)
        for target, midi, name in ((60.0, 60.58, "C4 +58"), (60.0, 59.3, "C4 −70"), (60.0, 61.1, "C♯4 +10"),
                                   (60.08, 60.08, "C4 +8"), (72.0, 60.0, "C4")):  # fmt: skip
            note = {"start_s": 0.0, "end_s": 1.0, "target_midi": target}
            self.assertEqual(self.call("pitch_names", "noteLabel", song, note, midi, {"offset_s": 0.0}), name)
        self.assertEqual(self.call("pitch_names", "keyMarks", song), [10.0])
        self.assertEqual(self.call("pitch_names", "keyMarks", {"pitches": None}), [])

    def test_typed_values(self) -> None:
        for typed, value, relative in (("80", 80, False), ("−3,5 dB", -3.5, False), ("by 5", 5, True), ("by −2", -2, True)):
            self.assertEqual(self.call("values", "readTyped", typed), {"value": value, "relative": relative})
        self.assertIsNone(self.call("values", "readTyped", "much"))

    def test_shift_is_finer_and_ctrl_coarser(self) -> None:
        lines = [line._asdict() for line in make_tuning(0, "major").lines]
        gesture = {"pull": 1, "rounding": "scale"}
        note = {"target_midi": 60, "centre_midi": 60.2, "gesture": gesture}
        for grain, target in (("own", 62), ("fine", 61.9), ("coarse", 60)):
            drag = self.call("drag_note", "beginDrag", note, ["n"], 100, 0.1)
            with self.subTest(grain):
                self.assertAlmostEqual(self.call("drag_note", "dragTo", drag, 81, lines, grain)["line"], target)
        level = {"kind": "level", "of": "note", "ids": ["n"], "fromY": 100, "moved": False}
        for grain, db in (("own", 10), ("fine", 2), ("coarse", 9)):
            sketch = self.call("drag_in_lane", "laneSketch", level, {"time_s": 0, "y": 80, "grain": grain})
            with self.subTest(grain):
                self.assertAlmostEqual(sketch["db"], db)
