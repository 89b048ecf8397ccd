"""A folder has about a dozen files, and within it no import leads through more than four of them."""

import ast
import os
import re
import unittest
from collections.abc import Callable, Iterator
from functools import cache
from pathlib import Path

ROOT = Path(__file__).parent.parent
PACKAGE, SCREEN = ROOT / "src" / "glass_thread", ROOT / "web" / "src"
MOST_FILES, LONGEST_CHAIN = 12, 3
# Folders that may be larger or deeper than others, with the files and the imports in a row that they may have.
EXCEPTIONS = {
    "glass_thread/api": (24, 4),  # a file a resource, and each reads what it is handed through `context`
    "glass_thread/api/schemas": (17, 3),  # a file a resource
    "glass_thread/cli": (26, 3),  # a file a verb
    "glass_thread/formats": (16, 3),  # a file a format
    "glass_thread/services/work": (13, 3),  # the two ways to a worker beside each other
    "glass_thread/services/prints": (12, 4),  # a print that is handed off has been laid out, written and listed
    "glass_thread/core/signal": (14, 3),  # a file a tool
    "glass_thread/core/document": (12, 4),  # flags stand on notes, notes on gestures
    "glass_thread/core/document/operations": (14, 6),  # declarations stand on kinds, the registry on all of them
    "glass_thread/core/synthesis/voice": (12, 5),  # a zone's sound stands on each technique
    "src/commands/notes": (12, 4),  # commands on air are commands on what is edited
    "src/geometry": (15, 3),  # a file a shape
    "src/gestures": (13, 3),  # a file a gesture
    "src/hooks": (13, 3),  # a file a hook
}


def _python_imports(path: Path) -> Iterator[Path]:
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.ImportFrom) and node.level:
            base = path.parents[node.level - 1].joinpath(*(node.module or "").split("."))
            yield base.with_suffix(".py")
            yield from (base / f"{name.name}.py" for name in node.names)


def _screen_imports(path: Path) -> Iterator[Path]:
    for there in re.findall(r'from "(\.{1,2}/[^"?]*)"', path.read_text()):
        base = os.path.normpath(path.parent / there)
        yield from (Path(f"{base}{suffix}") for suffix in (".ts", ".tsx"))


def _chain(files: set[Path], imports: Callable[[Path], Iterator[Path]]) -> int:
    """The most imports in a row among some files."""

    @cache
    def from_here(path: Path) -> int:
        return max((1 + from_here(other) for other in imports(path) if other in files and other != path), default=0)

    return max(map(from_here, files))


class RoomsTest(unittest.TestCase):
    def test_folders_keep_to_their_size_and_depth(self) -> None:
        needless = set(EXCEPTIONS)
        for top, suffixes, imports in ((PACKAGE, {".py"}, _python_imports), (SCREEN, {".ts", ".tsx"}, _screen_imports)):
            for folder in (top, *(path for path in top.rglob("*") if path.is_dir())):
                files = {one for one in folder.iterdir() if one.suffix in suffixes and one.stem != "__init__"}
                if not files or "migrations" in folder.parts:
                    continue
                name = str(folder.relative_to(top.parent))
                most, longest = EXCEPTIONS.get(name, (MOST_FILES, LONGEST_CHAIN))
                chain = _chain(files, imports)
                if len(files) > MOST_FILES or chain > LONGEST_CHAIN:
                    needless.discard(name)
                with self.subTest(folder=name):
                    self.assertLessEqual(len(files), most)
                    self.assertLessEqual(chain, longest)
        self.assertEqual(needless, set(), "these are no exceptions any more")
