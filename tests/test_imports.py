"""The folders import downwards only, outside and inside the core, and no file outgrows its subject."""

import ast
import unittest
from functools import cache
from pathlib import Path

PACKAGE = Path(__file__).parent.parent / "src" / "glass_thread"
MAY_IMPORT = {
    "core": set(),
    "formats": {"core"},
    "store": {"core", "formats"},
    "services": {"core", "formats", "store"},
    "api": {"core", "services", "store"},
    "demo": {"core", "formats", "services", "store"},
    "host": {"core", "formats"},
    "bench": {"core", "services", "formats", "demo", "api", "store"},
    "cli": {"core", "services", "formats", "demo", "api", "store", "host", "bench"},
}
# Inside the core; measuring may read everything and nothing imports it.
ROOMS = {
    "signal": set(),
    "analysis": {"signal"},
    "alignment": {"signal", "analysis"},
    "song": {"signal"},
    "document": {"signal", "analysis", "song"},
    "plan": {"signal", "analysis", "song", "document"},
    "synthesis": {"signal", "analysis", "song", "document", "plan"},
    "measure": {"signal", "analysis", "song", "document", "plan", "synthesis"},
}
# Inside the services; what is not named here lies below all of them.
SERVICE_ROOMS = {
    "folder": set(),
    "sound": set(),
    "session": {"folder", "sound"},
    "lyrics": {"session"},
    "voices": {"session", "sound", "lyrics"},
    "history": {"folder", "session", "sound", "voices"},
    "song": {"folder", "session", "history", "lyrics"},
    "linked": {"folder", "session", "voices", "history", "song"},
    "report": {"session", "voices", "history", "lyrics"},
    "prints": {"folder", "sound", "session", "history", "song", "report", "lyrics"},
    "files": {"sound", "voices", "history", "song", "prints", "lyrics"},
    "work": {"folder", "sound", "session", "history", "prints"},
    "access": {"folder"},
    "archive": {"folder", "session", "song"},
    "upkeep": {"folder", "session", "prints", "work"},
}
CORE_LIBRARIES = {"numpy", "scipy", "numba", "soxr", "pyphen"}
LONGEST_FUNCTION = 40


@cache
def _nodes(path: Path) -> list[ast.AST]:
    return list(ast.walk(ast.parse(path.read_text())))


@cache
def _imports(path: Path) -> list[str]:
    """Dotted names of every module a file imports; those of the package from its top, as ``core.signal.units``."""
    here = list(path.relative_to(PACKAGE).parent.parts)
    found = []
    for node in _nodes(path):
        if isinstance(node, ast.ImportFrom) and node.level:
            base = ".".join(["glass_thread", *here[: len(here) - node.level + 1], *filter(None, [node.module])])
            found.append(base)
            found += [f"{base}.{one.name}" for one in node.names if _file(f"{base}.{one.name}").is_file()]
        elif isinstance(node, ast.ImportFrom):
            found.append(node.module or "")
        elif isinstance(node, ast.Import):
            found += [alias.name for alias in node.names]
    return found


def _reached(path: Path) -> set[str]:
    """All modules that come with one, by the name it has in `_imports`."""
    reached: set[str] = set()
    ahead = [path]
    while ahead:
        for name in _imports(ahead.pop()):
            if name not in reached:
                reached.add(name)
                ahead += [_file(name)] if _file(name).is_file() else []
    return reached


def _own(name: str) -> list[str]:
    """The folders of a module of the package; empty for other libraries."""
    parts = name.split(".")
    return parts[1:] if parts[0] == "glass_thread" else []


def _file(name: str) -> Path:
    """Where a module of the package lies."""
    return PACKAGE.joinpath(*_own(name)).with_suffix(".py")


class ImportsTest(unittest.TestCase):
    def test_folders_import_downwards_only(self) -> None:
        for folder, allowed in MAY_IMPORT.items():
            for path in (PACKAGE / folder).rglob("*.py"):
                for name in _imports(path):
                    own = _own(name)
                    if "migrations" not in path.parts and own and own != [folder]:
                        with self.subTest(file=str(path.relative_to(PACKAGE)), imports=name):
                            self.assertIn(own[0], allowed | {folder})

    def test_rooms_import_downwards_only(self) -> None:
        for floor, rooms in (("core", ROOMS), ("services", SERVICE_ROOMS)):
            folder = PACKAGE / floor
            self.assertEqual({p.name for p in folder.iterdir() if (p / "__init__.py").is_file()}, set(rooms))
            for room, allowed in rooms.items():
                for path in (folder / room).rglob("*.py"):
                    for own in (_own(name) for name in _imports(path)):
                        if own and (own[0] == floor or floor == "core"):
                            with self.subTest(file=str(path.relative_to(PACKAGE)), imports=".".join(own)):
                                self.assertGreater(len(own), 1)
                                self.assertIn(own[1], allowed | {room})

    def test_core_uses_only_array_libraries(self) -> None:
        standard = {"__future__", "collections", "dataclasses", "fractions", "functools", "hashlib", "itertools",
                    "bisect", "math", "re", "typing", "unicodedata"}  # fmt: skip
        for path in (PACKAGE / "core").rglob("*.py"):
            for name in _imports(path):
                if not _own(name):
                    with self.subTest(file=path.name, imports=name):
                        self.assertIn(name.split(".")[0], CORE_LIBRARIES | standard)

    def test_only_the_store_opens_the_database(self) -> None:
        for path in PACKAGE.rglob("*.py"):
            if "store" not in path.parts:
                self.assertNotIn("sqlalchemy", {name.split(".")[0] for name in _imports(path)}, path.name)

    def test_a_worker_never_opens_the_database(self) -> None:
        database = "glass_thread.store.database"
        self.assertIn(database, _reached(PACKAGE / "cli" / "serve.py"))
        self.assertNotIn(database, _reached(PACKAGE / "cli" / "worker.py"))


class SizeTest(unittest.TestCase):
    def test_files_keep_to_their_size_and_have_no_catch_all_names(self) -> None:
        for path in PACKAGE.rglob("*.py"):
            with self.subTest(file=path.name):
                self.assertLessEqual(len(path.read_text().splitlines()), 400)
                self.assertNotIn(path.stem, {"utils", "helpers", "misc"})

    def test_functions_keep_to_forty_lines(self) -> None:
        for path in PACKAGE.rglob("*.py"):
            if "migrations" in path.parts:
                continue
            for node in _nodes(path):
                compiled = isinstance(node, ast.FunctionDef) and "njit" in "".join(
                    map(ast.unparse, node.decorator_list)
                )
                if isinstance(node, ast.FunctionDef) and not compiled:
                    body = node.body[1:] if ast.get_docstring(node) else node.body
                    lines = body[-1].end_lineno - body[0].lineno + 1 if body else 0
                    with self.subTest(file=path.name, function=node.name):
                        self.assertLessEqual(lines, LONGEST_FUNCTION)
