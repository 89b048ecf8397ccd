"""The faulty lead put right with the edits a user has, against the singer's own render of the intended performance."""

import unittest

import numpy as np

from glass_thread.core.analysis.pitch.f0 import track_f0
from glass_thread.core.document.notes import EditedNote
from glass_thread.core.signal.types import HOP_S
from glass_thread.core.song.keys import make_tuning, one_key
from glass_thread.core.synthesis.render import render_whole
from glass_thread.demo.song import lead
from tests.kept import analyse, sing
from tests.signals import RATE, apply_change, apply_operation, pitch_correction

DRIFTING = 15.0


class RepairTest(unittest.TestCase):
    def test_the_repaired_lead_is_within_five_cents_of_the_intended_one(self) -> None:
        performance = lead()
        source, ideal = sing(performance, RATE), sing(performance.in_tune(), RATE)
        found = analyse(source.audio, RATE)
        keys = one_key(make_tuning(2, "natural minor"))
        document = {note.id: EditedNote(note) for note in found.notes}

        def do(operation: dict) -> None:
            nonlocal document
            document = apply_change(document, apply_operation(document, keys, operation, found))

        do({"type": "tune_pass", "note_ids": list(document)})
        fall = next(i for i, e in document.items() if e.note.start_s < 29.0 < e.note.end_s)  # meant, so left alone
        drifting = [i for i, e in document.items() if abs(e.note.drift_cents_per_s) >= DRIFTING and i != fall]
        do({"type": "set", "note_ids": drifting, "values": {"drift": 0.0}})
        # What only an ear can know: the flat F in bar 12, and the second half of the note that holds two pitches.
        for at_s, target in ((32.4, "F4"), (33.35, "E4")):
            note = next(e.note for e in document.values() if e.note.start_s < at_s < e.note.end_s)
            do({"type": "set", "note_ids": [note.id], "values": {"target": target}})

        gestures = {i: e.gesture for i, e in document.items()}
        notes = [e.note for e in document.values()]
        correction = pitch_correction(found.contour, notes, gestures, keys, found.level_db)
        out = render_whole(source.audio[np.newaxis], RATE, found.contour, correction)[0]
        read = track_f0(out, RATE).midi
        place = np.minimum((np.arange(len(read)) * HOP_S * RATE).round().astype(int), len(ideal.midi) - 1)
        off = 100 * np.abs(read - ideal.midi[place])
        self.assertLess(np.nanmedian(off), 2.0)
        self.assertLess(np.nanpercentile(off, 90), 12.0)
        for note in performance.notes:  # every planted fault is put right, and intended falls and scoops are kept
            inner = off[round(note.start_s / HOP_S) + 8 : round(note.end_s / HOP_S) - 8]
            with self.subTest(at=round(note.start_s, 2)):
                self.assertLess(np.nanmedian(inner), 12.0)
                if note.fall:
                    end = off[round((note.end_s - 0.12) / HOP_S) : round((note.end_s - 0.04) / HOP_S)]
                    self.assertLess(np.nanmedian(end), 40.0)
