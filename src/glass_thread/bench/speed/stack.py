"""``glass-thread bench screen``: twelve long tracks played together, for a minute."""

from __future__ import annotations

import time
from contextlib import suppress
from functools import partial
from pathlib import Path
from typing import Any

from ...services.folder.workspace import Workspace
from ...services.history.edit import edit
from ...services.linked.deriving import derive
from ...services.session.desk import Desk
from ...services.song.songs import create_song
from .screen import Table, bring_in, chromium_page, served, write_over

TITLE = "A long stack"
RECORDED = ("alto", "tenor", "soprano", "bass")
# Sound that is placed ahead waits; what comes too late is begun at once, with a hole before it.
LATE = """(() => {
  window.late = [];
  window.begun = 0;
  const start = AudioBufferSourceNode.prototype.start;
  AudioBufferSourceNode.prototype.start = function (when, ...rest) {
    window.begun += 1;
    if ((when ?? 0) - this.context.currentTime < 0.001) window.late.push(this.context.currentTime);
    return start.call(this, when, ...rest);
  };
})()"""


def _build(folder: Path, workspace: Workspace, minutes: int, tracks: int) -> None:
    """Some recorded vocals with every note tuned, and doubles of them, each of a seed of its own."""
    song, desk = create_song(workspace, TITLE), Desk(workspace)
    made = []
    for voice in RECORDED:
        path = folder / f"{voice}.flac"
        write_over(path, voice, 3, minutes)
        made.append(bring_in(workspace, song.id, path))
        standing = desk.at(made[-1])
        everything = {"type": "tune", "note_ids": list(standing.content.notes)}
        edit(desk, made[-1], everything, base=str(standing.step_id))
    for i in range(tracks - len(made)):
        derive(desk, made[i % len(RECORDED)], {"type": "double", "seed": i + 1})


def _page_mb() -> float:
    """What the pages of the browser hold, in MB: their own memory and their share of what is shared (Linux)."""
    total = 0
    for process in Path("/proc").iterdir():
        with suppress(OSError):
            if b"--type=renderer" in (process / "cmdline").read_bytes():
                line = next(
                    one for one in (process / "smaps_rollup").read_text().splitlines() if one.startswith("Pss:")
                )
                total += int(line.split()[1])
    return total / 1024


def bench_stack(minutes: int = 5, tracks: int = 12, seconds: int = 60) -> Table:
    """Twelve tracks of five minutes played from the stack for a minute: pieces of sound that came too late, and the
    most that the browser's pages hold."""
    with served(partial(_build, minutes=minutes, tracks=tracks)) as url, chromium_page(url, LATE) as page:
        page.get_by_role("region", name=TITLE).get_by_role("button", name="Open", exact=True).click()
        page.get_by_role("application").wait_for()
        page.get_by_role("button", name="Stack", exact=True).click()
        page.get_by_role("grid", name="Tracks of the song").wait_for()
        page.wait_for_timeout(3000)
        page.evaluate("() => { window.late = []; window.begun = 0; }")
        page.get_by_role("button", name="Play", exact=True).click()
        before = _page_mb()
        most, begun = before, time.perf_counter()
        while time.perf_counter() - begun < seconds:
            page.wait_for_timeout(2000)
            most = max(most, _page_mb())
        row: dict[str, Any] = {"tracks": tracks, "minutes": minutes, "played s": seconds,
                               "pieces": page.evaluate("window.begun"), "too late": page.evaluate("window.late.length"),
                               "page MB before": before, "page MB": most}  # fmt: skip
    return [row]
