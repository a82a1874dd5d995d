"""Compile passes to machine code and run them on pictures, in bands of rows on a thread pool.

Compiling and running both leave Python's global lock free. Kernels are cached by what they compute, and their object code on disk
(code_cache.py). A quick build is a tape of steps (stepping.py): it is there at once and runs slower, until machine code takes its
place in the cache; where the disk has the code already, that is taken at once.
"""

from __future__ import annotations

import itertools
import math
import os
import threading
import time
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from cachetools import LRUCache

from sunglaze.core.engine.bands import taking
from sunglaze.core.engine.code_cache import code_cache, code_name, kept_code
from sunglaze.core.engine.machine import MachineCode, Operands, Run, machine_code
from sunglaze.core.engine.stepping import Steps
from sunglaze.core.passes.planning import Sweep
from sunglaze.core.passes.program import Floats
from sunglaze.core.passes.reach import Box
from sunglaze.core.targets.llvm import PixelFormat, assembly
from sunglaze.core.targets.llvm_reads import LANES
from sunglaze.core.targets.memory import Surface, in_line
from sunglaze.core.targets.tape import tape

KEPT_BYTES, LEAST_BYTES = 32 * 2**20, 4096
"""Of kernels that are kept, and what each counts at least. The ready-made layers have some 170, of 6 kB in the mean."""
BANDS_A_THREAD = 4
LEAST_SECONDS = 0.0003
"""Of work for a thread: sharing out less takes longer than it saves."""
USUAL_SECONDS = 6e-9
"""What a pixel takes, until a pass has been run."""

_ready = threading.Lock()
_PROCESSORS = os.cpu_count() or 1
POOL = ThreadPoolExecutor(max_workers=_PROCESSORS, thread_name_prefix="rows")
_cache: LRUCache[tuple[str, PixelFormat], Kernel] = LRUCache(KEPT_BYTES, getsizeof=lambda made: made.bytes)
"""Machine code and tapes by what they compute; to be used with `_ready` held."""


class Kernel:
    """A pass that can be run: by machine code, or by steps where there is none (`quick`). Hold it as long as it may run."""

    def __init__(self, one: Sweep, pixels: PixelFormat, code: bytes | None) -> None:
        self.pixels, self.shape, self.quick = pixels, one, code is None
        self.bytes: int = LEAST_BYTES + len(code or b"")
        self._seconds_a_pixel = USUAL_SECONDS
        self._code = Steps(tape(one, pixels)) if code is None else MachineCode(code)

    def operands(self, pictures: Sequence[tuple[Surface, int]], tables: Sequence[Floats], stride: int) -> Operands:
        """What the pass reads, to be held as long as it is the same.

        `pictures`: for each that the pass reads its memory and its columns without padding; `tables` likewise, in the pass's
        order. Each picture: words (rows, padded columns) or planes (channels, rows, padded); tables (n, n, n, 4)
        or (n, 4). `stride`: floats or words from row to row of what is filled.
        Raises ValueError where what is given does not have the layout that the kernel was compiled for.
        """
        for place, ((surface, columns), picture) in enumerate(zip(pictures, self.shape.pictures, strict=True)):
            as_words = picture.source == "camera" and self.pixels == "bytes"
            fits = surface.dtype == np.uint32 and surface.ndim == 2 if as_words else _is_planes(surface, picture.channels)
            if not fits or columns > surface.shape[-1] or not columns or not surface.shape[-2] or not surface.flags.c_contiguous:
                raise ValueError(f"the picture {picture.name} does not have the layout that the kernel was compiled for")
            if place in self.shape.beside and surface.shape[-1] < stride:
                raise ValueError(f"the picture {picture.name} is smaller than the one that is drawn beside it")
        for name, table in zip(self.shape.tables, tables, strict=True):
            shape = table.shape
            if shape != ((shape[0], 4) if name in self.shape.curves else (shape[0],) * 3 + (4,)):
                raise ValueError(f"table {name} has shape {shape}, not that of the kernel's")
        dims = np.array([_dims(surface, columns) for surface, columns in pictures] or [[0]], np.int64)
        held = [table if _may_be_read(table) else in_line(table) for table in tables]
        return Operands([surface for surface, _ in pictures], dims, held)

    def run(self, given: Run, threads: int | None = None, boxes: Sequence[tuple[Kernel, Box]] | None = None) -> None:
        """Fill what the run says with what the pass gives at every pixel.

        What is filled: words (outputs * rows, padded) or planes (values, rows, padded). `threads`: as many as pay where none are
        given; 1 runs on this thread. `boxes`: what is filled alone, each by a form of the pass that takes the same; they do not
        overlap, and begin at whole groups of lanes.
        Raises ValueError where it does not have the layout that the kernel was compiled for.
        """
        width, height = given.size
        words = self.shape.target is None and self.pixels == "bytes"
        count = len(self.shape.values) // 3 if words else len(self.shape.values)
        out, stride = given.out, given.stride
        wrong = out.dtype != (np.uint32 if words else np.float32) or out.size != count * height * stride
        if wrong or stride % LANES or stride < width or not out.flags.c_contiguous:
            raise ValueError("the picture to fill does not have the layout that the kernel was compiled for")
        if given.slots.size < len(self.shape.slots) or given.slots.dtype != np.int32:
            raise ValueError("there are too few slots")
        self._fill(given, [(self, Box(0, 0, width, height))] if boxes is None else boxes, threads)

    @staticmethod
    def _fill(given: Run, shares: Sequence[tuple[Kernel, Box]], threads: int | None) -> None:
        """Fill boxes, in bands of rows on as many threads as pay, or as are given."""
        costs = [one._seconds_a_pixel * box.area for one, box in shares]
        total = sum(costs)
        usual = min(_PROCESSORS, int(total / LEAST_SECONDS))
        threads = max(1, min(threads or usual, sum(box.bottom - box.top for _, box in shares)))
        bands = [
            (one._code, _bands(box, math.ceil(threads * BANDS_A_THREAD * cost / total) if threads > 1 else 1))
            for cost, (one, box) in zip(costs, shares, strict=True)
        ]
        work = _by_code(given, bands) if not any(one.quick for one, _ in shares) else _by_steps(given, bands)
        began = time.perf_counter()
        waiting = [POOL.submit(work) for _ in range(threads - 1)]
        work()
        for future in waiting:
            # One that has not begun has nothing left to do.
            if not future.cancel():
                future.result()
        slower = (time.perf_counter() - began) * threads / total
        for one in {one for one, _ in shares}:
            # The least of late, since what interrupts a run is no work of the pass.
            one._seconds_a_pixel *= min(slower, 1.1)


