"""Names of chords, in the open syntax of C. Harte et al., "Symbolic representation of musical chords: a proposed syntax
for text annotations", ISMIR 2005: ``C:maj``, ``A:min7``, ``F#:dim``, ``N`` for none."""

from __future__ import annotations

from dataclasses import dataclass

from ...signal.units import class_name

# Semitones over the root, and what a musician writes after the root's name.
QUALITIES: dict[str, tuple[tuple[int, ...], str]] = {
    "maj": ((0, 4, 7), ""), "min": ((0, 3, 7), "m"), "7": ((0, 4, 7, 10), "7"), "maj7": ((0, 4, 7, 11), "maj7"),
    "min7": ((0, 3, 7, 10), "m7"), "dim": ((0, 3, 6), "dim"),
}  # fmt: skip
NONE = "N"


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
