"""The stream as an artist has it: frames a second and slider to picture, from a driven browser on the same two cores."""

from __future__ import annotations

import gzip
import itertools
import statistics
import tempfile
from pathlib import Path

from playwright.sync_api import Browser, Page, sync_playwright

from bench import beat
from bench.effects import TEN, layer
from bench.timing import percentile
from demo.seed import seed
from sunglaze.core.nodes.blend import MODES
from sunglaze.server.app import DIST
from tests.conftest import CHROMIUM, FLAGS, VIEWPORT
from tests.serving import serve

MOVES = 150


def measure() -> list[str]:
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        seed(Path(folder))
        running = serve(Path(folder))
        try:
            alone = beat.measure(running.address, "demo-storm-warning")
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(f"{running.address}/effects/demo-low-tide")
            page.wait_for_selector("canvas[data-serial]")
            page.wait_for_timeout(8000)  # the loop is decoded once in the background
            gaps = _gaps(page)
            delays = slider_delays(page)
            edits, edit_gaps = _edits(page)
            page.goto("about:blank")  # nothing else plays
            opened = [opening(browser, running.address) for _ in range(5)]
            ten, size, tiles = _ten(page, running.address)
            browser.close()
        finally:
            running.stop()
    return [
        "| 540 by 960, browser on the same two cores | |",
        "| --- | --- |",
        f"| frames a second, playing | {1000 / statistics.mean(gaps):.1f} |",
        f"| gap between frames, 95th percentile | {percentile(gaps, 0.95):.0f} ms |",
        f"| slider to picture, median of {len(delays)} moves | {statistics.median(delays):.0f} ms |",
        f"| slider to picture, 95th percentile | {percentile(delays, 0.95):.0f} ms |",
        f"| blend mode changed (a new program) to picture, median of {len(edits)} | {statistics.median(edits):.0f} ms |",
        f"| the same, 95th percentile | {percentile(edits, 0.95):.0f} ms |",
        f"| gap between frames meanwhile, 95th percentile | {percentile(edit_gaps, 0.95):.0f} ms |",
        f"| gaps above 60 ms; the largest | {sum(gap > 60 for gap in edit_gaps)} of {len(edit_gaps)}; {max(edit_gaps):.0f} ms |",
        *alone,
        f"| ten layers ({', '.join(TEN)}): frames a second | {ten:.1f}, moving at {size} |",
        f"| the same: thumbnails renewed | every {tiles:.0f} ms |",
        "| from asking for the workbench to its first frame and desk, server warm | "
        f"{statistics.median(ms for ms, _ in opened):.0f} ms |",
        f"| its scripts until then, compressed | {opened[0][1] / 1000:.0f} kB |",
    ]


def opening(browser: Browser, address: str) -> tuple[float, int]:
    """Milliseconds until the workbench shows its first frame and desk, in a fresh context, so nothing is in the browser's cache;
    and bytes of its scripts until then, as a usual server sends them compressed."""
    context = browser.new_context(viewport=VIEWPORT, bypass_csp=True)
    page = context.new_page()
    page.goto(f"{address}/effects/demo-low-tide", wait_until="commit")
    page.wait_for_selector("canvas[data-serial]")
    page.wait_for_selector('[data-control="Strength"]')
    taken = float(page.evaluate("performance.now()"))
    names = page.evaluate("performance.getEntriesByType('resource').map(one => new URL(one.name).pathname)")
    context.close()
    scripts = {name.rpartition("/")[2] for name in names if name.endswith(".js")}
    return taken, sum(len(gzip.compress((DIST / "assets" / name).read_bytes())) for name in scripts)


def _ten(page: Page, address: str) -> tuple[float, str, float]:
    """Frames a second, the size at which they move, and milliseconds between thumbnails of an effect of ten layers."""
    state = page.request.post(f"{address}/api/effects", data={"name": "Ten"}).json()
    effect = state["effect"] | {"layers": [layer(kind).model_dump() for kind in TEN]}
    change = {"base": state["revision"], "gesture": "ten", "effect": effect}
    page.request.post(f"{address}/api/effects/{state['id']}/revisions", data=change)
    page.goto(f"{address}/effects/{state['id']}")
    page.wait_for_selector("canvas[data-serial]")
    page.wait_for_timeout(12_000)
    page.evaluate("performance.clearMarks()")
    page.wait_for_timeout(6000)
    frames = page.evaluate("performance.getEntriesByName('frame').length")
    tiles = page.evaluate("performance.getEntriesByName('tiles').length")
    size = page.locator("canvas.picture").evaluate("c => `${c.width} by ${c.height}`")
    return frames / 6, size, 6000 / max(1, tiles)


def _edits(page: Page) -> tuple[list[float], list[float]]:
    """The blend mode of the grade through all nineteen, one each 1.2 s, over an effect of five layers."""
    page.goto(page.url.replace("demo-low-tide", "demo-storm-warning"))
    page.wait_for_selector("canvas[data-serial]")
    page.wait_for_timeout(4000)
    page.evaluate("performance.clearMeasures(); performance.clearMarks()")
    for mode in [*MODES[1:], *MODES[:1]]:
        page.get_by_label("Blend mode").select_option(mode)
        page.wait_for_timeout(1200)
    durations = page.evaluate("performance.getEntriesByName('edit to picture').map(e => e.duration)")
    times = page.evaluate("performance.getEntriesByName('frame').map(e => e.startTime)")
    return [float(d) for d in durations], [b - a for a, b in itertools.pairwise(times)]


def _gaps(page: Page) -> list[float]:
    page.evaluate("performance.clearMarks()")
    page.wait_for_timeout(6000)
    times = page.evaluate("performance.getEntriesByName('frame').map(e => e.startTime)")
    return [b - a for a, b in itertools.pairwise(times)]


def slider_delays(page: Page) -> list[float]:
    """A hand that drags the strength to and fro, 30 moves a second."""
    box = page.locator('[data-control="Strength"] .line').bounding_box()
    assert box
    page.mouse.move(box["x"] + 0.72 * box["width"], box["y"] + 1)
    page.mouse.down()
    for n in range(MOVES):
        page.mouse.move(box["x"] + (0.3 + 0.5 * abs((n % 60) / 30 - 1)) * box["width"], box["y"] + 1)
        page.wait_for_timeout(33)
    page.mouse.up()
    page.wait_for_timeout(500)
    return [float(d) for d in page.evaluate("performance.getEntriesByName('move to picture').map(e => e.duration)")]
