"""The demo's planted faults of time, and what quantising makes of them, heard by an onset detector of its own."""

import unittest

import numpy as np
import scipy
import soundfile as sf

from glass_thread.core.document.content import apply_to_content, as_found
from glass_thread.core.document.operations.registry import Scene, parse_operation
from glass_thread.core.document.time.stretches import track_place
from glass_thread.core.plan.plan import Plan, build_plan
from glass_thread.core.signal.recording import held
from glass_thread.core.signal.types import Analysis
from glass_thread.core.song.beats import Meter, grid_lines
from glass_thread.core.song.keys import make_tuning, one_key
from glass_thread.demo import song
from glass_thread.demo.build import FOLDER
from glass_thread.services.sound.recordings import CachedRecording
from glass_thread.services.sound.sound import Renderer
from glass_thread.store.byte_cache import ByteCache
from tests.kept import analyse

KEY = one_key(make_tuning(song.TONIC, song.SCALE))
STEP_S = song.BEAT_S / 2


def off_grid(moments: np.ndarray) -> np.ndarray:
    """Seconds from the nearest eighth."""
    return moments - np.round(moments / STEP_S) * STEP_S


def vowel_onset(samples: np.ndarray, rate: int, near_s: float) -> float:
    """Where the sound between 150 and 1200 Hz rises fastest in dB within 60 ms of a time."""
    band = scipy.signal.butter(4, (150.0, 1200.0), "bandpass", fs=rate, output="sos")
    first = round((near_s - 0.2) * rate)
    x = scipy.signal.sosfiltfilt(band, samples[first : first + round(0.4 * rate)])
    width = round(0.01 * rate)
    power = np.convolve(x**2, np.hanning(width) / width, "same")
    rise = np.gradient(10.0 * np.log10(power + 1e-7))
    inside = slice(round(0.14 * rate), round(0.26 * rate))
    return near_s - 0.2 + (inside.start + int(np.argmax(rise[inside]))) / rate


class QuantisedDoublesTest(unittest.TestCase):
    def quantised(self, found: Analysis, strength: float) -> tuple[Plan, np.ndarray, np.ndarray]:
        """Plan, and where notes start before and after."""
        content = as_found(found)
        lines = grid_lines((Meter(0.0, song.TEMPO),), "1/8", -1.0, 70.0)
        asked = parse_operation({"type": "quantise", "note_ids": list(content.notes), "grid": "1/8",
                                 "strength": strength})  # fmt: skip
        change = asked.change(Scene(content, KEY, found, {}, lines))
        plan = build_plan(found, apply_to_content(content, change), KEY)
        sung = np.array([note.start_s for note in found.notes])
        return plan, sung, np.array([track_place(plan.stretches, at) for at in sung])

    def test_starts_lie_on_the_grid_or_the_asked_share_of_the_way(self) -> None:
        for number in (1, 2):
            samples, rate = sf.read(FOLDER / f"double-{number}.flac")
            found = analyse(samples, rate)
            plan, sung, now = self.quantised(found, 1.0)
            self.assertLess(np.abs(off_grid(now)).max(), 0.003)
            self.assertGreater(np.median(np.abs(off_grid(sung))), 0.025)
            _, _, most = self.quantised(found, 0.9)
            np.testing.assert_allclose(most, sung - 0.9 * off_grid(sung), atol=1e-5)
            self.check_by_ear(samples, rate, found, plan, now)

    def check_by_ear(self, samples: np.ndarray, rate: int, found: Analysis, plan: Plan, now: np.ndarray) -> None:
        """An onset detector that knows nothing of notes hears the vowels on the grid, too."""
        source = CachedRecording("double", held(samples, rate), ByteCache(1 << 28, lambda block: block.nbytes))
        out = Renderer().span(source, plan, 0, len(samples))[0]
        voiced = found.contour.voiced
        fresh = [i for i, note in enumerate(found.notes) if not voiced[round(note.start_s / 0.005) - 5]]
        heard = np.array([vowel_onset(out, rate, now[i]) for i in fresh])
        before = np.array([vowel_onset(samples, rate, found.notes[i].start_s) for i in fresh])
        self.assertGreater(len(fresh), 6)
        self.assertLess(np.median(np.abs(off_grid(heard))), 0.010)
        self.assertGreater(np.median(np.abs(off_grid(before))), 0.020)


class PlantedFaultsTest(unittest.TestCase):
    def test_they_are_where_the_score_says(self) -> None:
        truth = song.lead().notes
        starts = np.array([note.start_s for note in truth])
        late = [n for n in truth if 0 <= n.start_s - song.start_of(12) < 8 * song.BEAT_S]
        np.testing.assert_allclose(off_grid(np.array([n.start_s for n in late])), song.LATE_PHRASES[12], atol=1e-9)
        on_time = np.abs(off_grid(starts)) < 1e-9
        quarter = np.abs(np.abs(off_grid(starts)) - STEP_S / 2) < 1e-9  # a dotted eighth and a sixteenth
        early = np.flatnonzero(~on_time & ~quarter & (starts > song.start_of(14)))
        self.assertEqual(len(early), 1)
        self.assertAlmostEqual(off_grid(starts)[early[0]], -0.06)
