"""The supervisor of the rendering process: it shows what it can whatever is lost, crashes or hangs, and waits for nothing."""

from __future__ import annotations

import asyncio
import os
import signal
import time
from collections.abc import Awaitable, Callable
from multiprocessing.context import ForkServerProcess
from pathlib import Path
from types import SimpleNamespace

import pytest
from fastapi import WebSocketDisconnect

from sunglaze.core.camera.cast import Sitting
from sunglaze.core.colour.cube_file import write_cube
from sunglaze.core.effect.address import address
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.server.rendering import supervisor as supervising
from sunglaze.server.rendering.messages import Acknowledge, Leave, Move, Reply, Request, SetEffects, View
from sunglaze.server.rendering.outbox import MOST_WAITING, Outbox
from sunglaze.server.rendering.supervisor import Supervisor
from sunglaze.server.stream import stream
from sunglaze.store import files
from sunglaze.store.database import open_database
from tests.coroutines import finished
from tests.grades import random_cube

PATIENCE = 60
LOST = "f" * 64


def graded(asset: str, strength: float = 1.0) -> dict[str, Effect]:
    values = {"lookup": {"asset": asset}, "strength": strength}
    return {"effect": Effect(name="x", layers=[Layer(id="g", name="Grade", kind="lookup-grade", values=values)])}


def bare() -> dict[str, Effect]:
    return {"effect": Effect(name="bare")}


def supervised(folder: Path, work: Callable[[Supervisor], Awaitable[None]]) -> None:
    open_database(folder)

    async def whole() -> None:
        supervisor = Supervisor(folder)
        try:
            await work(supervisor)
        finally:
            supervisor.shut()

    finished(whole())


async def until(replies: asyncio.Queue[Reply], wanted: Callable[[dict[str, object]], bool]) -> Reply:
    while True:
        reply = await asyncio.wait_for(replies.get(), PATIENCE)
        if wanted(reply.header):
            return reply


def shows(serial: int) -> Callable[[dict[str, object]], bool]:
    return lambda header: header["type"] == "frame" and int(str(header["serial"])) >= serial


def is_trouble(header: dict[str, object]) -> bool:
    return header["type"] == "trouble"


def test_files_are_read_from_the_database_when_an_effect_needs_them(tmp_path: Path) -> None:
    with open_database(tmp_path).begin() as session:
        data = write_cube(random_cube(1, 3))
        key = files.add(session, "lookup", "one.cube", data, files.lookup_facts(data)).hash

    async def work(supervisor: Supervisor) -> None:
        viewer, replies = supervisor.open()
        supervisor.show(viewer, graded(key), serial=1)
        assert (await until(replies, shows(1))).payload

    supervised(tmp_path, work)


def test_a_lost_file_is_trouble_for_its_viewer_alone_also_after_a_restart(tmp_path: Path) -> None:
    """The watch's thread had ended when it could not load what a viewer looked at: no picture ever came again, for anybody."""

    async def work(supervisor: Supervisor) -> None:
        lost, its = supervisor.open()
        other, theirs = supervisor.open()
        supervisor.show(lost, graded(LOST), serial=1)
        assert "choose it again" in str((await until(its, is_trouble)).header["message"])
        supervisor.show(other, bare(), serial=2)
        await until(theirs, shows(2))
        os.kill(supervisor._process.pid or 0, signal.SIGKILL)  # type: ignore[union-attr]
        await until(theirs, lambda header: header["type"] == "restarted")
        assert (await until(theirs, shows(2))).payload
        supervisor.show(lost, bare(), serial=3)
        assert (await until(its, shows(3))).payload

    supervised(tmp_path, work)


def test_an_effect_that_ends_the_process_twice_is_stopped_and_comes_back_when_it_changes(tmp_path: Path) -> None:
    async def work(supervisor: Supervisor) -> None:
        viewer, its = supervisor.open()
        other, theirs = supervisor.open()
        for number, replies in ((viewer, its), (other, theirs)):
            supervisor.show(number, bare(), serial=1)
            await until(replies, shows(1))
        for _ in range(2):
            # As if it had been drawn when the process ended; which effects do that is not known here, or it would be mended.
            supervisor._busy[0] = viewer
            pid = supervisor._process.pid or 0  # type: ignore[union-attr]
            os.kill(pid, signal.SIGSTOP)
            supervisor._busy[0] = viewer
            os.kill(pid, signal.SIGKILL)
            await until(theirs, lambda header: header["type"] == "restarted")
            await until(theirs, shows(1))
        assert (await until(its, is_trouble)).header["message"] == supervising.STOPPED
        supervisor.show(viewer, bare(), serial=2)
        assert (await until(its, shows(2))).payload

    supervised(tmp_path, work)


