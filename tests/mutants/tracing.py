"""A plugin of pytest: which lines of the modules under change each test passes, and how long it takes."""

from __future__ import annotations

import json
import os
import time
from collections.abc import Generator
from pathlib import Path

import coverage
import pytest


class Tracing:
    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._who = os.environ.get("PYTEST_XDIST_WORKER", "alone")
        self._seconds: dict[str, float] = {}
        modules = json.loads((folder / "modules.json").read_text())
        self._tracer = coverage.Coverage(data_file=str(folder / f"{self._who}.coverage"), include=modules, config_file=False)
        self._tracer.start()

    @pytest.hookimpl(wrapper=True)
    def pytest_runtest_protocol(self, item: pytest.Item) -> Generator[None, object, object]:
        self._tracer.switch_context(item.nodeid)
        began = time.perf_counter()
        done = yield
        self._seconds[item.nodeid] = time.perf_counter() - began
        return done

    def pytest_sessionfinish(self) -> None:
        self._tracer.stop()
        self._tracer.save()
        (self._folder / f"{self._who}.seconds.json").write_text(json.dumps(self._seconds))


def pytest_configure(config: pytest.Config) -> None:
    config.pluginmanager.register(Tracing(Path(os.environ["TRACED"])))


def passing(folder: Path) -> tuple[dict[str, dict[int, set[str]]], dict[str, float]]:
    """What was traced: of each module (its path) the tests that pass each line, and how many seconds each test takes."""
    lines: dict[str, dict[int, set[str]]] = {}
    for path in folder.glob("*.coverage"):
        data = coverage.CoverageData(str(path))
        data.read()
        for module in data.measured_files():
            of_it = lines.setdefault(module, {})
            for line, tests in data.contexts_by_lineno(module).items():
                of_it.setdefault(line, set()).update(name for name in tests if name)
    seconds: dict[str, float] = {}
    for path in folder.glob("*.seconds.json"):
        seconds |= json.loads(path.read_text())
    return lines, seconds
