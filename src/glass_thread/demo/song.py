"""“Lanterns on the Quay”: the demo's score, with the faults that people really meet.

Invented for this program: title, tune, words and faults.  D minor, 84 beats
a minute, four beats a bar, A4 = 440 Hz; bar 1 starts at 0 s.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from .score import Performance, SungAir, SungNote, SungVoice

TITLE = "Lanterns on the Quay"
TEMPO = 84.0
BEATS_PER_BAR = 4
TONIC, SCALE = 2, "natural minor"
BEAT_S = 60.0 / TEMPO
DURATION_S = 60.0
DOUBLED_PHRASES = (3, 4, 7, 8)

# One row a phrase: first bar (from 1), words, and the notes as
# (beat in the phrase, beats long, MIDI, onset sound, vowel, faults).
PHRASES: tuple[tuple[int, str, tuple[tuple, ...]], ...] = (
    (2, "Slow tide over now", (
        (0.0, 1.0, 62, "s", "o", {}), (1.0, 1.0, 65, "t", "a", {"off": -38}), (2.0, 0.5, 64, "", "er", {}),
        (2.5, 0.5, 62, "", "a", {"off": 22}), (3.0, 2.0, 69, "n", "o", {"vibrato_cents": 28, "scoop": 120}),
    )),
    (4, "High above fair town", (
        (0.0, 0.5, 69, "h", "a", {}), (0.5, 0.5, 72, "", "a", {"off": -60, "glide_s": 0.05}),
        (1.0, 1.0, 69, "", "a", {}), (2.0, 1.0, 67, "f", "a", {"off": 31}),
        (3.0, 2.0, 65, "t", "o", {"drift": -42, "fall": 0}),
    )),
    (6, "Soft a silver moon", (
        (0.0, 1.0, 65, "s", "o", {"harsh": 1}), (1.0, 0.5, 64, "", "a", {}), (1.5, 1.0, 65, "s", "i", {"harsh": 1}),
        (2.5, 0.5, 67, "", "er", {"off": -25}), (3.0, 2.0, 69, "m", "o", {"vibrato_cents": 85, "vibrato_hz": 5.1}),
    )),
    (8, "Hold the line till the morn", (
        (0.0, 1.5, 74, "h", "o", {"off": -45, "scoop": 200, "vibrato_cents": 24}), (1.5, 0.5, 72, "", "a", {}),
        (2.0, 1.0, 70, "l", "a", {"off": 18}), (3.0, 0.5, 69, "t", "i", {}), (3.5, 0.5, 67, "", "a", {}),
        (4.0, 1.5, 69, "m", "o", {"off": -15, "drift": 22}),
    )),
    (10, "Hold the light till the quay", (
        (0.0, 1.5, 74, "h", "o", {"scoop": 150, "vibrato_cents": 26}), (1.5, 0.5, 72, "", "a", {"off": 35}),
        (2.0, 1.0, 70, "l", "a", {}), (3.0, 0.5, 69, "t", "i", {"level_db": -11}), (3.5, 0.5, 67, "", "a", {}),
        (4.0, 1.5, 65, "k", "e", {"fall": 260}),
    )),
    (12, "Old and worn, come forth", (
        (0.0, 1.0, 62, "", "o", {}), (1.0, 1.0, 65, "", "a", {"off": -52}),
        (2.0, 1.0, 64, "", "o", {"second": 1.0, "off": -10}), (3.0, 0.5, 62, "k", "a", {}),
        (3.5, 2.0, 60, "f", "o", {"drift": 38}),
    )),
    (14, "Only wind away", (
        (0.0, 0.75, 65, "", "o", {"off": 27}), (0.75, 0.75, 67, "n", "i", {}),
        (1.5, 1.0, 69, "", "i", {"off": -33, "late": -0.06}),
        (2.5, 0.5, 77, "", "a", {"glide_s": 0.02, "off": 40}), (3.0, 2.0, 74, "", "a", {"vibrato_cents": 30}),
    )),
    (16, "Hold the line till the morn", (
        (0.0, 1.5, 74, "h", "o", {"off": 20, "scoop": 160, "vibrato_cents": 25}), (1.5, 0.5, 72, "", "a", {}),
        (2.0, 1.0, 70, "l", "a", {"off": -40}), (3.0, 0.5, 69, "t", "i", {}), (3.5, 0.5, 67, "", "a", {"off": 16}),
        (4.0, 1.5, 69, "m", "o", {"level_db": 5, "short": 0.4}),
    )),
    (18, "Ships alight to sail", (
        (0.0, 1.0, 72, "sh", "i", {"harsh": 1}), (1.0, 1.0, 70, "", "a", {}), (2.0, 1.0, 67, "l", "a", {"off": 70}),
        (3.0, 0.5, 64, "t", "er", {}), (3.5, 2.5, 62, "s", "e", {"off": -24, "drift": -20, "vibrato_cents": 22}),
    )),
)  # fmt: skip
_AIR_LENGTH = {"s": 0.13, "sh": 0.13, "f": 0.09, "h": 0.07, "t": 0.07, "k": 0.07}
_AIR_LEVEL = {"s": -27.0, "sh": -26.0, "f": -34.0, "h": -34.0, "t": -27.0, "k": -27.0}
_AIR_KIND = {"s": "sibilant", "sh": "sibilant"}
HARSH_DB = 11.0
LATE_PHRASES = {12: 0.07}  # seconds that the lead comes in late, by the phrase's first bar


def start_of(first_bar: int) -> float:
    """Where a bar begins, in seconds."""
    return (first_bar - 1) * BEATS_PER_BAR * BEAT_S


def _phrase(first_bar: int, rows: tuple[tuple, ...], *, faulty: bool) -> tuple[list[SungNote], list[SungAir]]:
    """Notes and air of a phrase; `faulty` with its faults of time, which doubles do not share."""
    origin = start_of(first_bar) + (LATE_PHRASES.get(first_bar, 0.0) if faulty else 0.0)
    loud = -27.0 if first_bar in (8, 14) else -34.0
    air = [SungAir("breath", "breath", origin - 0.52, origin - 0.17, loud)]
    notes: list[SungNote] = []
    for beat, beats, midi, onset, vowel, faults in rows:
        faults = dict(faults)
        harsh = faults.pop("harsh", 0)
        late, short = (faults.pop(name, 0.0) * faulty for name in ("late", "short"))
        start, end = origin + beat * BEAT_S + late, origin + (beat + beats) * BEAT_S - short
        if late and notes and notes[-1].end_s > start:
            notes[-1] = replace(notes[-1], end_s=start)
        if onset in _AIR_LENGTH:
            length = _AIR_LENGTH[onset]
            kind = _AIR_KIND.get(onset, "consonant")
            air.append(SungAir(kind, onset, start - length, start, _AIR_LEVEL[onset] + HARSH_DB * harsh))
            if notes and notes[-1].end_s > start - length:
                notes[-1] = replace(notes[-1], end_s=start - length)
        nasal = onset if onset in ("m", "n", "l") else ""
        notes.append(SungNote(start, end, midi, vowel, nasal=nasal, **faults))
    notes[-1] = replace(notes[-1], end_s=notes[-1].end_s - 0.12)
    return notes, air


def lead() -> Performance:
    """The lead vocal as sung, faults and all."""
    notes: list[SungNote] = []
    air: list[SungAir] = []
    for first_bar, _words, rows in PHRASES:
        more_notes, more_air = _phrase(first_bar, rows, faulty=True)
        notes += more_notes
        air += more_air
    return Performance(DURATION_S, tuple(notes), tuple(sorted(air, key=lambda a: a.start_s)), seed=84)


def double(number: int) -> Performance:
    """A double (1 or 2) of part of the lead: other voice colour, slightly off in pitch and time."""
    rng = np.random.default_rng(500 + number)
    wanted = [PHRASES[i] for i in DOUBLED_PHRASES]
    notes: list[SungNote] = []
    air: list[SungAir] = []
    for first_bar, _words, rows in wanted:
        late = float(rng.uniform(-0.045, 0.06))
        more_notes, more_air = _phrase(first_bar, rows, faulty=False)
        for note in more_notes:
            off = 0.4 * note.off + float(rng.uniform(-28, 28))
            notes.append(replace(note, start_s=note.start_s + late, end_s=note.end_s + late, off=off, second=0.0,
                                 level_db=0.0))  # fmt: skip
        air += [replace(a, start_s=a.start_s + late, end_s=a.end_s + late) for a in more_air]
    voice = SungVoice(formants=1.10 + 0.06 * number, rd=1.2 + 0.2 * number, breath_db=-26.0)
    ordered = tuple(sorted(air, key=lambda a: a.start_s))
    return Performance(DURATION_S, tuple(notes), ordered, voice=voice, seed=300 + number)
