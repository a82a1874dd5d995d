"""Sequences: memory of the player with a long loop, and the picture's rate while a clip is cut."""

from __future__ import annotations

import os
import tempfile
import time
from pathlib import Path
from typing import Any

import httpx
import numpy as np
from playwright.sync_api import sync_playwright

from demo.material import film
from sunglaze.core.material.files import encode_webp
from sunglaze.core.material.reels import made, write_sequence
from tests.conftest import CHROMIUM, FLAGS
from tests.serving import serve

FRAMES, SIZE = 40, (720, 1280)
CLIP_FRAMES = 500
WATCHED_S = 12


def measure() -> list[str]:
    """Lines of a table."""
    with tempfile.TemporaryDirectory() as folder:
        served = serve(Path(folder))
        try:
            with sync_playwright() as playwright, httpx.Client(base_url=served.address, timeout=120) as http:
                memory = _memory(playwright, http)
                rates = _rates(playwright, http)
        finally:
            served.stop()
    lines = ["| | |", "| --- | --- |"]
    lines.append(f"| memory of the page on a phone, {FRAMES} pictures of 720 by 1280 against one still | +{memory:.0f} MB |")
    lines.append(f"| frames a second, at rest | {rates[0]:.1f} |")
    lines.append(f"| while a clip of {CLIP_FRAMES} pictures of 1280 by 720 is cut to 720 by 1280 | {rates[1]:.1f} |")
    lines.append(f"| seconds that takes | {rates[2]:.0f} |")
    return lines


def _loop() -> bytes:
    rng = np.random.default_rng(1)
    files = []
    for _ in range(FRAMES):
        one = np.zeros((SIZE[1], SIZE[0], 4), np.uint8)
        for _ in range(60):
            x, y = rng.integers(0, SIZE[0] - 9), rng.integers(0, SIZE[1] - 9)
            one[y : y + 8, x : x + 8] = 255
        files.append(encode_webp(one, 78))
    return write_sequence(made(files, 12.0))


def _effect(http: httpx.Client, layers: list[dict[str, Any]]) -> str:
    state = http.post("/api/effects", json={"name": "Bench"}).json()
    state["effect"]["layers"] = layers
    change = {"base": state["revision"], "gesture": "g", "effect": state["effect"]}
    http.post(f"/api/effects/{state['id']}/revisions", json=change).raise_for_status()
    return str(state["id"])


def _put(http: httpx.Client, name: str, data: bytes) -> str:
    answer = http.post("/api/shelf", files={"file": (name, data)})
    answer.raise_for_status()
    return str(answer.json()["piece"]["asset"]["hash"])


def _memory(playwright: Any, http: httpx.Client) -> float:
    """Megabytes that a page with the loop takes beyond one with a still of its size, all processes of the browser."""
    loop = _put(http, "loop.zip", _loop())
    still = _put(http, "still.webp", encode_webp(np.full((SIZE[1], SIZE[0], 3), 90, np.uint8), 78))
    found = []
    for value in (still, {"asset": loop, "rate": 12}):
        effect = _effect(http, [{"id": "p", "name": "P", "kind": "picture", "blend": "screen", "values": {"picture": value}}])
        phone = http.post(f"/api/effects/{effect}/publish").json()["phone"]
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=[*FLAGS, "--js-flags=--expose-gc"])
        page = browser.new_page(viewport={"width": 360, "height": 640})
        page.goto(f"{str(http.base_url).rstrip('/')}{phone}")
        page.wait_for_selector("canvas[data-frame]")
        page.wait_for_timeout(1000 * WATCHED_S)
        page.evaluate("gc()")
        page.wait_for_timeout(1500)
        found.append(_resident(os.getpid()))
        browser.close()
    return found[1] - found[0]


def _resident(parent: int) -> float:
    """Megabytes of proportional memory of all chromium processes below this one."""
    below: dict[int, int] = {}
    for path in Path("/proc").glob("[0-9]*/stat"):
        try:
            fields = path.read_text().rpartition(")")[2].split()
        except OSError:
            continue
        below[int(path.parent.name)] = int(fields[1])
    mine, total = {parent}, 0
    while more := {pid for pid, up in below.items() if up in mine} - mine:
        mine |= more
    for pid in mine - {parent}:
        try:
            if "chrom" not in Path(f"/proc/{pid}/comm").read_text():
                continue
            text = Path(f"/proc/{pid}/smaps_rollup").read_text()
        except OSError:
            continue
        total += int(next(line for line in text.splitlines() if line.startswith("Pss:")).split()[1])
    return total / 1024


def _rates(playwright: Any, http: httpx.Client) -> tuple[float, float, float]:
    rng = np.random.default_rng(2)
    pictures = []
    for n in range(CLIP_FRAMES):
        one = np.zeros((720, 1280, 3), np.uint8)
        for _ in range(30):
            x, y = rng.integers(0, 1270), rng.integers(0, 710)
            one[y : y + 6, x : x + 6] = 200
        one[:, (7 * n) % 1280] = 120
        pictures.append(one)
    clip = _put(http, "clip.mp4", film(pictures, 25))
    effect = _effect(http, [{"id": "v", "name": "V", "kind": "vignette", "blend": "multiply"}])
    browser = playwright.chromium.launch(executable_path=CHROMIUM, args=list(FLAGS))
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    page.goto(f"{str(http.base_url).rstrip('/')}/effects/{effect}")
    page.wait_for_selector("canvas.picture")
    page.wait_for_timeout(6000)

    def rate(milliseconds: int) -> float:
        page.evaluate("performance.clearMarks('frame')")
        page.wait_for_timeout(milliseconds)
        return float(page.evaluate("performance.getEntriesByName('frame').length")) / milliseconds * 1000

    calm = rate(5000)
    began = time.monotonic()
    job = http.post(f"/api/clips/{clip}/cut", json={"size": [720, 1280], "rate": 25, "black": True}).json()
    page.wait_for_timeout(2500)
    busy = rate(6000)
    while http.get(f"/api/cuts/{job['id']}").json()["state"] == "running":
        time.sleep(0.2)
    took = time.monotonic() - began
    browser.close()
    return calm, busy, took
