"""Machine code of passes: made of LLVM's text by any process, loaded in the one that runs it."""

from __future__ import annotations

import ctypes
import threading
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import llvmlite.binding as llvm
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.passes.reach import Box
from sunglaze.core.targets.memory import Surface

Bands = Callable[[Box], None]
"""Fills a box of pixels, whose columns are whole groups of lanes."""

_ready = threading.Lock()
_signature = ctypes.CFUNCTYPE(None, *[ctypes.c_void_p] * 6, *[ctypes.c_int64] * 6, *[ctypes.c_int32] * 2)


@dataclass(frozen=True)
class Arguments:
    """What one run of a pass reads and fills. `dims`: columns, rows, floats or words from row to row and from plane to plane of
    each picture. `tables`: contiguous, at 16 bytes. `slots`: 32-bit words. `size`: columns and rows."""

    pictures: Sequence[Surface]
    dims: NDArray[np.int64]
    out: Surface
    slots: NDArray[np.int32]
    tables: Sequence[NDArray[np.float32]]
    size: tuple[int, int]

    @property
    def stride(self) -> int:
        """Words or floats from row to row of what is filled."""
        return int(self.out.shape[-1])

    def pointers(self) -> tuple[Any, Any, NDArray[np.int32]]:
        """Addresses of pictures and of tables, and the tables' sizes. Hold them as long as the run lasts."""
        sizes = np.array([t.shape[0] for t in self.tables] or [0], np.int32)
        return _addresses(self.pictures), _addresses(self.tables), sizes


def _addresses(arrays: Sequence[NDArray[Any]]) -> Any:
    return (ctypes.c_void_p * max(1, len(arrays)))(*[a.ctypes.data for a in arrays])


def _target() -> llvm.TargetMachine:
    with _ready:
        llvm.initialize_native_target()
        llvm.initialize_native_asmprinter()
    return llvm.Target.from_default_triple().create_target_machine(
        cpu=llvm.get_host_cpu_name(), features=llvm.get_host_cpu_features().flatten(), opt=2
    )


def machine_code(text: str) -> bytes:
    """An object file for this machine. Raises RuntimeError where the text is no module.

    The text is written as vectors, without what occurs twice and with what stays the same outside of its loops. Of LLVM's usual
    passes these three are left that make it quicker (docs/architecture.md has figures); all of them take as long again as
    what follows.
    """
    machine = _target()
    module = llvm.parse_assembly(text)
    module.verify()
    passes = llvm.create_new_module_pass_manager()
    passes.add_always_inliner_pass()
    passes.add_instruction_combine_pass()
    passes.add_simplify_cfg_pass()
    passes.run(module, llvm.create_pass_builder(machine, llvm.create_pipeline_tuning_options(speed_level=2)))
    return bytes(machine.emit_object(module))


class Loaded:
    """Machine code in memory, ready to be called as long as this is held. `address`: of its function `kernel`."""

    def __init__(self, code: bytes) -> None:
        self._engine = llvm.create_mcjit_compiler(llvm.parse_assembly(""), _target())
        self._engine.add_object_file(llvm.ObjectFileRef.from_data(code))
        self._engine.finalize_object()
        self.address = self._engine.get_function_address("kernel")


class MachineCode:
    """A pass as machine code."""

    def __init__(self, code: bytes) -> None:
        self._code = Loaded(code)
        self._run = _signature(self._code.address)

    def begin(self, given: Arguments) -> Bands:
        """What fills boxes of one run."""
        pictures, tables, sizes = given.pointers()
        stride, (width, height) = given.stride, given.size
        # Asked once: NumPy takes microseconds to say where an array begins. What is asked for is held by `fill`, or by `given`.
        places = given.dims.ctypes.data, given.out.ctypes.data, given.slots.ctypes.data

        def fill(box: Box) -> None:
            self._run(
                ctypes.addressof(pictures), *places, ctypes.addressof(tables), sizes.ctypes.data,
                stride, stride * height, box.top, box.bottom, box.left, box.right, width, height,
            )  # fmt: skip

        return fill
