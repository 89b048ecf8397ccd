"""``glass-thread build-demo`` and ``warm``: what is made once at set-up."""

from __future__ import annotations

import argparse
from pathlib import Path

from ..demo.build import FOLDER, build_sounds
from ..services.sound.warm_up import warm_up


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verbs."""
    build = verbs.add_parser("build-demo", help="sing and play the demo's sound files again",
                             description="Sing and play the demo's sound files again.")  # fmt: skip
    build.add_argument("--folder", type=Path, default=FOLDER, help="where they go (default: the package)")
    build.set_defaults(run=run)
    warm = verbs.add_parser("warm", help="compile the sound engine", description="Compile the sound engine now.")
    warm.set_defaults(run=lambda _chosen: warm_up())


def run(chosen: argparse.Namespace) -> int:
    """Build and list the files."""
    for path in build_sounds(chosen.folder):
        print(f"{path.name}  {path.stat().st_size / 1e6:.2f} MB")
    return 0
