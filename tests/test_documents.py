"""What the documents say is so: the example of the core runs, and the container's recipe holds."""

from __future__ import annotations

import contextlib
import io
import os
import re
import shutil
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from unittest import mock

import numpy as np
import requests
import soundfile as sf

from glass_thread.bench.hostile.server_process import free_port
from tests.application import FRONT_END, until
from tests.signals import FolderCase, write_short

ROOT = Path(__file__).parent.parent
NOBODY = 65_534


class CoreExampleTest(FolderCase):
    def test_the_example_of_the_core_runs_as_it_stands(self) -> None:
        (code,) = re.findall(r"```python\n(.*?)```", (ROOT / "docs" / "core.md").read_text(), re.DOTALL)
        take, tuned = write_short(self.folder), self.folder / "tuned.wav"
        said = io.StringIO()
        with contextlib.redirect_stdout(said), mock.patch.object(sys, "argv", ["example", str(take), str(tuned)]):
            exec(compile(code, "docs/core.md", "exec"), {"__name__": "__main__"})
        self.assertRegex(said.getvalue(), r"n0001 +\d+\.\d\d s +\d+\.\d\d\n(?s:.)*\d+% of the samples")
        before, after = sf.read(take)[0], sf.read(tuned)[0]
        self.assertEqual(len(before), len(after))
        self.assertGreater(float(np.abs(before - after).max()), 0.01)


class ContainerTest(unittest.TestCase):
    """No container engine is needed: the recipe is read by a linter, and its steps are done as plain commands."""

    def setUp(self) -> None:
        self.recipe = (ROOT / "Containerfile").read_text()

    def test_a_linter_finds_nothing(self) -> None:
        linter = Path(sys.executable).with_name("hadolint")
        done = subprocess.run([linter, ROOT / "Containerfile"], capture_output=True, text=True, check=False)
        self.assertEqual((done.returncode, done.stdout, done.stderr), (0, "", ""))

    def test_what_it_copies_is_there_and_it_runs_as_nobody(self) -> None:
        copied = [word for line in re.findall(r"^COPY (?!--from)(.*)$", self.recipe, re.MULTILINE)
                  for word in line.split()[:-1]]  # fmt: skip
        self.assertGreater(len(copied), 5)
        for name in copied:
            self.assertTrue((ROOT / name).exists(), name)
        self.assertRegex(self.recipe, r"(?m)^USER (?!0|root)\d+")
        self.assertLess(self.recipe.index("RUN pip install"), self.recipe.index("USER "))
        self.assertIn("./node_modules/.bin/vite build", (ROOT / "glass").read_text())  # the same commands as at home

    def test_the_installed_program_starts_without_rights_and_writes_only_its_data(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            folder.chmod(0o755)
            installed, data = self._installed(folder), folder / "data"
            data.mkdir()
            as_nobody = os.geteuid() == 0 and _anybody_may_run(Path(sys.executable).resolve())
            before = _listed(installed)
            if as_nobody:
                os.chown(data, NOBODY, NOBODY)
            command = re.search(r"^CMD (\[.*\])$", self.recipe, re.MULTILINE)
            assert command is not None
            words = [str(data) if word == "/data" else word for word in re.findall(r'"([^"]*)"', command[1])]
            port = free_port()
            process = subprocess.Popen(
                [sys.executable, "-B", "-m", "glass_thread", *words, "--port", str(port), "--workers", "0"],
                env={"PYTHONPATH": str(installed), "NUMBA_CACHE_DIR": str(data / "engine"), "HOME": name, "PATH": ""},
                cwd=data, stdout=subprocess.PIPE, text=True, **({"user": NOBODY, "group": NOBODY} if as_nobody else {}),
            )  # fmt: skip
            try:
                assert process.stdout is not None
                said = [process.stdout.readline() for _ in range(2)]
                self.assertIn("Sign in with the code", said[1])
                url = f"http://127.0.0.1:{port}"
                page = until(lambda: _answer(url), "the page")
                self.assertIn("<title>Glass Thread", page.text)
                self.assertEqual(requests.get(f"{url}/api/v1/songs", timeout=60).status_code, 401)
                self.assertTrue((data / "glass-thread.sqlite3").is_file())
                self.assertEqual(_listed(installed), before)
            finally:
                process.kill()
                process.communicate()

    def _installed(self, folder: Path) -> Path:
        """The package installed as the recipe does, but without its dependencies, which are here already."""
        tree = folder / "tree"
        tree.mkdir()
        for name in ("pyproject.toml", "README.md", "LICENSE"):
            shutil.copy(ROOT / name, tree / name)
        leave_out = shutil.ignore_patterns("__pycache__", "web")
        shutil.copytree(ROOT / "src", tree / "src", ignore=leave_out)
        shutil.copytree(FRONT_END, tree / "src" / "glass_thread" / "web")
        installed = folder / "installed"
        uv = Path(sys.executable).with_name("uv")
        subprocess.run([uv, "pip", "install", "--quiet", "--no-deps", "--target", installed, tree], check=True)
        return installed


def _anybody_may_run(program: Path) -> bool:
    """Whether a user without rights reaches a program; that of a developer's own folder they may not."""
    return all(one.stat().st_mode & 0o001 for one in (program, *program.parents))


def _listed(folder: Path) -> set[tuple[str, int]]:
    return {(str(path), path.stat().st_mtime_ns) for path in folder.rglob("*")}


def _answer(url: str) -> requests.Response | None:
    try:
        return requests.get(f"{url}/", timeout=60)
    except OSError:
        return None
