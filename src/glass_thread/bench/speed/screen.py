"""``glass-thread bench screen``: what an engineer waits for, in Debian's Chromium over the real application."""

from __future__ import annotations

import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import AbstractContextManager, contextmanager, suppress
from pathlib import Path
from typing import Any

import numpy as np
import requests
import soundfile as sf

from ...demo.build import SAMPLE_RATE, ensure_demo
from ...demo.singer import sing
from ...demo.song import TITLE
from ...demo.voices import random_performance
from ...services.folder.workspace import Workspace, open_workspace
from ...services.song.import_audio import import_audio
from ...services.song.songs import create_song
from ...services.work.here import run_task
from ..hostile.victim import Victim
from .one_track import write_long

Table = list[dict[str, Any]]
WINDOWLESS = "chromium-headless-shell"  # Debian's build without a window; the tests need no other
CHROMIUM = shutil.which("chromium") or shutil.which(WINDOWLESS) or "chromium"
FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
         "--disable-component-update", "--disable-sync", "--autoplay-policy=user-gesture-required"]  # fmt: skip
LONG = "A long take"
# Notes when each piece of sound begins, on the page's clock, and when a key or button was pressed.
EARS = """(() => {
  window.sounds = [];
  const start = AudioBufferSourceNode.prototype.start;
  AudioBufferSourceNode.prototype.start = function (when, ...rest) {
    const wait = Math.max(0, (when ?? 0) - this.context.currentTime);
    if (wait < 0.3) window.sounds.push(performance.now() + 1000 * wait); // else it only goes on with what plays
    return start.call(this, when, ...rest);
  };
  const pressed = () => { window.pressed = performance.now(); window.sounds = []; };
  window.addEventListener("pointerdown", pressed, true);
  window.addEventListener("keydown", pressed, true);
})()"""
# What both scripts below begin with: the sheet, its next frame, and the moment when the page has nothing left to do.
SHEET = """async (steps) => {
  const canvas = document.querySelector("canvas[role=application]");
  const box = canvas.getBoundingClientRect();
  const frame = () => new Promise((done) => requestAnimationFrame(done));
  const free = () => new Promise((done) => {
    const { port1, port2 } = new MessageChannel();
    port1.onmessage = done;
    port2.postMessage(0);
  });
"""
REDRAWS = (
    SHEET
    + """
  const [busy, apart] = [[], []];
  let before = await frame();
  for (let i = 0; i < steps; i++) {
    canvas.dispatchEvent(new WheelEvent("wheel", { deltaX: i % 2 ? 1 : -1, bubbles: true, cancelable: true,
      clientX: box.x + box.width / 2, clientY: box.y + 200 }));
    const now = await frame();
    const begun = performance.now();
    await free();
    busy.push(performance.now() - begun);
    apart.push(now - before);
    before = now;
  }
  return [busy, apart];
}"""
)


# A note is looked for by what the pointer turns into over it, and dragged to and fro; ms that the page is busy a frame.
DRAGS = (
    SHEET
    + """
  const send = (type, x, y) => canvas.dispatchEvent(new PointerEvent(type, { bubbles: true, cancelable: true, button: 0,
    pointerId: 1, clientX: box.x + x, clientY: box.y + y }));
  canvas.setPointerCapture = () => undefined; // there is no real pointer
  const places = [];
  for (let y = 60; y < box.height / 2; y += 5) for (let x = 120; x < box.width - 60; x += 9) places.push([x, y]);
  const [x, y] = places.find(([x, y]) => { send("pointermove", x, y); return canvas.style.cursor === "ew-resize"; });
  send("pointerdown", x, y);
  const busy = [];
  for (let i = 0; i < steps; i++) {
    send("pointermove", x + 30 * Math.sin(i / 9), y);
    await frame();
    const begun = performance.now();
    await free();
    busy.push(performance.now() - begun);
  }
  send("pointerup", x, y);
  return busy;
}"""
)


def row_of(what: str, times_ms: Sequence[float]) -> dict[str, Any]:
    """A row of milliseconds: how many, the middle one, that at 95 % and the most."""
    middle, most = np.percentile(times_ms, [50, 95])
    return {"what": what, "times": len(times_ms), "median ms": float(middle), "95 % ms": float(most),
            "most ms": float(max(times_ms))}  # fmt: skip


