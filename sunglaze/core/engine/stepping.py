"""Run passes as tapes of steps: nothing is compiled for them but, once a process, the machine that takes the steps."""

from __future__ import annotations

import ctypes
import functools
import threading
from collections.abc import Callable
from typing import Any

from sunglaze.core.engine.code_cache import code_name, kept_code
from sunglaze.core.engine.machine import Loaded, Run, machine_code
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

    def begin(self, given: Run) -> Callable[[Box], None]:
        """What fills boxes of one run, whose columns are whole groups of lanes; each thread begins for itself: it has registers
        of its own."""
        tape, run = self._tape, machine()
        pictures, dims, tables, sizes = given.operands.places
        memory = in_line(tape.memory)
        for at, op, attribute, kind in tape.leaves:
            memory[at : at + LANES] = _known(op, attribute, kind, given)
        stride, height = given.stride, given.size[1]

        def fill(box: Box) -> None:
            run(
                tape.steps.ctypes.data, tape.once, len(tape.steps), memory.ctypes.data, pictures, dims, given.out.ctypes.data,
                tables, sizes, stride, stride * height, box.top, box.bottom, box.left, box.right,
            )  # fmt: skip

        return fill


def _known(op: str, attribute: tuple[Any, ...], kind: str, given: Run) -> int:
    """What a leaf is in this run."""
    if op == "slot":
        number = int(given.slots[attribute[0]])
        return int(number != 0) if kind == "bool" else number
    if op == "target":
        return given.size[attribute[0]]
    if op == "table_size":
        return int(given.operands.sizes[attribute[0]])
    return int(given.operands.dims[attribute[0].place, attribute[1]])
