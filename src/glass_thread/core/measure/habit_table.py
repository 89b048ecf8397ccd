"""What a singer may tend to do: which notes tell, from how much on it is a habit, and how it is said.

From when on something is a habit and what to practise is common practice, no source, but for the usual rate of vibrato,
5 to 7 Hz (Prame 1994), and its extent, ±34 to ±123 cents with a mean of ±71 (Prame 1997; both from memory): of
those ten singers of songs and operas the wider ones are not as usual, and others sing with less than any of them.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from .observations import Observed

_LEAP, _REPEATED = 6.5, 0.3  # semitones
_REGISTER = 20.0  # percent of the notes that are the high or the low ones
_SLOW_HZ, _FAST_HZ = 5.0, 7.0
_USUAL_EXTENT, _EXTENT_WITHIN = 65.0, 40.0
_LEAST_OF_A_WORD = 6


@dataclass(frozen=True)
class Seen:
    """A note as one habit looks at it: its place among all that were looked at, and the value."""

    place: int
    value: float


@dataclass(frozen=True)
class Habit:
    """Something a singer may tend to do.

    `look` picks notes with a value each; it is a habit when their middle is sure to lie more than `over` from `usual`.
    With `of_centres` it is about how far some notes' centres are off against others', so that several may be one.
    """

    name: str
    unit: str
    over: float
    least: int
    look: Callable[[Sequence[Observed]], list[Seen]]
    above: str
    below: str
    well: str
    practise: tuple[str, str]
    usual: float = 0.0
    of_centres: bool = False


def _usual(notes: Sequence[Observed]) -> float:
    return float(np.median([note.off for note in notes])) if notes else 0.0


def _against_usual(chosen: Callable[[Observed], bool]) -> Callable[[Sequence[Observed]], list[Seen]]:
    """How far some notes are off, against how far the singer's others are."""

    def look(notes: Sequence[Observed]) -> list[Seen]:
        usual = _usual([note for note in notes if not chosen(note)])
        return [Seen(i, note.off - usual) for i, note in enumerate(notes) if chosen(note)]

    return look


def _value(of: Callable[[Observed], float]) -> Callable[[Sequence[Observed]], list[Seen]]:
    return lambda notes: [Seen(i, of(note)) for i, note in enumerate(notes)]


def _register(high: bool) -> Callable[[Sequence[Observed]], list[Seen]]:
    def look(notes: Sequence[Observed]) -> list[Seen]:
        if not notes:
            return []
        border = float(np.percentile([note.target for note in notes], 100.0 - _REGISTER if high else _REGISTER))
        middle = float(np.median([note.target for note in notes]))
        if abs(border - middle) < 3.0:  # a line of few pitches has no registers
            return []
        far = [note.target >= border if high else note.target <= border for note in notes]
        usual = _usual([note for note, one in zip(notes, far, strict=True) if not one])
        return [Seen(i, note.off - usual) for i, (note, one) in enumerate(zip(notes, far, strict=True)) if one]

    return look


def _repeated(notes: Sequence[Observed]) -> list[Seen]:
    return [Seen(i, note.off - notes[i - 1].off) for i, note in enumerate(notes)
            if i and abs(note.interval) < _REPEATED]  # fmt: skip


def _louder_above(notes: Sequence[Observed]) -> list[Seen]:
    """Level of the highest notes over that of the others."""
    if not notes:
        return []
    border = float(np.percentile([note.target for note in notes], 100.0 - _REGISTER))
    rest = [note.level_db for note in notes if note.target < border]
    usual = float(np.median(rest)) if rest else 0.0
    return [Seen(i, note.level_db - usual) for i, note in enumerate(notes) if note.target >= border]


