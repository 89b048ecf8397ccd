"""The folders import downwards only, and no file outgrows its subject."""

import ast
import unittest
from pathlib import Path

PACKAGE = Path(__file__).parent.parent / "src" / "glass_thread"
MAY_IMPORT = {
    "core": set(),
    "formats": {"core"},
    "store": {"core", "formats"},
    "services": {"core", "formats", "store"},
    "api": {"core", "services", "store"},
    "demo": {"core", "formats", "services", "store"},
    "cli": {"core", "services", "formats", "demo", "api", "store"},
}
CORE_LIBRARIES = {"numpy", "scipy", "numba", "soxr"}


def _imports(path: Path) -> list[tuple[int, str]]:
    """(level, dotted name) of every import in a file."""
    found = []
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.ImportFrom):
            found.append((node.level, node.module or ""))
        elif isinstance(node, ast.Import):
            found += [(0, alias.name) for alias in node.names]
    return found


class ImportsTest(unittest.TestCase):
    def test_folders_import_downwards_only(self) -> None:
        for folder, allowed in MAY_IMPORT.items():
            for path in (PACKAGE / folder).rglob("*.py"):
                if "migrations" in path.parts:
                    continue
                for level, name in _imports(path):
                    if level == 2 and name:
                        with self.subTest(file=str(path.relative_to(PACKAGE)), imports=name):
                            self.assertIn(name.split(".")[0], allowed)

    def test_core_uses_only_array_libraries(self) -> None:
        standard = {"__future__", "collections", "dataclasses", "functools", "itertools", "math", "re", "typing"}
        for path in (PACKAGE / "core").glob("*.py"):
            for level, name in _imports(path):
                if level == 0:
                    with self.subTest(file=path.name, imports=name):
                        self.assertIn(name.split(".")[0], CORE_LIBRARIES | standard)

    def test_only_the_store_opens_the_database(self) -> None:
        for path in PACKAGE.rglob("*.py"):
            if "store" not in path.parts:
                self.assertNotIn("sqlalchemy", {name.split(".")[0] for _, name in _imports(path)}, path.name)

    def test_files_keep_to_their_size_and_have_no_catch_all_names(self) -> None:
        for path in PACKAGE.rglob("*.py"):
            with self.subTest(file=path.name):
                self.assertLessEqual(len(path.read_text().splitlines()), 400)
                self.assertNotIn(path.stem, {"utils", "helpers", "misc"})
