"""What is noted every second of the server and the processes that draw, and whether it grew."""

from __future__ import annotations

import contextlib
import os
import statistics
import time
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from tests.serving import processes_called, rendering_process
from tests.soak.field import Field

GROWTH = 1.15
SLACK = {"MB": 40.0, "files": 20.0, "threads": 8.0}
"""What counts as growth: so many times as much, and so much more."""


@dataclass(frozen=True)
class Sample:
    """`seconds` from the beginning; of each process what is in memory (MB), open files and threads, in this order, 0 where there
    is none: the server, the rendering process, and the one that draws for routes."""

    seconds: float
    server: tuple[float, float, float]
    rendering: tuple[float, float, float]
    drawing: tuple[float, float, float]
    frames: int
    saves: int


def of_process(pid: int) -> tuple[float, float, float]:
    """Resident memory in MB, open files, threads. Raises OSError where the process is gone."""
    status = dict(line.split(":", 1) for line in Path(f"/proc/{pid}/status").read_text().splitlines())
    return int(status["VmRSS"].split()[0]) / 1024, float(len(os.listdir(f"/proc/{pid}/fd"))), float(status["Threads"])


def watch(field: Field, samples: list[Sample]) -> None:
    """Note it every second, but for the seconds in which one of them is away."""
    began = time.monotonic()
    while field.goes_on:
        with contextlib.suppress(OSError, AssertionError, KeyError):
            server, rendering = (of_process(pid) for pid in (field.served.process.pid, rendering_process(field.served)))
            draws = processes_called(field.served, "glaze-draw")
            drawing = of_process(draws[0]) if draws else (0.0, 0.0, 0.0)
            with field.lock:
                frames, saves = sum(field.frames.values()), len(field.saved)
            samples.append(Sample(time.monotonic() - began, server, rendering, drawing, frames, saves))
        field.wait(1)


def growth(samples: Sequence[Sample]) -> list[str]:
    """What grew, in words: the middle value of its last fifth beside that of its second. What draws begins
    with an empty cache after each mishap: its memory is the most that it had, of the second half beside the first."""
    if len(samples) < 50:
        return []
    fifth, half, found = len(samples) // 5, len(samples) // 2, []
    for process in ("server", "rendering", "drawing"):
        for n, (unit, slack) in enumerate(SLACK.items()):
            most = process != "server" and unit == "MB"
            parts = (samples[:half], samples[half:]) if most else (samples[fifth : 2 * fifth], samples[-fifth:])
            early, late = ((max if most else statistics.median)([getattr(one, process)[n] for one in part]) for part in parts)
            if late > early * GROWTH and late > early + slack:
                found.append(f"{process}: {early:.0f} {unit} before, {late:.0f} in the end")
    return found
