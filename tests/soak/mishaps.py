"""What goes wrong while a soak runs: what draws is killed, the server is killed, the disk takes no more."""

from __future__ import annotations

import itertools
import os
import resource
import signal
import subprocess
import sys
from collections.abc import Iterator

from tests.serving import processes_called, rendering_process
from tests.soak.field import Field

LOOP = "import os\nos.nice(5)\nwhile True: pass"


def busy_loops() -> list[subprocess.Popen[bytes]]:
    """One for each processor; they give way a little, as another program of the same person does."""
    return [subprocess.Popen([sys.executable, "-c", LOOP]) for _ in range(os.cpu_count() or 1)]


def kill_rendering(field: Field) -> None:
    """The rendering process ends in the middle of its work; the server starts another."""
    os.kill(rendering_process(field.served), signal.SIGKILL)
    field.wait(1)


def kill_drawing(field: Field) -> None:
    """So does the process that draws for routes: what it was at is done again."""
    for pid in processes_called(field.served, "glaze-draw"):
        os.kill(pid, signal.SIGKILL)
    field.wait(1)


def kill_server(field: Field) -> None:
    """The server ends in the middle of its work, and is started again."""
    field.up.clear()
    field.served.process.kill()
    field.served.process.wait()
    field.start()


def fill_disk(field: Field) -> None:
    """No file takes more than it has, for a few seconds: writes of the server fail as on a full disk."""
    pid = field.served.process.pid
    before = resource.prlimit(pid, resource.RLIMIT_FSIZE)
    resource.prlimit(pid, resource.RLIMIT_FSIZE, (4096, before[1]))
    field.wait(5)
    resource.prlimit(pid, resource.RLIMIT_FSIZE, before)


def in_turn(field: Field, every: float) -> None:
    """One after the other, so many seconds apart; none of them near the end, so that what follows is seen."""
    kinds: Iterator[tuple[str, object]] = itertools.cycle(
        [
            ("rendering killed", kill_rendering),
            ("disk full", fill_disk),
            ("drawing killed", kill_drawing),
            ("server killed", kill_server),
        ]
    )
    while field.goes_on:
        field.wait(every)
        name, work = next(kinds)
        if field.goes_on:
            field.mishap(name, lambda work=work: work(field))  # type: ignore[misc,operator]
