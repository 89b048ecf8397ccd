"""Standings as the screen takes them: whole, or only what a move changed."""

from __future__ import annotations

import base64
from collections.abc import Mapping
from dataclasses import asdict
from typing import Any

import numpy as np

from ..core.document.content import EditedAir
from ..core.document.items.borrows import Borrow
from ..core.document.items.comps import changed_choices
from ..core.document.items.glazes import Glaze
from ..core.document.notes import EditedNote
from ..core.document.operations.rules.note_edits import lost_edits
from ..core.measure.verdicts import Verdict, Verdicts
from ..core.plan.composing import REACH_S
from ..core.plan.plan import Plan, changed_frames, changed_spans
from ..core.plan.times import TrackTimes
from ..core.signal.signal_tools import merged_ranges
from ..services.history.edit import Done, edit_text
from ..services.history.previews import Preview
from ..services.session.desk import Moved, Standing
from ..services.voices.following import links_shown
from ..store.records import Step, StepEntry, Version
from .context import desk


def _gesture_data(edited: EditedNote) -> dict[str, Any]:
    shown = {k: v for k, v in vars(edited.gesture).items() if k not in ("added_seed", "edition")}
    return {**shown, "hand": [vars(stroke) for stroke in edited.gesture.hand]}


def _glaze_data(glaze: Glaze) -> dict[str, Any]:
    return {name: value for name, value in vars(glaze).items() if name != "edition"}


def note_data(edited: EditedNote, verdict: Verdict) -> dict[str, Any]:
    """A note for `NoteOut`."""
    note = edited.note
    vibrato = None if note.vibrato is None else vars(note.vibrato)
    return {
        **{k: v for k, v in vars(note).items() if k != "reading"}, "vibrato": vibrato,
        "target_midi": verdict.target_midi, "tuned_midi": verdict.tuned_midi, "edited": not edited.gesture.is_as_sung,
        "flags": [{"kind": flag.kind, "reason": flag.reason, "hurt": round(flag.hurt, 3)} for flag in verdict.flags],
        "meant": list(edited.meant), "leave_as_sung": edited.leave_as_sung, "gesture": _gesture_data(edited),
        "strain": verdict.strain, "kept": verdict.kept, "advice": verdict.advice,
    }  # fmt: skip


def air_data(edited: EditedAir, verdicts: Verdicts) -> dict[str, Any]:
    """An air event for `AirOut`."""
    key = edited.event.id
    return {**vars(edited.event), "change_db": edited.level_db, "muted": edited.muted,
            "owner": verdicts.owners.get(key), "harsh_db": verdicts.harsh.get(key)}  # fmt: skip


def borrow_data(borrow: Borrow) -> dict[str, Any]:
    """A borrow for `BorrowOut`."""
    clean = borrow.fade_in.clean and borrow.fade_out.clean
    return {"id": borrow.id, "start_s": borrow.start_s, "end_s": borrow.end_s, "name": borrow.name, "clean": clean}


def content_data(standing: Standing, plan: Plan, verdicts: Verdicts) -> dict[str, Any]:
    """Everything edited of a standing."""
    content = standing.content
    return {
        "notes": [note_data(edited, verdicts.notes[i]) for i, edited in content.notes.items()],
        "air": [air_data(edited, verdicts) for edited in content.air.values()],
        "gaps": [asdict(gap) for gap in content.gaps.values()],
        "pins": [asdict(pin) for pin in content.pins.values()],
        "glazes": [_glaze_data(glaze) for glaze in content.glazes.values()],
        "choices": [asdict(choice) for choice in content.choices.values()],
        "borrows": [borrow_data(borrow) for borrow in content.borrows.values()],
        "links": [vars(link) for link in links_shown(desk(), standing)],
        "level_stretches": [vars(one) for one in content.level_stretches.values()],
        "times": {"source_s": plan.times.source_s, "track_s": plan.times.track_s},
        "singer": {"usual_cents": verdicts.singer.usual_cents, "lean_cents": verdicts.singer.lean_cents},
    }


def delta_data(moved: Moved) -> dict[str, Any]:
    """What differs between the two ends of a move: items as they are now, names of those that are gone, and where."""
    before, after = moved.before.content, moved.after.content
    old, new = moved.verdicts
    told = _differing(before.notes, after.notes) | _differing(old.notes, new.notes)
    notes = [note_data(edited, new.notes[i]) for i, edited in after.notes.items() if i in told]
    told = _differing(before.air, after.air) | _differing(old.owners, new.owners) | _differing(old.harsh, new.harsh)
    air = [air_data(edited, new) for i, edited in after.air.items() if i in told]
    pairs = [(was, now) for was, now in zip(before.parts, after.parts, strict=True) if was is not now]
    plan = moved.plans[1]
    return {
        "notes": notes, "air": air,
        "gaps": [asdict(gap) for key, gap in after.gaps.items() if before.gaps.get(key) != gap],
        "pins": [asdict(pin) for key, pin in after.pins.items() if before.pins.get(key) != pin],
        "glazes": [_glaze_data(glaze) for key, glaze in after.glazes.items() if before.glazes.get(key) != glaze],
        "choices": [asdict(choice) for key, choice in after.choices.items() if before.choices.get(key) != choice],
        "borrows": [borrow_data(one) for key, one in after.borrows.items() if before.borrows.get(key) != one],
        "links": [vars(link) for link in links_shown(desk(), moved.after)] if after.links != before.links else [],
        "level_stretches": [
            vars(one) for key, one in after.level_stretches.items() if before.level_stretches.get(key) != one
        ],
        "times": times_data(*(plan.times for plan in moved.plans)),
        "gone": [key for was, now in pairs for key in was if key not in now],
        "changed": [{"start_s": a, "end_s": b} for a, b in _changed(moved)],
        "curves": [{"first": a, "data": base64.b64encode(curve_bytes(moved.after, plan, slice(a, b))).decode()}
                   for a, b in merged_ranges(changed_frames(*moved.plans, moved.windows))],
    }  # fmt: skip


