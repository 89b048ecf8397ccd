"""``glass-thread bench edits``: what choices of a comp, and edits under a glaze, cost as the song and the comp grow."""

from __future__ import annotations

import json
import time
from typing import Any

import numpy as np

from ...api.app import PREFIX
from ...demo.build import SAMPLE_RATE
from ..speed.one_track import Bench, Table, in_bench, median_ms


def bench_comps(minutes: tuple[int, ...] = (1, 5, 60), choices: tuple[int, ...] = (10, 100, 400)) -> Table:
    """Choosing a stretch in a comp of three versions, seeing it and hearing it; every note is tuned and glazed."""
    rows: Table = []
    for length in minutes:
        with in_bench(length) as bench:
            chosen = _prepare(bench)
            glazed_ms = median_ms(bench.edit, 9)
            rng = np.random.default_rng(1)
            done = 0
            for wanted in choices:
                while done < wanted:
                    _choose(bench, chosen, rng)
                    done += 1
                times = np.array([_choose_and_hear(bench, chosen, rng) for _ in range(9)])
                done += 9
                edit_ms, seen_ms, heard_ms = np.median(times, axis=0)
                rows.append({"minutes": length, "notes": len(bench.notes), "choices": wanted,
                             "edit of a note under a glaze ms": glazed_ms, "choice ms": float(edit_ms),
                             "seen ms": float(seen_ms), "heard ms": float(heard_ms)})  # fmt: skip
    return rows


def _prepare(bench: Bench) -> dict[str, Any]:
    """Tune and glaze everything, make a third version and a comp; what is needed to edit that."""
    bench.post("edits", operation={"type": "tune_pass", "note_ids": bench.notes, "pull": 0.8})
    bench.post("edits", operation={"type": "glaze", "values": {"settle_ms": 60.0}})
    versions = bench.client.get(f"{PREFIX}/tracks/{bench.track}/versions").get_json()["versions"]
    more = _made(bench, "versions", {"name": "Softer", "from_version": versions[1]["id"]})
    comp = _made(bench, "comps", {"name": "Comp", "version_id": versions[1]["id"]})
    return {"comp": comp["id"], "head": comp["head_id"], "versions": [*(v["id"] for v in versions), more["id"]]}


def _made(bench: Bench, what: str, wanted: dict[str, Any]) -> dict[str, Any]:
    answer = bench.client.post(f"{PREFIX}/tracks/{bench.track}/{what}", json=wanted)
    assert answer.status_code == 201, answer.get_data(as_text=True)
    return dict(json.loads(answer.data))


def _choose(bench: Bench, chosen: dict[str, Any], rng: np.random.Generator) -> float:
    """Choose some version over some stretch; where that begins."""
    start = float(rng.uniform(0.0, bench.seconds - 4.0))
    operation = {"type": "choose", "version_id": str(rng.choice(chosen["versions"])), "start_s": start,
                 "end_s": start + float(rng.uniform(0.2, 3.0))}  # fmt: skip
    body = {"version_id": chosen["comp"], "base": chosen["head"], "operation": operation}
    answer = bench.client.post(f"{PREFIX}/tracks/{bench.track}/edits", json=body)
    assert answer.status_code == 200, answer.get_data(as_text=True)
    chosen["head"] = answer.get_json()["version"]["head_id"]
    return start


def _choose_and_hear(bench: Bench, chosen: dict[str, Any], rng: np.random.Generator) -> tuple[float, float, float]:
    """Milliseconds of a choice, of the comp as the screen asks for it, and of a second of its sound."""
    marks = [time.perf_counter()]
    start = _choose(bench, chosen, rng)
    marks.append(time.perf_counter())
    bench.client.get(f"{PREFIX}/tracks/{bench.track}/comps/{chosen['comp']}")
    marks.append(time.perf_counter())
    begin = int(start) * SAMPLE_RATE
    query = {"begin": begin, "end": begin + SAMPLE_RATE, "step": chosen["head"]}
    assert bench.client.get(f"{PREFIX}/tracks/{bench.track}/audio", query_string=query).status_code == 200
    marks.append(time.perf_counter())
    edit, seen, heard = np.diff(marks) * 1000.0
    return float(edit), float(seen), float(heard)
