"""What one process keeps at hand of the tracks it works on: contents, plans and verdicts of steps, by step id.

A step never changes, so nothing here ever has to be thrown away for being old.
"""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...core.document.content import Content, ContentChange, apply_to_content, as_found, difference_of
from ...core.measure.verdicts import Verdicts, judge, judge_again
from ...core.plan.plan import Plan, Window, build_plan, changed_plan, windows_between
from ...core.signal.errors import AudioError, ParameterError
from ...core.signal.types import Analysis
from ...core.song.keys import KeyMap
from ...formats.plain_data import change_from_data, content_from_data, content_to_data
from ...store.byte_cache import ByteCache
from ...store.records import Song, Step, StepEntry, Track
from ..folder.workspace import Workspace
from ..sound.heard import Heard, Setting
from ..sound.sound import Sound
from ..sound.take import CompTake, PlanTake, Take
from .meters import keys_under, meters_of

STEPS_A_SNAPSHOT = 50
CONTENT_BYTES, PLAN_BYTES, VERDICT_BYTES, TAKE_BYTES = 48 << 20, 64 << 20, 32 << 20, 64 << 20
MOST_LATEST = 1000  # takes under some keys
_ITEM_BYTES = 120  # of a mapping; what is in it is mostly shared between neighbouring steps


@dataclass(frozen=True)
class Standing:
    """A track as it stands at one step: everything a reader needs, all of the same moment.

    `step_id` is None for what is only tried out.
    """

    track: Track
    song: Song
    keys: KeyMap
    analysis: Analysis
    analysis_id: str
    step_id: str | None
    content: Content
    setting: Setting


class Moved(NamedTuple):
    """Two standings of one track, with their plans and verdicts, and the frames in which the plans may differ."""

    before: Standing
    after: Standing
    plans: tuple[Plan, Plan]
    verdicts: tuple[Verdicts, Verdicts]
    windows: list[Window]


def _items(content: Content) -> int:
    return _ITEM_BYTES * sum(len(part) for part in content.parts) + 1000


def _plan_bytes(plan: Plan) -> int:
    return 5 * plan.correction.nbytes


