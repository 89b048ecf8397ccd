"""The keys a track may be in, from its notes and from the song's backing."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ....core.analysis.key import estimate_keys, sung_tuning
from ....core.signal.types import Floats, KeyCandidate
from ...session.desk import Desk


@dataclass(frozen=True)
class KeyEstimate:
    """Candidates, the most likely first, the tuning of A4 that is sung, by how many cents that is off 440 Hz and how
    sure (0 to 1), and whether a backing was heard for it."""

    keys: tuple[KeyCandidate, ...]
    reference_hz: float
    sung_cents: float
    sung_certainty: float
    with_backing: bool


def estimate_key(desk: Desk, track_id: str) -> KeyEstimate:
    """What a track sounds like, whatever key its song has."""
    standing = desk.at(track_id)
    reference = standing.analysis.reference_hz
    notes = [edited.note for edited in standing.content.notes.values()]
    backings = [track for track in desk.workspace.tracks.of_song(standing.song.id)
                if track.role == "backing" and track.ready]  # fmt: skip
    heard: Floats = np.zeros(12)
    for backing in backings:
        heard = heard + desk.heard.chroma(backing.audio_hash, reference)
    keys = estimate_keys(notes, reference_hz=reference, backing=heard)
    return KeyEstimate(keys, reference, *sung_tuning(notes), bool(heard.any()))
