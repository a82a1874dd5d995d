"""How often what is random is tried: a few times in each run, many times in those with the slow tests."""

from __future__ import annotations

from typing import Any

import pytest


def often(few: int, many: int) -> list[Any]:
    """Values of a parameter `count`: the second is marked slow."""
    return [pytest.param(few, id="few"), pytest.param(many, id="many", marks=pytest.mark.slow)]
