"""The application and a browser for the tests that drive them."""

from __future__ import annotations

import fcntl
import os
import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, Playwright, expect, sync_playwright

from demo.seed import seed
from tests.serving import Served, serve

CHROMIUM = "/usr/bin/chromium"
FLAGS = [
    "--no-sandbox",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--enable-unsafe-swiftshader",
]
PATIENCE_MS = 180_000
"""Machines of tests are shared and at times many times slower; what never comes fails all the same."""
expect.set_options(timeout=PATIENCE_MS)


def pytest_terminal_summary(terminalreporter: pytest.TerminalReporter) -> None:
    """What failed at first and then passed is shown like a failure: by what else the machine did, or by a race of ours."""
    for report in terminalreporter.stats.get("rerun", []):
        terminalreporter.write_sep("=", f"failed at first: {report.nodeid}", yellow=True)
        report.toterminal(terminalreporter._tw)


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
    running = serve(folder)
    yield running
    running.stop()


@pytest.fixture(scope="session")
def playwright() -> Iterator[Playwright]:
    with sync_playwright() as started:
        yield started


@pytest.fixture(scope="session")
def browser(playwright: Playwright) -> Iterator[Browser]:
    started = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
    yield started
    started.close()


@pytest.fixture
def page(browser: Browser, served: Served) -> Iterator[Page]:
    """A page of its own context at 1280 by 800. Errors in the page's scripts fail the test."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=served.address, accept_downloads=True)
    opened = context.new_page()
    opened.set_default_timeout(PATIENCE_MS)
    errors: list[str] = []
    opened.on("pageerror", lambda error: errors.append(str(error)))
    yield opened
    context.close()
    assert not errors


@pytest.fixture
def files(tmp_path: Path) -> Path:
    """A folder for files that a test gives to the application."""
    return tmp_path


@pytest.fixture
def address(served: Served) -> str:
    """Where the application of this test answers."""
    return served.address
