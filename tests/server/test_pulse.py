"""Whether a process hangs: told from what it had of the processor, not from the clock alone."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from collections.abc import Iterable

import pytest

from sunglaze.server.rendering.pulse import Pulse, Sign, processor


def ended_at(signs: Iterable[Sign], *patience: float) -> float | None:
    """When a process is taken to hang, looked at once a second."""
    pulse = Pulse(patience, 1.0)
    return next((sign.at for sign in signs if pulse.hangs(sign)), None)


def test_no_work_with_the_whole_processor_is_a_hang() -> None:
    assert ended_at((Sign(float(n), float(n), True, (5,)) for n in range(60)), 10.0) == 10.0


def test_who_waits_for_nothing_in_particular_and_does_nothing_hangs_too() -> None:
    """A lock that never comes: no processor is wanted."""
    assert ended_at((Sign(float(n), 0.0, False, (5,)) for n in range(60)), 10.0) == 10.0


@pytest.mark.parametrize(("share", "wanted"), [(0.5, 20.0), (0.1, 100.0), (0.0, None)])
def test_a_starved_process_has_as_much_more_time(share: float, wanted: float | None) -> None:
    found = ended_at((Sign(float(n), n * share, True, (5,)) for n in range(1000)), 10.0)
    assert found is None if wanted is None else found == pytest.approx(wanted, abs=1)


def test_progress_and_having_nothing_to_do_are_no_silence() -> None:
    assert ended_at((Sign(float(n), float(n), True, (n // 9,)) for n in range(200)), 10.0) is None
    assert ended_at((Sign(float(n), float(n), True, (None,)) for n in range(200)), 10.0) is None
    # Each kind of work has its own patience.
    assert ended_at((Sign(float(n), float(n), True, (n, 3, 3)) for n in range(200)), 10.0, 60.0, 30.0) == 30.0


def test_a_machine_that_stood_still_is_excused() -> None:
    """A laptop that slept for a night: the watcher did not run either."""
    times = [*range(8), *range(40_000, 40_008)]
    assert ended_at((Sign(float(n), 0.0, False, (5,)) for n in times), 18.0) is None


def test_the_system_tells_what_a_process_had_and_whether_it_wants_more() -> None:
    spinning = subprocess.Popen([sys.executable, "-c", "while True: pass"])
    try:
        until = time.monotonic() + 60
        while processor(spinning.pid)[0] < 0.3:
            assert time.monotonic() < until
            time.sleep(0.05)
        assert processor(spinning.pid)[1]
    finally:
        spinning.kill()
        spinning.wait()
    assert processor(spinning.pid) == (0.0, False)
    assert processor(os.getpid())[0] > 0
