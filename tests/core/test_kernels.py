"""How passes are shared out to threads, and what is kept of forms."""

from __future__ import annotations

from concurrent.futures import Future
from typing import Any

import numpy as np
import pytest
from cachetools import LRUCache

from sunglaze.core.engine import kernel as kernels
from sunglaze.core.engine.kernel import LEAST_BYTES, LEAST_SECONDS, Kernel
from sunglaze.core.engine.machine import Run, machine_code
from sunglaze.core.language.pictures import CAMERA, near
from sunglaze.core.language.vector import Vec
from sunglaze.core.passes.program import Program
from sunglaze.core.targets.llvm import assembly
from sunglaze.core.targets.memory import blank, memory


def test_what_is_shown_stays_machine_code_whatever_is_built_beside_it() -> None:
    """More than twice as many passes as all ready-made layers have: the one that 256 others followed had been interpreted from
    then on."""
    shown = Program((Vec(near(CAMERA, 0) * 0.75, 0.0, 0.0),)).sweeps[0]
    machine = kernels.kernel(shown, "bytes")
    for n in range(400):
        one = Program((Vec(near(CAMERA, 0) * (1 + n / 1000), 0.0, 0.0),)).sweeps[0]
        assert kernels.kernel(one, "bytes", quick=True).shape is one
    assert kernels.kernel(shown, "bytes", quick=True) is machine
    assert not machine.quick


def test_kernels_are_bounded_by_their_bytes(monkeypatch: pytest.MonkeyPatch) -> None:
    code = machine_code(assembly(Program((Vec(near(CAMERA, 0), 0.0, 0.0),)).sweeps[0], "bytes"))
    each = LEAST_BYTES + len(code)
    monkeypatch.setattr(kernels, "_cache", LRUCache(10 * each, getsizeof=lambda made: made.bytes))
    sweeps = [Program((Vec(near(CAMERA, 0) * (1 + n / 1000), 0.0, 0.0),)).sweeps[0] for n in range(12)]
    for one in sweeps:
        kernels._keep(Kernel(one, "bytes", code))
    assert [kernels.built(one, "bytes") is not None for one in sweeps] == [False] * 2 + [True] * 10


@pytest.fixture
def shared_out(monkeypatch: pytest.MonkeyPatch) -> list[object]:
    """What was given to other threads, on a machine of four processors."""
    given: list[object] = []
    submit = kernels.POOL.submit

    def counted(work: Any, *more: Any) -> Future[Any]:
        given.append(work)
        return submit(work, *more)

    monkeypatch.setattr(kernels.POOL, "submit", counted)
    monkeypatch.setattr(kernels, "_PROCESSORS", 4)
    return given


def inverted() -> Kernel:
    one = Program((Vec(*(1.0 - near(CAMERA, c) for c in range(3))),)).plan.passes[0]
    return Kernel(one, "bytes", machine_code(assembly(one, "bytes")))


def run(one: Kernel, width: int, height: int, threads: int | None = None) -> np.ndarray:
    camera, out = blank(height, width), memory((height, blank(1, width).shape[1]), np.uint32)
    camera[:] = np.random.default_rng(width).integers(0, 2**32, camera.shape, dtype=np.uint32)
    operands = one.operands([(camera, width)], [], out.shape[-1])
    one.run(Run(operands, out, np.zeros(1, np.int32), (width, height)), threads)
    seen = out.view(np.uint8).reshape(height, -1, 4)[:, :width, 2::-1]
    assert np.array_equal(seen, 255 - camera.view(np.uint8).reshape(height, -1, 4)[:, :width, :3])
    return seen


def test_little_work_is_done_by_one_thread(shared_out: list[object]) -> None:
    run(inverted(), 90, 160)
    assert not shared_out


def test_much_work_is_shared(shared_out: list[object]) -> None:
    run(inverted(), 720, 1280)
    assert len(shared_out) == 3


def test_what_a_pass_took_decides_from_then_on(shared_out: list[object]) -> None:
    """Four threads' least work of a small picture; then a tenth of it."""
    one = inverted()
    one._seconds_a_pixel = 4.1 * LEAST_SECONDS / (90 * 160)
    run(one, 90, 160)
    assert len(shared_out) == 3
    one._seconds_a_pixel = 0.4 * LEAST_SECONDS / (90 * 160)
    shared_out.clear()
    run(one, 90, 160)
    assert not shared_out


def test_a_light_pass_is_found_to_be_light() -> None:
    one = inverted()
    one._seconds_a_pixel = 1e-3
    for _ in range(3):
        run(one, 200, 200, threads=1)
    assert one._seconds_a_pixel < 1e-4


@pytest.mark.parametrize("threads", [1, 2, 3, 7])
def test_any_number_of_threads_gives_the_same(threads: int) -> None:
    one = inverted()
    assert np.array_equal(run(one, 333, 257, threads), run(one, 333, 257, 1))


def test_more_threads_than_rows_do_no_harm() -> None:
    run(inverted(), 50, 2, threads=16)
