"""What other programs take: the melody as MIDI and as a score, notes as tables, labels and TextGrid, the contour."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from ...core.signal.units import pitch_label
from ...formats.csv_table import csv_table
from ...formats.midi_melody import MelodyNote, melody_file
from ...formats.notation.labels import Label, label_lines, text_grid
from ...formats.notation.musicxml import melody_score
from ...formats.plain_data import gesture_to_data
from ..lyrics.laid import sounding_texts
from ..session.desk import Desk, Standing
from ..session.meters import keys_under, meters_of
from ..session.sounding import SoundingNote, note_contour, sounding_contour, sounding_notes
from .cues import phrase_spans

LOUDEST_VELOCITY, DB_A_TENTH = 112, 40.0  # velocity of the loudest notes; dB by which a note has a tenth of it
COLUMNS = (
    "note", "phrase", "words", "syllable", "start_s", "end_s", "sung_midi", "tuned_midi", "target_midi", "pitch",
    "cents_off", "level_db", "strain", "kept", "edited", "version",
)  # fmt: skip


def melody(desk: Desk, standing: Standing, *, bend_range: int = 0) -> bytes:
    """The melody as a Standard MIDI file."""
    title = f"{standing.song.title}, {standing.track.name}"
    notes = _melody_notes(desk, standing, bend=bend_range > 0)
    return melody_file(
        notes, meters_of(standing.song), keys_under(standing.song, 0.0), title=title, bend_range=bend_range
    )


def score(desk: Desk, standing: Standing) -> bytes:
    """The melody with its words as MusicXML."""
    return melody_score(
        _melody_notes(desk, standing, goes_on_from=True), meters_of(standing.song), keys_under(standing.song, 0.0),
        title=standing.song.title, part=standing.track.name,
    )  # fmt: skip


def labels(desk: Desk, standing: Standing) -> str:
    """Notes as tab-separated labels in song seconds: start, end, and the word a note begins, or its pitch."""
    notes = _melody_notes(desk, standing)
    return label_lines(Label(one.start_s, one.end_s, one.lyric or pitch_label(one.number)) for one in notes)


def grid(desk: Desk, standing: Standing) -> str:
    """Phrases, words and pitches as a TextGrid, in the time of the printed track."""
    sung, melody_notes = sounding_notes(desk, standing), _melody_notes(desk, standing)
    places = [(note.start_s, note.end_s) for note in sung]
    tiers = {
        "phrases": [Label(*span) for span in phrase_spans(standing, sung)],
        "words": [Label(a, b, one.lyric) for (a, b), one in zip(places, melody_notes, strict=True)],
        "notes": [Label(a, b, pitch_label(note.verdict.tuned_midi))
                  for (a, b), note in zip(places, sung, strict=True)],
    }  # fmt: skip
    return text_grid(tiers, desk.take(standing).length / standing.track.sample_rate)


def _melody_notes(
    desk: Desk, standing: Standing, *, bend: bool = False, goes_on_from: bool = False
) -> list[MelodyNote]:
    """The notes that sound, with their words, in song seconds."""
    notes = sounding_notes(desk, standing)
    loud = velocities([note.level_db for note in notes])
    found = [_melody_note(standing, note, velocity, bend=bend)
             for note, velocity in zip(notes, loud, strict=True)]  # fmt: skip
    texts = sounding_texts(notes, goes_on_from=goes_on_from)
    return [replace(one, lyric=text) for one, text in zip(found, texts, strict=True)]


def velocities(levels_db: Sequence[float]) -> list[int]:
    """Velocities, 1 to 127, of notes by their levels: the loudest tenth has 112, and 12 dB less is about half of it."""
    if not levels_db:
        return []
    level = np.asarray(levels_db)
    scaled = LOUDEST_VELOCITY * 10.0 ** ((level - np.percentile(level, 90)) / DB_A_TENTH)
    return np.clip(np.round(scaled), 1, 127).astype(int).tolist()


def _melody_note(standing: Standing, note: SoundingNote, velocity: int, *, bend: bool) -> MelodyNote:
    """A note by the key that plays it in its tuning; with bend, where that is not of twelve, by the nearest key."""
    tuning, tuned_midi = standing.keys.of(note.edited.note), note.verdict.tuned_midi
    offset = tuning.offset
    keyed = tuning.key_of(tuned_midi) if tuning.steps.twelve or not bend else round(tuned_midi - offset)
    number = int(np.clip(keyed, 0, 127))
    at = standing.track.offset_s
    points: tuple[tuple[float, float], ...] = ()
    if bend:
        times, pitches = note_contour(note)
        points = tuple((float(t) + at, float(p) - offset - number) for t, p in zip(times, pitches, strict=True))
    return MelodyNote(note.start_s + at, note.end_s + at, number, velocity, "", points)


def note_rows(desk: Desk, standing: Standing) -> list[dict[str, Any]]:
    """One row a note, times in song seconds; the same columns as the CSV."""
    rows, at, notes = [], standing.track.offset_s, sounding_notes(desk, standing)
    for note, text in zip(notes, sounding_texts(notes), strict=True):
        edited, verdict = note.edited, note.verdict
        rows.append({
            "note": edited.note.id, "phrase": edited.note.phrase + 1,
            "words": standing.track.words.get(str(edited.note.phrase), ""), "syllable": text,
            "start_s": round(note.start_s + at, 6), "end_s": round(note.end_s + at, 6),
            "sung_midi": round(edited.note.centre_midi, 4), "tuned_midi": round(verdict.tuned_midi, 4),
            "target_midi": round(verdict.target_midi, 4),
            "pitch": standing.keys.of(edited.note).label(verdict.target_midi),
            "cents_off": round(100.0 * (verdict.tuned_midi - verdict.target_midi), 2),
            "level_db": round(note.level_db, 2), "strain": round(verdict.strain, 1), "kept": round(verdict.kept, 1),
            "edited": not edited.gesture.is_as_sung, "version": note.version,
        })  # fmt: skip
    return rows


def notes_csv(desk: Desk, standing: Standing) -> str:
    """Notes as CSV."""
    return csv_table(COLUMNS, [[row[name] for name in COLUMNS] for row in note_rows(desk, standing)])


def notes_document(desk: Desk, standing: Standing) -> dict[str, Any]:
    """Notes with all that is asked of them, air and glazes, for JSON."""
    asked = {
        note.edited.note.id: gesture_to_data(note.edited.gesture)
        for note in sounding_notes(desk, standing) if not note.edited.gesture.is_as_sung
    }  # fmt: skip
    notes = [{**row, "gesture": asked.get(row["note"])} for row in note_rows(desk, standing)]
    return {"format": "glass-thread-notes", "song": standing.song.title, "track": standing.track.name,
            "step": standing.step_id, "notes": notes}  # fmt: skip


def contour_csv_of(desk: Desk, standing: Standing) -> str:
    """The tuned contour as CSV: time_s in the song, midi (empty where unvoiced)."""
    times, pitches = sounding_contour(desk, standing)
    rows = ((f"{time + standing.track.offset_s:.6f}", "" if np.isnan(pitch) else f"{pitch:.4f}")
            for time, pitch in zip(times, pitches, strict=True))  # fmt: skip
    return csv_table(("time_s", "midi"), rows)
