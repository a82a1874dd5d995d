"""Cases that web/tests reads are those that Python and its references give today."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
import pytest

from sunglaze.core.colour.curves import curve_at
from sunglaze.core.colour.hues import across, around
from tests.shared import CASES, FOLDER, written


def alike(one: Any, other: Any) -> bool:
    """Equal, but for the last places of numbers."""
    if isinstance(one, dict):
        return bool(one.keys() == other.keys()) and all(alike(value, other[key]) for key, value in one.items())
    if isinstance(one, list):
        return len(one) == len(other) and all(alike(a, b) for a, b in zip(one, other, strict=True))
    return abs(one - other) < 1e-9 if isinstance(one, float) else bool(one == other)


@pytest.mark.parametrize("name", CASES)
def test_the_file_is_what_would_be_written(name: str) -> None:
    assert alike(written(name), json.loads((FOLDER / f"{name}.json").read_text())), "write it anew: python -m tests.shared"


def test_python_gives_the_same_on_them() -> None:
    """So that both languages meet at the reference."""
    cases = written("curves")
    for case in cases["open"]:
        ours = curve_at([(x, y) for x, y in case["points"]], np.array(case["at"]))
        np.testing.assert_allclose(ours, case["gives"], atol=1e-9)
    for rule, name in ((around, "round"), (across, "between")):
        for case in cases[name]:
            points = [(x, y, None) for x, y in case["points"]]
            np.testing.assert_allclose(rule(points, np.array(case["at"])), case["gives"], atol=1e-9)
