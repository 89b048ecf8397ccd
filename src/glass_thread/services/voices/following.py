"""Follow: what a lead asks of each note of a follower, and how the two were aligned."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ...core.alignment.matching import Match, Matching, match_notes
from ...core.alignment.warping import Alignment, align
from ...core.document.content import Content
from ...core.document.gestures import note_frames
from ...core.document.items.links import LeadNow, Led
from ...core.document.notes import EditedNote, current_targets
from ...core.document.operations.on_follow import Follow
from ...core.measure.verdicts import drawn_centre
from ...core.plan.plan import Plan
from ...core.signal.errors import ParameterError
from ...core.signal.signal_tools import moving_average
from ...core.signal.types import HOP_S, Analysis, Floats
from ...core.song.keys import KeyMap
from ..session.behind import is_behind
from ..session.desk import Desk, Standing
from ..session.keys import keys_mark

_SLOW_S = 0.06  # over which a pitch is smoothed whose way is followed
_POINT_S = 0.02
_NEAR_USUAL = 0.75  # semitones
_NEAR_OCTAVE, _OFF_OCTAVE = 0.7, 1.7  # semitones off an octave or unison: of the whole part, and of a note that is off


@dataclass(frozen=True)
class Side:
    """One of two performances: what was found and is asked of it, its features, and where it begins in the song."""

    analysis: Analysis
    content: Content
    plan: Plan
    keys: KeyMap
    features: Floats
    offset_s: float = 0.0

    @property
    def notes(self) -> list[EditedNote]:
        """Its notes in order of time."""
        return list(self.content.notes.values())

    def tuned(self, edited: EditedNote, targets: Mapping[str, float]) -> float:
        """The pitch that a note has once it is tuned, in MIDI."""
        pull, frames = edited.gesture.pull, note_frames(edited.note, len(self.plan.correction))
        if edited.gesture.hand or self.plan.glaze[slice(*frames)].any():
            return drawn_centre(self.analysis, self.plan, *frames)
        return edited.note.centre_midi + pull * (targets[edited.note.id] - edited.note.centre_midi)


@dataclass(frozen=True)
class Followed:
    """How a follower lies on a lead, and what the lead asks of it."""

    alignment: Alignment
    matching: Matching
    notes: dict[str, Led]


def side_of(desk: Desk, standing: Standing) -> Side:
    """A track as it stands."""
    features = desk.heard.performance(standing.track.audio_hash, standing.analysis)
    return Side(standing.analysis, standing.content, desk.plan(standing), standing.keys, features,
                standing.track.offset_s)  # fmt: skip


def leader(desk: Desk, follower: Standing, lead_track: str) -> Standing:
    """The track that leads, as it stands now."""
    if lead_track == follower.track.id:
        raise ParameterError("A track cannot follow itself.")
    return desk.beside(follower, lead_track, "A track follows another one of the same song.")


def lead_for(desk: Desk, follower: Standing, asked: Follow) -> LeadNow:
    """What the lead that an operation names asks of the notes of a follower."""
    lead = leader(desk, follower, asked.lead_track)
    found = followed(side_of(desk, follower), side_of(desk, lead), asked)
    return LeadNow(str(lead.step_id), found.notes, found.matching.alone, keys_mark(follower.keys))


def followed(follower: Side, lead: Side, asked: Follow) -> Followed:
    """How two performances belong together and what the lead asks of the follower, with the settings of `asked`."""
    anchors = [(float(a), float(b)) for a, b in asked.anchors]
    later_s = follower.offset_s - lead.offset_s
    alignment = align(follower.features, lead.features, later_s, anchors=anchors)
    matching = match_notes(
        [edited.note for edited in follower.notes], [edited.note for edited in lead.notes], alignment,
        lead.analysis.contour.voiced, follower.analysis.contour.voiced,
    )  # fmt: skip
    return Followed(alignment, matching, _led(follower, lead, alignment, matching, asked))


def _led(
    follower: Side, lead: Side, alignment: Alignment, matching: Matching, asked: Follow
) -> dict[str, Led]:  # fmt: skip
    own_targets = current_targets(follower.content.notes, follower.keys)
    lead_targets = current_targets(lead.content.notes, lead.keys)
    levels = [_usual_db(side.notes) for side in (follower, lead)]
    way, mine = _slow(lead), _slow(follower)
    usual = _usual_interval(follower, lead, matching)
    found = {}
    for match in matching.pairs:
        edited = follower.content.notes[match.note_id]
        sung = lead.content.notes.get(match.lead_id or "")
        start_s, end_s = (float(at) - follower.offset_s + lead.offset_s
                          for at in lead.plan.times.source_to_track([match.start_s, match.end_s]))  # fmt: skip
        target, level_db, movement = edited.note.centre_midi, 0.0, tuple[tuple[float, float], ...]()
        if sung is not None:
            apart = edited.note.centre_midi - sung.note.centre_midi
            lead_midi = lead_targets[sung.note.id]
            above = _interval(apart, own_targets[match.note_id] - lead_midi, usual)
            if above % 12 and asked.interval == "scale":
                above = follower.keys.of(edited.note).nearest(lead_midi + above, "scale") - lead_midi
            target = lead.tuned(sung, lead_targets) + above
            lead_db = sung.note.level_db + sung.gesture.level_db - levels[1]
            level_db = lead_db - (edited.note.level_db - levels[0])
            movement = _movement(edited, alignment, way, mine, above, asked.pitch) if asked.movement else ()
        found[match.note_id] = Led(match.note_id, start_s, end_s, target, movement, level_db)
    return found


def _usual_interval(follower: Side, lead: Side, matching: Matching) -> float:
    """Semitones by which the follower mostly sings above the lead."""
    both = [(follower.content.notes[one.note_id].note, lead.content.notes[one.lead_id].note)
            for one in matching.pairs if one.lead_id]  # fmt: skip
    return float(np.median([mine.centre_midi - theirs.centre_midi for mine, theirs in both])) if both else 0.0


def _interval(apart: float, between_targets: float, usual: float) -> float:
    """Whole semitones of an interval that was sung `apart`: the octave or unison that a double sings throughout, even
    where it is off by more than a semitone; else that of the whole part where it is near, or else that of the targets.
    """
    octave = 12.0 * round(usual / 12.0)
    if abs(usual - octave) <= _NEAR_OCTAVE and abs(apart - octave) <= _OFF_OCTAVE:
        return octave
    return float(round(usual if abs(apart - round(usual)) <= _NEAR_USUAL else between_targets))


def _usual_db(notes: Sequence[EditedNote]) -> float:
    return float(np.median([one.note.level_db for one in notes])) if notes else 0.0


def _slow(side: Side) -> Floats:
    """The tuned pitch of every frame, smoothed, and through what is unvoiced."""
    tuned = side.plan.contour.midi + side.plan.correction
    known = np.flatnonzero(np.isfinite(tuned))
    if len(known) == 0:
        return np.zeros(len(tuned))
    return moving_average(np.interp(np.arange(len(tuned)), known, tuned[known]), round(_SLOW_S / HOP_S) | 1)


def _movement(
    edited: EditedNote, alignment: Alignment, way: Floats, mine: Floats, above: float, pitch: float
) -> tuple[tuple[float, float], ...]:  # fmt: skip
    """The lead's way through a note, as far as the pitch follows."""
    note = edited.note
    count = max(2, round((note.end_s - note.start_s) / _POINT_S))
    times = np.linspace(note.start_s, note.end_s, count)
    there = np.interp(times / HOP_S, np.arange(len(alignment.lead_s)), alignment.lead_s) / HOP_S
    lead = np.interp(there, np.arange(len(way)), way) + above
    own = np.interp(times / HOP_S, np.arange(len(mine)), mine)
    drawn = own + pitch * (lead - own)
    return tuple((float(t), float(p)) for t, p in zip(times, drawn, strict=True))


