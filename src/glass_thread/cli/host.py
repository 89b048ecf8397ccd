"""``glass-thread host``: the stand-in for a recording host."""

from __future__ import annotations

import argparse
import json
from dataclasses import asdict
from pathlib import Path

from ..core.signal.errors import ParameterError
from ..host.check import check_folder
from ..host.server import host_server

DEFAULT_PORT = 4381


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verb."""
    parser = verbs.add_parser(
        "host", help="show or check a hand-off folder, as a recording host would",
        description="The stand-in for a recording host: shows a hand-off folder on a timeline, or checks that prints "
        "differ from their sources only where they were edited.",
    )  # fmt: skip
    parser.add_argument("folder", type=Path, nargs="?", metavar="DIR", help="the hand-off folder to show")
    parser.add_argument("--check", type=Path, metavar="DIR", help="check without a page; exit code 1 when one fails")
    parser.add_argument("--json", action="store_true", help="with --check: print JSON")
    parser.add_argument("--port", type=int, default=DEFAULT_PORT, help=f"port of the page (default {DEFAULT_PORT})")
    parser.set_defaults(run=run)


def run(chosen: argparse.Namespace) -> int:
    """Check, or show until interrupted."""
    if chosen.check:
        return _check(chosen.check, chosen.json)
    if chosen.folder is None:
        raise ParameterError("Name the hand-off folder to show, or --check one.")
    check_folder(chosen.folder)
    if not 0 <= chosen.port <= 65535:
        raise ParameterError("A port is a number from 0 to 65535.")
    try:
        server = host_server(chosen.folder.resolve(), chosen.port)
    except OSError as error:
        raise ParameterError(f"Port {chosen.port} is taken or not allowed; try another --port.") from error
    print(f"The host stand-in is at http://127.0.0.1:{server.server_port}/  (Ctrl+C stops it)", flush=True)
    with server:
        server.serve_forever()
    return 0


def _check(folder: Path, as_json: bool) -> int:
    found = check_folder(folder)
    if as_json:
        print(json.dumps([asdict(one) for one in found], ensure_ascii=False, indent=2))
    else:
        for one in found:
            spans = ", ".join(f"{a:.2f} to {b:.2f} s" for a, b in one.spans)
            print(f"{'good' if one.good else 'BAD '}  {one.file}: {one.sentence}" + (f"  [{spans}]" if spans else ""))
        if not found:
            print("There are no prints in this folder.")
    return 0 if all(one.good for one in found) else 1
