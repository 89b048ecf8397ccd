"""Notes and phrases as stretches of time with words: tab-separated labels, and a TextGrid.

A TextGrid is the text format in which speech research keeps tiers of intervals (P. Boersma and D. Weenink, "TextGrid
file formats", Praat manual).
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import NamedTuple

_LEAST_S = 1e-6


class Label(NamedTuple):
    """A stretch of time in seconds with what is said of it."""

    start_s: float
    end_s: float
    text: str


def label_lines(labels: Iterable[Label]) -> str:
    """One line a label: start and end in seconds and the text, with tabs between them."""
    return "".join(f"{one.start_s:.6f}\t{one.end_s:.6f}\t{_plain(one.text)}\n" for one in labels)


def text_grid(tiers: Mapping[str, Sequence[Label]], end_s: float) -> str:
    """Tiers of intervals from 0 to `end_s` in the long text format; labels of a tier are in order of time, and one that
    reaches into the next ends there."""
    lines = ['File type = "ooTextFile"', 'Object class = "TextGrid"', "", "xmin = 0", f"xmax = {end_s:.6f}",
             "tiers? <exists>", f"size = {len(tiers)}", "item []:"]  # fmt: skip
    for number, (name, labels) in enumerate(tiers.items(), 1):
        whole = _whole(labels, end_s)
        lines += [f"    item [{number}]:", '        class = "IntervalTier"', f"        name = {_quoted(name)}",
                  "        xmin = 0", f"        xmax = {end_s:.6f}",
                  f"        intervals: size = {len(whole)}"]  # fmt: skip
        for place, one in enumerate(whole, 1):
            lines += [f"        intervals [{place}]:", f"            xmin = {one.start_s:.6f}",
                      f"            xmax = {one.end_s:.6f}", f"            text = {_quoted(one.text)}"]  # fmt: skip
    return "\n".join(lines) + "\n"


def _whole(labels: Sequence[Label], end_s: float) -> list[Label]:
    """Intervals without gaps from 0 to the end, as a tier has them: what lies between labels is empty."""
    found, at = list[Label](), 0.0
    nexts = [*(one.start_s for one in labels[1:]), end_s]
    for one, after_s in zip(labels, nexts, strict=len(labels) > 0):
        start, stop = max(one.start_s, at), min(one.end_s, after_s, end_s)
        if stop - start < _LEAST_S:
            continue
        if start - at >= _LEAST_S:
            found.append(Label(at, start, ""))
            at = start
        found.append(Label(at, stop, one.text))
        at = stop
    return [*found, Label(at, end_s, "")] if end_s - at >= _LEAST_S else found


def _plain(text: str) -> str:
    return " ".join(text.split())


def _quoted(text: str) -> str:
    doubled = _plain(text).replace('"', '""')
    return f'"{doubled}"'
