"""How far the work on a track is, for the list of songs."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from hashlib import sha256

from ...store.records import Track
from ..session.desk import Desk
from ..session.keys import key_values


@dataclass(frozen=True)
class Progress:
    """Notes with flags left, notes with gestures, seconds of phrases marked done and of all, and the last step's time.

    `worked_at` is in seconds since 1970, None while nothing was done.
    """

    flags: int
    changed: int
    done_s: float
    sung_s: float
    worked_at: float | None


def progress_of(desk: Desk, track_id: str) -> Progress:
    """How far a vocal track is; worked out anew only when something changed since it was last asked."""
    track = desk.track(track_id)
    assert track.version_id is not None
    head = desk.workspace.history.version(track.version_id).head_id
    song = desk.workspace.songs.get(track.song_id)
    own = sorted(mark for mark in song.done if mark.startswith(f"{track.id}:"))
    seen = (head, track.analysis_id, *key_values(song).values(), own, desk.setting(song, track))
    mark = sha256(repr(seen).encode()).hexdigest()[:16]
    kept = track.progress or {}
    if kept.get("mark") == mark:
        return Progress(**{name: value for name, value in kept.items() if name != "mark"})
    found = _worked_out(desk, track, head, {tail for one in own if (tail := one.rsplit(":", 1)[1])})
    desk.workspace.tracks.change(track_id, {"progress": {**asdict(found), "mark": mark}})
    return found


def _worked_out(desk: Desk, track: Track, head: str, done: set[str]) -> Progress:
    standing = desk.at(track.id, head)
    verdicts = desk.verdicts(standing)
    lengths = {phrase.index: phrase.end_s - phrase.start_s for phrase in standing.analysis.phrases}
    place = desk.workspace.history.place(head)
    return Progress(
        flags=sum(bool(verdict.flags) for verdict in verdicts.notes.values()),
        changed=sum(not edited.gesture.is_as_sung for edited in standing.content.notes.values()),
        done_s=round(sum(length for index, length in lengths.items() if str(index) in done), 3),
        sung_s=round(sum(lengths.values()), 3),
        worked_at=place.created_at if place.number else None,
    )
