"""The process that draws for routes: it may end at any time, and what is asked meanwhile is answered.

The outside is the system's own kill, and what the work gives in this process."""

from __future__ import annotations

import asyncio
import contextlib
import os
import signal
import subprocess
import sys
from collections.abc import Awaitable, Callable
from datetime import date
from pathlib import Path
from typing import Any, cast

import pytest
from fastapi import Request

from sunglaze.core.camera.cast import Sitting
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.listing import suggested
from sunglaze.server.drawing import frames
from sunglaze.server.drawing.desk import Desk
from sunglaze.server.drawing.drawer import WAITING_QUICK, Drawer, Ended
from sunglaze.server.drawing.messages import WORKERS, Busy, Gone, Seat
from sunglaze.store.database import open_database
from sunglaze.store.effects import NotThere
from tests.coroutines import finished

BEEKEEPER = Seat(Sitting("beekeeper", "talk", "dusk"), "", "1:1")


class Asking:
    """What a route is asked by, who goes when told to."""

    def __init__(self) -> None:
        self.gone = False

    async def is_disconnected(self) -> bool:
        return self.gone


def with_drawer(folder: Path, work: Callable[[Drawer, Request], Awaitable[Any]]) -> Any:
    open_database(folder)

    async def whole() -> Any:
        drawer = Drawer(folder, folder)
        try:
            return await work(drawer, cast(Request, Asking()))
        finally:
            drawer.shut()

    return finished(whole())


def test_a_frame_is_the_one_that_is_drawn_here(tmp_path: Path) -> None:
    async def frame(drawer: Drawer, request: Request) -> bytes:
        return cast(bytes, await drawer.run(request, "frame", BEEKEEPER, 7))

    drawn = with_drawer(tmp_path, frame)
    assert drawn == frames.frame(Desk(tmp_path, tmp_path), lambda: None, BEEKEEPER, 7)


def test_what_waits_when_it_ends_is_drawn_by_the_next_one(tmp_path: Path) -> None:
    async def killed(drawer: Drawer, request: Request) -> list[bytes]:
        await drawer.run(request, "length", BEEKEEPER)
        first = drawer.pid
        asked = [asyncio.ensure_future(drawer.run(request, "frame", BEEKEEPER, n)) for n in range(24)]
        await asyncio.sleep(0.02)
        os.kill(cast(int, first), signal.SIGKILL)
        found = await asyncio.gather(*asked)
        assert drawer.pid != first
        return found

    found = with_drawer(tmp_path, killed)
    desk = Desk(tmp_path, tmp_path)
    assert found == [frames.frame(desk, lambda: None, BEEKEEPER, n) for n in range(24)]


def test_work_that_ends_it_twice_is_refused_in_words(tmp_path: Path) -> None:
    """Filming a clip, which takes seconds, stands for work that ends the process: it is killed as soon as the work has begun."""
    effect = Effect(name="Fog", layers=[Layer(id="l", name="L", kind="fill")])

    async def killed(drawer: Drawer, request: Request) -> None:
        asked = asyncio.ensure_future(drawer.run(request, "package", effect, suggested(effect, date(2026, 12, 2)), most=60))
        while not asked.done():
            if any(one.begun for one in list(drawer._asked.values())):
                with contextlib.suppress(ProcessLookupError):
                    os.kill(cast(int, drawer.pid), signal.SIGKILL)
            await asyncio.sleep(0)
        await asked

    with pytest.raises(Ended, match="twice"):
        with_drawer(tmp_path, killed)


def test_errors_of_the_work_come_as_they_are(tmp_path: Path) -> None:
    async def wrong(drawer: Drawer, request: Request) -> list[Any]:
        asked = [drawer.run(request, "mask", BEEKEEPER, "shoes", 3), drawer.run(request, "print", "0" * 64, 0.0)]
        return await asyncio.gather(*asked, return_exceptions=True)

    no_region, no_file = with_drawer(tmp_path, wrong)
    assert (type(no_region), "no region 'shoes'" in str(no_region)) == (NotThere, True)
    assert isinstance(no_file, NotThere)


def test_more_than_may_wait_is_refused_and_what_nobody_waits_for_makes_room(tmp_path: Path) -> None:
    async def many(drawer: Drawer, request: Request) -> tuple[list[Any], bytes]:
        leaving = cast(Any, Asking())
        waiting = [asyncio.ensure_future(drawer.run(leaving, "frame", BEEKEEPER, n)) for n in range(WORKERS + WAITING_QUICK)]
        await asyncio.sleep(0)
        with pytest.raises(Busy):
            await drawer.run(request, "frame", BEEKEEPER, 0)
        leaving.gone = True
        left = await asyncio.gather(*waiting, return_exceptions=True)
        return left, cast(bytes, await drawer.run(request, "frame", BEEKEEPER, 0))

    left, frame = with_drawer(tmp_path, many)
    assert all(isinstance(one, Gone | bytes) for one in left)
    assert sum(isinstance(one, Gone) for one in left) > len(left) / 2
    assert frame[:2] == b"\xff\xd8"


def test_the_server_imports_nothing_that_it_does_without() -> None:
    """What compiles, writes PDF, reads meshes or starts workers takes a quarter of a second and tens of megabytes each. The
    outside is a Python that has imported the application and nothing else."""
    code = "import sys, sunglaze.server.app; print(*sorted({name.split('.')[0] for name in sys.modules}))"
    told = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    imported = set(told.stdout.split())
    assert {"fastapi", "sqlalchemy", "sunglaze"} <= imported
    assert imported & {"numba", "scipy", "skimage", "reportlab", "trimesh", "distributed", "dask", "alembic"} == set()