@pytest.mark.parametrize(
    "change",
    [
        lambda viewer: Move(viewer, address("layer", "opacity"), 0.5, 7),
        lambda viewer: View(viewer, sitting=Sitting("oyster-cook")),
        lambda viewer: View(viewer, screen="1:1"),
        lambda viewer: View(viewer, short=270),
    ],
    ids=["control", "cast", "screen", "size"],
)
def test_a_stopped_picture_is_tried_again_at_whatever_changes_it(tmp_path: Path, change: Callable[[int], Request]) -> None:
    """A slider says only that it moves: the picture stayed dark for good."""

    async def work(supervisor: Supervisor) -> None:
        viewer, replies = supervisor.open()
        supervisor.show(viewer, bare(), serial=1)
        await until(replies, shows(1))
        supervisor._strikes[viewer] = [time.monotonic()] * supervising.MOST_STRIKES
        os.kill(supervisor._process.pid or 0, signal.SIGKILL)  # type: ignore[union-attr]
        # What it is told hangs on whether it was just being drawn.
        await until(replies, lambda header: header["type"] in ("restarted", "trouble"))
        supervisor.send(View(viewer, bare=True))
        with pytest.raises(TimeoutError):
            await asyncio.wait_for(until(replies, shows(1)), 3)
        supervisor.send(change(viewer))
        assert (await until(replies, shows(1))).payload

    supervised(tmp_path, work)


def test_what_was_long_ago_is_forgiven(tmp_path: Path) -> None:
    async def work(supervisor: Supervisor) -> None:
        viewer, replies = supervisor.open()
        supervisor.show(viewer, bare(), serial=1)
        await until(replies, shows(1))
        supervisor._strikes[viewer] = [time.monotonic() - supervising.STRIKE_SECONDS] * supervising.MOST_STRIKES
        os.kill(supervisor._process.pid or 0, signal.SIGKILL)  # type: ignore[union-attr]
        await until(replies, lambda header: header["type"] == "restarted")
        assert (await until(replies, shows(1))).payload

    supervised(tmp_path, work)


