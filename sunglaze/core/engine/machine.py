"""Machine code of passes: made of LLVM's text by any process, loaded in the one that runs it."""

from __future__ import annotations

import ctypes
import struct
import threading
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import llvmlite.binding as llvm
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.passes.reach import Box
from sunglaze.core.targets.memory import Surface

FIELDS = 15
BAND = struct.Struct(f"{FIELDS}q")
"""How a band is filled: code, six places, stride, plane, the box's rows and columns, columns and rows of all."""
_ready = threading.Lock()


class Operands:
    """What a pass reads from frame to frame. `dims`: columns, rows, floats or words from row to row and from plane to plane of
    each picture. `tables`: contiguous, at 16 bytes. `places`: where pictures, dims, tables and the tables' sizes lie, as long as
    this is held."""

    def __init__(self, pictures: Sequence[Surface], dims: NDArray[np.int64], tables: Sequence[NDArray[np.float32]]) -> None:
        self.dims, self.sizes = dims, np.array([t.shape[0] for t in tables] or [0], np.int32)
        self._held = pictures, tables, _addresses(pictures), _addresses(tables)
        _, _, lie, stand = self._held
        self.places = ctypes.addressof(lie), dims.ctypes.data, ctypes.addressof(stand), self.sizes.ctypes.data


@dataclass(frozen=True)
class Run:
    """One run of a pass: what it reads and fills. `slots`: 32-bit words. `size`: columns and rows."""

    operands: Operands
    out: Surface
    slots: NDArray[np.int32]
    size: tuple[int, int]

    @property
    def stride(self) -> int:
        """Words or floats from row to row of what is filled."""
        return int(self.out.shape[-1])


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

    def bands(self, given: Run, boxes: Sequence[Box]) -> bytes:
        """How boxes of one run are filled, as bands.py takes it: for each the address of the code and what it is called with."""
        pictures, dims, tables, sizes = given.operands.places
        stride, (width, height) = given.stride, given.size
        # NumPy takes microseconds to say where an array begins.
        out, slots = given.out.ctypes.data, given.slots.ctypes.data
        first = self._code.address, pictures, dims, out, slots, tables, sizes, stride, stride * height
        return b"".join(BAND.pack(*first, box.top, box.bottom, box.left, box.right, width, height) for box in boxes)
