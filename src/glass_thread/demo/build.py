"""Build the demo's sound files, and put the demo song into a data folder."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import soundfile as sf

from ..core.signal.types import Floats
from ..services.folder.workspace import Workspace
from ..services.song.import_audio import import_audio
from ..services.song.songs import change_song, change_track, create_song
from ..services.work.here import run_task
from ..store.records import Song
from . import backing, singer, song

SAMPLE_RATE = 44_100
FOLDER = Path(__file__).parent / "sound"
# file, track name, role, level in dB
FILES = (
    ("lead.flac", "Lead", "lead", 0.0),
    ("double-1.flac", "Double 1", "double", -9.0),
    ("double-2.flac", "Double 2", "double", -9.0),
    ("backing.flac", "Backing", "backing", 0.0),
)


def _write(path: Path, samples: Floats) -> None:
    whole = np.floor(np.clip(samples, -1.0, 1.0 - 2**-15) * 2**15 + 0.5).astype(np.int16)
    sf.write(str(path), whole.T, SAMPLE_RATE, format="FLAC", subtype="PCM_16")


def build_sounds(folder: Path = FOLDER) -> list[Path]:
    """Sing and play everything into `folder`; the same samples every time."""
    folder.mkdir(parents=True, exist_ok=True)
    sounds = {
        "lead.flac": singer.sing(song.lead(), SAMPLE_RATE).audio[np.newaxis],
        "double-1.flac": singer.sing(song.double(1), SAMPLE_RATE, peak_db=-8.0).audio[np.newaxis],
        "double-2.flac": singer.sing(song.double(2), SAMPLE_RATE, peak_db=-8.0).audio[np.newaxis],
        "backing.flac": backing.play(SAMPLE_RATE),
    }
    for name, samples in sounds.items():
        _write(folder / name, samples)
    return [folder / name for name in sounds]


def ensure_demo(workspace: Workspace) -> Song:
    """The demo song of a data folder, brought in when it is not there yet."""
    for known in workspace.songs.all():
        if known.title == song.TITLE:
            return known
    made = create_song(workspace, song.TITLE)
    for file_name, name, role, level_db in FILES:
        with (FOLDER / file_name).open("rb") as stream:
            track, task = import_audio(workspace, made.id, stream, f"{name}.flac", role=role)
        run_task(workspace, task.id)
        words = {str(i): row[1] for i, row in enumerate(song.PHRASES)} if role == "lead" else {}
        change_track(workspace, track.id, {"level_db": level_db, "words": words})
    settings = {"tempo": song.TEMPO, "beats_per_bar": song.BEATS_PER_BAR, "tonic": song.TONIC, "scale": song.SCALE}
    return change_song(workspace, made.id, settings)
