"""Coroutines in tests."""

from __future__ import annotations

import asyncio
from collections.abc import Coroutine
from concurrent.futures import ThreadPoolExecutor
from typing import Any, TypeVar

T = TypeVar("T")


def finished(coroutine: Coroutine[Any, Any, T]) -> T:
    """What it gives, on a thread of its own: the browser's fixtures keep an event loop running on the tests' one."""
    with ThreadPoolExecutor(1) as pool:
        return pool.submit(asyncio.run, coroutine).result()
