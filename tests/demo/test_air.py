"""Air and level on the demo's lead: what is found, what the passes choose, and what pitch edits leave alone."""

import unittest
from functools import lru_cache

import numpy as np
import soundfile as sf

from glass_thread.core.document.content import Content, apply_to_content, as_found
from glass_thread.core.document.harsh import harsh
from glass_thread.core.measure.evaluation import mask_f1
from glass_thread.core.plan.level_plan import level_gain
from glass_thread.core.plan.plan import Plan, build_plan
from glass_thread.core.signal.types import HOP_S, Analysis, Floats
from glass_thread.core.song.keys import make_tuning, one_key
from glass_thread.core.synthesis.render import render_whole
from glass_thread.demo.build import FOLDER
from glass_thread.demo.song import SCALE, TONIC, lead
from tests.kept import analyse
from tests.signals import apply_to

KEY = one_key(make_tuning(TONIC, SCALE))


@lru_cache(maxsize=2)
def part(name: str) -> tuple[Floats, int, Analysis]:
    audio, rate = sf.read(str(FOLDER / f"{name}.flac"))
    return audio, rate, analyse(audio, rate)


def planted_harsh() -> list[float]:
    return [air.start_s for air in lead().air if air.kind == "sibilant" and air.level_db > -20]


class LeadCase(unittest.TestCase):
    def setUp(self) -> None:
        self.audio, self.rate, self.analysis = part("lead")
        self.content = as_found(self.analysis)

    def do(self, operation: str, **values) -> Content:
        change = apply_to(self.content, KEY, {"type": operation, **values}, self.analysis)
        self.content = apply_to_content(self.content, change)
        return self.content

    def rendered(self, content: Content) -> Floats:
        plan = self.plan(content)
        whole = render_whole(self.audio[np.newaxis], self.rate, plan.contour, plan.correction, formant=plan.formant)
        return whole[0]

    def plan(self, content: Content) -> Plan:
        return build_plan(self.analysis, content, KEY)

    def level(self, content: Content) -> Floats:
        """Gain of every sample."""
        frame = np.arange(len(self.audio)) / (self.rate * HOP_S)
        plan = self.plan(content).level_db
        return level_gain(np.interp(frame, np.arange(len(plan)), plan))

    def samples(self, start_s: float, end_s: float) -> slice:
        return slice(round(start_s * self.rate), round(end_s * self.rate))


class FindingTest(LeadCase):
    def test_frames_and_kinds(self) -> None:
        n = len(self.analysis.contour.midi)
        for kind in ("sibilant", "breath", "consonant"):
            masks = []
            for air in (self.analysis.air, lead().air):
                mask = np.zeros(n, dtype=bool)
                for event in (e for e in air if e.kind == kind):
                    mask[round(event.start_s / HOP_S) : round(event.end_s / HOP_S)] = True
                masks.append(mask)
            with self.subTest(kind):
                self.assertGreater(mask_f1(*masks), 0.95 if kind != "consonant" else 0.85)

    def test_pitch_edits_of_any_size_leave_every_sample_of_air(self) -> None:
        for cents, formant in ((35, 0.0), (-180, 0.0), (1200, 2.0)):
            self.content = as_found(self.analysis)
            self.do("move", note_ids=list(self.content.notes), cents=cents)
            if formant:
                self.do("set", note_ids=list(self.content.notes), values={"formant_shift": formant})
            out = self.rendered(self.content)
            for event in self.analysis.air:
                span = self.samples(event.start_s, event.end_s)
                with self.subTest(cents, event=event.id):
                    self.assertFalse(event.voiced)
                    np.testing.assert_array_equal(out[span], self.audio[span])
            note = next(iter(self.content.notes.values())).note
            middle = self.samples(note.start_s + 0.1, note.end_s - 0.1)
            self.assertGreater(np.abs(out[middle] - self.audio[middle]).max(), 0.01)


class PassTest(LeadCase):
    def test_only_the_planted_harsh_sibilants_are_chosen(self) -> None:
        self.assertEqual(len(harsh(self.content)), len(planted_harsh()))
        before = dict(self.content.air)
        self.do("soften_harsh")
        changed = [key for key in before if before[key] != self.content.air[key]]
        np.testing.assert_allclose([before[key].event.start_s for key in changed], planted_harsh(), atol=0.03)
        gain = self.level(self.content)
        outside = np.ones(len(gain), dtype=bool)
        for key in changed:
            outside[self.samples(before[key].event.start_s, before[key].event.end_s)] = False
        self.assertTrue((gain[outside] == 1.0).all())
        self.assertEqual(len(harsh(self.content)), 0)

    def test_doubles_have_one_each(self) -> None:
        for name in ("double-1", "double-2"):
            _, _, analysis = part(name)
            with self.subTest(name):
                self.assertLessEqual(len(harsh(as_found(analysis))), 1)

    def test_even_out_whole_brings_steady_notes_within_half_a_decibel(self) -> None:
        self.do("even_out", note_ids=list(self.content.notes), lift=1.0, hold=1.0)
        out = self.audio * self.level(self.content)
        steady = []
        for edited in self.content.notes.values():
            note = edited.note
            level = self.analysis.level_db[round(note.start_s / HOP_S) + 10 : round(note.end_s / HOP_S) - 10]
            if len(level) > 40 and level.std() < 1.5:
                sound = out[self.samples(note.start_s, note.end_s)]
                steady.append(10 * np.log10(np.mean(sound**2)))
        self.assertGreater(len(steady), 25)
        self.assertLess(max(steady) - min(steady), 0.5)
        quiet = self.analysis.level_db < -50  # room between phrases is never boosted
        plan = self.plan(self.content).level_db
        self.assertLessEqual(plan[quiet & ~self.analysis.contour.voiced].max(), 0.0)

    def test_even_out_by_nothing_is_nothing(self) -> None:
        self.assertEqual(
            self.do("even_out", note_ids=list(self.content.notes), lift=0.0, hold=0.0), as_found(self.analysis)
        )
        self.assertTrue((self.level(self.content) == 1.0).all())

    def test_gaps_leave_breaths_and_soft_starts(self) -> None:
        gain = self.level(self.do("clear_gaps"))
        for air in lead().air:
            with self.subTest(air.sound, at=round(air.start_s, 2)):
                self.assertTrue((gain[self.samples(air.start_s, air.end_s)] == 1.0).all())
        for note in lead().notes:
            self.assertTrue((gain[self.samples(note.start_s - 0.02, note.end_s + 0.05)] == 1.0).all())
        self.assertGreater(np.mean(gain == 0.0), 0.3)
        self.assertEqual((gain[0], gain[-1]), (0.0, 0.0))
