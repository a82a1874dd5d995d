"""The supervisor of the rendering process: which files it hands over, and when."""

from __future__ import annotations

import asyncio
from collections.abc import Awaitable, Callable

from sunglaze.core.colour.cube_file import write_cube
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import LookupRef
from sunglaze.server.rendering.messages import Files, Reply
from sunglaze.server.rendering.supervisor import Supervisor
from tests.coroutines import finished
from tests.grades import random_cube

WARM, COLD = LookupRef(asset="1" * 64), LookupRef(asset="2" * 64)
PATIENCE = 60


def graded(*refs: LookupRef, strength: float = 1.0) -> dict[str, Effect]:
    layers = [
        Layer(id=f"g{n}", name="Grade", kind="lookup-grade", values={"lookup": {"asset": ref.asset}, "strength": strength})
        for n, ref in enumerate(refs)
    ]
    return {"effect": Effect(name="x", layers=layers)}


def supervised(work: Callable[[Supervisor, list[set[LookupRef]]], Awaitable[None]]) -> None:
    """Run with a supervisor, and the list of what it was asked to load."""
    asked: list[set[LookupRef]] = []

    def load(lookups: set[LookupRef], pictures: set[str]) -> Files:
        asked.append(lookups)
        return Files({ref: write_cube(random_cube(int(ref.asset[0]), 3)) for ref in lookups})

    async def whole() -> None:
        supervisor = Supervisor(load)
        try:
            await work(supervisor, asked)
        finally:
            supervisor.shut()

    finished(whole())


async def shown(replies: asyncio.Queue[Reply], serial: int) -> Reply:
    """The frame that shows what this number stands for."""
    while True:
        reply = await asyncio.wait_for(replies.get(), PATIENCE)
        assert reply.header["type"] != "trouble", reply.header
        if reply.header["type"] == "frame" and reply.header["serial"] >= serial:
            return reply


def test_files_go_over_once() -> None:
    async def work(supervisor: Supervisor, asked: list[set[LookupRef]]) -> None:
        viewer, replies = supervisor.open()
        assert not supervisor.has_files_of(graded(WARM))
        supervisor.show(viewer, graded(WARM), serial=1)
        assert supervisor.has_files_of(graded(WARM, strength=0.5))
        await shown(replies, 1)
        supervisor.show(viewer, graded(WARM, strength=0.5), serial=2)
        assert asked == [{WARM}]
        # Only what is missing is read.
        assert not supervisor.has_files_of(graded(WARM, COLD))
        supervisor.show(viewer, graded(WARM, COLD), serial=3)
        assert asked == [{WARM}, {COLD}]
        assert supervisor.has_files_of(graded(COLD))

    supervised(work)


def test_what_has_changed_is_sent_anew() -> None:
    async def work(supervisor: Supervisor, asked: list[set[LookupRef]]) -> None:
        viewer, _ = supervisor.open()
        supervisor.show(viewer, graded(WARM), serial=1)
        supervisor.forget(WARM)  # type: ignore[arg-type]
        assert not supervisor.has_files_of(graded(WARM))
        supervisor.show(viewer, graded(WARM), serial=2)
        assert asked == [{WARM}, {WARM}]

    supervised(work)


def test_an_effect_without_files_begins_at_once() -> None:
    async def work(supervisor: Supervisor, asked: list[set[LookupRef]]) -> None:
        viewer, replies = supervisor.open()
        assert supervisor.has_files_of({"effect": Effect(name="bare")})
        supervisor.show(viewer, {"effect": Effect(name="bare")}, serial=1)
        assert (await shown(replies, 1)).payload
        assert asked == []

    supervised(work)
