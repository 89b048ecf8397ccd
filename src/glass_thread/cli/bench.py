"""``glass-thread bench``: measure analysis, rendering and speed on voices with exact truth."""

from __future__ import annotations

import argparse
import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

from ..bench.finding.analysis import bench_confidence, bench_length, bench_notes, bench_pitch
from ..bench.finding.chords import bench_chords
from ..bench.finding.cuts import bench_cuts
from ..bench.finding.dirt import bench_dirt
from ..bench.finding.singer import bench_singer
from ..bench.finding.strain import bench_strain, bench_strain_real
from ..bench.finding.words import bench_counts, bench_words
from ..bench.hostile.attack import ATTACKS
from ..bench.sound.comps import bench_comps
from ..bench.sound.follow import bench_follow
from ..bench.sound.harmony import bench_doubles, bench_harmony
from ..bench.sound.movement import bench_glides, bench_ideal, bench_movement, bench_neighbours
from ..bench.sound.real import bench_formants, bench_real
from ..bench.sound.rendering import RATE, bench_edit, bench_rendering, bench_stereo
from ..bench.sound.stretch import bench_stretch, bench_stretched_movement
from ..bench.speed.edits import TABLES
from ..bench.speed.press import bench_press
from ..bench.speed.screen import bench_edit_heard, bench_play, bench_redraw, bench_start, bench_time_drag
from ..bench.speed.stack import bench_stack
from ..core.signal.errors import ParameterError
from ..demo.singer import sing
from ..demo.voices import VOICES, random_performance
from ..services.sound.warm_up import warm_up

SCREEN: dict[str, Callable[[], list[dict[str, Any]]]] = {
    "Play": bench_play,
    "Edits while playing": bench_edit_heard,
    "Press": bench_press,
    "Time": bench_time_drag,
    "Redraw": bench_redraw,
    "Start": bench_start,
    "Stack": bench_stack,
}


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verb."""
    parser = verbs.add_parser("bench", help="measure quality and speed", description="Measure quality and speed.")
    parser.add_argument(
        "what", nargs="?", default="sound",
        choices=("sound", "dirt", "real", "follow", "singer", "edits", "attack", "screen", "movement", "chords",
                 "words"),
        help="sound: analysis and rendering (default); dirt: takes as they arrive; real: large shifts of --clips; "
        "follow: a double against its lead; singer: planted habits found again; edits: the edit core as work grows; "
        "attack: what is left after hostile input, kill -9 and a full disk; screen: what an engineer waits for; "
        "chords: how right they are on backings with known ones; words: how right syllables lie; "
        "movement: what faders and glides leave, on --clips and on singers that wander",
    )  # fmt: skip
    parser.add_argument("--only", help="only tables whose title holds this")
    parser.add_argument("--seed", type=int, default=1, help="another seed sings other takes (default 1)")
    parser.add_argument("--voices", default=",".join(VOICES), help="comma list (default: all)")
    parser.add_argument("--minutes", type=int, default=10, help="length of the long recording (default 10)")
    parser.add_argument(
        "--clips", type=Path, nargs="+", default=[], metavar="CLIP", help="recordings for real and movement"
    )
    parser.add_argument("--json", type=Path, metavar="OUT.json", help="write the tables")
    parser.set_defaults(run=run)


def _print_table(title: str, rows: list[dict[str, Any]]) -> None:
    print(f"\n### {title}\n")
    names = list(rows[0])
    print("| " + " | ".join(names) + " |\n|" + "---|" * len(names))
    for row in rows:
        cells = [f"{v:.3f}" if isinstance(v, float) else str(v) for v in row.values()]
        print("| " + " | ".join(cells) + " |", flush=True)


def run(chosen: argparse.Namespace) -> int:
    """Measure and print all tables."""
    if chosen.what == "real" and not chosen.clips:
        raise ParameterError("Name at least one recording: bench real --clips take.wav")
    grouped = {"edits": {**TABLES, "Comps and glazes": bench_comps}, "attack": ATTACKS, "screen": SCREEN,
               "dirt": {"Takes as they arrive": lambda: bench_dirt(chosen.seed),
                         "Where notes are cut": lambda: bench_cuts(chosen.seed)},
               "follow": {"A follower against its lead": lambda: bench_follow(chosen.seed)},
               "singer": {"Habits": bench_singer},
               "chords": {"Chords": lambda: bench_chords(chosen.seed)},
               "words": {"Words on notes": lambda: bench_words(chosen.seed),
                         "Syllables of words": lambda: bench_counts(chosen.seed)},
               "movement": {"Movement": lambda: bench_movement(chosen.clips, chosen.seed),
                            "Glides": lambda: bench_glides(chosen.clips, chosen.seed),
                            "Stretched movement": lambda: bench_stretched_movement(chosen.clips, chosen.seed),
                            "Neighbours": lambda: bench_neighbours(chosen.clips, chosen.seed),
                            "Against an ideal take": lambda: bench_ideal(chosen.seed)},
               "real": {"Large shifts of real voices": lambda: bench_real(chosen.clips),
                        "Formants of real voices": lambda: bench_formants(chosen.clips),
                        "Strain on real voices": lambda: bench_strain_real(chosen.clips)}}  # fmt: skip
    tables = _tables(grouped[chosen.what], chosen.only or "") if chosen.what in grouped else _sound_tables(chosen)
    if chosen.json:
        chosen.json.write_text(json.dumps(tables, indent=2))
    return 0


def _tables(measures: dict[str, Callable[[], list[dict[str, Any]]]], only: str) -> dict[str, list[dict[str, Any]]]:
    warm_up()
    tables = {}
    for title, measure in measures.items():
        if only.lower() in title.lower():
            tables[title] = measure()
            _print_table(title, tables[title])
    return tables


def _sound_tables(chosen: argparse.Namespace) -> dict[str, list[dict[str, Any]]]:
    voices = chosen.voices.split(",")
    unknown = [voice for voice in voices if voice not in VOICES]
    if unknown:
        raise ParameterError(f"There is no voice “{unknown[0]}”; choose from {', '.join(VOICES)}.")
    warm_up()
    takes = {}
    for name in voices:
        performance = random_performance(name, chosen.seed)
        takes[name] = (performance, sing(performance, RATE))
    tables: dict[str, list[dict[str, Any]]] = {}
    for title, measure in (
        ("Pitch", lambda: bench_pitch(takes)),
        ("Confidence", lambda: bench_confidence(takes, chosen.seed)),
        ("Notes", lambda: bench_notes(takes)),
        ("A long recording", lambda: bench_length(takes, chosen.minutes)),
        ("Rendering", lambda: bench_rendering(voices, chosen.seed)),
        ("Strain", lambda: bench_strain(voices, chosen.seed)),
        ("Harmonies", lambda: bench_harmony(voices, chosen.seed)),
        ("Doubles", bench_doubles),
        ("Stretched notes", lambda: bench_stretch(voices, chosen.seed)),
        ("One edit", bench_edit),
        ("Stereo", bench_stereo),
    ):
        if (chosen.only or "").lower() in title.lower():
            tables[title] = measure()
            _print_table(title, tables[title])
    return tables
