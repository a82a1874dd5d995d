"""Frames of the cast on disk: what one process has composed the next one reads, in a thirtieth of the time."""

from __future__ import annotations

import functools
import hashlib
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import cv2
import numpy as np

from sunglaze.core.disk_cache import FRAMES, DiskCache, crc32, named
from sunglaze.core.targets.memory import Words, blank

MOST_BYTES = 640_000_000
"""Four loops of the usual one at the picture's usual size."""
MOST_PIXELS = 540 * 960
"""Of a frame that is kept."""
MOST_WAITING = 8
"""Frames that wait to be written; others are not kept. Writing takes as long as half a frame's composing."""
_writing = ThreadPoolExecutor(1, thread_name_prefix="keeping")
_waiting = [0]


@functools.cache
def _maker() -> str:
    """A hash of all that composes a frame."""
    import av
    import numba

    found = hashlib.sha256(f"{cv2.__version__}|{numba.__version__}|{av.__version__}|{np.__version__}".encode())
    here, assets = Path(__file__).parent, Path(__file__).parent / "assets"
    for path in sorted([*here.glob("*.py"), here.parent / "colour" / "spaces.py"]):
        found.update(path.read_bytes())
    for path in sorted(one for one in assets.rglob("*") if one.is_file()):
        found.update(f"{path.relative_to(assets)} {path.stat().st_size}\n".encode())
    return found.hexdigest()


def kept_frame(name: str, size: tuple[int, int], make: Callable[[], Words]) -> Words:
    """A frame of so many columns and rows, as words (rows, padded columns), from the disk; else made, and kept where the
    environment names a folder for that."""
    cache = named(FRAMES, MOST_BYTES, crc32) if size[0] * size[1] <= MOST_PIXELS else None
    if cache is None:
        return make()
    name = f"{_maker()} {name}"
    out = blank(size[1], size[0])
    found = cache.read(name)
    if found is not None and found.nbytes == out.nbytes:
        out[...] = np.frombuffer(found, np.uint32).reshape(out.shape)
        return out
    made = make()
    if _waiting[0] < MOST_WAITING:
        _waiting[0] += 1
        _writing.submit(_write, cache, name, made)
    return made


def settle() -> None:
    """Wait until what was composed is written."""
    _writing.submit(lambda: None).result()


def _write(cache: DiskCache, name: str, made: Words) -> None:
    try:
        cache.write(name, made.tobytes())
    finally:
        _waiting[0] -= 1
