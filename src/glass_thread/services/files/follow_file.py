"""Make one sound file follow another one."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ...core.alignment.timbre import performance, timbre
from ...core.analysis.analysis import analyse_recording
from ...core.document.content import apply_to_content, as_found
from ...core.document.items.links import LeadNow
from ...core.document.operations.on_follow import Follow
from ...core.document.operations.registry import Scene, parse_operation
from ...core.plan.plan import build_plan
from ...core.signal.recording import Mono
from ...core.signal.types import Analysis
from ...core.song.keys import KeyMap
from ..prints.changed import changed_counts
from ..prints.print_writer import PrintSummary
from ..voices.following import Followed, Side, followed
from .sound_files import OpenFile, form_of, opened_file, print_plan, refuse_target
from .tune_file import likely_keys

FORMAT = "glass-thread-follow"


@dataclass(frozen=True)
class FollowReport:
    """What came of it: the print, and how the two belong together, as plain data."""

    summary: PrintSummary
    data: dict[str, Any]


def follow_file(
    lead: Path, follower: Path, target: Path, *, timing: float = 1.0, pitch: float = 0.0, level: float = 0.0,
    movement: bool = False, lower_db: float = 0.0, as_float: bool = False,
) -> FollowReport:  # fmt: skip
    """Write `follower` to `target` so that it follows `lead`, by strengths from 0 to 1; both begin at the same time."""
    refuse_target(target, lead, follower)
    wanted = {"timing": timing, "pitch": pitch, "level": level, "movement": movement}
    asked = parse_operation({"type": "follow", "lead_track": "lead", **wanted})
    assert isinstance(asked, Follow)
    with opened_file(lead) as first, opened_file(follower) as second:
        form = form_of(second, target, lower_db=lower_db, as_float=as_float)
        analyses = [analyse_recording(file.reader) for file in (second, first)]
        keys = likely_keys(analyses[1])
        sides = _side(second, analyses[0], keys), _side(first, analyses[1], keys)
        found = followed(*sides, asked)
        own = sides[0]
        now = LeadNow("lead", found.notes, found.matching.alone)
        content = apply_to_content(own.content, asked.change(Scene(own.content, own.keys, own.analysis, lead=now)))
        plan = build_plan(own.analysis, content, own.keys)
        summary = print_plan(target, second, plan, form, changed_counts(content, plan))
    return FollowReport(summary, _report(*sides, found))


def _side(file: OpenFile, analysis: Analysis, keys: KeyMap) -> Side:
    content = as_found(analysis)
    rows = timbre(Mono(file.recording), file.recording.sample_rate, analysis.contour, analysis.level_db)
    features = performance(rows, analysis.contour, analysis.level_db, analysis.high_db)
    return Side(analysis, content, build_plan(analysis, content, keys), keys, features)


def _report(own: Side, lead: Side, found: Followed) -> dict[str, Any]:
    pairs = [{"lead_s": round(a, 4), "follower_s": round(b, 4)} for a, b in _edges(own, found)]
    alone = [*(("lead", lead.analysis, i) for i in found.matching.lead_alone),
             *(("follower", own.analysis, i) for i in found.matching.alone)]  # fmt: skip
    return {"format": FORMAT, "version": 1, "pairs": pairs, "unmatched": [_alone(*one) for one in alone]}


def _edges(own: Side, found: Followed) -> list[tuple[float, float]]:
    """Starts and ends that belong together, of the lead and of the follower, in order of time."""
    edges = set()
    for match in found.matching.pairs:
        note = own.content.notes[match.note_id].note
        edges |= {(match.start_s, note.start_s), (match.end_s, note.end_s)}
    return sorted(edges, key=lambda pair: pair[1])


def _alone(track: str, analysis: Analysis, note_id: str) -> dict[str, Any]:
    (note,) = (one for one in analysis.notes if one.id == note_id)
    return {"track": track, "start_s": round(note.start_s, 4), "end_s": round(note.end_s, 4)}