@contextmanager
def chromium_page(url: str, script: str = EARS) -> Iterator[Any]:
    """A page of Debian's Chromium at an address, with a script that runs before its own."""
    from playwright.sync_api import sync_playwright  # only this benchmark and the tests need it

    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
        page.add_init_script(script)
        page.goto(url)
        yield page
        browser.close()


@contextmanager
def served(build: Callable[[Path, Workspace], None]) -> Iterator[str]:
    """The address of a server over a workspace that `build` fills; it may leave files beside it."""
    with tempfile.TemporaryDirectory() as name:
        workspace = open_workspace(Path(name) / "data")
        build(Path(name), workspace)
        workspace.close()
        victim = Victim(Path(name) / "data")
        victim.start()
        try:
            yield victim.url
        finally:
            victim.kill()


def bring_in(workspace: Workspace, song_id: str, path: Path) -> str:
    """Import and analyse a file; the id of its track."""
    with path.open("rb") as stream:
        track, task = import_audio(workspace, song_id, stream, path.name)
    run_task(workspace, task.id)
    return track.id


def served_take(minutes: int = 0, write: Callable[[Path, int], None] | None = None) -> AbstractContextManager[str]:
    """The address of a server with the demo song, and with a long take when `minutes` are asked for."""

    def build(folder: Path, workspace: Workspace) -> None:
        ensure_demo(workspace)
        if minutes:
            take = folder / "take.flac"
            (write or _write_dense)(take, minutes)
            bring_in(workspace, create_song(workspace, LONG).id, take)

    return served(build)


def write_over(path: Path, voice: str, seed: int, minutes: int, level: Callable[[int], float] = lambda _: 1.0) -> None:
    """A take of a voice over and over, each time as loud as `level` says."""
    sung = sing(random_performance(voice, seed, duration_s=30.0), SAMPLE_RATE)
    with sf.SoundFile(str(path), "w", SAMPLE_RATE, 1, "PCM_16", format="FLAC") as file:
        for i in range(2 * minutes):
            file.write(sung.audio * level(i))


def _write_dense(path: Path, minutes: int) -> None:
    """Runs over and over, about three notes a second."""
    write_over(path, "runs", 1, minutes, lambda i: 0.9 + 0.1 * float(np.cos(i)))


def open_song(page: Any, title: str) -> None:
    """Open a song on the sheet, with the keys, and let it come to rest."""
    page.get_by_role("region", name=title).get_by_role("button", name="Open", exact=True).click()
    page.get_by_role("application").wait_for()
    page.get_by_role("application").focus()
    page.wait_for_timeout(1500)


def after_press(page: Any) -> float:
    """Milliseconds from the last press to the first sound that began after it."""
    return float(page.evaluate("""() => new Promise((done, failed) => {
        const look = () => {
          if (window.sounds.length) done(Math.min(...window.sounds) - window.pressed);
          else if (performance.now() - window.pressed > 10000) failed(new Error("nothing sounded for 10 s"));
          else setTimeout(look, 2);
        };
        look();
    })"""))  # fmt: skip


def _tune_all(page: Any) -> None:
    for _ in range(20):  # the whole song is on the sheet
        page.keyboard.press("-")
    page.keyboard.press("Control+a")
    page.keyboard.press("t")
    page.wait_for_timeout(1500)


def bench_play(times: int = 20) -> Table:
    """From the press of Play to sound, at any place of a tuned song that is open, with its backing."""
    rng, rows = random.Random(1), []
    with served_take() as url, chromium_page(url) as page:
        open_song(page, TITLE)
        _tune_all(page)
        box = page.get_by_role("application").bounding_box()
        for what, rest_ms in (("right after all notes were tuned", 0), ("some seconds later", 8000)):
            page.wait_for_timeout(rest_ms)
            found = []
            for _ in range(times):
                page.mouse.click(box["x"] + box["width"] * rng.uniform(0.1, 0.95), box["y"] + 5)
                page.keyboard.press("Space")
                found.append(after_press(page))
                page.keyboard.press("Space")
                page.wait_for_timeout(100)
            rows.append(row_of(what, found))
    return rows


