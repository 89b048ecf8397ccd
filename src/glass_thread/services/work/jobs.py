"""Jobs: long work as content in, content out.  Whoever carries one out needs no database and no song."""

from __future__ import annotations

import json
from collections.abc import Mapping
from contextlib import AbstractContextManager
from dataclasses import asdict, dataclass, field, replace
from pathlib import Path
from typing import Any, Protocol

from ...core.analysis.analysis import Progress, analyse_recording, scan
from ...core.plan.plan import build_plan
from ...core.signal.errors import AudioError
from ...core.signal.types import Analysis
from ...formats.audio import AudioReader
from ...formats.plain_data import content_from_data, keys_from_data
from ...store.files.analysis_cache import write_analysis
from ...store.files.audio_files import NAME_BY_CONTENT
from ..prints.changed import Changed, changed_counts, comp_counts
from ..prints.mix import MixPart, mixed
from ..prints.print_layout import Layout, laid_out
from ..prints.print_writer import PrintForm, write_print
from ..sound.recordings import CachedRecording
from ..sound.sound import Sound
from ..sound.take import CompTake, PlanTake, Take


class Depot(Protocol):
    """Where a worker finds content by its name, and leaves what it made."""

    def reader(self, audio_hash: str) -> AudioReader:
        """A recording."""

    def analysis(self, analysis_id: str) -> Analysis | None:
        """A finished analysis, or None when it is missing or damaged."""

    def new_file(self) -> AbstractContextManager[Path]:
        """A path to write a result to; nothing is left there afterwards."""

    def deliver(self, path: Path) -> str:
        """Hand a finished file over; returns its name by content."""


@dataclass(frozen=True)
class Outcome:
    """What came of a job: small values, and the name by content of a file if it made one."""

    values: dict[str, Any] = field(default_factory=dict)
    file: str | None = None


@dataclass(frozen=True)
class ScanJob:
    """Make sure that a recording can be read to its end."""

    audio: str

    def do(self, depot: Depot, report: Progress) -> Outcome:
        """Read it all."""
        report("Reading the file", 0.02)
        scan(depot.reader(self.audio))
        return Outcome()


@dataclass(frozen=True)
class AnalyseJob:
    """Find what there is in a recording."""

    audio: str

    def do(self, depot: Depot, report: Progress) -> Outcome:
        """The file of the outcome is the analysis."""
        report("Reading the file", 0.02)
        found = analyse_recording(depot.reader(self.audio), progress=report)
        with depot.new_file() as path:
            write_analysis(path, found)
            return Outcome({"notes": len(found.notes), "polyphonic": found.polyphonic}, depot.deliver(path))


@dataclass(frozen=True)
class PrintJob:
    """Write the sound of one content of a recording, in plain data as the history keeps it."""

    audio: str
    analysis: str
    content: dict[str, Any]
    keys: dict[str, Any]
    form: dict[str, Any]
    parts: dict[str, dict[str, Any]] = field(default_factory=dict)  # of a comp: the contents it chooses among, by step
    layout: dict[str, Any] = field(default_factory=dict)  # the fields of a `Layout`; all of it when empty

    def do(self, depot: Depot, report: Progress) -> Outcome:
        """The file of the outcome is the print; its values are those of `PrintSummary`."""
        sound = Sound(depot, depot.analysis)
        take, counts = take_of(depot, sound, vars(self))
        layout = Layout.from_data(self.layout) if self.layout else Layout(0, take.length)
        info = replace(sound.info(self.audio), frames=layout.length)
        blocks = laid_out(take, layout, info.sample_rate, info.channels)
        with depot.new_file() as path:
            summary = write_print(path, info, blocks, PrintForm(**self.form), counts, report)
            return Outcome(asdict(summary), depot.deliver(path))


def take_of(depot: Depot, sound: Sound, made_of: dict[str, Any]) -> tuple[Take, Changed]:
    """What a content sounds like over its recording, and what is changed in it.

    `made_of` names the recording (`audio`) and its `analysis`, and holds `content`, `keys` and, of a comp, `parts`.
    """
    analysis = depot.analysis(made_of["analysis"])
    if analysis is None:
        raise AudioError("What was found in the recording could not be read; open the track, then print again.")
    keys = keys_from_data(made_of["keys"])
    content, source = content_from_data(made_of["content"]), sound.source(made_of["audio"])
    if not content.choices:
        plan = build_plan(sound.analysis_heard(analysis, content), content, keys)
        return PlanTake(sound, source, plan), changed_counts(content, plan)
    contents = {step: content_from_data(data) for step, data in made_of["parts"].items()}
    plans = {step: build_plan(sound.analysis_heard(analysis, part), part, keys) for step, part in contents.items()}
    return CompTake(sound, source, content.choices, plans), comp_counts(content.choices, contents, plans)


@dataclass(frozen=True)
class MixJob:
    """Write the sum of several tracks; each part is made of what `take_of` needs, or of a recording alone, with the
    sample it begins at and a factor."""

    parts: list[dict[str, Any]]
    length: int
    channels: int
    form: dict[str, Any]

    def do(self, depot: Depot, report: Progress) -> Outcome:
        """The file of the outcome is the mix; its values are those of `PrintSummary`."""
        sound, changed, parts = Sound(depot, depot.analysis), Changed(), []
        for part in self.parts:
            take: Take | CachedRecording = sound.source(part["audio"])
            if "content" in part:
                take, counts = take_of(depot, sound, part)
                changed = changed.plus(counts)
            parts.append(MixPart(take, part["begin"], tuple(part["gains"])))
        info = replace(sound.info(self.parts[0]["audio"]), frames=self.length, channels=self.channels)
        blocks = mixed(parts, self.length, info.sample_rate, self.channels)
        with depot.new_file() as path:
            summary = write_print(path, info, blocks, PrintForm(**self.form), changed, report)
            return Outcome(asdict(summary), depot.deliver(path))


Job = ScanJob | AnalyseJob | PrintJob | MixJob
_KINDS: dict[str, type[Job]] = {"scan": ScanJob, "analyse": AnalyseJob, "print": PrintJob, "mix": MixJob}
_NAMES = {kind: name for name, kind in _KINDS.items()}


def content_names(data: Mapping[str, Any]) -> frozenset[str]:
    """All names by content in a job as plain data: what its worker may fetch."""
    return frozenset(NAME_BY_CONTENT.findall(json.dumps(data)))


def job_to_data(job: Job) -> dict[str, Any]:
    """A job as plain data."""
    return {"kind": _NAMES[type(job)], **asdict(job)}


def job_from_data(data: dict[str, Any]) -> Job:
    """Inverse of `job_to_data`."""
    return _KINDS[data["kind"]](**{name: value for name, value in data.items() if name != "kind"})
