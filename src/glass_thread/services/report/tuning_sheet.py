"""The tuning sheet: every change of a version or comp, with before and after, by phrase."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Iterator, Mapping
from dataclasses import asdict, dataclass, replace
from typing import Any

from ...core.document.content import Content
from ...core.document.gestures import note_frames
from ...core.measure.verdicts import STRAINED, glazed
from ...core.song.beats import Meter, bar_text
from ...formats.csv_table import csv_table
from ..history.edit import open_version
from ..lyrics.laid import sounding_words
from ..session.desk import Desk, Standing
from ..session.meters import meters_of
from ..session.sounding import SoundingNote, parts_of, sounding_notes
from .sheet_words import air_change, note_changes

COLUMNS = ("phrase", "words", "word", "bar", "at_s", "kind", "what", "before_cents", "after_cents", "changed", "strain",
           "kept", "version", "advice")  # fmt: skip
STRONGEST = 5
_NOTICED_CENTS = 2.0


@dataclass(frozen=True)
class SheetRow:
    """One change: where it is in song seconds and by bar and beat, what it is of, how far the pitch was and is from its
    target in cents (None without a pitch), and what was changed, in words; `word` is the one that is sung there."""

    phrase: int
    at_s: float
    bar: str
    kind: str
    what: str
    before_cents: float | None
    after_cents: float | None
    changed: tuple[str, ...]
    strain: float | None = None
    kept: float | None = None
    version: str = ""
    advice: str = ""
    word: str = ""


@dataclass(frozen=True)
class SheetPhrase:
    """A phrase with its words and what was changed in it."""

    number: int
    words: str
    at_s: float
    bar: str
    rows: tuple[SheetRow, ...]


@dataclass(frozen=True)
class TuningSheet:
    """All changes of a track at a step, against as sung or another version: by phrase, the number of notes and of those
    changed, of air and gaps, of what is borrowed, the strongest changes, and notes that had better be sung again."""

    song: str
    track: str
    version: str
    against: str
    step_id: str | None
    phrases: tuple[SheetPhrase, ...]
    notes: int
    notes_changed: int
    air_changed: int
    borrowed: int
    strongest: tuple[SheetRow, ...]
    again: tuple[SheetRow, ...]


def tuning_sheet(desk: Desk, standing: Standing, name: str, against: tuple[Standing, str] | None = None) -> TuningSheet:
    """The sheet of a standing that is called `name`; `against` another one, or as sung."""
    other = None if against is None else {n.edited.note.id: n for n in sounding_notes(desk, against[0])}
    notes = sounding_notes(desk, standing)
    meters = meters_of(standing.song)
    rows = [replace(row, word=word) for note, word in zip(notes, sounding_words(notes), strict=True)
            if (row := _note_row(standing, meters, note, other)) is not None]  # fmt: skip
    rows += _other_rows(desk, standing, meters, None if against is None else against[0].content)
    of_notes = [row for row in rows if row.kind == "note"]
    moved = [row for row in of_notes if _moved(row) >= _NOTICED_CENTS]
    strained = [row for row in of_notes if (row.strain or 0.0) >= STRAINED]
    return TuningSheet(
        standing.song.title, standing.track.name, name, "as sung" if against is None else against[1],
        standing.step_id, _by_phrase(standing, meters, rows), len(notes), len(of_notes),
        sum(row.kind in ("sibilant", "consonant", "breath", "gap", "level stretch") for row in rows),
        sum(row.kind == "borrowed" for row in rows),
        tuple(sorted(moved, key=_moved, reverse=True)[:STRONGEST]), tuple(strained),
    )  # fmt: skip


def sheet_of_version(
    desk: Desk, track_id: str, version_id: str | None = None, *, step: str | None = None, against: str | None = None
) -> TuningSheet:
    """The sheet of a version or comp as it stands, or at a step; `against` is the id of another version."""
    version = open_version(desk, track_id, version_id)
    standing = desk.at(track_id, step or version.head_id)
    if against is None:
        return tuning_sheet(desk, standing, version.name)
    other = open_version(desk, track_id, against)
    return tuning_sheet(desk, standing, version.name, (desk.at(track_id, other.head_id), other.name))


def _moved(row: SheetRow) -> float:
    return abs((row.after_cents or 0.0) - (row.before_cents or 0.0))


def _note_row(
    standing: Standing, meters: tuple[Meter, ...], note: SoundingNote, other: Mapping[str, SoundingNote] | None
) -> SheetRow | None:
    """What was changed of a note; None when nothing was."""
    changed = _changed(note)
    before_midi, was = note.edited.note.centre_midi, list[str]()
    if other is not None:
        known = other.get(note.edited.note.id)
        was = _changed(known) if known else ["not there"]
        before_midi = known.verdict.tuned_midi if known else before_midi
        if known and was == changed and abs(known.verdict.tuned_midi - note.verdict.tuned_midi) < 1e-6:
            return None
    elif not changed:
        return None
    target, at_s = note.verdict.target_midi, note.start_s + standing.track.offset_s
    words = changed if other is None else [f"{', '.join(was) or 'as sung'} → {', '.join(changed) or 'as sung'}"]
    return SheetRow(
        note.edited.note.phrase, round(at_s, 4), bar_text(meters, at_s), "note",
        standing.keys.of(note.edited.note).label(target),
        round(100.0 * (before_midi - target), 1), round(100.0 * (note.verdict.tuned_midi - target), 1), tuple(words),
        round(note.verdict.strain, 1), round(note.verdict.kept, 1), note.version, note.verdict.advice,
    )  # fmt: skip


def _changed(note: SoundingNote) -> list[str]:
    frames = note_frames(note.edited.note, len(note.plan.correction))
    return note_changes(note.edited, glazed(note.plan, *frames))


def _other_rows(
    desk: Desk, standing: Standing, meters: tuple[Meter, ...], other: Content | None
) -> Iterator[SheetRow]:  # fmt: skip
    """What was changed of air, gaps and pins, and what is borrowed."""
    for start_s, end_s, part, _version in parts_of(desk, standing):
        plan, phrase_at = desk.plan(part), _phrases(part)
        for kind, what, at_s, words, known in _items(part.content, other):
            place = float(plan.times.source_to_track(at_s))
            if known or not start_s <= place < end_s:
                continue
            song_s = place + standing.track.offset_s
            yield SheetRow(
                phrase_at(at_s), round(song_s, 4), bar_text(meters, song_s), kind, what, None, None, (words,)
            )


def _items(content: Content, other: Content | None) -> Iterator[tuple[str, str, float, str, bool]]:
    """Kind, name, moment in the recording, words, and whether the other content has it as well."""

    def known(key: str, state: object) -> bool:
        return other is not None and any(part.get(key) == state for part in other.parts)

    for key, air in content.air.items():
        if not air.is_as_sung:
            yield air.event.kind, air.event.kind, air.event.start_s, air_change(air), known(key, air)
    for key, gap in content.gaps.items():
        words = "silent" if gap.muted else f"level {gap.level_db:+.1f} dB".replace("-", "−")
        yield "gap", "gap", gap.start_s, words, known(key, gap)
    for key, one in content.level_stretches.items():
        words = "silent" if one.muted else f"level {one.level_db:+.1f} dB".replace("-", "−")
        lasts = f"{words} for {one.end_s - one.start_s:.2f} s"
        yield "level stretch", "level stretch", one.start_s, lasts, known(key, one)
    for key, borrow in content.borrows.items():
        yield "borrowed", "borrowed", borrow.start_s, f"from {borrow.name}", known(key, borrow)


def _phrases(part: Standing) -> Callable[[float], int]:
    """The phrase that a moment of the recording is in, or the next one."""
    notes = [edited.note for edited in part.content.notes.values()]
    ends = [note.end_s for note in notes]
    return lambda at_s: notes[min(bisect_right(ends, at_s), len(notes) - 1)].phrase if notes else 0


def _by_phrase(standing: Standing, meters: tuple[Meter, ...], rows: list[SheetRow]) -> tuple[SheetPhrase, ...]:
    starts = {phrase.index: phrase.start_s + standing.track.offset_s for phrase in standing.analysis.phrases}
    found = []
    for number in sorted({row.phrase for row in rows}):
        inside = tuple(sorted((row for row in rows if row.phrase == number), key=lambda row: row.at_s))
        at_s = starts.get(number, inside[0].at_s)
        words = standing.track.words.get(str(number), "")
        found.append(SheetPhrase(number, words, round(at_s, 4), bar_text(meters, at_s), inside))
    return tuple(found)


def sheet_csv(sheet: TuningSheet) -> str:
    """The sheet as CSV, one row a change."""
    rows = []
    for phrase in sheet.phrases:
        for row in phrase.rows:
            values = {**asdict(row), "phrase": phrase.number + 1, "words": phrase.words,
                      "changed": "; ".join(row.changed)}  # fmt: skip
            rows.append([values[name] for name in COLUMNS])
    return csv_table(COLUMNS, rows)


def sheet_data(sheet: TuningSheet) -> dict[str, Any]:
    """The sheet for JSON."""
    return {"format": "glass-thread-sheet", **asdict(sheet)}