@dataclass(frozen=True)
class AlignmentShown:
    """How two tracks were aligned, for the screen: pairs of starts in song seconds with the lead's pitch, the lead's
    notes that the follower does not sing, the follower's that it sings alone, and whether the lead follows it already.
    """

    pairs: list[tuple[float, float, float]]
    lead_alone: list[tuple[float, float]]
    alone: list[str]
    in_a_round: bool


def alignment_shown(desk: Desk, follower: Standing, asked: Follow) -> AlignmentShown:
    """How a follower lies on a lead."""
    lead = leader(desk, follower, asked.lead_track)
    sides = side_of(desk, follower), side_of(desk, lead)
    found = followed(*sides, asked)
    times, own = (side.plan.times for side in reversed(sides))
    targets = current_targets(lead.content.notes, lead.keys)

    def pair(match: Match) -> tuple[float, float, float]:
        sung = lead.content.notes.get(match.lead_id or "")
        edited = follower.content.notes[match.note_id]
        pitch = edited.note.centre_midi if sung is None else sides[1].tuned(sung, targets)
        return (float(times.source_to_track(match.start_s)) + lead.track.offset_s,
                float(own.source_to_track(edited.note.start_s)) + follower.track.offset_s, pitch)  # fmt: skip

    alone = [lead.content.notes[name].span_s for name in found.matching.lead_alone]
    placed = [times.source_to_track(span) + lead.track.offset_s for span in alone]
    return AlignmentShown([pair(match) for match in found.matching.pairs],
                          [(float(a), float(b)) for a, b in placed], list(found.matching.alone),
                          _leads_to(desk, follower.track.id, lead.track.id))  # fmt: skip


def _leads_to(desk: Desk, track_id: str, other_id: str) -> bool:
    """Whether another track follows a track, at first or later hand."""
    song = desk.workspace.tracks.get(track_id).song_id
    tracks = [one for one in desk.workspace.tracks.of_song(song) if one.ready and one.analysis_id is not None]
    leads = {one.id: {link.lead_track for link in desk.at(one.id).content.links.values()} for one in tracks}
    reached, grown = {track_id}, True
    while grown:
        more = {one for one, above in leads.items() if above & reached} - reached
        reached, grown = reached | more, bool(more)
    return other_id in reached


@dataclass(frozen=True)
class LinkShown:
    """A link as it stands: the lead's name, whether the lead has changed since, and its settings."""

    id: str
    lead_track: str
    lead: str
    behind: bool
    timing: float
    pitch: float
    level: float
    movement: bool
    interval: str
    derived: bool
    by_itself: bool


def links_shown(desk: Desk, follower: Standing) -> list[LinkShown]:
    """The links of a follower."""
    names = {track.id: track for track in desk.workspace.tracks.of_song(follower.track.song_id)}
    found = []
    for link in follower.content.links.values():
        lead = names.get(link.lead_track)
        if lead is not None and lead.version_id is not None:
            found.append(LinkShown(
                link.id, link.lead_track, lead.name, is_behind(desk, follower, link), link.timing, link.pitch,
                link.level, link.movement, link.interval, link.rule is not None, link.by_itself,
            ))  # fmt: skip
    return found
