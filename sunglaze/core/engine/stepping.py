"""Run passes as tapes of steps: nothing is compiled for them but, once a process, the machine that takes the steps."""

from __future__ import annotations

import ctypes
import functools
import threading
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.engine.code_cache import code_name, kept_code
from sunglaze.core.engine.machine import Arguments, Bands, Loaded, machine_code
from sunglaze.core.passes.reach import Box
from sunglaze.core.targets.llvm_reads import LANES
from sunglaze.core.targets.llvm_steps import machine_text
from sunglaze.core.targets.memory import in_line
from sunglaze.core.targets.tape import Tape

_signature = ctypes.CFUNCTYPE(
    None, ctypes.c_void_p, *[ctypes.c_int64] * 2, *[ctypes.c_void_p] * 6, *[ctypes.c_int64] * 6
)  # fmt: skip
_ready = threading.Lock()


@functools.cache
def _machine() -> tuple[Loaded, Any]:
    loaded = Loaded(kept_code(code_name("steps"), lambda: machine_code(machine_text())))
    return loaded, _signature(loaded.address)


def machine() -> Any:
    """The function that takes steps; compiled when it is first asked for, in a second or so."""
    with _ready:
        return _machine()[1]


class Steps:
    """A pass as a tape."""

    def __init__(self, tape: Tape) -> None:
        self._tape = tape

    def begin(self, given: Arguments) -> Bands:
        """What fills boxes of one run; each thread begins for itself, having registers of its own."""
        tape, run = self._tape, machine()
        pictures, tables, sizes = given.pointers()
        memory = in_line(tape.memory)
        for at, op, attribute, kind in tape.leaves:
            memory[at : at + LANES] = _known(op, attribute, kind, given, sizes)
        stride, height = given.stride, given.size[1]

        def fill(box: Box) -> None:
            run(
                tape.steps.ctypes.data, tape.once, len(tape.steps), memory.ctypes.data, ctypes.addressof(pictures),
                given.dims.ctypes.data, given.out.ctypes.data, ctypes.addressof(tables), sizes.ctypes.data, stride,
                stride * height, box.top, box.bottom, box.left, box.right,
            )  # fmt: skip

        return fill


def _known(op: str, attribute: tuple[Any, ...], kind: str, given: Arguments, sizes: NDArray[np.int32]) -> int:
    """What a leaf is in this run."""
    if op == "slot":
        number = int(given.slots[attribute[0]])
        return int(number != 0) if kind == "bool" else number
    if op == "target":
        return given.size[attribute[0]]
    if op == "table_size":
        return int(sizes[attribute[0]])
    return int(given.dims[attribute[0].place, attribute[1]])
