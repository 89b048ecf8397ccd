"""``glass-thread codes``: who may sign in."""

from __future__ import annotations

import argparse
from pathlib import Path

from ..core.signal.errors import ParameterError
from ..services.access.codes import FULL, LISTENING, Code, Codes
from ..services.folder.workspace import default_data_folder, existing_data_folder


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verb."""
    parser = verbs.add_parser(
        "codes", help="who may sign in from other machines",
        description="Show, make, renew and withdraw the codes by which browsers on other machines sign in to a server. "
        "A running server heeds them at once; whoever came in with a code that is renewed or withdrawn is out.",
    )  # fmt: skip
    what = parser.add_mutually_exclusive_group()
    what.add_argument("--add", metavar="NAME", help="make a code, named after who or what it is for")
    what.add_argument("--rotate", metavar="NAME", help="give a code a new text")
    what.add_argument("--withdraw", metavar="NAME", help="take a code away")
    parser.add_argument(
        "--listening", action="store_true", help="the new code lets listen and look, but change nothing"
    )
    parser.add_argument("--data", type=Path, help="data folder (default: XDG data directory or $GLASS_THREAD_DATA)")
    parser.set_defaults(run=run)


def run(chosen: argparse.Namespace) -> int:
    """Do what is asked and show the codes."""
    if chosen.listening and not chosen.add:
        raise ParameterError("Only a new code can be made for listening: use --add NAME --listening.")
    codes = Codes(existing_data_folder(chosen.data or default_data_folder()))
    if chosen.add:
        print(_line(codes.add(chosen.add, LISTENING if chosen.listening else FULL)))
    elif chosen.rotate:
        print(_line(codes.rotate(chosen.rotate)))
    elif chosen.withdraw:
        codes.withdraw(chosen.withdraw)
        print(f"“{chosen.withdraw}” is withdrawn.")
    else:
        print(*map(_line, codes.all()), sep="\n")
    return 0


def _line(code: Code) -> str:
    return f"{code.text}  {code.name}" + (" (listening)" if code.kind == LISTENING else "")
