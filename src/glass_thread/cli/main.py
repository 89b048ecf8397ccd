"""``glass-thread``: one verb a file; expected failures are one sentence on standard error and exit code 2."""

from __future__ import annotations

import argparse
import gc
import importlib
import sys

from .. import __version__
from ..core.signal.errors import GlassThreadError
from .examples import examples_text
from .quick_scipy import leave_documentation_out

# In the order the help shows them; one module may have several.  Only what is asked for is imported, as the sound
# engine and the web server each take a second to load.
VERBS = {"serve": "serve", "demo": "serve", "worker": "worker", "analyse": "analyse", "tune": "tune",
         "follow": "follow", "double": "derive", "harmony": "derive", "midi": "midi", "chords": "chords",
         "words": "words", "host": "host", "versions": "versions", "sheet": "sheet", "singer": "singer", "tidy": "tidy",
         "check": "check", "rescue": "rescue", "pack": "pack", "unpack": "pack", "backup": "backup", "codes": "codes",
         "bench": "bench", "build-demo": "build_demo", "warm": "build_demo",
         "openapi": "schema"}  # fmt: skip


def build_parser(verb: str | None = None) -> argparse.ArgumentParser:
    """The parser with every verb, or with those that share a module with one."""
    parser = argparse.ArgumentParser(prog="glass-thread", description="Tune recorded vocals note by note.")
    parser.add_argument("--version", action="version", version=__version__)
    verbs = parser.add_subparsers(dest="verb", required=True, metavar="VERB")
    for name in dict.fromkeys([VERBS[verb]] if verb in VERBS else VERBS.values()):
        importlib.import_module(f".{name}", __package__).register(verbs)
    for name, verb in verbs.choices.items():
        verb.epilog, verb.formatter_class = examples_text(name), argparse.RawDescriptionHelpFormatter
    return parser


def main(arguments: list[str] | None = None) -> int:
    """Run the command line; returns the exit code."""
    gc.set_threshold(50_000)  # what is loaded stays; to look through it again and again is a twentieth of a start
    given = sys.argv[1:] if arguments is None else arguments
    chosen = build_parser(given[0] if given else None).parse_args(given)
    leave_documentation_out()
    try:
        return int(chosen.run(chosen) or 0)
    except GlassThreadError as error:
        print(f"glass-thread: {error}", file=sys.stderr)
        return 2
    except BrokenPipeError:  # whoever read what is said has read enough
        sys.stderr.close()
        return 0
    except OSError as error:
        reason = (error.strerror or str(error)).lower()
        print(f"glass-thread: {error.filename or 'The data folder'} cannot be used: {reason}.", file=sys.stderr)
        return 2
    except KeyboardInterrupt:
        return 130
