"""How long a visitor waits: from asking for a published effect to its first picture, in a browser that has kept nothing."""

from __future__ import annotations

import gzip
import io
import statistics
import tempfile
import zipfile
from pathlib import Path

import httpx
from playwright.sync_api import Browser, sync_playwright

from demo.seed import seed
from tests.browser.films import play_grey
from tests.conftest import CHROMIUM, FLAGS
from tests.serving import files_at, serve

TIMES = 5
EFFECTS = {
    "Low-tide gold, a grade": "demo-low-tide",
    "Old reel, a loop": "demo-old-reel",
    "Sunday glasses, worn": "demo-sunday-glasses",
    "Soft morning, the most passes": "demo-soft-morning",
}


def measure() -> list[str]:
    """Lines of a table."""
    lines = ["| 390 by 844, software in place of a GPU, same two cores | in the application | exported |", "| --- | --- | --- |"]
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        seed(Path(folder))
        running = serve(Path(folder))
        film = Path(folder) / "camera.y4m"
        play_grey(film, 90)
        fake = ["--use-fake-device-for-media-stream", f"--use-file-for-fake-video-capture={film}"]
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=[*FLAGS, *fake])
        try:
            with httpx.Client(base_url=running.address, timeout=120) as http:
                for title, key in EFFECTS.items():
                    said = http.get(f"/api/effects/{key}/listing").json()["listing"]
                    http.put(f"/api/effects/{key}/listing", json=said | {"clip": None}).raise_for_status()
                    code = http.post(f"/api/effects/{key}/publish").raise_for_status().json()["code"]
                    page = http.get(f"/api/effects/{key}/page").raise_for_status().content
                    inside = _median(browser, f"{running.address}/p/{code}")
                    lines.append(f"| {title} | {inside:.1f} s | {_exported(browser, page):.1f} s |")
        finally:
            browser.close()
            running.stop()
        script = zipfile.ZipFile(io.BytesIO(page)).read("page.js")
    size = f"The exported page's script is {len(script) / 1000:.0f} kB, {len(gzip.compress(script, 9)) / 1000:.0f} kB packed."
    waits = "The exported page waits for its camera, and where it reads faces for the first answer of the trackers."
    return [*lines, "", size, waits]


def _exported(browser: Browser, page: bytes) -> float:
    with tempfile.TemporaryDirectory() as folder:
        zipfile.ZipFile(io.BytesIO(page)).extractall(folder)
        with files_at(Path(folder)) as address:
            return _median(browser, f"{address}/")


def _median(browser: Browser, address: str) -> float:
    """Seconds to the first picture; each time with nothing kept, the server having served it before."""
    return statistics.median([_opening(browser, address) for _ in range(TIMES + 1)][1:])


def _opening(browser: Browser, address: str) -> float:
    context = browser.new_context(viewport={"width": 390, "height": 844}, permissions=["camera"])
    page = context.new_page()
    page.goto(address, wait_until="commit")
    page.wait_for_selector("canvas[data-frame]", timeout=120_000)
    taken = float(page.evaluate("performance.now()")) / 1000
    context.close()
    return taken
