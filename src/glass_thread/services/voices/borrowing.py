"""Borrow: the same word from another place or take, fitted and laid in."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from ...core.document.items.borrows import Borrow, Fade, over, taken_over
from ...core.document.operations.on_borrows import BorrowWord
from ...core.document.time.give_way import MAX_STRETCH, fitting
from ...core.document.words import Loan, Word, word_of
from ...core.plan.composing import JUMP_CENTS
from ...core.signal.errors import ParameterError
from ...core.signal.types import HOP_S, Analysis, Floats
from ...core.signal.units import midi_to_hz
from ...core.synthesis.joins import Join, place_join
from ..session.desk import Desk, Standing
from ..sound.sound import LaidRecording

REACH_S, LEAST_REACH_S = 0.06, 0.03  # as far as a join is moved to where it is not heard
_MARGIN_S = 0.05  # that joins need around them
_STEPS_A_SIDE = 5  # of a half cycle, by which a word is moved so that two voices meet in step
_HEARD_S = 0.02  # of what it replaces that may be left over
_MEETING_S, _AROUND_S = 0.06, 0.012  # as far as two voices are brought to where they have one pitch, and around it
_FURTHER = 0.2  # what going that far costs, in semitones
_GIVEN_S = 0.03
_NO_FADE = Fade(0.0, "none", clean=True)


class _Span(NamedTuple):
    """How far a word reaches before its vowel and beyond its last note, where it is laid."""

    before_s: float
    after_s: float


def lender(desk: Desk, before: Standing, track_id: str) -> Standing:
    """A track of the same song as it stands now, or the very standing when it is the same track."""
    if track_id == before.track.id:
        return before
    return desk.beside(before, track_id, "A word is borrowed from a track of the same song: bring the take in first.")


def loan_for(desk: Desk, before: Standing, asked: BorrowWord) -> Loan:
    """What an operation asks to be lent, fitted to its place: lengths, joins and where they lie.

    Raises
    ------
    ParameterError
        With a sentence, when it is the same place, when it is borrowed itself, or when it does not fit.
    """
    target = word_of(before.content, asked.note_ids)
    other = lender(desk, before, asked.from_track)
    word = word_of(other.content, asked.from_note_ids)
    _refuse_itself(before, target, other, word)
    length_s = target.length_s if asked.length == "as here" else _own_length(target, word)
    need_s = length_s - word.length_s
    stretches, short = fitting(other.analysis, other.content, word.vowel_s, word.last_s, need_s)
    if abs(short) > 1e-6:
        raise ParameterError(
            f"This lasts {word.length_s:.2f} s there and {target.length_s:.2f} s here: vowels are stretched up to "
            f"{MAX_STRETCH:g} times and shortened to a quarter. Choose “as there” to keep its length."
        )
    span = _span(target, word, length_s)
    draft = Borrow(
        "", target.vowel_s - span.before_s, target.vowel_s + length_s + span.after_s, word.vowel_s - span.before_s,
        other.track.audio_hash, other.analysis_id, place_name(before, other, word), _NO_FADE, _NO_FADE, stretches,
    )  # fmt: skip

    if draft.end_s > before.analysis.duration_s + _GIVEN_S:
        raise ParameterError("There is no room for it before the recording ends. Choose “as here”.")

    def restretched(by_s: float) -> Borrow | None:
        fitted, missing = fitting(other.analysis, other.content, word.vowel_s, word.last_s, need_s + by_s)
        return None if abs(missing) > 1e-6 else replace(draft, stretches=fitted)

    source = desk.sound.source(before.track.audio_hash)
    laid = list(before.content.borrows.values())
    kept = [one for one in laid if one not in taken_over(laid, draft)]
    here = desk.sound.with_pieces(source, kept)
    site = _Site(desk, here, before.track.sample_rate, before.analysis, other.analysis)
    return Loan(_joined(site, draft, span, restretched), word)


def place_name(before: Standing, other: Standing, word: Word) -> str:
    """Where a word is from, in words, for lists and prints."""
    phrase = f"phrase {word.notes[0].note.phrase + 1}"
    where = phrase if other.track.id == before.track.id else f"{other.track.name}, {phrase}"
    at = other.track.offset_s + word.vowel_s
    return f"{where}, {int(at // 60)}:{at % 60:05.2f}"


def _refuse_itself(before: Standing, target: Word, other: Standing, word: Word) -> None:
    same = other.track.audio_hash == before.track.audio_hash
    if same and word.start_s < target.end_s and word.end_s > target.start_s:
        raise ParameterError("That is the place itself. Choose another one to borrow from.")
    if over(list(other.content.borrows.values()), word.start_s, word.end_s):
        raise ParameterError("That place is borrowed itself. Borrow from where it was sung.")


def _own_length(target: Word, word: Word) -> float:
    """How long a word lasts that keeps its own length; so little more than there is room for that nobody hears it gives
    way."""
    over_s = target.vowel_s + word.length_s - target.room_s[1]
    if over_s > _GIVEN_S:
        raise ParameterError(
            f"There is no room for it at its own length: it runs {over_s:.2f} s into what follows. Choose “as here”."
        )
    return word.length_s - max(over_s, 0.0)


def _span(target: Word, word: Word, length_s: float) -> _Span:
    """As much as covers what sounds here and what comes along, and as there is room for on both sides."""
    here, there = target.vowel_s - target.start_s, word.vowel_s - word.start_s
    room = min(target.vowel_s - target.room_s[0], word.vowel_s - word.room_s[0])
    before_s = max(min(max(here, there), room), 0.0)
    end_s = target.vowel_s + length_s
    wanted = max(target.end_s - end_s, word.end_s - word.last_s, 0.0)
    after_s = max(min(wanted, target.room_s[1] - end_s, word.room_s[1] - word.last_s), 0.0)
    if target.last_s - end_s - after_s > _HEARD_S:
        raise ParameterError("It is so much shorter there that the end of what is here would be heard. "
                             "Choose “as here”.")  # fmt: skip
    return _Span(before_s, after_s)


class _Site(NamedTuple):
    """The place a word is laid in: what is heard there without it, and the two analyses that meet."""

    desk: Desk
    here: LaidRecording
    rate: int
    own: Analysis
    other: Analysis


def _joined(site: _Site, draft: Borrow, span: _Span, restretched: Callable[[float], Borrow | None]) -> Borrow:
    """The borrow with its ends where they are heard least, and how it passes over there.

    Where a voice is sung on, a border that does not fit is tried again with the word moved, or its vowels longer or
    shorter, by up to half a cycle.
    """
    rate = site.rate
    begin = _join(site, draft, span.before_s, first=True)
    if not begin.clean and span.before_s < _HEARD_S:
        moved = [replace(draft, from_s=draft.from_s + round(by_s * rate) / rate) for by_s in _half_cycles(site, draft)]
        draft, begin = _best(site, [draft, *moved], span.before_s, first=True)
    end = _join(site, draft, span.after_s, first=False)
    if not end.clean and span.after_s < _HEARD_S:
        tried = [restretched(by_s) for by_s in _half_cycles(site, draft)]
        fitted = [replace(draft, stretches=one.stretches) for one in tried if one is not None]
        draft, end = _best(site, [draft, *fitted], span.after_s, first=False)
    start_s, end_s = begin.at / rate, end.at / rate
    return replace(
        draft, start_s=start_s, end_s=end_s, from_s=float(draft.moments_at(start_s)),
        fade_in=_fade(site, draft, begin), fade_out=_fade(site, draft, end),
    )  # fmt: skip


def _half_cycles(site: _Site, draft: Borrow) -> Floats:
    """Seconds by which a voice may be moved to meet another one in step: up to half a cycle of it, to both sides."""
    around = site.other.contour.midi[round(draft.from_s / HOP_S) : round(draft.from_s / HOP_S) + 40]
    sung = around[np.isfinite(around)]
    period_s = 1.0 / float(midi_to_hz(np.median(sung))) if len(sung) else 0.004
    return period_s * np.linspace(-0.5, 0.5, 2 * _STEPS_A_SIDE + 1)


def _best(site: _Site, drafts: Sequence[Borrow], room_s: float, *, first: bool) -> tuple[Borrow, Join]:
    joins = [_join(site, draft, room_s, first=first) for draft in drafts]
    best = int(np.argmin([join.misfit for join in joins]))
    return drafts[best], joins[best]


def _join(site: _Site, draft: Borrow, room_s: float, *, first: bool) -> Join:
    """Where one end, the `first` or the other, is heard least, in samples of the recording."""
    rate = site.rate
    asked_s = draft.start_s if first else draft.end_s
    reach_s = min(REACH_S, max(LEAST_REACH_S, room_s / 2.0))
    asked_s, reach_s = _at_one_pitch(site, draft, asked_s, reach_s)
    reach, asked = round(reach_s * rate), round(asked_s * rate)
    margin = reach + round(_MARGIN_S * rate)
    frames = site.here.frames
    low, high = min(max(0, asked - margin), frames), min(max(0, asked + margin), frames)
    lent = site.desk.sound.lent(draft, rate, site.here.channels, low, high)
    own = site.here.read(low, high)
    sides = (own, lent) if first else (lent, own)
    join = place_join(*sides, sample_rate=rate, asked=asked - low, reach=reach)
    return replace(join, at=join.at + low)


def _at_one_pitch(site: _Site, draft: Borrow, asked_s: float, reach_s: float) -> tuple[float, float]:
    """Where two voices that are sung on meet at one pitch, and how far around it to look for the best join; as asked
    where one of them is silent."""
    frames = np.arange(round((asked_s - _MEETING_S) / HOP_S), round((asked_s + _MEETING_S) / HOP_S) + 1)
    apart = np.array([abs(_pitch_at(site.own.contour.midi, at) - _pitch_at(site.other.contour.midi, there))
                      for at, there in zip(frames * HOP_S, draft.moments_at(frames * HOP_S), strict=True)])  # fmt: skip
    if not np.isfinite(apart).all():
        return asked_s, reach_s
    best = int(np.argmin(apart + _FURTHER * np.abs(frames * HOP_S - asked_s) / _MEETING_S))
    return float(frames[best] * HOP_S), _AROUND_S


def _fade(site: _Site, draft: Borrow, join: Join) -> Fade:
    """How it passes over; a step of pitch inside a voice is heard however well the waves fit."""
    at_s = join.at / site.rate
    own = _pitch_at(site.own.contour.midi, at_s)
    other = _pitch_at(site.other.contour.midi, float(draft.moments_at(at_s)))
    steps = np.isfinite(own) and np.isfinite(other) and 100.0 * abs(own - other) > JUMP_CENTS
    return Fade(join.length / site.rate, join.law, join.clean and not steps)


def _pitch_at(midi: Floats, at_s: float) -> float:
    return float(midi[min(max(round(at_s / HOP_S), 0), len(midi) - 1)]) if len(midi) else float("nan")
