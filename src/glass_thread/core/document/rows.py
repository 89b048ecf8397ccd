"""A version of a track as a comp sees it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Protocol

from numpy.typing import ArrayLike

from ..signal.types import Floats
from .content import Content


class Times(Protocol):
    """Where the moments of a recording lie in a track."""

    def source_to_track(self, source_s: ArrayLike) -> Floats:
        """Track seconds of moments of the recording."""


@dataclass(frozen=True)
class Row:
    """A version at a step: its content, its time map, and what is judged of its notes by id."""

    version_id: str
    name: str
    step_id: str
    content: Content
    times: Times
    strain: Mapping[str, float]
    flagged: frozenset[str]

    def strain_over(self, span_s: tuple[float, float]) -> float:
        """The most strain of notes that reach into a stretch of the recording by a fifth of it or more."""
        least = 0.2 * (span_s[1] - span_s[0])
        reaching = [
            self.strain.get(edited.note.id, 0.0)
            for edited in self.content.notes.values()
            if min(edited.note.end_s, span_s[1]) - max(edited.note.start_s, span_s[0]) > least
        ]
        return max(reaching, default=0.0)
