"""Derived tracks: doubles and harmonies that are made of another track by a rule, and stay linked with it."""

from __future__ import annotations

import itertools
import math
import time
from collections.abc import Collection, Mapping
from dataclasses import replace
from typing import Any, NamedTuple

from ...core.document.content import Content, as_found, difference_of
from ...core.document.operations.on_derived import MOST_VOICES, MakeDouble, MakeHarmony
from ...core.signal.errors import ParameterError
from ...formats.plain_data import change_to_data
from ...store.history import NewStep
from ...store.records import Track
from ...store.repositories import brought_in
from ...store.song_log import Pair
from ..folder.names import one_line
from ..history.previews import Preview, Previews
from ..session.desk import Desk, Standing
from ..song.songs import LONGEST_NAME
from ..voices.making import made_of, rule_data, rule_of

HARMONY_DB, DOUBLE_DB = -3.0, -4.0
_PANS = ((0.45,), (-0.5, 0.5), (-0.6, 0.0, 0.6), (-0.7, -0.25, 0.25, 0.7))
_STEP_NAMES = {1: "Second", 2: "Third", 3: "Fourth", 4: "Fifth", 5: "Sixth", 6: "Seventh", 7: "Octave", 9: "Tenth"}
_SEMITONE_NAMES = {3: "Minor third", 4: "Major third", 5: "Fourth", 7: "Fifth", 12: "Octave", 24: "Two octaves"}


class Placing(NamedTuple):
    """Where a new voice is heard: −1 left to 1 right, and dB over its lead."""

    pan: float
    level_db: float


def derive(desk: Desk, track_id: str, operation: Mapping[str, Any], *, voices: int = 1) -> list[Track]:
    """Make tracks of a track as it stands, by a rule; a double may have several voices, each with a seed of its own.

    Raises
    ------
    ParameterError
        When the operation makes no voice, or there would be none or too many.
    """
    lead = desk.at(track_id)
    # worked out before anything is stored: what cannot be made leaves nothing, and nobody waits to write meanwhile
    asked = [(rule, place, made_of(lead, rule)) for rule, place in _voices(operation, voices)]
    with desk.workspace.database.at_once():
        made = [_add(desk, lead, *one, number if voices > 1 else None) for number, one in enumerate(asked)]
        label = f"“{made[0].name}” made" if len(made) == 1 else f"{len(made)} doubles of “{lead.track.name}” made"
        there = {brought_in(track.id): Pair(time.time(), None) for track in made}
        desk.workspace.log.change(lead.song.id, label, there)
    return made


def try_voices(
    desk: Desk, previews: Previews, track_id: str, operation: Mapping[str, Any], *, voices: int = 1,
    step_id: str | None = None,
) -> list[tuple[Preview, Placing]]:  # fmt: skip
    """The tracks that `derive` would make, to be heard with their lead where they would be; nothing is stored."""
    lead = desk.at(track_id, step_id)
    tried = []
    for rule, place in _voices(operation, voices):
        content = replace(made_of(lead, rule), links=lead.content.links)
        change = difference_of(lead.content, content)
        tried.append((previews.keep(lead, change, desk.with_content(lead, content)), place))
    return tried


def _voices(operation: Mapping[str, Any], voices: int) -> list[tuple[MakeDouble | MakeHarmony, Placing]]:
    """What each of some voices does, and where it is heard."""
    asked = rule_of(operation)
    if not 1 <= voices <= (MOST_VOICES if isinstance(asked, MakeDouble) else 1):
        raise ParameterError(f"A double has 1 to {MOST_VOICES} voices, a harmony one.")
    return [(asked if voices == 1 else replace(asked, seed=asked.seed + number), Placing(pan, level_of(asked, voices)))
            for number, pan in enumerate(_PANS[voices - 1])]  # fmt: skip


def level_of(rule: MakeDouble | MakeHarmony, voices: int) -> float:
    """By how many dB each of some voices is over the lead at first; several together are as loud as one."""
    return HARMONY_DB if isinstance(rule, MakeHarmony) else DOUBLE_DB - 10.0 * math.log10(voices)


def _add(
    desk: Desk, lead: Standing, rule: MakeDouble | MakeHarmony, place: Placing, content: Content, number: int | None
) -> Track:  # fmt: skip
    workspace, harmony = desk.workspace, isinstance(rule, MakeHarmony)
    taken = {one.name for one in workspace.tracks.of_song(lead.song.id)}
    base = name_of(rule) if harmony else f"{lead.track.name} double"
    name = _free_name(base, taken, numbered=number is not None)
    track = workspace.tracks.add_derived(
        lead.track, name=one_line(name, "A track's name", LONGEST_NAME), role="harmony" if harmony else "double",
        pan=place.pan, level_db=round(lead.track.level_db + place.level_db, 1),
        position=len(workspace.tracks.of_song(lead.song.id)),
    )  # fmt: skip
    workspace.history.begin(track.id, lead.analysis_id)
    track = workspace.tracks.get(track.id)
    change = difference_of(as_found(lead.analysis.as_recorded), content)
    head = workspace.history.version(str(track.version_id)).head_id
    label = f"{rule.label} of “{lead.track.name}”"
    workspace.history.append([NewStep(str(track.version_id), head, label, rule_data(rule), change_to_data(change))])
    return workspace.tracks.get(track.id)


def _free_name(base: str, taken: Collection[str], *, numbered: bool) -> str:
    """A name that no other track of the song has; numbered from 1, or from 2 where the first needs no number."""
    if base not in taken and not numbered:
        return base
    return next(name for n in itertools.count(1 if numbered else 2) if (name := f"{base} {n}") not in taken)


def name_of(rule: MakeDouble | MakeHarmony) -> str:
    """What a voice is called at first, such as “Third above”."""
    if isinstance(rule, MakeDouble):
        return "Double"
    if rule.melody:
        return "Harmony"
    steps, semitones = rule.steps, rule.semitones
    size = _SEMITONE_NAMES.get(round(abs(semitones)), f"{abs(semitones):g} semitones") if semitones else (
        _STEP_NAMES.get(abs(steps), f"{abs(steps)} steps"))  # fmt: skip
    return f"{size} {'above' if (semitones or steps) > 0 else 'below'}"
