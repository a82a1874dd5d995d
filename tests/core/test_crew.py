"""Cells as tasks of dask.distributed: a real scheduler and two workers on loopback, one of which is ended in the middle."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
from collections.abc import Iterator

import pytest
from distributed import KilledWorker

from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.literals import Material
from sunglaze.core.errors import BadFile
from sunglaze.core.package.archive import write_package
from sunglaze.core.proof.cells import made
from sunglaze.core.proof.crew import Crew, Lost, Task
from sunglaze.core.proof.sheet import Place, Sheet
from tests.layers import fill

PACKAGE = write_package(Effect(name="Tide line", layers=[fill("a", opacity=0.4)]), Material())
PATIENCE = 400.0
"""Workers of this machine give way: beside two other busy processes they get a tenth of a processor."""


def started(*arguments: str) -> subprocess.Popen[str]:
    """One of Dask's own commands, as a team would start it."""
    quiet = {**os.environ, "DASK_DISTRIBUTED__SCHEDULER__ALLOWED_FAILURES": "1"}
    command = [sys.executable, "-m", "distributed.cli.dask_" + arguments[0], *arguments[1:], "--no-dashboard"]
    return subprocess.Popen(command, stderr=subprocess.PIPE, text=True, env=quiet, process_group=0)


def until(process: subprocess.Popen[str], words: str) -> str:
    assert process.stderr is not None
    for line in process.stderr:
        if words in line:
            return line
    raise AssertionError(f"it ended before it said '{words}'")


@pytest.fixture(scope="module")
def cluster() -> Iterator[tuple[str, list[subprocess.Popen[str]]]]:
    scheduler = started("scheduler", "--host", "127.0.0.1", "--port", "0")
    address = until(scheduler, "Scheduler at:").split()[-1]
    workers = [
        started("worker", address, "--host", "127.0.0.1", "--nthreads", "1", "--no-nanny", "--death-timeout", "60")
        for _ in range(2)
    ]
    try:
        for worker in workers:
            until(worker, "Registered to")
        yield address, workers
    finally:
        for process in (*workers, scheduler):
            if process.poll() is None:
                os.killpg(process.pid, signal.SIGKILL)
            process.wait()


def test_a_worker_that_dies_costs_its_cells_a_second_try(cluster: tuple[str, list[subprocess.Popen[str]]]) -> None:
    address, workers = cluster
    crew = Crew(scheduler=address)
    places = Sheet(light=("noon", "shade", "dusk")).places
    cells = {}
    try:
        for _, cell in crew.made([Task(PACKAGE, place) for place in places]):
            cells[cell.place] = cell
            if len(cells) == 3:
                os.killpg(workers[0].pid, signal.SIGKILL)
                workers[0].wait()
        assert set(cells) == set(places)
        assert cells[places[0]] == made(PACKAGE, places[0]), "a worker makes what is made here"
        # What is wrong with a task is said as it is said here, and the crew goes on.
        with pytest.raises(BadFile, match="no photo or clip for 'own:gone'"):
            crew.submit(Task(PACKAGE, Place(who="own:gone"))).result(PATIENCE)
        assert crew.submit(Task(PACKAGE, Place(moment="open"))).result(PATIENCE).place.moment == "open"
        with pytest.raises(BadFile, match="no package"):
            crew.submit(Task(b"nothing", Place())).result(PATIENCE)
    finally:
        crew.shut()


def test_what_kills_every_worker_is_given_up_after_the_second_try() -> None:
    crew = Crew(1)
    try:
        client = crew._ready()
        with pytest.raises(KilledWorker, match="cell-that-kills"):
            client.submit(os._exit, 3, key="cell-that-kills").result(PATIENCE)
        # Another worker stands where it stood.
        assert client.submit(abs, -3, key="cell-that-is-well").result(PATIENCE) == 3
    finally:
        crew.shut()


def test_who_gives_up_a_cell_does_not_take_it_from_another() -> None:
    crew = Crew(1)
    try:
        crew.submit(Task(PACKAGE, Place())).result(PATIENCE)
        place = Place(who="kite-flyer", moment="two")
        left, kept = crew.submit(Task(PACKAGE, place)), crew.submit(Task(PACKAGE, place))
        assert left.cancel()
        assert kept.result(PATIENCE).place == place
    finally:
        crew.shut()


def test_workers_of_this_machine_give_way() -> None:
    crew = Crew(1)
    try:
        assert list(crew._ready().run(os.nice, 0).values()) == [os.nice(0) + 10]
    finally:
        crew.shut()


def test_a_scheduler_that_is_not_there_is_named() -> None:
    with pytest.raises(Lost, match=r"no scheduler answers at tcp://127\.0\.0\.1:9"):
        Crew(scheduler="tcp://127.0.0.1:9").submit(Task(PACKAGE, Place()))
