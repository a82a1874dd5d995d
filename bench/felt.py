"""What a person waits for, in a data folder of the demo that is new, in the driven browser; each beside the chain of the same run
(bench/chain.py), so that a slower machine is not read as a change."""

from __future__ import annotations

import os
import re
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx
from playwright.sync_api import Browser, Page, sync_playwright

from bench import chain
from bench.own_files import jump_seconds, loop_seconds, photo_seconds
from bench.stream import opening, slider_delays
from bench.timing import in_turns, percentile
from sunglaze.core.camera.cast import StandIn
from sunglaze.core.engine.room import Room
from sunglaze.core.engine.running import draw, prepare
from sunglaze.core.moment.moment import Reads
from sunglaze.core.passes.program import Inputs
from tests.conftest import CHROMIUM, FLAGS, VIEWPORT
from tests.serving import free_port

FULL = 540


class Demo:
    """The demo's application on a data folder, as `./run demo` starts it."""

    def __init__(self, folder: Path) -> None:
        began, port = time.perf_counter(), free_port()
        command = [sys.executable, "-m", "demo", "--port", str(port), "--data", str(folder)]
        told = {name: value for name, value in os.environ.items() if not name.startswith("SUNGLAZE_")}
        self.process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env=told)
        assert self.process.stdout is not None
        for line in self.process.stdout:
            found = re.search(r"http://localhost:\d+", line)
            if found:
                break
        self.address = found[0] if found else ""
        self.seconds = time.perf_counter() - began

    def stop(self) -> None:
        self.process.terminate()
        self.process.wait(20)


@contextmanager
def demo(folder: Path) -> Iterator[Demo]:
    running = Demo(folder)
    try:
        yield running
    finally:
        running.stop()


def chain_ms() -> float:
    """Milliseconds of the chain, which every row stands beside."""
    made, moment, room = chain.program(), StandIn(chain.WIDTH, chain.HEIGHT).moment(7, Reads()), Room()
    prepare(made, "bytes")
    return in_turns({"chain": lambda: draw(made, moment, Inputs(chain.AMOUNTS), room=room)}, 15)["chain"]


def wait_for_code(folder: Path) -> None:
    """Until what the demo makes behind the open list is made."""
    until = time.monotonic() + 600
    while not (folder / "behind").is_file() and time.monotonic() < until:
        time.sleep(0.5)


def list_seconds(browser: Browser, address: str) -> float:
    """From asking for the list to the fourteenth print in sight."""
    context = browser.new_context(viewport=VIEWPORT, bypass_csp=True)
    page = context.new_page()
    page.goto(f"{address}/", wait_until="commit")
    page.wait_for_function(
        "(() => { const all = [...document.querySelectorAll('.print img')];"
        " return all.length >= 14 && all.slice(0, 14).every((one) => one.naturalWidth) })()"
    )
    taken = float(page.evaluate("performance.now()")) / 1000
    context.close()
    return taken


def full_seconds(page: Page, address: str, effect: str, rate: int = 25) -> float:
    """From asking for the workbench until it has shown so many pictures in one second, at their full size."""
    page.goto(f"{address}/effects/{effect}", wait_until="commit")
    page.wait_for_selector("canvas.picture[data-serial]")
    page.wait_for_function(
        f"""() => {{
            const canvas = document.querySelector('canvas.picture'), now = performance.now()
            const seen = performance.getEntriesByName('frame').filter((one) => one.startTime > now - 1000)
            return canvas.width === {FULL} && seen.length >= {rate}
        }}""",
        timeout=120_000,
        polling=50,
    )
    return max(0.0, float(page.evaluate("performance.now()")) / 1000 - 1)


def motion(page: Page, address: str, effect: str, after: float = 12, seconds: float = 8) -> tuple[float, str]:
    """Pictures a second and their usual size, some time after the workbench was opened."""
    page.goto(f"{address}/effects/{effect}")
    page.wait_for_selector("canvas.picture[data-serial]")
    page.wait_for_timeout(after * 1000)
    page.evaluate("performance.clearMarks()")
    sizes = []
    for _ in range(int(seconds * 4)):
        page.wait_for_timeout(250)
        sizes.append(page.locator("canvas.picture").evaluate("c => `${c.width} by ${c.height}`"))
    frames = float(page.evaluate("performance.getEntriesByName('frame').length"))
    return frames / seconds, max(set(sizes), key=sizes.count)


