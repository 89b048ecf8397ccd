"""What the comp view knows of moments and stretches, table by table."""

from tests.web.modules import ModuleCase

CHOICES = [
    {"id": "c1", "start_s": 0.0, "end_s": 2.0, "version_id": "a", "step_id": "s", "name": "A"},
    {"id": "c2", "start_s": 2.0, "end_s": 5.0, "version_id": "b", "step_id": "t", "name": "B"},
    {"id": "c3", "start_s": 5.0, "end_s": 9.0, "version_id": "a", "step_id": "s", "name": "A"},
]


def border(at: float, **more: object) -> dict:
    return {"choice_id": f"c{at}", "asked_s": at, "at_s": at, "length_ms": 15.0, "law": "equal gain", "clean": True,
            "cents": 0.0, "apart_ms": 0.0, **more}  # fmt: skip


class CompTest(ModuleCase):
    def test_what_sounds(self) -> None:
        comp = {"choices": CHOICES}
        for at, name in ((-1.0, "c1"), (0.0, "c1"), (1.99, "c1"), (2.0, "c2"), (8.0, "c3"), (99.0, "c3")):
            self.assertEqual(self.call("comp", "chosenAt", comp, at)["id"], name)
        for span, version in (((0.0, 2.0), "a"), ((1.0, 3.0), None), ((2.5, 4.0), "b"), ((6.0, 7.0), "a")):
            found = self.call("comp", "chosenOver", comp, {"start_s": span[0], "end_s": span[1]})
            self.assertEqual(found, version)

    def test_a_stretch_of_the_song_in_the_track(self) -> None:
        times = {"offset_s": 10.0, "source_s": [], "track_s": []}
        for song, track, version in (
            ((12.0, 15.0), (2.0, 5.0), "b"),
            ((9.0, 12.0), (0.0, 2.0), "a"),
            ((11.99, 15.01), (1.99, 5.01), "b"),
            ((11.0, 15.0), (1.0, 5.0), None),
        ):
            here = {"start_s": song[0], "end_s": song[1]}
            found = self.call("comp", "inTrack", here, times)
            self.assertAlmostEqual(found["start_s"], track[0])
            self.assertAlmostEqual(found["end_s"], track[1])
            self.assertEqual(self.call("comp", "chosenHere", {"choices": CHOICES}, here, times), version)

    def test_phrases_meet_in_the_middle_of_silence(self) -> None:
        phrases = [{"start_s": 4.0, "end_s": 6.0}, {"start_s": 1.0, "end_s": 3.0}, {"start_s": 8.0, "end_s": 9.0}]
        found = self.call("comp", "phraseStretches", phrases, 10.0)
        self.assertEqual([(s["start_s"], s["end_s"]) for s in found], [(0, 3.5), (3.5, 7), (7, 10)])
        self.assertEqual(self.call("comp", "phraseStretches", [], 10.0), [])

    def test_a_border_within_reach(self) -> None:
        comp = {"borders": [border(2.0), border(5.0)]}
        for at, wanted in ((2.04, 2.0), (4.96, 5.0), (3.5, None)):
            found = self.call("comp", "borderNear", comp, at, 0.05)
            self.assertEqual(found and found["asked_s"], wanted)

    def test_how_a_border_is_joined_in_words(self) -> None:
        for values, words in (
            ({}, "15 ms, equal gain"),
            ({"law": "none", "length_ms": 0.0}, "same sound"),
            ({"clean": False, "cents": 240.0}, "15 ms, equal gain: can be heard, 240 ct apart"),
            ({"clean": False, "apart_ms": 41.0, "law": "equal power"},
             "15 ms, equal power: can be heard, the two lie 41 ms apart"),
        ):  # fmt: skip
            self.assertEqual(self.call("comp", "borderText", border(1.0, **values)), words)

    def test_rows(self) -> None:
        for height, versions, wanted in ((634, 2, 200), (634, 4, 120), (334, 9, 30), (334, 24, 22)):
            layout = self.call("comp_rows", "layRows", height, versions)
            self.assertEqual([row["height"] for row in layout["rows"]], [wanted] * (versions + 1))
            for y, row in ((10, None), (40, -1), (34 + wanted + 1, 0), (34 + wanted * (versions + 1) + 5, None)):
                self.assertEqual(self.call("comp_rows", "rowAt", y, layout), row)

    def test_a_name_in_a_narrow_column(self) -> None:
        """With letters that are all 6 wide, in a column of 48: eight of them."""
        script = """async (rows) => {
            const { textLines } = await import("/text_lines.js");
            return rows.map(([text, most]) => textLines(text, 48, most, (t) => 6 * t.length));
        }"""
        rows = (
            ("Tuned", 3, ["Tuned"]),
            ("As sung", 3, ["As sung"]),
            ("Tuned and polished", 3, ["Tuned", "and", "polished"]),
            ("Tuned and polished", 2, ["Tuned", "and…"]),
            ("Tuned and polished", 1, ["Tuned…"]),
            ("Unbelievable", 3, ["Unbelie…"]),
            ("  a  b ", 3, ["a b"]),
            ("Extended take", 1, ["Extende…"]),
            ("", 3, []),
            ("Tuned", 0, []),
        )
        self.assertEqual(self.page.evaluate(script, [row[:2] for row in rows]), [row[2] for row in rows])
