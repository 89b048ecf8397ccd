"""Chords: their names by the syntax of Harte et al., and how right what is heard is, by mir_eval."""

import unittest

import mir_eval
import numpy as np

from glass_thread.bench.finding.chord_backings import QUALITIES as PLAYED
from glass_thread.bench.finding.chord_backings import RATE, STYLES, chord_backing
from glass_thread.bench.finding.chords import demo_chords, plain_chords, shares
from glass_thread.core.signal.recording import held
from glass_thread.core.song.beats import Meter, TempoChange, tempo_map
from glass_thread.core.song.harmony.chord_names import QUALITIES, Chord
from glass_thread.core.song.harmony.hearing import _beats, hear_chords
from glass_thread.core.song.harmony.pitch_strength import FIRST, note_strength
from glass_thread.demo import backing


class ChordNamesTest(unittest.TestCase):
    def test_labels_mean_the_same_to_an_independent_reader(self) -> None:
        """mir_eval's encoding of the syntax (C. Raffel et al., "mir_eval", ISMIR 2014): root, and steps over it."""
        for quality, (steps, _short) in QUALITIES.items():
            for root in range(12):
                chord = Chord(root, quality)
                found_root, bitmap, _bass = mir_eval.chord.encode(chord.label)
                self.assertEqual((found_root, tuple(np.flatnonzero(bitmap))), (root, steps), chord.label)
                self.assertEqual(set(chord.classes), {(root + step) % 12 for step in steps})
        self.assertEqual(mir_eval.chord.encode(Chord(None).label)[0], -1)

    def test_names_as_musicians_write_them(self) -> None:
        self.assertEqual([Chord(10, "min7").title(flats=True), Chord(10, "maj").title(), Chord(None).title()],
                         ["B♭m7", "A♯", "no chord"])  # fmt: skip


class HearingTest(unittest.TestCase):
    def heard(self, audio: np.ndarray, rate: int, *meters: Meter) -> list[tuple[float, float, str]]:
        return [(one.start_s, one.end_s, one.chord.label) for one in hear_chords(held(audio, rate), meters)]

    def test_the_demo_is_right_nearly_all_the_time(self) -> None:
        sound = backing.play(44_100)[:, : 44_100 * 24]
        wanted = [one for one in demo_chords() if one[1] < 24.0]
        found = self.heard(sound, 44_100, Meter(0.0, 84.0))
        self.assertGreater(shares(wanted, found)[1], 0.95)

    def test_another_sound_off_pitch_is_heard_better_than_by_templates(self) -> None:
        made = chord_backing("organ, 35 cents flat", 21)
        wanted = list(made.chords)
        found = self.heard(made.audio[None], RATE, Meter(0.0, made.tempo))
        right, plain = shares(wanted, found), shares(wanted, plain_chords(made.audio[None], RATE, made.tempo))
        self.assertGreater(right[0], 0.85)
        self.assertGreater(right[0], plain[0] + 0.05)
        self.assertGreater(right[1], plain[1] + 0.05)

    def test_by_how_much_music_is_off_is_heard(self) -> None:
        for name, cents in (("organ, 35 cents flat", -35.0), ("strings with sevenths, 30 cents sharp", 30.0)):
            made = chord_backing(name, 5)
            part = made.audio[None, : 20 * RATE]
            self.assertAlmostEqual(note_strength(held(part, RATE)).off_cents, cents, delta=4.0)

    def test_notes_that_sound_are_the_strongest(self) -> None:
        t = np.arange(3 * RATE) / RATE
        sounding = (48, 64, 67)
        tone = sum(
            np.sin(2 * np.pi * 440.0 * 2 ** ((midi - 69) / 12) * k * t) / k for midi in sounding for k in (1, 2, 3)
        )
        notes = note_strength(held(0.1 * np.asarray(tone)[None], RATE)).notes[15]
        self.assertEqual({int(place) + FIRST for place in np.argsort(notes)[-3:]}, set(sounding))

    def test_silence_has_no_chord(self) -> None:
        found = self.heard(np.zeros((1, 6 * RATE)), RATE, Meter(0.0, 120.0))
        self.assertEqual({label for *_span, label in found}, {"N"})
        (short,) = self.heard(np.zeros((1, 10)), RATE, Meter(5.0, 120.0))
        self.assertEqual(short[2], "N")

    def test_beats_follow_the_tempo_map(self) -> None:
        meters = tempo_map(Meter(0.7, 120.0), [TempoChange(2, 60.0, 3, 4)])
        beats, places = _beats(meters, 6.5)
        np.testing.assert_allclose(beats, [0.0, 0.2, 0.7, 1.2, 1.7, 2.2, 2.7, 3.7, 4.7, 5.7, 6.5])
        np.testing.assert_allclose(places, [0.5, 0.75, 0.0, 0.25, 0.5, 0.75, 0.0, 1 / 3, 2 / 3, 0.0])

    def test_the_material_has_what_it_says(self) -> None:
        for name in STYLES:
            made = chord_backing(name, 3)
            self.assertLess(float(np.abs(made.audio).max()), 4.0)
            for _begin, _end, label in made.chords:
                steps = mir_eval.chord.encode(label)[1]
                self.assertEqual(tuple(np.flatnonzero(steps)), PLAYED[label.split(":")[1]])
