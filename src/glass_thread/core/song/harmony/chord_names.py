"""Names of chords, in the open syntax of C. Harte et al., "Symbolic representation of musical chords: a proposed syntax
for text annotations", ISMIR 2005: ``C:maj``, ``A:min7``, ``F#:dim``, ``N`` for none."""

from __future__ import annotations

import re
from dataclasses import dataclass

from ...signal.errors import ParameterError
from ...signal.units import class_name

# Semitones over the root, and what a musician writes after the root's name.
QUALITIES: dict[str, tuple[tuple[int, ...], str]] = {
    "maj": ((0, 4, 7), ""), "min": ((0, 3, 7), "m"), "7": ((0, 4, 7, 10), "7"), "maj7": ((0, 4, 7, 11), "maj7"),
    "min7": ((0, 3, 7, 10), "m7"), "dim": ((0, 3, 6), "dim"), "aug": ((0, 4, 8), "aug"),
    "sus4": ((0, 5, 7), "sus4"), "sus2": ((0, 2, 7), "sus2"), "maj6": ((0, 4, 7, 9), "6"),
    "min6": ((0, 3, 7, 9), "m6"), "hdim7": ((0, 3, 6, 10), "m7♭5"), "dim7": ((0, 3, 6, 9), "dim7"),
}  # fmt: skip
HEARD = ("maj", "min", "7", "maj7", "min7", "dim")  # the rest can only be typed
NONE = "N"
_LETTERS = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
_TYPED = {short.replace("♭", "b"): name for name, (_steps, short) in QUALITIES.items()} | {
    "-": "min", "min": "min", "mi": "min", "-7": "min7", "mi7": "min7", "M7": "maj7", "j7": "maj7", "o": "dim",
    "+": "aug", "sus": "sus4", "ø": "hdim7", "o7": "dim7", "maj": "maj", "min7": "min7", "6": "maj6", "m6": "min6",
}  # fmt: skip


@dataclass(frozen=True)
class Chord:
    """A chord by its root, a pitch class from C on, and quality; None and "" for no chord."""

    root: int | None
    quality: str = ""

    @property
    def classes(self) -> tuple[int, ...]:
        """Pitch classes of its notes, the root first."""
        return () if self.root is None else tuple((self.root + step) % 12 for step in QUALITIES[self.quality][0])

    @property
    def label(self) -> str:
        """Its name in the syntax of Harte et al."""
        return NONE if self.root is None else f"{class_name(self.root).replace('♯', '#')}:{self.quality}"

    def title(self, *, flats: bool = False) -> str:
        """Its name as musicians write it, such as ``B♭m7``."""
        return "no chord" if self.root is None else class_name(self.root, flats=flats) + QUALITIES[self.quality][1]


def read_chord(text: str) -> Chord:
    """A chord from its label, or as it is typed, such as ``Bbm7``; a bass after a slash is not kept.

    Raises
    ------
    ParameterError
        When it is none that is known.
    """
    plain = text.strip().replace("♯", "#").replace("♭", "b").split("/")[0].strip()
    if plain.upper() in ("N", "N.C.", "NC", "NO CHORD", ""):
        return Chord(None)
    found = re.fullmatch(r"([A-Ga-g])([#b]{0,2})(:?)(.*)", plain)
    if found:
        letter, signs, colon, rest = found.groups()
        root = (_LETTERS[letter.upper()] + signs.count("#") - signs.count("b")) % 12
        quality = rest.split("(")[0] if colon else _TYPED.get(rest.strip().replace("♭", "b"), "")
        if quality in QUALITIES:
            return Chord(root, quality)
    known = ", ".join(f"C{short}" for _steps, short in QUALITIES.values())
    raise ParameterError(f"“{text[:40]}” is no chord that is known; there is {known}, and N for none.")
