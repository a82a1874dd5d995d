"""Bands of rows that threads take from a shared list, without Python between one and the next."""

from __future__ import annotations

import ctypes
import functools
import threading
from collections.abc import Callable
from typing import Any

from sunglaze.core.engine.code_cache import code_name, kept_code
from sunglaze.core.engine.machine import BAND, FIELDS, Loaded, machine_code

_signature = ctypes.CFUNCTYPE(None, ctypes.c_void_p, ctypes.c_int64, ctypes.c_char_p)
_ready = threading.Lock()
_PLACES, _SIZES = range(1, 7), range(7, 13)
_KINDS = {**dict.fromkeys(_PLACES, "ptr"), **dict.fromkeys(_SIZES, "i64"), 13: "i32", 14: "i32"}


def _read(field: int) -> str:
    """Text that reads a field of the band."""
    kind = _KINDS.get(field, "ptr")
    return f"""  %far{field} = add i64 %first, {field}
  %at{field} = getelementptr i64, ptr %bands, i64 %far{field}
  %a{field} = load {kind}, ptr %at{field}"""


_TEXT = f"""
define void @kernel(ptr %following, i64 %count, ptr %bands) {{
  br label %again
again:
  %n = atomicrmw add ptr %following, i64 1 monotonic
  %more = icmp slt i64 %n, %count
  br i1 %more, label %band, label %done
band:
  %first = mul i64 %n, {FIELDS}
{chr(10).join(_read(field) for field in range(FIELDS))}
  call void %a0({", ".join(f"{kind} %a{field}" for field, kind in _KINDS.items())})
  br label %again
done:
  ret void
}}
"""
"""For each band the address of its code and what that is called with (machine.py); little-endian, as all that run it."""


@functools.cache
def _machine() -> tuple[Loaded, Any]:
    loaded = Loaded(kept_code(code_name("bands"), lambda: machine_code(_TEXT)))
    return loaded, _signature(loaded.address)


def taking(bands: bytes) -> Callable[[], None]:
    """What fills bands, each a BAND, until none is left, on as many threads as call it. Hold what they refer to."""
    with _ready:
        run = _machine()[1]
    return functools.partial(run, ctypes.byref(ctypes.c_int64()), len(bands) // BAND.size, bands)