class Desk:
    """Loads and derives standings of one data folder; safe to use from several threads."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace
        self.sound = Sound(workspace.audio, workspace.analyses.load)
        self.heard = Heard(self.sound)
        self._contents: ByteCache[Content] = ByteCache(CONTENT_BYTES, _items)
        self._plans: ByteCache[tuple[Content, Plan]] = ByteCache(PLAN_BYTES, lambda kept: _plan_bytes(kept[1]))
        self._latest: ByteCache[Hashable] = ByteCache(MOST_LATEST, lambda _: 1)  # where a take's plan of last is kept
        self._takes: ByteCache[CompTake] = ByteCache(TAKE_BYTES, lambda take: take.nbytes)
        self._verdicts: ByteCache[Verdicts] = ByteCache(VERDICT_BYTES, lambda v: 400 * len(v.notes) + 1000)
        self._tried: Moved | None = None  # the last move to what is no step yet

    def outline(self, track: Track) -> NDArray[np.int8]:
        """Lowest and highest sample of each 5 ms of a track's first channel, shape (n, 2), full scale 127."""
        kept = self.workspace.analyses.load(track.analysis_id) if track.analysis_id else None
        return kept.outline if kept is not None and len(kept.outline) else self.heard.outline(track.audio_hash)

    def track(self, track_id: str, *, even_removed: bool = False) -> Track:
        """A vocal track that is ready to be worked on."""
        track = self.workspace.tracks.get(track_id, even_removed=even_removed)
        if not track.ready or track.analysis_id is None:
            raise ParameterError("This track has no notes: it is a backing, or it is still being analysed.")
        return track

    def analysis(self, track: Track) -> Analysis:
        """What was found in a track; when that is missing or damaged, making it again is begun and said."""
        assert track.analysis_id is not None
        found = self.workspace.analyses.load(track.analysis_id)
        if found is None:
            self._analyse_again(track)
            raise AudioError(
                "What was found in this recording is missing or damaged in the data folder. It is being made again "
                "now; open the track again in a moment. Your edits are safe."
            )
        return found

    def _analyse_again(self, track: Track) -> None:
        waiting = [t for t in self.workspace.tasks.of_song(track.song_id)
                   if t.kind == "analyse" and t.track_id == track.id and t.state != "failed"]  # fmt: skip
        if not waiting:
            wanted = {"file": track.name}
            self.workspace.tasks.add(kind="analyse", song_id=track.song_id, track_id=track.id, wanted=wanted)
            self.workspace.announce()

    def beside(self, standing: Standing, track_id: str, refusal: str) -> Standing:
        """Another track of the same song as it stands now; ParameterError with a sentence when it is of another one."""
        other = self.at(track_id)
        if other.track.song_id != standing.track.song_id:
            raise ParameterError(refusal)
        return other

    def at(self, track_id: str, step_id: str | None = None, *, even_removed: bool = False) -> Standing:
        """A track at a step of its history; without one at the head of the version that is worked on."""
        track = self.track(track_id, even_removed=even_removed)
        analysis = self.analysis(track)
        if step_id is None:
            assert track.version_id is not None
            step_id = self.workspace.history.version(track.version_id).head_id
        step = self.workspace.history.place_of(track_id, step_id)
        song = self.workspace.songs.get(track.song_id)
        assert track.analysis_id is not None
        content = self._content(track.analysis_id, analysis, step)
        setting = self.setting(song, track)
        heard = self.sound.analysis_heard(analysis, content)
        return Standing(
            track, song, keys_under(song, track.offset_s), heard, track.analysis_id, step_id, content, setting
        )

    def with_content(self, standing: Standing, content: Content) -> Standing:
        """The same track with another content, which is no step yet."""
        heard = self.sound.analysis_heard(standing.analysis, content)
        return replace(standing, step_id=None, content=content, analysis=heard)

    def setting(self, song: Song, track: Track) -> Setting:
        """What a track is heard against: the bars of its song and its first backing that is ready."""
        bar_s = None
        if song.tempo_chosen:
            first = meters_of(song)[0]
            bar_s = (first.start_s - track.offset_s, first.bar_s)
        for other in self.workspace.tracks.of_song(song.id):
            if other.role == "backing" and other.ready:
                return Setting(bar_s, other.audio_hash, other.offset_s - track.offset_s, song.reference_hz)
        return Setting(bar_s)

    def _content(self, analysis_id: str, analysis: Analysis, step: StepEntry) -> Content:
        known = self._contents.get((analysis_id, step.id))
        if known is not None:
            return known
        parent = self._contents.get((analysis_id, step.parent_id))
        if parent is not None:
            change = self.workspace.history.step(step.id).change
            content = apply_to_content(parent, change_from_data(change))
            return self._contents.keep((analysis_id, step.id), content)
        stored, steps = self.workspace.history.trail(step)
        content = as_found(analysis) if stored is None else content_from_data(stored)
        for one in steps:
            content = apply_to_content(content, change_from_data(one.change))
        if len(steps) >= STEPS_A_SNAPSHOT:
            self.workspace.history.keep_snapshot(step.id, content_to_data(content))
        return self._contents.keep((analysis_id, step.id), content)

    def keep(self, standing: Standing, step: Step) -> Standing:
        """Remember what was derived for a step that is now stored, and store its content now and then."""
        stored = replace(standing, step_id=step.id)
        self._contents.keep((standing.analysis_id, step.id), standing.content)
        if step.number % STEPS_A_SNAPSHOT == 0:
            self.workspace.history.keep_snapshot(step.id, content_to_data(standing.content))
        return stored

    def plan(self, standing: Standing) -> Plan:
        """The plan of a standing; derived from another one of the same track where that is at hand."""
        known = self._plans.get(_plan_key(standing))
        if known is not None:
            return known[1]
        latest = self._plans.get(self._latest.get((standing.analysis_id, standing.keys)))
        if latest is not None:
            content, plan = latest
            change = difference_of(content, standing.content)
            if len(change) < len(standing.content.notes) // 2 + 50:
                return self._keep_plan(standing, self._derived(standing, plan, change)[0])
        return self._keep_plan(standing, build_plan(standing.analysis, standing.content, standing.keys))

    def chosen(self, standing: Standing) -> dict[str, Standing]:
        """The standings that a comp chooses among, by step; none when this is no comp."""
        steps = dict.fromkeys(choice.step_id for choice in standing.content.choices.values())
        return {step: self.at(standing.track.id, step) for step in steps}

    def take(self, standing: Standing) -> Take:
        """The sound of a standing, whether it is one plan or a comp of several."""
        source = self.sound.source(standing.track.audio_hash)
        choices = standing.content.choices
        if not choices:
            return PlanTake(self.sound, source, self.plan(standing))
        key = _plan_key(standing)
        known = self._takes.get(key) if standing.step_id else None
        if known is None:
            plans = {step: self.plan(part) for step, part in self.chosen(standing).items()}
            known = CompTake(self.sound, source, choices, plans)
            if standing.step_id:
                self._takes.keep(key, known)
        return known

    @staticmethod
    def _derived(standing: Standing, plan: Plan, change: ContentChange) -> tuple[Plan, list[Window]]:
        return changed_plan(plan, standing.analysis, standing.content, change, standing.keys)

    def _keep_plan(self, standing: Standing, plan: Plan) -> Plan:
        take = standing.analysis_id, standing.keys
        kept = _plan_key(standing) if standing.step_id is not None else ("tried", *take)
        self._plans.keep(kept, (standing.content, plan))
        self._latest.keep(take, kept)
        return plan

    def verdicts(self, standing: Standing) -> Verdicts:
        """The verdicts on a standing."""
        known = self._verdicts.get(_verdict_key(standing)) if standing.step_id else None
        if known is None:
            known = judge(
                standing.analysis, standing.content, self.plan(standing), standing.keys,
                self.heard.surroundings(standing.setting),
            )  # fmt: skip
            self._keep_verdicts(standing, known)
        return known

    def _keep_verdicts(self, standing: Standing, verdicts: Verdicts) -> None:
        if standing.step_id is not None:
            self._verdicts.keep(_verdict_key(standing), verdicts)

    def moved(self, before: Standing, after: Standing) -> Moved:
        """The way from one standing to another of the same track; what is shared is not worked out again."""
        tried = self._tried
        if tried is not None and _same_way(tried, before, after):  # what was previewed is taken
            return tried._replace(before=before, after=after)
        change = difference_of(before.content, after.content)
        old_plan, old_verdicts = self.plan(before), self.verdicts(before)
        known = self._plans.get(_plan_key(after)) if after.step_id is not None else None
        if known is not None:  # a step that is gone back to
            new_plan, windows = known[1], windows_between(old_plan, known[1], after.analysis, after.content, change)
        else:
            new_plan, windows = self._derived(after, old_plan, change)
        verdicts = self._verdicts.get(_verdict_key(after)) if known is not None else None
        verdicts = verdicts or judge_again(
            old_verdicts, after.analysis, after.content, change, new_plan, windows, after.keys,
            self.heard.surroundings(after.setting),
        )  # fmt: skip
        self._keep_plan(after, new_plan)
        self._keep_verdicts(after, verdicts)
        moved = Moved(before, after, (old_plan, new_plan), (old_verdicts, verdicts), windows)
        self._tried = moved if after.step_id is None else self._tried
        return moved

    def remember(self, moved: Moved, standing: Standing) -> Moved:
        """The same move with its end stored as a step."""
        self._keep_plan(standing, moved.plans[1])
        self._keep_verdicts(standing, moved.verdicts[1])
        return moved._replace(after=standing)


def _same_way(known: Moved, before: Standing, after: Standing) -> bool:
    """Whether two standings that are no steps yet are left alike from the same step."""
    same_start = before.step_id is not None and _verdict_key(known.before) == _verdict_key(before)
    settled = after.step_id is None and _verdict_key(known.after) == _verdict_key(after)
    return same_start and settled and known.after.content == after.content


def _verdict_key(standing: Standing) -> tuple[object, ...]:
    return *_plan_key(standing), standing.setting


def _plan_key(standing: Standing) -> tuple[str, str | None, KeyMap]:
    return standing.analysis_id, standing.step_id, standing.keys
