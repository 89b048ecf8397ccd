"""What is judged of every note of a track as it stands: target, flags, strain, and how much of the voice is kept."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

import numpy as np

from ..analysis.notes.contour import split_contour
from ..document.content import Content, ContentChange, air_owners, as_found
from ..document.flags import Flag, Singer, abrupt_join, harsh_flags, know_singer, level_flags, own_flags
from ..document.gestures import USUAL_GLIDE_MS, note_frames, shift_of, target_of
from ..document.harsh import harsh
from ..document.notes import EditedNote, current_targets
from ..document.strain import advice, asked_of, kept, strain
from ..document.surroundings import ALONE, Surroundings
from ..plan.plan import Plan, Window
from ..signal.order import median_of
from ..signal.types import HOP_S, Analysis, Note
from ..song.keys import KeyMap

STRAINED = 50.0  # from which on a note had better be sung again; the screen's own limit at first


@dataclass(frozen=True)
class Verdict:
    """One note: target and tuned pitch in MIDI, flags, strain (0 to 100), kept (0 to 100 %), advice in words.

    `own` are the flags that do not depend on the rest of the part; `flags` all that are shown, the worst first, without
    those that the user judged to be meant.
    """

    target_midi: float
    tuned_midi: float
    own: tuple[Flag, ...]
    strain: float
    kept: float
    advice: str
    flags: tuple[Flag, ...] = ()


@dataclass(frozen=True)
class Verdicts:
    """All notes by id; the note that each air event belongs to; the dB by which harsh sibilants stand out; flags of
    loud and quiet notes by id; and what is usual for the singer, as found."""

    notes: Mapping[str, Verdict]
    owners: Mapping[str, str | None]
    harsh: Mapping[str, float]
    levels: Mapping[str, Flag]
    singer: Singer


def judge(
    analysis: Analysis, content: Content, plan: Plan, keys: KeyMap, around: Surroundings = ALONE
) -> Verdicts:  # fmt: skip
    """The verdicts on a content and its plan, from nothing."""
    targets = current_targets(content.notes, keys)
    ordered = list(content.notes.values())
    singer = _singer(analysis, keys, around)
    judged: dict[str, Verdict] = {}
    for i, edited in enumerate(ordered):
        before = ordered[i - 1] if i else None
        judged[edited.note.id] = _judged(analysis, plan, edited, before, targets, singer, around)
    found = Verdicts(judged, air_owners(content), harsh(content), _levels(content), singer)
    return replace(found, notes=_with_the_part(content, found, content.notes))


def _singer(analysis: Analysis, keys: KeyMap, around: Surroundings) -> Singer:
    """What is usual in the take as it was found, whatever was done to it since."""
    analysis = analysis.as_recorded
    found = as_found(analysis)
    targets = {n.id: keys.of(n).nearest(n.centre_midi, "scale") for n in analysis.notes}
    hard = harsh_flags(harsh(found), air_owners(found))
    return know_singer(analysis.notes, targets, analysis.contour, around, hard)


def judge_again(
    known: Verdicts, analysis: Analysis, after: Content, change: ContentChange, plan: Plan,
    windows: Iterable[Window], keys: KeyMap, around: Surroundings = ALONE,
) -> Verdicts:  # fmt: skip
    """The verdicts after a change to what `known` was judged by; `plan` is the new one, `windows` where it differs."""
    ordered = list(after.notes.values())
    touched = _touched(after, change, windows)
    targets = {}
    for i in sorted({*touched, *(k - 1 for k in touched if k)}):
        beside = [ordered[k].note.centre_midi for k in (i - 1, i + 1) if 0 <= k < len(ordered)]
        targets[ordered[i].note.id] = target_of(ordered[i].note, ordered[i].gesture, keys, beside)
    judged = {}
    for i in touched:
        before = ordered[i - 1] if i else None
        judged[ordered[i].note.id] = _judged(analysis, plan, ordered[i], before, targets, known.singer, around)
    found = replace(known, notes={i: judged[i] if i in judged else known.notes[i] for i in after.notes})
    if not _moves_air_or_level(change):
        return replace(found, notes=_with_the_part(after, found, judged))
    found = replace(found, owners=air_owners(after), harsh=harsh(after), levels=_levels(after))
    return replace(found, notes=_with_the_part(after, found, after.notes))


def _levels(content: Content) -> dict[str, Flag]:
    """Flags of notes that are loud or quiet, as they will sound."""
    return level_flags([
        replace(e.note, level_db=e.note.level_db + e.gesture.level_db) if e.gesture.level_db else e.note
        for e in content.notes.values()
    ])  # fmt: skip


def _touched(after: Content, change: ContentChange, windows: Iterable[Window]) -> list[int]:
    """Numbers, in order of time, of notes that changed, of their neighbours, and of those in the windows."""
    places = after.places(EditedNote)
    gone = [pair[0].span_s[0] for pair in change.values() if isinstance(pair[0], EditedNote) and pair[1] is None]
    hit = {
        *places.numbers_of(change),
        *(i for a, b in windows for i in places.numbers_in(a * HOP_S, b * HOP_S).tolist()),
    }
    near = {k for i in hit for k in (i - 1, i, i + 1)}
    for start in gone:
        i = int(np.count_nonzero(places.starts < start))
        near.update((i - 1, i))
    return sorted(i for i in near if 0 <= i < len(places.items))


def _moves_air_or_level(change: ContentChange) -> bool:
    for before, after in change.values():
        if not (isinstance(before, EditedNote) and isinstance(after, EditedNote)):
            return True
        told = [(e.span_s, e.note.level_db, e.gesture.level_db, e.note.phrase, e.note.spoken) for e in (before, after)]
        if told[0] != told[1]:
            return True
    return False


def as_it_will_sound(edited: EditedNote, target: float) -> Note:
    """The note as its gesture leaves it."""
    note, gesture = edited.note, edited.gesture
    vibrato = note.vibrato
    if vibrato is not None:
        vibrato = replace(vibrato, extent_cents=vibrato.extent_cents * gesture.vibrato_share)
    return replace(
        note,
        centre_midi=note.centre_midi + shift_of(note.centre_midi, gesture, target),
        drift_cents_per_s=note.drift_cents_per_s * gesture.drift_share,
        vibrato=vibrato,
        level_db=note.level_db + gesture.level_db,
    )


def _judged(
    analysis: Analysis, plan: Plan, edited: EditedNote, before: EditedNote | None, targets: Mapping[str, float],
    singer: Singer, around: Surroundings,
) -> Verdict:  # fmt: skip
    note, target = edited.note, targets[edited.note.id]
    a, b = note_frames(note, len(plan.correction))
    sounding = as_it_will_sound(edited, target)
    centre = drawn_centre(analysis, plan, a, b) if edited.gesture.hand else sounding.centre_midi + glazed(plan, a, b)
    sounding = replace(sounding, centre_midi=centre)
    flags = own_flags(sounding, target, analysis.contour, singer, around)
    if before is not None:
        change = shift_of(note.centre_midi, edited.gesture, target)
        change -= shift_of(before.note.centre_midi, before.gesture, targets[before.note.id])
        joined = abrupt_join(before.note, note, change, edited.gesture.glide_ms or USUAL_GLIDE_MS)
        flags += [joined] if joined else []
    asked = asked_of(note, analysis, plan.correction, plan.formant, stretch=plan.stretch_of(*edited.span_s))
    two = any(flag.kind == "two pitches" for flag in flags)
    return Verdict(
        target, sounding.centre_midi, tuple(flags), strain(asked),
        kept(plan.contour.midi[a:b], plan.correction[a:b]), advice(asked, two_pitches=two),
    )  # fmt: skip


def drawn_centre(analysis: Analysis, plan: Plan, first: int, last: int) -> float:
    """Where a note over frames [first, last) with a hand curve is heard: the centre of its tuned contour, in MIDI."""
    tuned = plan.contour.midi[first:last] + plan.correction[first:last]
    return split_contour(tuned, analysis.level_db[first:last]).centre


def glazed(plan: Plan, first: int, last: int) -> float:
    """By how many semitones glazes move the pitch of a note over frames [first, last), once they have settled."""
    pull = plan.glaze[first:last]
    return median_of(pull[len(pull) // 3 :]) if pull.any() else 0.0


def _with_the_part(content: Content, found: Verdicts, ids: Iterable[str]) -> dict[str, Verdict]:
    """All verdicts, those of some notes with the flags that follow from the rest of the part."""
    hard = harsh_flags(found.harsh, found.owners)
    judged = dict(found.notes)
    for note_id in ids:
        verdict = found.notes[note_id]
        if not (verdict.own or verdict.flags or note_id in found.levels or note_id in hard):
            continue
        loud = (found.levels[note_id],) if note_id in found.levels else ()
        meant = content.notes[note_id].meant
        talk = content.notes[note_id].note.spoken
        every = () if talk else (*verdict.own, *loud, *hard.get(note_id, ()))
        among = [flag for flag in every if flag.hurt >= found.singer.shown_from and flag.kind not in meant]
        flags = tuple(sorted(among, key=lambda flag: -flag.hurt))
        if flags != verdict.flags:
            judged[note_id] = replace(verdict, flags=flags)
    return judged
