"""What a failed test leaves behind, in a folder of its own: pictures of the pages that were open, what they logged, the server's
log."""

from __future__ import annotations

import contextlib
import os
import re
import shutil
from collections import deque
from pathlib import Path

import pytest
from playwright.sync_api import Browser, BrowserContext, ConsoleMessage, Error

FOLDER = Path(__file__).parents[1] / ".failed"
MOST_WORDS = 2000
"""Of a page's console."""
MOST_LOG_BYTES = 200_000
PATIENCE_MS = 10_000


class Evidence:
    """What may be needed of the running test: browsers whose pages are looked at, files that servers log to."""

    def __init__(self) -> None:
        self.browsers: list[Browser] = []
        self.logs: list[Path] = []
        self._words: deque[str] = deque(maxlen=MOST_WORDS)
        self._begun: dict[Path, int] = {}

    def begin(self) -> None:
        """A test begins: what was said before it is not its own."""
        self._words.clear()
        self._begun = {log: log.stat().st_size for log in self.logs if log.exists()}

    def listen(self, context: BrowserContext) -> None:
        """Keep what the pages of a context log."""
        context.on("console", self._heard)
        context.on("weberror", lambda error: self._words.append(f"error: {error.error}"))
        context.on(
            "requestfailed", lambda request: self._words.append(f"failed: {request.method} {request.url} {request.failure}")
        )

    def _heard(self, message: ConsoleMessage) -> None:
        self._words.append(f"{message.type}: {message.text}")

    def keep(self, test: str, words: str) -> Path:
        """Write all that there is of a failed test; its folder. `words`: the failure itself."""
        folder = FOLDER / re.sub(r"[^\w.-]+", "-", test)[:120]
        shutil.rmtree(folder, ignore_errors=True)
        folder.mkdir(parents=True)
        (folder / "failure.txt").write_text(words)
        if self._words:
            (folder / "console.txt").write_text("\n".join(self._words) + "\n")
        pages = [page for browser in self.browsers if browser.is_connected() for one in browser.contexts for page in one.pages]
        for number, page in enumerate(pages, 1):
            with contextlib.suppress(Error):
                page.screenshot(path=folder / f"page-{number}.png", timeout=PATIENCE_MS)
        for log in self.logs:
            if log.exists():
                with log.open("rb") as file:
                    file.seek(max(self._begun.get(log, 0), log.stat().st_size - MOST_LOG_BYTES))
                    said = file.read()
                if said:
                    (folder / f"server-{log.parent.name}.txt").write_bytes(said)
        return folder


def clear() -> None:
    """Forget what failed in earlier runs."""
    shutil.rmtree(FOLDER, ignore_errors=True)


def is_worker(config: pytest.Config) -> bool:
    """Whether this process runs tests for another, which collects what they say."""
    return hasattr(config, "workerinput") or "PYTEST_XDIST_WORKER" in os.environ
