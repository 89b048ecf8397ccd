"""Words on notes, searching, and notes that clash: the screen's plain logic, table by table."""

from typing import Any

from tests.web.modules import ModuleCase

NOTES = [{"id": f"n{i}", "phrase": i // 3, "start_s": i * 1.0, "end_s": i + 0.8} for i in range(6)]


def syllable(text: str, word: str, part: int, count: int, place: int, note: str, phrase: int = 0) -> dict[str, Any]:
    return {"text": text, "word": word, "part": part, "count": count, "place": place, "note_id": note,
            "phrase": phrase, "by_hand": False}  # fmt: skip


SYLLABLES = [syllable("Lan", "Lantern,", 0, 2, 0, "n0"), syllable("tern,", "Lantern,", 1, 2, 1, "n2"),
             syllable("one", "one", 0, 1, 0, "n3", 1), syllable("two", "two", 0, 1, 1, "n3", 1)]  # fmt: skip


class SungOnTest(ModuleCase):
    def test_what_is_sung_on_notes(self) -> None:
        script = "async ([n, s]) => [...(await import('/lyrics.js')).sungOn(n, s)].map(([k, v]) => [k, v.text, v.word])"
        self.assertEqual(self.page.evaluate(script, [NOTES, SYLLABLES]),
                         [["n0", "Lan-", "Lantern,"], ["n1", "", "Lantern,"], ["n2", "tern,", "Lantern,"],
                          ["n3", "one two", "one two"], ["n4", "", "two"], ["n5", "", "two"]])  # fmt: skip

    def test_words_and_their_syllables(self) -> None:
        self.assertEqual(self.many("lyrics", "plainWord", [["“Hold,”"], ["lan·tern"], ["don't"], ["…"], ["ÉTÉ"]]),
                         ["hold", "lantern", "don't", "…", "été"])  # fmt: skip
        self.assertEqual(self.call("lyrics", "wordOf", SYLLABLES, SYLLABLES[1]), SYLLABLES[:2])


class FindTest(ModuleCase):
    def test_what_is_found(self) -> None:
        begins = {"text": "hold", "part": 0}
        note = {"flags": [{"kind": "drifting"}]}
        here = {"note": note, "sung": {"word": "Hold,", "text": "Hold,", "begins": begins}, "pitch": "G♯4", "place": "16.2"}
        later = {**here, "sung": {"word": "lantern", "text": "tern", "begins": {"text": "tern", "part": 1}}}
        held = {**here, "sung": {"word": "lantern", "text": "", "begins": None}, "note": {"flags": []}}
        for typed, sought, wanted in (
            ("hold", here, True), ("Ho", here, True), ("old", here, False), ("bar 16", here, True),
            ("bar 16.2", here, True), ("bar 1", here, False), ("g#4", here, True), ("G♯4", here, True),
            ("g4", here, False), ("flag", here, True), ("drifting", here, True), ("loud", here, False), ("", here, False),
            ("lantern", later, False), ("tern", later, True), ("lantern", held, False), ("flag", held, False),
            ("hold", {**here, "sung": None}, False),
        ):  # fmt: skip
            with self.subTest(typed=typed, word=sought["sung"] and sought["sung"]["word"]):
                self.assertEqual(self.call("find", "matches", sought, typed), wanted)

    def test_the_next_goes_round(self) -> None:
        rows = [[[1, 2, 3], 1, 1], [[1, 2, 3], 3, 1], [[1, 2, 3], 1, -1], [[1, 2, 3], 2.5, -1], [[], 1, 1]]
        self.assertEqual(self.many("find", "nextOf", rows), [1, 0, 2, 1, -1])


class ClashTest(ModuleCase):
    def test_notes_held_a_semitone_beside_a_chord(self) -> None:
        chords = [{"start_s": 0, "end_s": 2, "label": "C:maj", "title": "C", "classes": [0, 4, 7]},
                  {"start_s": 2, "end_s": 4, "label": "N", "title": "no chord", "classes": []}]  # fmt: skip
        for start, end, midi, wanted in ((0, 1, 65, "C"), (0, 1, 64, ""), (0, 0.2, 65, ""), (1.8, 2.0, 61, ""),
                                         (2.5, 3.5, 61, ""), (0, 1, 62, "")):  # fmt: skip
            note = {"start_s": start, "end_s": end, "midi": midi}
            self.assertEqual(self.call("chord_place", "clashOf", chords, note, 0.5), wanted, note)


class MoveTest(ModuleCase):
    def test_a_syllable_goes_to_the_nearest_note_of_its_phrase(self) -> None:
        for at, wanted in ((0.5, "n0"), (0.95, "n1"), (1.0, "n1"), (2.95, "n2"), (3.4, None), (-0.2, "n0"), (-0.4, None)):
            found = self.call("move_syllable", "noteNear", NOTES, 0, at)
            self.assertEqual(found and found["id"], wanted, at)


class KeysTest(ModuleCase):
    def test_no_press_does_two_things_in_one_place(self) -> None:
        script = """async () => (await import('/keys.js')).KEYS.map(
            ({ on, where, inAir, words }) => [on, where ?? 'sheet', inAir ?? false, words])"""
        taken: dict[tuple[str, str, bool], str] = {}
        for presses, where, in_air, words in self.page.evaluate(script):
            for press in presses:
                for place in ("sheet", "comp", "stack") if where == "everywhere" else (where,):
                    key = press, place, in_air
                    self.assertNotIn(key, taken, f"{press}: {words}")
                    taken[key] = words
