"""How long dragging the tip takes from the hand to the picture, in the browser."""

from __future__ import annotations

import statistics

from tests.fixtures.browser import browser

PICTURE = "svg.bands"
LINES = "canvas[data-drawn]"
DRAG = """async ([steps, where]) => {
  const picture = document.querySelector(where)
  const slider = (picture.closest('section:has(.el-slider)') ?? document).querySelector('.el-slider [role=slider]')
  const times = []
  for (let i = 0; i < steps; i++) {
    const seen = new Promise((done) => {
      const watch = new MutationObserver(() => { watch.disconnect(); requestAnimationFrame(() => { const drawn = new MessageChannel(); drawn.port1.onmessage = done; drawn.port2.postMessage(0) }) })
      watch.observe(picture, { subtree: true, attributes: true, childList: true, characterData: true })
    })
    const begun = performance.now()
    // four steps one way, four back: each shows another picture
    slider.dispatchEvent(new KeyboardEvent('keydown', { code: i % 8 < 4 ? 'ArrowRight' : 'ArrowLeft', bubbles: true }))
    await seen
    times.push(performance.now() - begun)
  }
  return times
}"""


def drag(base: str, visit: int, steps: int = 60) -> tuple[float, float]:
    """Drag the tip on the first-layer page.

    Returns
    -------
    median, nine in ten : float
        From the input to the frame that shows it, s.
    """
    return _dragged(f"{base}/visits/{visit}/first-layer", PICTURE, steps)


def drag_print(base: str, file: int, steps: int = 40) -> tuple[float, float]:
    """Drag the tip over the first layer of a print; the same figures."""
    return _dragged(f"{base}/files/{file}", LINES, steps)


def _dragged(address: str, picture: str, steps: int) -> tuple[float, float]:
    context = browser().new_context(viewport={"width": 1280, "height": 800})
    try:
        page = context.new_page()
        page.goto(address)
        page.locator(picture).wait_for()
        page.wait_for_load_state("networkidle")
        page.evaluate(DRAG, [5, picture])
        times = [value / 1000 for value in page.evaluate(DRAG, [steps, picture])]
    finally:
        context.close()
    return statistics.median(times), statistics.quantiles(times, n=10)[-1]
