"""Derived tracks: they share the recording, are edited like any other, and catch up with what they are made of."""

import numpy as np
import soundfile as sf

from glass_thread.core.document.operations.registry import parse_operation
from glass_thread.core.signal.errors import ParameterError
from glass_thread.core.signal.types import Floats
from glass_thread.services.history.edit import Done, edit
from glass_thread.services.history.previews import Previews
from glass_thread.services.linked.catching_up import catch_up
from glass_thread.services.linked.deriving import derive, name_of, try_voices
from glass_thread.services.prints.printing import print_file, request_print
from glass_thread.services.song.song_steps import undo_song
from glass_thread.services.song.songs import change_song
from glass_thread.services.voices.following import links_shown
from glass_thread.services.voices.melodies import melody_match, typed_melody
from glass_thread.services.work.here import run_task
from glass_thread.store.records import Track
from glass_thread.store.sweep import sweep
from tests.services.case import TakeCase

THIRD = {"type": "harmony", "steps": 2, "human": 0.0}


class DerivedTest(TakeCase):
    def edit(self, track: Track, **operation: object) -> Done:
        return edit(self.desk, track.id, operation, base=str(self.desk.at(track.id).step_id))

    def sound(self, track: Track) -> Floats:
        take = self.desk.take(self.desk.at(track.id))
        return take.span(0, take.length)[0]

    def behind(self, track: Track) -> bool:
        (link,) = links_shown(self.desk, self.desk.at(track.id))
        return link.behind

    def up(self, track: Track) -> Done:
        return catch_up(self.desk, track.id, base=str(self.desk.at(track.id).step_id))

    def test_a_harmony_is_a_track_of_its_own_over_the_same_recording(self) -> None:
        (track,) = derive(self.desk, self.track.id, THIRD)
        self.assertEqual((track.name, track.role, track.level_db, track.derived_from),
                         ("Third above", "harmony", -3.0, self.track.id))  # fmt: skip
        self.assertEqual(track.audio_hash, self.track.audio_hash)
        content = self.desk.at(track.id).content
        self.assertEqual(set(content.notes), set(self.now().content.notes))
        self.assertTrue(all(edited.gesture.pull == 1.0 for edited in content.notes.values()))
        self.assertEqual([s.number for s in self.work.history.path(str(self.desk.at(track.id).step_id))], [1, 0])
        mine, lead = self.sound(track), self.sound(self.track)
        least = min(len(mine), len(lead))
        self.assertGreater(float(np.abs(mine[:least] - lead[:least]).max()), 0.01)
        self.edit(track, type="move", note_ids=["n0001"], cents=20)
        self.assertNotEqual(self.desk.at(track.id).content.notes["n0001"], content.notes["n0001"])
        self.assertEqual(self.now().content.notes["n0001"].gesture.pull, 0.0)  # the lead is as it was

    def test_a_voice_of_some_notes_is_silent_elsewhere(self) -> None:
        names = list(self.now().content.notes)
        for operation in ({**THIRD, "note_ids": names[:2]}, {"type": "double", "note_ids": names[:2]}):
            (track,) = derive(self.desk, self.track.id, operation)
            notes = self.desk.at(track.id).content.notes
            sound, rate = self.sound(track), track.sample_rate
            (start, end), (after, last) = notes[names[1]].span_s, notes[names[2]].span_s
            sung = sound[round(start * rate) : round(end * rate)]
            self.assertGreater(float(np.sqrt(np.mean(sung**2))), 0.01)
            rest = sound[round((after + 0.05) * rate) :]
            self.assertEqual(float(np.abs(rest).max()), 0.0)
            self.assertGreater(last - after, 0.1)

    def test_what_is_tried_is_what_is_made_and_nothing_of_it_is_stored(self) -> None:
        previews = Previews(self.desk)
        some = list(self.now().content.notes)[:2]
        for operation, voices in (({**THIRD, "note_ids": some}, 1), ({"type": "double"}, 2)):
            before, tracks = self.now(), len(self.work.tracks.of_song(self.track.song_id))
            tried = try_voices(self.desk, previews, self.track.id, operation, voices=voices)
            self.assertEqual(self.now().step_id, before.step_id)
            self.assertEqual(len(self.work.tracks.of_song(self.track.song_id)), tracks)
            made = derive(self.desk, self.track.id, operation, voices=voices)
            for (preview, place), track in zip(tried, made, strict=True):
                take = self.desk.take(previews.standing(self.track.id, preview.id))
                np.testing.assert_array_equal(take.span(0, take.length)[0], self.sound(track))
                self.assertEqual(
                    (place.pan, round(self.track.level_db + place.level_db, 1)), (track.pan, track.level_db)
                )
        with self.assertRaisesRegex(ParameterError, "1 to 4 voices"):
            try_voices(self.desk, previews, self.track.id, {"type": "double"}, voices=5)

    def test_a_harmony_on_a_melody_leaves_out_what_that_does_not_have(self) -> None:
        notes = list(self.now().content.notes.values())
        melody = [[*one.span_s, one.note.centre_midi + 4.0] for one in notes[:3]]
        (track,) = derive(self.desk, self.track.id, {"type": "harmony", "melody": melody, "human": 0.0})
        self.assertEqual(track.name, "Harmony")
        content = self.desk.at(track.id).content
        tuned = [content.notes[one.note.id].gesture.target_midi for one in notes[:3]]
        np.testing.assert_allclose(tuned, [row[2] for row in melody])
        sound, rate = self.sound(track), track.sample_rate
        start, end = notes[3].span_s
        self.assertEqual(float(np.abs(sound[round((start + 0.06) * rate) : round(end * rate)]).max()), 0.0)
        found = melody_match(self.desk, self.now(), [], [*melody, [90.0, 91.0, 60.0]], "time")
        self.assertEqual((found.alone, found.melody_alone), ([one.note.id for one in notes[3:]], [3]))
        by_order = melody_match(self.desk, self.now(), [notes[1].note.id], [[90.0, 91.0, 60.0]], "order")
        self.assertEqual((by_order.alone, by_order.melody_alone), ([], []))
        self.do(type="nudge", note_ids=[notes[0].note.id], values={"level_db": -2.0})
        self.assertTrue(self.behind(track))
        self.up(track)
        self.assertEqual(len(self.desk.at(track.id).content.gaps), len(content.gaps))

    def test_no_two_tracks_are_called_the_same(self) -> None:
        names = [derive(self.desk, self.track.id, THIRD)[0].name for _ in range(3)]
        self.assertEqual(names, ["Third above", "Third above 2", "Third above 3"])
        double = {"type": "double"}
        several = [track.name for track in derive(self.desk, self.track.id, double, voices=2)]
        one = derive(self.desk, self.track.id, double)[0].name
        more = [track.name for track in derive(self.desk, self.track.id, double, voices=2)]
        lead = self.track.name
        self.assertEqual(several, [f"{lead} double 1", f"{lead} double 2"])
        self.assertEqual(one, f"{lead} double")
        self.assertEqual(more, [f"{lead} double 3", f"{lead} double 4"])

    def test_a_line_can_be_typed(self) -> None:
        typed = typed_melody(self.desk, self.song.id, "E4, F#4 – Bb3\n- C5+20")
        self.assertEqual(typed[:5], [64.0, 66.0, None, 58.0, None])
        self.assertAlmostEqual(typed[5] or 0.0, 72.2)
        for wrong, words in (("E4 H9", "note 2, “H9”"), ("– –", "Type"), ("  ", "Type"), ("E99999", "note 1")):
            with self.assertRaisesRegex(ParameterError, words):
                typed_melody(self.desk, self.song.id, wrong)

    def test_several_voices_of_a_double_each_have_their_own_place(self) -> None:
        made = derive(self.desk, self.track.id, {"type": "double", "seed": 9}, voices=3)
        together = 10 * np.log10(sum(10 ** (track.level_db / 10) for track in made))
        self.assertAlmostEqual(float(together), -4.0, delta=0.1)  # as loud as one would be
        self.assertEqual([track.pan for track in made], [-0.6, 0.0, 0.6])
        self.assertEqual(len({track.name for track in made}), 3)
        sounds = [self.desk.at(track.id).content.notes for track in made]
        self.assertNotEqual(sounds[0], sounds[1])
        for wrong, voices in (({"type": "double"}, 5), (THIRD, 2), ({"type": "tune", "note_ids": ["n0001"]}, 1)):
            with self.assertRaises(ParameterError):
                derive(self.desk, self.track.id, wrong, voices=voices)
        self.assertEqual(len(self.work.tracks.of_song(self.song.id)), 4)

    def test_it_catches_up_and_keeps_what_was_edited_by_hand(self) -> None:
        (track,) = derive(self.desk, self.track.id, {"type": "harmony", "semitones": 4.0, "human": 0.0})
        self.edit(track, type="set", note_ids=["n0002"], values={"level_db": -5.0})
        self.assertFalse(self.behind(track))
        self.do(type="set", note_ids=["n0001", "n0002"], values={"target_midi": 61.0, "pull": 1.0})
        self.do(type="split", note_id="n0004", at_s=3.3, exact=True)
        self.assertTrue(self.behind(track))
        done = self.up(track)
        content = self.desk.at(track.id).content
        self.assertEqual(content.notes["n0002"].gesture.level_db, -5.0)  # a hand's, while its pitch is still the rule's
        self.assertEqual([content.notes[name].gesture.target_midi for name in ("n0001", "n0002")], [65.0, 65.0])
        self.assertEqual(set(content.notes), set(self.now().content.notes))
        self.assertFalse(self.behind(track))
        assert done.step is not None
        self.assertIsNone(self.up(track).step)

    def test_a_change_of_key_puts_a_harmony_behind_and_catching_up_brings_its_thirds_along(self) -> None:
        change_song(self.work, self.song.id, {"tonic": 0, "scale": "major"})
        self.do(type="tune", note_ids=list(self.now().content.notes))
        (track,) = derive(self.desk, self.track.id, THIRD)
        (octave,) = derive(self.desk, self.track.id, {"type": "harmony", "semitones": 12.0, "human": 0.0})
        before = self.desk.at(track.id).content.notes
        mine = next(iter(before))
        self.edit(track, type="move", note_ids=[mine], cents=30.0)
        by_hand = self.desk.at(track.id).content.notes[mine].gesture
        self.assertFalse(self.behind(track))
        change_song(self.work, self.song.id, {"tonic": 0, "scale": "natural minor"})
        self.assertTrue(self.behind(track))
        self.assertFalse(self.behind(octave))  # an octave is one in every key
        self.up(track)
        self.assertFalse(self.behind(track))
        after = self.desk.at(track.id).content.notes
        self.assertEqual((after[mine].gesture.target_midi, after[mine].gesture.pull),
                         (by_hand.target_midi, by_hand.pull))  # fmt: skip
        (fresh,) = derive(self.desk, self.track.id, THIRD)
        asked = {name: one.gesture.target_midi for name, one in self.desk.at(fresh.id).content.notes.items()}
        got = {name: one.gesture.target_midi for name, one in after.items()}
        self.assertEqual({**got, mine: 0.0}, {**asked, mine: 0.0})
        self.assertNotEqual(got, {name: one.gesture.target_midi for name, one in before.items()})
        undo_song(self.desk, self.song.id)  # the fresh one
        undo_song(self.desk, self.song.id)  # catching up
        undo_song(self.desk, self.song.id)  # the key
        self.assertFalse(self.behind(track))

    def test_it_is_printed_and_outlives_what_it_is_made_of(self) -> None:
        (track,) = derive(self.desk, self.track.id, THIRD)
        wanted = self.sound(track)
        task = request_print(self.desk, track.id, {"container": "wav", "bits": 32})
        run_task(self.work, task.id)
        done = self.work.tasks.get(task.id)
        self.assertEqual(done.state, "done", done.message)
        printed, _rate = sf.read(str(print_file(self.desk, self.work.prints.get(done.id))))
        np.testing.assert_allclose(printed, wanted, atol=1e-6)
        self.work.tracks.forget([self.track.id])
        sweep(self.work.database, self.work.folder)
        fresh = type(self.desk)(self.work)
        take = fresh.take(fresh.at(track.id))
        np.testing.assert_array_equal(take.span(0, take.length)[0], wanted)
        self.assertEqual(links_shown(fresh, fresh.at(track.id)), [])
        with self.assertRaisesRegex(ParameterError, "not made|removed|no such"):
            try:
                self.up(track)
            except Exception as error:
                raise ParameterError(str(error)) from error

    def test_names(self) -> None:
        table = (({"steps": 2}, "Third above"), ({"steps": -5}, "Sixth below"), ({"semitones": -12.0}, "Octave below"),
                 ({"semitones": 2.5}, "2.5 semitones above"))  # fmt: skip
        for fields, name in table:
            rule = parse_operation({"type": "harmony", **fields})
            self.assertEqual(name_of(rule), name)  # type: ignore[arg-type]
