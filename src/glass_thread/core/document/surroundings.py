"""What a note is heard against: the beat, the harmony, the phrase.  The weights are common practice, no source."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from ..signal.order import looked_up
from ..signal.types import Floats, Note

STRONG_BEAT_S = 0.06  # how near to the first beat of a bar a note begins on it
BEAT_WEIGHT, CLASH_WEIGHT = 1.15, 1.25
SOUNDING = 0.14  # share of the harmony from which a pitch class is heard in it; one in twelve is 0.083
LEVELS_DB, LEVEL_WEIGHTS = (-14.0, -4.0, 2.0, 8.0), (0.65, 0.95, 1.0, 1.15)


@dataclass(frozen=True, eq=False)
class Surroundings:
    """The song around a track, on the recording's clock.

    `bar_s` is where bar 1 begins and how long a bar lasts in seconds, None while no tempo was chosen; `harmony` the
    share of each pitch class in the backing, shape (n, 12), one row each `hop_s` from `harmony_from_s` on, empty
    without a backing.
    """

    bar_s: tuple[float, float] | None = None
    harmony: Floats = field(default_factory=lambda: np.zeros((0, 12)), repr=False)
    hop_s: float = 1.0
    harmony_from_s: float = 0.0

    @property
    def has_backing(self) -> bool:
        """Whether anything sounds that the voice can be off against."""
        return len(self.harmony) > 0

    def weight(self, note: Note, target_midi: float, among_db: float) -> float:
        """How much an ear cares about a note: its level over `among_db`, a strong beat, its pitch in the backing."""
        weight = looked_up(note.level_db - among_db, LEVELS_DB, LEVEL_WEIGHTS)
        if self.bar_s is not None:
            first, length = self.bar_s
            off = (note.start_s - first) % length
            weight *= BEAT_WEIGHT if min(off, length - off) < STRONG_BEAT_S else 1.0
        if self.has_backing:
            a, b = ((t - self.harmony_from_s) / self.hop_s for t in (note.start_s, note.end_s))
            rows = self.harmony[max(0, int(a)) : max(0, int(b) + 1)]
            heard = len(rows) > 0 and rows[:, round(target_midi) % 12].mean() > SOUNDING
            weight *= CLASH_WEIGHT if heard else 1.0
        return weight

    def sits(self, note: Note, midi: float) -> str:
        """How a pitch sits on what the backing holds while a note lasts, in words; none where nothing is heard."""
        if not self.has_backing:
            return ""
        a, b = ((t - self.harmony_from_s) / self.hop_s for t in (note.start_s, note.end_s))
        rows = self.harmony[max(0, int(a)) : max(0, int(b) + 1)]
        if len(rows) == 0 or not rows.any():
            return "nothing sounds around it"
        heard = rows.mean(axis=0) > SOUNDING
        own = round(midi)
        if heard[own % 12]:
            return "in the chord"
        return "clashes: a semitone beside a chord note" if heard[(own + 1) % 12] or heard[(own - 1) % 12] else (
            "a neighbour of the chord"
        )  # fmt: skip


ALONE = Surroundings()
