"""The application and a browser for the tests that drive them; what a failed test leaves behind."""

from __future__ import annotations

import fcntl
import os
import shutil
from collections.abc import Generator, Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, Playwright, expect, sync_playwright

from demo.seed import seed
from sunglaze.core.disk_cache import FRAMES
from tests import evidence as kept
from tests.evidence import Evidence
from tests.serving import KEPT, Served, serve

CHROMIUM = "/usr/bin/chromium"
FLAGS = [
    "--no-sandbox",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--enable-unsafe-swiftshader",
    # What Playwright 1.65 turns off (of two such flags the last one counts), and the page in the address bar: each window started
    # a process of its own for it, a second of processor a test.
    "--disable-features=AvoidUnnecessaryBeforeUnloadCheckSync,DestroyProfileOnBrowserClose,HttpsUpgrades,"
    "HttpsFirstBalancedModeAutoEnable,LensOverlay,MediaRouter,PaintHolding,ThirdPartyStoragePartitioning,"
    "AvoidCorsURLLoaderRestartOnRedirect,TcpPortRandomizationWin,OptimizationHints,NetworkTimeServiceQuerying,"
    "WebUIOmniboxPopup,WebUIOmniboxAimPopup,WebUIOmniboxFullPopup",
]
PATIENCE_MS = 180_000
"""Machines of tests are shared and at times many times slower; what never comes fails all the same."""
VIEWPORT = {"width": 1280, "height": 800}
expect.set_options(timeout=PATIENCE_MS)

EVIDENCE = Evidence()
KNOWN: dict[str, str] = {}
"""Tests that may fail now and then, by their id, and why: they are tried once more. It is to be empty."""


def pytest_configure(config: pytest.Config) -> None:
    # Frames of the cast are composed once for all that runs here.
    os.environ.setdefault(FRAMES, KEPT[FRAMES])
    if not kept.is_worker(config):
        kept.clear()


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    for item in items:
        if item.nodeid in KNOWN:
            item.add_marker(pytest.mark.flaky(reruns=1))


def pytest_runtest_setup() -> None:
    EVIDENCE.begin()


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item: pytest.Item) -> Generator[None, pytest.TestReport, pytest.TestReport]:
    report = yield
    if report.failed:
        # In time to see the pages, which the test's fixtures close after this.
        folder = EVIDENCE.keep(item.nodeid.removeprefix("tests/"), report.longreprtext)
        report.user_properties.append(("kept", str(folder)))
    return report


def pytest_terminal_summary(terminalreporter: pytest.TerminalReporter) -> None:
    """Where to look at what failed; what failed at first and then passed is shown like a failure."""
    failed = [*terminalreporter.stats.get("failed", []), *terminalreporter.stats.get("error", [])]
    again = terminalreporter.stats.get("rerun", [])
    for report in again:
        terminalreporter.write_sep("=", f"failed at first: {report.nodeid}", yellow=True)
        report.toterminal(terminalreporter._tw)
    folders = sorted(
        {value for report in (*failed, *again) for name, value in getattr(report, "user_properties", ()) if name == "kept"}
    )
    if folders:
        terminalreporter.write_sep("=", "what was seen: pictures, console, server's log", red=True)
        for folder in folders:
            terminalreporter.write_line(folder)
        terminalreporter.write_line("./run test --again runs what failed")


@pytest.fixture(scope="session")
def seeded(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder with the demo's data, to be copied and left as it is: made once, by whichever worker asks first."""
    shared = tmp_path_factory.getbasetemp()
    if "PYTEST_XDIST_WORKER" in os.environ:
        shared = shared.parent
    made = shared / "demo-data"
    with (shared / "demo-data.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not made.exists():
            begun = shared / "demo-data-begun"
            seed(begun)
            begun.rename(made)
    return made


@pytest.fixture(scope="session")
def served(tmp_path_factory: pytest.TempPathFactory, seeded: Path) -> Iterator[Served]:
    """One application with the demo's data for the whole run; tests make effects of their own."""
    folder = tmp_path_factory.mktemp("data") / "served"
    shutil.copytree(seeded, folder)
    log = folder / "log.txt"
    EVIDENCE.logs.append(log)
    with log.open("w") as out:
        running = serve(folder, log=out)
        yield running
        running.stop()


@pytest.fixture(scope="session")
def playwright() -> Iterator[Playwright]:
    with sync_playwright() as started:
        yield started


@pytest.fixture(scope="session")
def film(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """What the browser plays as its camera: put a .y4m file in its place before the camera is started."""
    path = tmp_path_factory.mktemp("film") / "camera.y4m"
    # Luma 16, no chroma: black, 64 by 48.
    path.write_bytes(b"YUV4MPEG2 W64 H48 F15:1 Ip A1:1 C420jpeg\nFRAME\n" + bytes([16]) * (64 * 48) + bytes([128]) * (64 * 24))
    return path


@pytest.fixture(scope="session")
def browser(playwright: Playwright, film: Path) -> Iterator[Browser]:
    """Chromium, with a file as its camera, which pages get that are given the permission."""
    camera = ["--use-fake-device-for-media-stream", f"--use-file-for-fake-video-capture={film}"]
    started = playwright.chromium.launch(executable_path=CHROMIUM, args=[*FLAGS, *camera])
    plain = started.new_context

    def listened_to(**options: Any) -> BrowserContext:
        context = plain(**options)
        context.set_default_timeout(PATIENCE_MS)
        EVIDENCE.listen(context)
        return context

    started.new_context = listened_to  # type: ignore[method-assign]
    EVIDENCE.browsers.append(started)
    yield started
    started.close()


@pytest.fixture(scope="session")
def window(browser: Browser, served: Served) -> Iterator[BrowserContext]:
    """One window for all pages of a run, as a person has: what it fetched once it has. `page` clears what they leave in it."""
    context = browser.new_context(viewport=VIEWPORT, base_url=served.address, accept_downloads=True)
    yield context
    context.close()


@pytest.fixture
def page(window: BrowserContext, served: Served) -> Iterator[Page]:
    """A page at 1280 by 800 that knows nothing of those before it. Errors in the page's scripts fail the test."""
    opened = window.new_page()
    session = window.new_cdp_session(opened)
    left = {"origin": served.address, "storageTypes": "cookies,local_storage,indexeddb,service_workers,cache_storage"}
    session.send("Storage.clearDataForOrigin", left)
    session.detach()
    errors: list[str] = []
    window.on("weberror", note := lambda error: errors.append(str(error.error)))
    yield opened
    window.remove_listener("weberror", note)
    for one in window.pages:
        one.close()
    window.clear_permissions()
    assert not errors


@pytest.fixture
def files(tmp_path: Path) -> Path:
    """A folder for files that a test gives to the application."""
    return tmp_path


@pytest.fixture
def address(served: Served) -> str:
    """Where the application of this test answers."""
    return served.address