def _by_code(given: Run, shares: Sequence[tuple[MachineCode | Steps, list[Box]]]) -> Callable[[], None]:
    """What fills boxes by machine code alone until none is left, on as many threads as call it."""
    return taking(b"".join(one.bands(given, boxes) for one, boxes in shares if isinstance(one, MachineCode)))


def _by_steps(given: Run, shares: Sequence[tuple[MachineCode | Steps, list[Box]]]) -> Callable[[], None]:
    """The same where some have no machine code yet."""
    following = iter([(place, box) for place, (_, boxes) in enumerate(shares) for box in boxes])

    def work() -> None:
        begun: dict[int, Callable[[Box], None]] = {}
        for place, box in following:
            one = shares[place][0]
            if isinstance(one, MachineCode):
                taking(one.bands(given, [box]))()
            else:
                if place not in begun:
                    begun[place] = one.begin(given)
                begun[place](box)

    return work


def _bands(box: Box, count: int) -> list[Box]:
    """A box cut into bands of rows, their columns grown to whole groups of lanes."""
    rows = box.bottom - box.top
    count = min(count, rows)
    edges = [box.top + rows * n // count for n in range(count + 1)]
    right = -(-box.right // LANES) * LANES
    return [Box(box.left, top, right, bottom) for top, bottom in itertools.pairwise(edges)]


def _is_planes(surface: Surface, channels: int) -> bool:
    return surface.dtype == np.float32 and surface.ndim == 3 and surface.shape[0] >= channels


def _dims(surface: Surface, columns: int) -> list[int]:
    """Columns, rows, floats or words from row to row and from plane to plane."""
    rows, stride = surface.shape[-2:]
    return [columns, rows, stride, rows * stride]


def _may_be_read(table: Floats) -> bool:
    return table.flags.c_contiguous and table.ctypes.data % 16 == 0


def built(one: Sweep, pixels: PixelFormat) -> Kernel | None:
    """The kernel of a pass if there is one, quick or optimised."""
    with _ready:
        return _cache.get((one.key, pixels))


def kernel(one: Sweep, pixels: PixelFormat, quick: bool = False) -> Kernel:
    """The compiled pass, from the cache where it was compiled before. May be called from any thread.

    `quick` takes what there is, and builds quickly where there is nothing; else a quick one is replaced.
    """
    key = (one.key, pixels)
    with _ready:
        found = _cache.get(key)
        if found is not None and (quick or not found.quick):
            return found
    if quick:
        cache = code_cache()
        known = cache.read(_name(one, pixels)) if cache is not None else None
        return _keep(Kernel(one, pixels, bytes(known) if known is not None else None))
    return _keep(Kernel(one, pixels, kept_code(_name(one, pixels), lambda: machine_code(assembly(one, pixels)))))


def _name(one: Sweep, pixels: PixelFormat) -> str:
    """Of a pass in the cache on disk."""
    return code_name(f"{one.key}|{pixels}")


def text_to_optimise(one: Sweep, pixels: PixelFormat) -> str:
    """What another process makes machine code of, which `put_optimised` takes."""
    return assembly(one, pixels)


def put_optimised(one: Sweep, pixels: PixelFormat, code: bytes) -> None:
    """Let machine code from elsewhere take the place of steps, and keep it on disk."""
    cache = code_cache()
    if cache is not None:
        cache.write(_name(one, pixels), code)
    _keep(Kernel(one, pixels, code))


def _keep(made: Kernel) -> Kernel:
    key = (made.shape.key, made.pixels)
    with _ready:
        held = _cache.get(key)
        if held is None or held.quick:
            _cache[key] = made
    return made