def asked(http: httpx.Client, method: str, path: str) -> float:
    began = time.perf_counter()
    http.request(method, path).raise_for_status()
    return time.perf_counter() - began


def looked_through(http: httpx.Client, effect: str) -> tuple[float, float]:
    """Seconds to the first check and to the last."""
    began, first = time.perf_counter(), 0.0
    with http.stream("GET", f"/api/effects/{effect}/preflight") as answer:
        for _ in answer.iter_lines():
            first = first or time.perf_counter() - began
    return first, time.perf_counter() - began


def checked(folder: Path, effect: str) -> float:
    """`sunglaze check`, in a process of its own."""
    began = time.perf_counter()
    program = Path(sys.executable).parent / "sunglaze"
    subprocess.run([program, "check", effect, "--data", str(folder)], check=False, stdout=subprocess.DEVNULL)
    return time.perf_counter() - began


def measure() -> list[str]:
    """Lines of a table."""
    rows: list[tuple[str, str]] = []
    with tempfile.TemporaryDirectory() as name, sync_playwright() as playwright:
        folder = Path(name) / "data"
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        with demo(folder) as first:
            rows.append(("first start on an empty data folder, to the address", f"{first.seconds:.1f} s"))
            rows.append(("list of effects, first visit: fourteen prints", f"{list_seconds(browser, first.address):.1f} s"))
            wait_for_code(folder)
        with demo(folder) as second:
            rows.append(("second start, to the address", f"{second.seconds:.1f} s"))
            page = browser.new_page(viewport=VIEWPORT, bypass_csp=True)
            for what in ("a plain grade opened after a start", "the same, opened again"):
                taken = full_seconds(page, second.address, "demo-low-tide")
                rows.append((f"{what}: 25 pictures a second at {FULL} pixels", f"{taken:.1f} s"))
            delays = slider_delays(page)
            middle, slow = statistics.median(delays), percentile(delays, 0.95)
            rows.append(("slider to picture: median, 95th percentile", f"{middle:.0f} ms, {slow:.0f} ms"))
            page.goto("about:blank")  # nothing else plays
            opened = [opening(browser, second.address) for _ in range(5)]
            rows.append(
                ("the workbench to its first frame and desk", f"{statistics.median(ms for ms, _ in opened) / 1000:.2f} s")
            )
            rows.append(("its scripts until then, compressed", f"{opened[0][1] / 1000:.0f} kB"))
            rate, size = motion(page, second.address, "demo-soft-morning")
            rows.append(("*Soft morning*, 12 s after it was opened", f"{rate:.1f} a second at {size}"))
            page.goto("about:blank")
            rows.append(("the clock jumps ten seconds on it: next picture", f"{jump_seconds(folder, 'demo-soft-morning'):.2f} s"))
            with httpx.Client(base_url=second.address, timeout=300) as http:
                for title, key in (("a grade", "demo-harbour-fog"), ("*Soft morning*", "demo-soft-morning")):
                    rows.append(
                        (f"publish {title} with icon and clip", f"{asked(http, 'POST', f'/api/effects/{key}/publish'):.1f} s")
                    )
                    for what in (f"check {title} before it leaves", "the same, unchanged"):
                        begun, ended = looked_through(http, key)
                        rows.append((f"{what}: first line, all", f"{begun:.1f} s, {ended:.1f} s"))
                rows.append(("a clip of 5 s made a loop", f"{loop_seconds(http):.1f} s"))
                page.goto(second.address)
                for what, number in (("a photo", 12), ("the next photo", 40)):
                    shown, found = photo_seconds(page, http, number)
                    rows.append((f"{what}: its picture, people found", f"{shown:.1f} s, {found:.1f} s"))
            page.close()
            for title, key in (("*Salt and shells*", "demo-salt-and-shells"), ("*Soft morning*, unchanged", "demo-soft-morning")):
                rows.append((f"`sunglaze check` of {title}", f"{checked(folder, key):.1f} s"))
        browser.close()
    rows.append(("the chain (720 by 1280, 2 threads) in this run", f"{chain_ms():.1f} ms"))
    return ["| what is waited for | |", "| --- | --- |", *(f"| {what} | {much} |" for what, much in rows)]
