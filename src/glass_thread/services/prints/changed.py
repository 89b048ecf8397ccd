"""What sounds different from the recording, counted for prints."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any, NamedTuple

from ...core.document.content import Content
from ...core.document.gestures import note_frames
from ...core.document.items.comps import Choices, spans_of
from ...core.plan.plan import Plan
from ...core.plan.times import TrackTimes


class Changed(NamedTuple):
    """How many notes, and how many air events, gaps and level stretches, sound different; what is borrowed, and seconds
    of it."""

    notes: int = 0
    air: int = 0
    borrowed: tuple[str, ...] = ()
    borrowed_s: float = 0.0

    def plus(self, other: Changed) -> Changed:
        """Both together."""
        return Changed(*(mine + theirs for mine, theirs in zip(self, other, strict=True)))  # type: ignore[operator]


def changed_counts(content: Content, plan: Plan) -> Changed:
    """What sounds different in a content."""
    air = sum(not edited.is_as_sung for edited in content.air.values())
    glaze, borrows = plan.glaze, list(content.borrows.values())
    notes = sum(
        not edited.gesture.is_as_sung or bool(glaze[slice(*note_frames(edited.note, len(glaze)))].any())
        for edited in content.notes.values()
    )
    ends = [plan.times.source_to_track((one.start_s, one.end_s)) for one in borrows]
    lent_s = float(sum(b - a for a, b in ends))
    air += len(content.gaps) + len(content.level_stretches)
    return Changed(notes, air, tuple(one.name for one in borrows), lent_s)


def comp_counts(choices: Choices, contents: Mapping[str, Content], plans: Mapping[str, Plan]) -> Changed:
    """The same of a comp: of each version where it sounds."""
    found = Changed()
    for start_s, end_s, choice in spans_of(choices):
        content, plan = contents[choice.step_id], plans[choice.step_id]

        def here(items: Mapping[str, Any], times: TrackTimes = plan.times, a: float = start_s, b: float = end_s) -> Any:
            middles = ((key, float(times.source_to_track(sum(one.span_s) / 2))) for key, one in items.items())
            return {key: items[key] for key, middle in middles if a <= middle < b}

        sounding = replace(content, notes=here(content.notes), air=here(content.air), gaps=here(content.gaps),
                           borrows=here(content.borrows),
                           level_stretches=here(content.level_stretches))  # fmt: skip
        found = found.plus(changed_counts(sounding, plan))
    return found
