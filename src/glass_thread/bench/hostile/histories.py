"""Histories of a song drawn over everything that can be done to it, compared with a fresh start after every step."""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from ...core.signal.errors import GlassThreadError
from ...core.signal.scale_steps import SCALES
from ...services.folder.workspace import Workspace
from ...services.history.comps import list_comps, make_comp
from ...services.history.edit import edit, jump, redo, undo
from ...services.history.versions import list_versions, make_version, switch_version
from ...services.linked.catching_up import catch_up, catch_up_followers
from ...services.linked.deriving import derive
from ...services.session.agreement import disagreements
from ...services.session.desk import Desk, Standing
from ...services.song.removed import remove_track, removed, restore_track
from ...services.song.song_steps import redo_song, undo_song
from ...services.song.songs import change_song, change_track
from ...store.records import Track, Version
from .draws import Around, draw_operation

MOST_TRACKS = 5


class DrawnHistory:
    """Does what a random source draws to the only song of a workspace; a source that shrinks gives a short history."""

    def __init__(self, workspace: Workspace, rng: random.Random) -> None:
        self.workspace, self.rng = workspace, rng
        self.desk = Desk(workspace)
        self.song_id = workspace.songs.all()[0].id
        self.done: Counter[str] = Counter()
        self._ways: list[tuple[int, Callable[[Track], Any]]] = [
            (10, self._edit), (2, self._stale_edit), (2, self._undo), (1, self._redo), (1, self._jump),
            (1, self._version), (1, self._comp), (2, self._choose), (1, self._derive), (1, self._catch_up),
            (1, self._key), (1, self._tempo), (1, self._place), (1, self._song_undo), (1, self._song_redo),
            (1, self._remove), (1, self._restart),
        ]  # fmt: skip

    def step(self) -> str:
        """Do one thing; returns what it was, and changes nothing when it is refused."""
        track = self.rng.choice(self.tracks())
        way = self.rng.choices([way for _weight, way in self._ways], [weight for weight, _way in self._ways])[0]
        name = way.__name__.strip("_")
        with suppress(GlassThreadError):
            way(track)
            self.done[name] += 1
        return name

    def tracks(self) -> list[Track]:
        """The vocals there are; the first is never removed."""
        return [one for one in self.workspace.tracks.of_song(self.song_id) if one.ready and one.analysis_id]

    def standings(self) -> list[Standing]:
        """Every version and comp that is worked on or heard, as it stands."""
        found = [self.desk.at(track.id) for track in self.tracks()]
        for track in self.tracks():
            found += [self.desk.at(track.id, comp.head_id) for comp in list_comps(self.desk, track.id)]
        return found

    def disagreements(self, *, sound: bool) -> list[str]:
        """What differs from a fresh start, by track."""
        fresh = Desk(self.workspace)
        return [f"{standing.track.name}: {what}" for standing in self.standings()
                for what in disagreements(self.desk, fresh, standing, sound=sound)]  # fmt: skip

    def _around(self, track: Track) -> Around:
        others = {one.id: list(self.desk.at(one.id).content.notes) for one in self.tracks()}
        versions = [one.id for one in list_versions(self.desk, track.id)]
        return Around(track.duration_s, others, versions)

    def _edit(self, track: Track) -> None:
        now = self.desk.at(track.id)
        self.desk.verdicts(now)
        edit(self.desk, track.id, draw_operation(self.rng, now.content, self._around(track)), base=str(now.step_id))

    def _stale_edit(self, track: Track) -> None:
        now = self.desk.at(track.id)
        steps = self.workspace.history.path(str(now.step_id), most=4)
        base = self.rng.choice(steps).id
        edit(self.desk, track.id, draw_operation(self.rng, now.content, self._around(track)), base=base)

    def _undo(self, track: Track) -> None:
        undo(self.desk, track.id, base=str(self.desk.at(track.id).step_id))

    def _redo(self, track: Track) -> None:
        redo(self.desk, track.id, base=str(self.desk.at(track.id).step_id))

    def _jump(self, track: Track) -> None:
        head = str(self.desk.at(track.id).step_id)
        jump(self.desk, track.id, base=head, to=self.rng.choice(self.workspace.history.path(head, most=20)).id)

    def _version(self, track: Track) -> None:
        versions = list_versions(self.desk, track.id)
        made = make_version(self.desk, track.id, f"V{len(versions)}") if len(versions) < 4 else None
        switch_version(self.desk, track.id, made.id if made else self.rng.choice(versions[1:]).id)

    def _a_comp(self, track: Track) -> Version:
        comps = list_comps(self.desk, track.id)
        return self.rng.choice(comps) if comps else make_comp(self.desk, track.id, "Comp")

    def _comp(self, track: Track) -> None:
        self._a_comp(track)

    def _choose(self, track: Track) -> None:
        comp = self._a_comp(track)
        content = self.desk.at(track.id, comp.head_id).content
        edit(self.desk, track.id, draw_operation(self.rng, content, self._around(track)), base=comp.head_id,
             version_id=comp.id)  # fmt: skip

    def _derive(self, track: Track) -> None:
        if len(self.tracks()) >= MOST_TRACKS:
            return
        rule: dict[str, Any] = {"type": "harmony", "steps": self.rng.choice((2, 4, -5))}
        derive(self.desk, track.id, rule if self.rng.random() < 0.6 else {"type": "double"})

    def _catch_up(self, track: Track) -> None:
        if self.rng.random() < 0.5:
            catch_up_followers(self.desk, track.id)
        else:
            catch_up(self.desk, track.id, base=str(self.desk.at(track.id).step_id))

    def _key(self, _track: Track) -> None:
        values: dict[str, Any] = {"tonic": self.rng.randint(0, 11), "scale": self.rng.choice(sorted(SCALES))}
        if self.rng.random() < 0.3:
            values["temperament"] = {"name": self.rng.choice(("equal", "just", "pythagorean"))}
        change_song(self.workspace, self.song_id, values)

    def _tempo(self, _track: Track) -> None:
        change_song(self.workspace, self.song_id, {"tempo": float(self.rng.randint(60, 160))})

    def _place(self, track: Track) -> None:
        change_track(self.workspace, track.id, {"offset_s": self.rng.choice((0.0, 0.25, 1.0))})

    def _song_undo(self, _track: Track) -> None:
        if self._may_go(self.workspace.log.latest(self.song_id)):
            undo_song(self.desk, self.song_id)

    def _song_redo(self, _track: Track) -> None:
        redo_song(self.desk, self.song_id)

    def _may_go(self, step: Any) -> bool:
        """Not the step that brought a recording in: something must be left to work on."""
        return step is not None and not step.label.endswith("brought in")

    def _remove(self, track: Track) -> None:
        gone = [one for one in removed(self.workspace) if one.kind == "track"]
        if gone and self.rng.random() < 0.6:
            restore_track(self.workspace, self.rng.choice(gone).id)
        elif track.id != self.tracks()[0].id:
            remove_track(self.workspace, track.id)

    def _restart(self, _track: Track) -> None:
        self.desk = Desk(self.workspace)


def holdings(workspace: Workspace) -> Any:
    """What a folder holds: songs with their steps, tracks, and versions, removed ones among them."""
    songs = workspace.songs.all()
    tracks = [track for song in songs for track in workspace.tracks.of_song(song.id)]
    versions = [workspace.history.versions(track.id, removed=gone) for track in tracks for gone in (False, True)]
    return songs, [workspace.log.all(song.id) for song in songs], tracks, versions
