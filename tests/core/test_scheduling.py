"""The order in which operations are printed."""

from __future__ import annotations

import numpy as np
import pytest

from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value, ordered
from sunglaze.core.language.pictures import CAMERA, near
from sunglaze.core.targets.scheduling import AHEAD, scheduled


def chain(channel: int, length: int) -> Value:
    value = near(CAMERA, channel)
    for n in range(length):
        value = value * 0.5 + float(n)
    return value


def waits(order: list[Value], cycles: int = 4) -> int:
    """Cycles of a processor that begins one operation a cycle, in this order, and has each result `cycles` later."""
    done: dict[int, int] = {}
    now = 0
    for value in order:
        if value.op != "const":
            now = max([now, *(done[id(a)] for a in value.arguments if a.op != "const")]) + 1
            done[id(value)] = now + cycles - 1
    return now


def test_three_channels_are_dealt_out_in_turns() -> None:
    """One after the other, each step waits for the one before; in turns, hardly any does."""
    order, _ = ordered([chain(c, 30) for c in range(3)])
    assert waits(order) > 2.5 * waits(scheduled(order))
    assert waits(scheduled(order)) < 1.5 * len(order)


@pytest.mark.parametrize("seed", range(5))
def test_every_value_once_and_behind_what_it_needs(seed: int) -> None:
    rng = np.random.default_rng(seed)
    values = [near(CAMERA, c) for c in range(3)]
    for _ in range(600):
        a, b = (values[max(0, len(values) - int(rng.integers(1, 40)))] for _ in range(2))
        values.append([a * b, v.sqrt(a), v.select(a < b, a, b), a + 0.5][rng.integers(4)])
    order, _ = ordered(values[-20:])
    found = scheduled(order)
    assert {id(value) for value in found} == {id(value) for value in order}
    assert len(found) == len(order)
    place = {id(value): n for n, value in enumerate(found)}
    assert all(place[id(a)] < place[id(value)] for value in found for a in value.arguments)


def test_nothing_is_begun_too_early() -> None:
    """What is begun needs a register until its last reader."""
    order, _ = ordered([chain(c, 100) for c in range(3)])
    began: set[int] = set()
    for value in scheduled(order):
        first = next(n for n, one in enumerate(order) if id(one) not in began)
        assert order.index(value) < first + AHEAD
        began.add(id(value))
