"""Time two or more ways of one job fairly: in turns, in one run, so that a noisy machine hits all alike."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable


def in_turns(ways: dict[str, Callable[[], object]], rounds: int = 25) -> dict[str, float]:
    """Median milliseconds of each way. Two rounds warm up first."""
    times: dict[str, list[float]] = {name: [] for name in ways}
    for turn in range(rounds + 2):
        for name, way in ways.items():
            began = time.perf_counter()
            way()
            if turn >= 2:
                times[name].append((time.perf_counter() - began) * 1000)
    return {name: statistics.median(values) for name, values in times.items()}


def percentile(values: list[float], share: float) -> float:
    ordered = sorted(values)
    return ordered[min(len(ordered) - 1, int(len(ordered) * share))]