def _differing(before: Mapping[str, Any], after: Mapping[str, Any]) -> set[str]:
    """The ids under which two have not the same; most are one and the same and are not compared value by value."""
    if before is after:
        return set()
    was = before.get
    fresh = {key for key, now in after.items() if (old := was(key)) is not now and old != now}
    return fresh | (before.keys() - after.keys())


CURVE_LAYOUT = (
    "float32[n] each: tuned MIDI pitch (NaN unvoiced), level change in dB, MIDI pitch as sung, part of glazes in "
    "semitones, level in dBFS; then uint8[n] confidence in %, int8[n, 2] lowest and highest sample of each frame, "
    "full scale 127"
)


def curve_bytes(standing: Standing, plan: Plan, part: slice) -> bytes:
    """What is heard of a standing with its plan over some frames of 5 ms, laid out as `CURVE_LAYOUT` says."""
    heard = standing.analysis
    tuned = plan.contour.midi[part] + plan.correction[part]
    shown = (tuned, plan.level_db[part], plan.contour.midi[part], plan.glaze[part], heard.level_db[part])
    confidence = np.round(100 * heard.contour.confidence[part]).astype(np.uint8)
    outline = (heard.outline if len(heard.outline) else desk().outline(standing.track))[part]
    return b"".join(one.tobytes() for one in (*(values.astype("<f4") for values in shown), confidence, outline))


def preview_data(tried: Preview) -> dict[str, Any]:
    """A try for `PreviewOut`."""
    notes = sum(isinstance(after or before, EditedNote) for before, after in tried.change.values())
    return {
        **delta_data(tried.moved), "preview_id": tried.id, "changed_notes": notes,
        "changed_air": len(tried.change) - notes, "lost": [edit_text(edited) for edited in lost_edits(tried.change)],
    }  # fmt: skip


def _changed(moved: Moved) -> list[tuple[float, float]]:
    """Seconds of the track whose sound is another."""
    chosen = changed_choices(moved.before.content.choices, moved.after.content.choices)
    end_s = moved.after.track.duration_s + 60.0
    reach = 2.0 * REACH_S
    spans = changed_spans(*moved.plans, moved.windows)
    return [*spans, *((max(0.0, a - reach), min(b, end_s) + reach) for a, b in chosen)]


def times_data(before: TrackTimes, after: TrackTimes) -> dict[str, Any] | None:
    """The anchors of a time map that differ from another's: how many stay at both ends, and what is between."""
    old, new = (list(zip(times.source_s, times.track_s, strict=True)) for times in (before, after))
    if old == new:
        return None
    shorter = min(len(old), len(new))
    head = next((i for i in range(shorter) if old[i] != new[i]), shorter)
    tail = next((i for i in range(shorter - head) if old[-1 - i] != new[-1 - i]), shorter - head)
    fresh = new[head : len(new) - tail]
    return {"head": head, "tail": tail, "source_s": [at for at, _ in fresh], "track_s": [at for _, at in fresh]}


def version_data(version: Version) -> dict[str, Any]:
    """A version for `VersionOut`."""
    head = desk().workspace.history.place(version.head_id)
    shown = ("id", "track_id", "name", "note", "kind", "head_id", "created_at", "read_only")
    return {
        **{name: getattr(version, name) for name in shown}, "head_number": head.number, "head_label": head.label,
        "can_undo": not version.read_only and head.number > (1 if version.is_comp else 0),
        "can_redo": not version.read_only and version.tip_id != version.head_id,
    }  # fmt: skip


def step_data(step: Step | StepEntry) -> dict[str, Any]:
    """A step for `StepOut`, without what it changed."""
    return {"id": step.id, "parent_id": step.parent_id, "number": step.number, "label": step.label,
            "created_at": step.created_at, "line": step.line, "at_s": getattr(step, "at_s", None),
            "made_by": step.made_by}  # fmt: skip


def done_data(done: Done) -> dict[str, Any]:
    """What an edit, undo, redo or jump did, for `EditOut`."""
    step = None if done.step is None else step_data(done.step)
    return {"track_id": done.version.track_id, "version": version_data(done.version), "step": step,
            "others": list(done.others), **delta_data(done.moved)}  # fmt: skip
