"""What an engineer waits for at a press of a note and of a key: the sound, and the picture."""

from __future__ import annotations

from .screen import EARS, LONG, SHEET, Table, after_press, chromium_page, open_song, row_of, served_take

# Where the pointer turns into a hand on a note's body, as pixels of the page.
BODIES = (
    SHEET
    + """
  const places = [];
  for (let y = 60; y < box.height / 2; y += 4) for (let x = 80; x < box.width - 40; x += 12) {
    canvas.dispatchEvent(new PointerEvent("pointermove", { bubbles: true, clientX: box.x + x, clientY: box.y + y }));
    if (canvas.style.cursor === "ns-resize") places.push([box.x + x, box.y + y]);
  }
  return places;
}"""
)
# Notes when canvases are painted after an edit was answered.
EYES = (
    EARS
    + """;(() => {
  window.answered = false;
  const { fetch } = window;
  window.fetch = async (...asked) => {
    const answer = await fetch(...asked);
    if (/[/]edits$/.test(String(asked[0]))) window.answered = true;
    return answer;
  };
  const { clearRect } = CanvasRenderingContext2D.prototype;
  CanvasRenderingContext2D.prototype.clearRect = function (...box) {
    if (window.answered && window.painted === null) window.painted = performance.now();
    return clearRect.apply(this, box);
  };
})()"""
)


def bench_press(minutes: int = 5, times: int = 40) -> Table:
    """On a dense take: from the press of a note to its sound, and from a key's edit to the sheet painted anew."""
    heard, seen = [], []
    with served_take(minutes) as url, chromium_page(url, EYES) as page:
        open_song(page, LONG)
        bodies = page.evaluate(BODIES, 0)
        for i in range(times):
            page.keyboard.press("Escape")  # nothing is chosen, and no strip lies over the note
            page.wait_for_timeout(60)
            page.mouse.click(*bodies[(i * 37) % len(bodies)], delay=80)  # as long as a finger stays
            heard.append(after_press(page))
            page.wait_for_timeout(400)
        for i in range(times):
            page.evaluate("() => { window.answered = false; window.painted = null; }")
            page.keyboard.press("Shift+ArrowUp" if i % 2 else "Shift+ArrowDown")
            page.wait_for_function("() => window.painted !== null", polling=4)
            seen.append(float(page.evaluate("() => window.painted - window.pressed")))
            page.wait_for_timeout(150)
    return [row_of("press of a note to its sound", heard), row_of("a key to the changed picture", seen)]
