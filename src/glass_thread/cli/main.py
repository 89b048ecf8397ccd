"""``glass-thread``: one verb a file; expected failures are one sentence on standard error and exit code 2."""

from __future__ import annotations

import argparse
import sys

from .. import __version__
from ..core.signal.errors import GlassThreadError
from . import analyse, bench, build_demo, schema, serve, tidy, tune, versions, worker
from .examples import examples_text

VERBS = (serve, worker, analyse, tune, versions, tidy, bench, build_demo, schema)


def build_parser() -> argparse.ArgumentParser:
    """The parser with every verb."""
    parser = argparse.ArgumentParser(prog="glass-thread", description="Tune recorded vocals note by note.")
    parser.add_argument("--version", action="version", version=__version__)
    verbs = parser.add_subparsers(dest="verb", required=True, metavar="VERB")
    for module in VERBS:
        module.register(verbs)
    for name, verb in verbs.choices.items():
        verb.epilog, verb.formatter_class = examples_text(name), argparse.RawDescriptionHelpFormatter
    return parser


def main(arguments: list[str] | None = None) -> int:
    """Run the command line; returns the exit code."""
    chosen = build_parser().parse_args(arguments)
    try:
        return int(chosen.run(chosen) or 0)
    except GlassThreadError as error:
        print(f"glass-thread: {error}", file=sys.stderr)
        return 2
    except KeyboardInterrupt:
        return 130