def bench_edit_heard(times: int = 20) -> Table:
    """From an edit's key to its sound, while its phrase is played in a loop."""
    found = []
    with served_take() as url, chromium_page(url) as page:
        open_song(page, TITLE)
        _tune_all(page)
        page.keyboard.press("Escape")
        page.keyboard.press("n")
        page.get_by_role("button", name="Loop").click()
        page.get_by_role("application").focus()
        page.keyboard.press("Space")
        for i in range(times):
            page.wait_for_timeout(700 + 37 * i % 300)
            page.keyboard.press("Shift+ArrowUp" if i % 2 else "Shift+ArrowDown")
            found.append(after_press(page))
    return [row_of("an edit while playing", found)]


def bench_time_drag(minutes: int = 5, times: int = 20) -> Table:
    """On an ordinary long take and a dense one: from an edit of time to its sound while a phrase is played in a loop,
    and how long the page is busy with a frame while a note is dragged along."""
    return [{**row, "what": f"{name}: {row['what']}"} for name, write in (("49 notes a minute", write_long),
            ("240 notes a minute", _write_dense)) for row in _time_drag(minutes, times, write)]  # fmt: skip


def _time_drag(minutes: int, times: int, write: Callable[[Path, int], None]) -> Table:
    heard = []
    with served_take(minutes, write) as url, chromium_page(url) as page:
        open_song(page, LONG)
        page.keyboard.press("ArrowRight")
        page.get_by_role("button", name="Loop").click()
        page.get_by_role("application").focus()
        page.keyboard.press("Space")
        for i in range(times):
            page.wait_for_timeout(700 + 37 * i % 300)
            page.keyboard.press("i" if i % 2 else "u")
            heard.append(after_press(page))
        page.keyboard.press("Space")
        page.keyboard.press("w")
        busy = page.evaluate(DRAGS, 120)
    return [row_of("an edit of time while playing", heard), row_of("a drag in time: busy", busy)]


def bench_redraw(minutes: int = 5, steps: int = 120) -> Table:
    """A long take moved about, as it opens and fully zoomed out: how long the page is busy with a frame, and how far
    frames are apart (16.7 ms at best)."""
    rows = []
    with served_take(minutes) as url, chromium_page(url) as page:
        open_song(page, LONG)
        for what, presses in (("as it opens", 0), (f"{minutes} minutes fully out", 20)):
            for _ in range(presses):
                page.keyboard.press("-")
            page.wait_for_timeout(800)
            busy, apart = page.evaluate(REDRAWS, steps)
            rows += [row_of(f"{what}: busy", busy), row_of(f"{what}: frames apart", apart)]
    return rows


def _until_usable(url: str, begun: float) -> float:
    """Milliseconds until a fresh page shows the demo song with a button to open it."""
    while True:
        with suppress(OSError):
            requests.get(url, timeout=10)
            break
        time.sleep(0.01)
    answered = time.perf_counter() - begun
    with chromium_page(url) as page:
        asked = time.perf_counter()
        page.reload()
        page.get_by_role("region", name=TITLE).get_by_role("button", name="Open", exact=True).wait_for()
        return 1000 * (answered + time.perf_counter() - asked)


def bench_start(times: int = 3) -> Table:
    """From the command, on a folder where the demo song is, to a page that can be used."""
    found = []
    with tempfile.TemporaryDirectory() as name:
        workspace = open_workspace(Path(name) / "data")
        ensure_demo(workspace)
        workspace.close()
        for _ in range(times):
            victim = Victim(Path(name) / "data")
            begun = time.perf_counter()
            process = subprocess.Popen([sys.executable, "-m", "glass_thread", "demo", "--port", str(victim.port),
                                        "--data", str(victim.folder)], stdout=subprocess.DEVNULL,
                                       start_new_session=True)  # fmt: skip
            found.append(_until_usable(victim.url, begun))
            with suppress(ProcessLookupError):
                os.killpg(process.pid, signal.SIGKILL)
            process.wait()
    return [row_of("glass-thread demo, the second time", found)]
