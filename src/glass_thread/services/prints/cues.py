"""What a print points at: the beginnings of phrases with their words, and the song's markers."""

from __future__ import annotations

from ...core.song.beats import moment_of
from ..session.desk import Desk, Standing
from ..session.meters import meters_of
from ..session.sounding import SoundingNote, sounding_notes


def phrase_text(standing: Standing, phrase: int) -> str:
    """The words of a phrase, or which it is."""
    return standing.track.words.get(str(phrase), "") or f"Phrase {phrase + 1}"


def phrase_spans(standing: Standing, notes: list[SoundingNote]) -> list[tuple[float, float, str]]:
    """From where to where each phrase sounds, in track seconds, with its words."""
    spans: dict[int, tuple[float, float]] = {}
    for note in notes:
        start_s, end_s = spans.get(note.edited.note.phrase, (note.start_s, note.end_s))
        spans[note.edited.note.phrase] = min(start_s, note.start_s), max(end_s, note.end_s)
    return sorted((a, b, phrase_text(standing, phrase)) for phrase, (a, b) in spans.items())


def cues_of(desk: Desk, standing: Standing, first: int, length: int) -> list[tuple[int, str]]:
    """Samples of a print, of `length` from the track's sample `first` on, with the names of what begins there."""
    rate, meters = standing.track.sample_rate, meters_of(standing.song)
    phrases = [(start_s, text) for start_s, _end_s, text in phrase_spans(standing, sounding_notes(desk, standing))]
    markers = [(moment_of(meters, one["bar"], one["beat"]) - standing.track.offset_s, one["text"])
               for one in standing.song.markers]  # fmt: skip
    placed = ((round(at * rate) - first, text) for at, text in (*phrases, *markers))
    return sorted((at, text) for at, text in placed if 0 <= at < length)
