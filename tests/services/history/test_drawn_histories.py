"""Histories drawn over everything that can be done to a song: what is heard is what a fresh start would work out.

The draws come from hypothesis, which makes a history that fails as short as it can and keeps it for the next run.
"""

import os
import random
import shutil
import tempfile
from pathlib import Path

import soundfile as sf
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis import strategies as st
from hypothesis.database import DirectoryBasedExampleDatabase

from glass_thread.bench.hostile.draws import NOT_DRAWN, Around, draw_operation
from glass_thread.bench.hostile.histories import DrawnHistory
from glass_thread.core.document.operations.registry import OPERATIONS
from glass_thread.services.folder.workspace import open_workspace
from tests.kept import ROOT
from tests.services.case import TakeCase
from tests.signals import RATE, sung_short

HISTORIES = int(os.environ.get("GLASS_THREAD_HISTORIES", "60"))  # more of them are other ones, too
STEPS = 8
FAILED = DirectoryBasedExampleDatabase(ROOT / ".cache" / "hypothesis")


class DrawnTest(TakeCase):
    def setUp(self) -> None:
        super().setUp()
        sf.write(str(self.folder / "double.wav"), 0.7 * sung_short(6)[1].audio, RATE)
        self.double = self.bring_in(self.folder / "double.wav", role="double")
        self.work.close()

    @seed(HISTORIES)
    @settings(max_examples=HISTORIES, deadline=None, database=FAILED, suppress_health_check=list(HealthCheck),
              phases=(Phase.reuse, Phase.generate, Phase.shrink), derandomize=False)  # fmt: skip
    @given(rng=st.randoms(use_true_random=False))
    def test_what_is_heard_is_what_a_fresh_start_works_out(self, rng: random.Random) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(shutil.copytree(self.folder / "data", Path(name) / "data"))
            workspace = open_workspace(folder)
            try:
                history = DrawnHistory(workspace, rng)
                steps = []
                for _ in range(STEPS):
                    steps.append(history.step())
                    self.assertEqual(history.disagreements(sound=False), [], steps)
                self.assertEqual(history.disagreements(sound=True), [], steps)
            finally:
                workspace.close()


class DrawsTest(TakeCase):
    def test_every_operation_is_drawn_but_those_that_make_a_track(self) -> None:
        rng, content = random.Random(1), self.now().content
        drawn = {draw_operation(rng, content, Around(4.0, {"t": ["n0001"]}))["type"] for _ in range(2000)}
        edits = {name for name, one in OPERATIONS.items() if one.needs != "rows"}
        self.assertEqual(drawn, edits - set(NOT_DRAWN))