def test_a_process_that_cannot_be_started_is_started_later(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The system refuses twice, as where it has no processes left: the thread that watches had ended with an assertion."""

    async def work(supervisor: Supervisor) -> None:
        viewer, replies = supervisor.open()
        supervisor.show(viewer, bare(), serial=1)
        await until(replies, shows(1))
        start, refusals = ForkServerProcess.start, [OSError("no more processes"), OSError("no more processes")]

        def refused(process: ForkServerProcess) -> None:
            if refusals:
                raise refusals.pop()
            start(process)

        monkeypatch.setattr(ForkServerProcess, "start", refused)
        os.kill(supervisor._process.pid or 0, signal.SIGKILL)  # type: ignore[union-attr]
        await until(replies, lambda header: header["type"] == "restarted")
        assert (await until(replies, shows(1))).payload
        assert not refusals

    supervised(tmp_path, work)


def test_who_takes_nothing_gets_the_newest_and_pictures_that_were_dropped_are_not_waited_for(tmp_path: Path) -> None:
    """Two dropped frames had stalled a viewer for good."""

    async def work(supervisor: Supervisor) -> None:
        viewer, replies = supervisor.open()
        supervisor.show(viewer, bare(), serial=1)
        supervisor.send(View(viewer, playing=True))
        while replies.qsize() < 2:
            await asyncio.sleep(0.05)
        for number in range(2 * supervising.MOST_REPLIES):
            supervisor._deliver(Reply(viewer, {"type": "note", "message": str(number), "faceless": []}))
        assert replies.qsize() <= supervising.MOST_REPLIES
        newest = [replies.get_nowait() for _ in range(replies.qsize())]
        assert [one.header["message"] for one in newest if one.header["type"] == "note"][-1] == str(
            2 * supervising.MOST_REPLIES - 1
        )
        assert (await until(replies, lambda header: header["type"] == "frame")).payload

    supervised(tmp_path, work)


def test_restarts_end_where_they_do_not_help_and_begin_again_with_a_change(tmp_path: Path) -> None:
    async def work(supervisor: Supervisor) -> None:
        viewer, replies = supervisor.open()
        supervisor._ends = [time.monotonic()] * supervising.MOST_ENDS
        os.kill(supervisor._process.pid or 0, signal.SIGKILL)  # type: ignore[union-attr]
        assert (await until(replies, is_trouble)).header["message"] == supervising.GIVEN_UP
        supervisor.show(viewer, bare(), serial=1)
        assert (await until(replies, shows(1))).payload

    supervised(tmp_path, work)


def test_nobody_waits_for_a_process_that_hangs(tmp_path: Path) -> None:
    """3,000 moves to a stopped process took the event loop 12.9 s: it waited in a full pipe."""

    async def work(supervisor: Supervisor) -> None:
        viewer, replies = supervisor.open()
        supervisor.show(viewer, bare(), serial=1)
        await until(replies, shows(1))
        os.kill(supervisor._process.pid or 0, signal.SIGSTOP)  # type: ignore[union-attr]
        began = time.monotonic()
        for number in range(3000):
            supervisor.send(Move(viewer, address("layer", f"control {number % 900}"), [0.5] * 50, number))
        # By its own patience a watch sees the hang after 6 s; whoever waited for the pipe would wait as long.
        assert time.monotonic() - began < supervising.PATIENCE / 2
        await until(replies, lambda header: header["type"] == "restarted")
        assert (await until(replies, shows(1))).payload

    supervised(tmp_path, work)


def test_a_browser_that_floods_and_is_gone_leaves_no_viewer(tmp_path: Path) -> None:
    """It asks faster than it takes answers, and then takes none any more: who waited for it waited for ever."""

    class Gone:
        """What Starlette gives of such a browser."""

        def __init__(self, supervisor: Supervisor) -> None:
            self.app = SimpleNamespace(state=SimpleNamespace(supervisor=supervisor, sessions=None))
            self.asked = 0

        async def accept(self) -> None:
            pass

        async def receive(self) -> dict[str, str]:
            self.asked += 1
            return {"type": "websocket.receive", "text": "no JSON"} if self.asked < 200 else {"type": "websocket.disconnect"}

        async def send_bytes(self, data: bytes) -> None:
            raise WebSocketDisconnect(1006)

    async def work(supervisor: Supervisor) -> None:
        await asyncio.wait_for(stream(Gone(supervisor)), PATIENCE)  # type: ignore[arg-type]
        assert supervisor._queues == {}

    supervised(tmp_path, work)


class Pipe:
    """Holds what is sent until it is let go."""

    def __init__(self) -> None:
        import threading

        self.sent: list[object] = []
        self.free = threading.Event()

    def send(self, request: object) -> None:
        self.free.wait(PATIENCE)
        self.sent.append(request)


def passed_on(*requests: object) -> list[object]:
    """What goes over of these, where the first one holds the pipe up until all have come."""
    pipe = Pipe()
    box = Outbox(pipe)  # type: ignore[arg-type]
    box.put(View(99, playing=True))
    while box._waiting:
        time.sleep(0.001)
    for request in requests:
        box.put(request)  # type: ignore[arg-type]
    waiting = list(box._waiting.values())
    pipe.free.set()
    box.shut()
    return waiting


def test_newer_words_take_the_place_of_older_ones() -> None:
    moves = [Move(1, address("l", "c"), value, serial) for serial, value in enumerate((0.1, 0.2, 0.3))]
    assert passed_on(*moves) == [moves[-1]]
    assert passed_on(View(1, bare=True, wipe=0.5), View(1, wipe=0.2)) == [View(1, bare=True, wipe=0.2)]
    assert passed_on(*[Acknowledge(1, "frame")] * 3, Acknowledge(1, "tiles")) == [
        Acknowledge(1, "frame", 3),
        Acknowledge(1, "tiles"),
    ]
    # A move that came before an effect is in it: made again behind it, it would turn the control back.
    effect = SetEffects(1, bare(), serial=9)
    assert passed_on(moves[0], Move(2, address("l", "c"), 0.5, 1), effect) == [Move(2, address("l", "c"), 0.5, 1), effect]
    assert passed_on(effect, moves[0]) == [effect, moves[0]]
    assert passed_on(effect, moves[0], View(1, bare=True), Leave(1)) == [Leave(1)]


def test_what_waits_is_bounded_and_no_word_but_moves_is_dropped() -> None:
    many = [Move(1, address("l", f"c{n}"), 0.0, n) for n in range(3 * MOST_WAITING)]
    waiting = passed_on(View(1, bare=True), *many, SetEffects(2, bare()))
    assert len(waiting) == MOST_WAITING
    assert View(1, bare=True) in waiting
    assert SetEffects(2, bare()) in waiting
    assert many[-1] in waiting
