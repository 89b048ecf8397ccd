"""Whether a key is written with sharps or with flats, and what it is called."""

from __future__ import annotations

from ..signal.units import class_name

_FLAT_MAJORS = frozenset({5, 10, 3, 8, 1})
# Keys of six signs are written either way: E♭ and B♭ are never called D♯ and A♯ (common practice, no source).
_SIX_SIGNS, _FLAT_BY_HABIT = 6, frozenset({3, 5, 10})
_TO_MAJOR = {"natural minor": 3, "harmonic minor": 3, "melodic minor": 3, "minor pentatonic": 3, "dorian": 10,
             "phrygian": 8, "lydian": 7, "mixolydian": 5, "locrian": 1}  # fmt: skip


def major_with_the_same_notes(tonic: int, scale: str) -> int:
    """Pitch class of the major key that has the notes of a scale; the tonic itself where there is none."""
    return (tonic + _TO_MAJOR.get(scale, 0)) % 12


def spelled_with_flats(tonic: int, scale: str) -> bool:
    """True when the key of a tonic (0 to 11) and scale is spelled with flats."""
    major = major_with_the_same_notes(tonic, scale)
    return major in _FLAT_MAJORS or (major == _SIX_SIGNS and tonic in _FLAT_BY_HABIT)


def tonic_name(tonic: int, scale: str) -> str:
    """The name of a pitch class as the tonic of a scale, such as ``F♯``."""
    return class_name(tonic, flats=spelled_with_flats(tonic, scale))


def key_title(tonic: int, scale: str) -> str:
    """A key in words, such as ``D natural minor``; chromatic is no key."""
    if scale == "chromatic":
        return "no key"
    return f"{tonic_name(tonic, scale)} {'own notes' if scale == 'custom' else scale}"
