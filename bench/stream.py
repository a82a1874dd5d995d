"""The stream as an artist has it: frames a second and slider to picture, from a driven browser on the same two cores."""

from __future__ import annotations

import itertools
import statistics
import tempfile
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from bench.timing import percentile
from demo.seed import seed
from tests.conftest import CHROMIUM, FLAGS
from tests.serving import serve

MOVES = 150


def measure() -> list[str]:
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        seed(Path(folder))
        running = serve(Path(folder))
        try:
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(f"{running.address}/effects/demo-low-tide")
            page.wait_for_selector("canvas[data-serial]")
            page.wait_for_timeout(8000)  # the loop is decoded once in the background
            gaps = _gaps(page)
            delays = _delays(page)
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
    ]


def _gaps(page: Page) -> list[float]:
    page.evaluate("performance.clearMarks()")
    page.wait_for_timeout(6000)
    times = page.evaluate("performance.getEntriesByName('frame').map(e => e.startTime)")
    return [b - a for a, b in itertools.pairwise(times)]


def _delays(page: Page) -> list[float]:
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
