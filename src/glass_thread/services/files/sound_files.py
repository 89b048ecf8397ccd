"""Sound files without a song: opened, refused, and written anew from a plan, for the command line."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import NamedTuple

from ...core.plan.plan import Plan
from ...core.signal.errors import ParameterError
from ...core.signal.types import Floats
from ...formats.atomic import write_whole
from ...formats.audio import AudioReader
from ...store.byte_cache import ByteCache
from ..prints.changed import Changed
from ..prints.print_writer import PrintForm, PrintSummary, print_form, write_print
from ..sound.recordings import CachedRecording
from ..sound.sound import SOURCE_BYTES, Block, Renderer, track_length


class OpenFile(NamedTuple):
    """A sound file that is read piece by piece."""

    reader: AudioReader
    recording: CachedRecording


@contextmanager
def opened_file(source: Path) -> Iterator[OpenFile]:
    """A sound file; what had to be unpacked of it goes afterwards."""
    with tempfile.TemporaryDirectory() as folder:
        reader = AudioReader(source, Path(folder) / "unpacked")
        blocks: ByteCache[Floats] = ByteCache(SOURCE_BYTES, lambda block: block.nbytes)
        yield OpenFile(reader, CachedRecording(str(source), reader, blocks))


def refuse_target(target: Path, *sources: Path) -> None:
    """Refuse a file that could not be written, or that would replace what it is made from."""
    if target.suffix.lower() not in (".wav", ".flac"):
        raise ParameterError("The output is written as .wav or .flac; name it so.")
    if target.exists() and any(source.exists() and target.samefile(source) for source in sources):
        raise ParameterError("The output would replace the source; give it another name.")


def form_of(file: OpenFile, target: Path, *, lower_db: float = 0.0, as_float: bool = False) -> PrintForm:
    """The form of a file that is made from another one: its depth and place, and the container by the name."""
    return print_form(
        file.reader.info, container=target.suffix.lower()[1:], bits=32 if as_float else None, lower_db=lower_db,
        time_reference=file.reader.info.time_reference,
    )  # fmt: skip


def print_plan(target: Path, file: OpenFile, plan: Plan, form: PrintForm, changed: Changed) -> PrintSummary:
    """Write the sound of a plan over a file, whole or not at all."""
    blocks = Renderer().blocks(file.recording, plan)
    return print_blocks(target, file, track_length(file.recording, plan), blocks, form, changed)


def print_blocks(
    target: Path, file: OpenFile, frames: int, blocks: Iterator[Block], form: PrintForm, changed: Changed
) -> PrintSummary:
    """Write `frames` samples of sound that is made of a file, whole or not at all.

    Raises
    ------
    ParameterError
        When the target cannot be written.
    """
    made: list[PrintSummary] = []
    info = replace(file.reader.info, frames=frames)

    def write(path: Path) -> None:
        made.append(write_print(path, info, blocks, form, changed))

    try:
        write_whole(target, write)
    except OSError as error:
        raise ParameterError(f"{target.name} cannot be written: {error.strerror or error}.") from error
    return made[0]