HABITS: tuple[Habit, ...] = (
    Habit("tuning", "cents", 8.0, 12, _value(lambda n: n.off),
          "Everything is sung {size} cents sharp", "Everything is sung {size} cents flat",
          "On the whole the singing is neither sharp nor flat",
          ("Sing against a steady tone and listen for the beating to stop.",) * 2),
    Habit("phrase starts", "cents", 10.0, 6, _against_usual(lambda n: n.first),
          "First notes of phrases are {size} cents sharp of the others",
          "First notes of phrases are {size} cents flat of the others",
          "First notes of phrases are as true as the rest",
          ("Hear the first pitch inwardly before you breathe in.",) * 2, of_centres=True),
    Habit("phrase onsets", "cents", 30.0, 6, _value(lambda n: n.start if n.first else float("nan")),
          "Starts of phrases come in {size} cents from above", "Starts of phrases come in {size} cents from below",
          "Starts of phrases come in on their pitch",
          ("Begin on the pitch with a light h, without pushing.",
           "Begin on the pitch with a light h, not from below.")),
    Habit("arrival", "ms", 60.0, 6, _value(lambda n: n.arrives_ms if n.first else float("nan")),
          "Starts of phrases take {size} ms to arrive", "Starts of phrases take {size} ms to arrive", "",
          ("Practise single onsets: on pitch at once, then silence.",) * 2, usual=60.0),
    Habit("phrase ends", "cents", 25.0, 6, _value(lambda n: n.end),
          "Ends of phrases rise by {size} cents", "Ends of phrases fall by {size} cents",
          "Ends of phrases keep their pitch",
          ("Let the breath end the note, not the throat.", "Keep the support until after the note has ended.")),
    Habit("held notes", "cents a second", 6.0, 6, _value(lambda n: n.sag),
          "Held notes rise by {size} cents a second", "Held notes sag by {size} cents a second",
          "Held notes stay where they are",
          ("Hold notes with less and less breath against a drone.",
           "Hold notes against a drone, each a little longer.")),
    Habit("leaps up", "cents", 8.0, 5, _against_usual(lambda n: n.interval >= _LEAP),
          "Leaps up of a fifth and more land {size} cents sharp", "Leaps up of a fifth and more land {size} cents flat",
          "Leaps up land where they should",
          ("Sing the leap slowly on ng, then with its vowel.",) * 2, of_centres=True),
    Habit("leaps down", "cents", 8.0, 5, _against_usual(lambda n: n.interval <= -_LEAP),
          "Leaps down of a fifth and more land {size} cents sharp",
          "Leaps down of a fifth and more land {size} cents flat", "Leaps down land where they should",
          ("Keep the upper note's place while you sing the lower one.",) * 2, of_centres=True),
    Habit("steps up", "cents", 8.0, 8, _against_usual(lambda n: _REPEATED < n.interval <= 2.5),
          "Steps up are {size} cents too wide", "Steps up are {size} cents too narrow", "",
          ("Practise the scale against a drone on its first note.",) * 2, of_centres=True),
    Habit("steps down", "cents", 8.0, 8, _against_usual(lambda n: -2.5 <= n.interval < -_REPEATED),
          "Steps down stay {size} cents too high", "Steps down go {size} cents too low", "",
          ("Practise falling scales against a drone on the last note.",) * 2, of_centres=True),
    Habit("repeated notes", "cents", 6.0, 6, _repeated,
          "Repeated notes climb by {size} cents", "Repeated notes sink by {size} cents", "Repeated notes stay together",
          ("Sing repeated notes as one long note with words on it.",) * 2, of_centres=True),
    Habit("high notes", "cents", 8.0, 6, _register(high=True),
          "High notes are {size} cents sharp of the others", "High notes are {size} cents flat of the others",
          "High notes are as true as the rest",
          ("Less breath and a rounder vowel above.", "A brighter vowel and more support above."), of_centres=True),
    Habit("low notes", "cents", 8.0, 6, _register(high=False),
          "Low notes are {size} cents sharp of the others", "Low notes are {size} cents flat of the others",
          "Low notes are as true as the rest",
          ("Let low notes rest on the speaking voice.",) * 2, of_centres=True),
    Habit("vibrato", "Hz", (_FAST_HZ - _SLOW_HZ) / 2.0, 6, _value(lambda n: n.vibrato_hz),
          "Vibrato is fast: {size} Hz", "Vibrato is slow: {size} Hz", "Vibrato runs at a usual {size} Hz",
          ("Sing long notes with less pressure.", "Pulse long notes with the breath, slowly faster."),
          usual=(_SLOW_HZ + _FAST_HZ) / 2.0),
    Habit("vibrato extent", "cents", _EXTENT_WITHIN, 6, _value(lambda n: n.vibrato_cents),
          "Vibrato is wide: {size} cents to each side", "Vibrato is narrow: {size} cents to each side",
          "Vibrato is as wide as usual: {size} cents to each side",
          ("Sing long notes straight and let the vibrato come in late and small.",
           "Let the jaw and tongue go on long notes, so that the vibrato can open."), usual=_USUAL_EXTENT),
    Habit("vibrato regularity", "%", 16.0, 6, _value(lambda n: n.vibrato_uneven),
          "Vibrato is uneven: its cycles vary by {size} %", "", "Vibrato is even: its cycles vary by {size} %",
          ("Pulse long notes with the breath, counting four to a beat.",) * 2),
    Habit("breath at ends", "dB", 4.0, 6, _value(lambda n: n.breath_db),
          "Ends of phrases turn breathy: {size} dB more air in the tone", "Ends of phrases darken by {size} dB",
          "Ends of phrases keep their tone",
          ("Close the note with the ear on its last moment, not on the breath that follows.",
           "Keep the vowel as bright at its end as at its beginning.")),
    Habit("timing", "ms", 15.0, 10, _value(lambda n: n.late_ms),
          "Notes come {size} ms after the beat", "Notes come {size} ms before the beat", "Notes come with the beat",
          ("Speak the words in time with a click, vowels on the beat.",) * 2),
    Habit("with the lead", "ms", 15.0, 10, _value(lambda n: n.after_lead_ms),
          "Notes come {size} ms after the lead", "Notes come {size} ms before the lead", "Notes come with the lead",
          ("Record with the lead louder in the headphones, and breathe with it.",) * 2),
    Habit("level", "dB", 4.0, 6, _louder_above,
          "High notes are {size} dB louder than the others", "High notes are {size} dB softer than the others", "",
          ("Sing high phrases at half voice.", "Carry the breath on into high notes.")),
)  # fmt: skip


def word_habits(notes: Sequence[Observed]) -> list[Habit]:
    """What a singer may tend to do on single words: those that begin often enough to tell."""
    counts = Counter(note.word for note in notes if note.word)
    return [habit for word in sorted(counts) if counts[word] >= _LEAST_OF_A_WORD for habit in _of_word(word)]


def _of_word(word: str) -> tuple[Habit, Habit]:
    """How far a word is off against the others, and from where its starts come in."""

    def begins(note: Observed) -> bool:
        return note.word == word

    hear = f"Sing “{word}” by itself on its pitch, then the line up to it."
    starts = _value(lambda note: note.start if begins(note) else float("nan"))
    return (
        Habit(f"word {word}", "cents", 10.0, _LEAST_OF_A_WORD, _against_usual(begins),
              f"“{word}” is {{size}} cents sharp of the other words",
              f"“{word}” is {{size}} cents flat of the other words", "", (hear, hear), of_centres=True),
        Habit(f"starts of {word}", "cents", 30.0, _LEAST_OF_A_WORD, starts,
              f"Starts of “{word}” come in {{size}} cents from above",
              f"Starts of “{word}” come in {{size}} cents from below", "", (hear, hear)),
    )  # fmt: skip
