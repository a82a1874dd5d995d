"""Object code of compiled passes, kept on disk between processes and starts, where the environment names a folder.

An entry is named by a hash of what its pass computes, of the processor and LLVM that it was made for, and of the source of the
printers that wrote it. It is checked before it is loaded. Only this user may read or write the folder: what lies in it is
executed.
"""

from __future__ import annotations

import functools
import hashlib
from collections.abc import Callable
from pathlib import Path

from sunglaze.core.disk_cache import CODE, DiskCache, named

MOST_BYTES = 96_000_000
"""Of a folder; some 2,500 passes. The least recently used go first."""
_CORE = Path(__file__).parents[1]


@functools.cache
def _maker() -> str:
    """A hash of all that turns a pass into machine code: processor, LLVM, and the source of the language and its printers."""
    import llvmlite
    import llvmlite.binding as llvm

    found = hashlib.sha256()
    features = llvm.get_host_cpu_features().flatten()
    found.update(f"{llvmlite.__version__}|{llvm.llvm_version_info}|{llvm.get_host_cpu_name()}|{features}".encode())
    sources = [*(_CORE / "language").glob("*.py"), *(_CORE / "targets").glob("*.py"), _CORE / "engine" / "machine.py"]
    for path in sorted(sources):
        found.update(path.read_bytes())
    return found.hexdigest()


def code_cache() -> DiskCache | None:
    """The cache that this process is told to use, or none: then quick builds are steps."""
    return named(CODE, MOST_BYTES)


def code_name(key: str) -> str:
    """What code is called in the cache, of which `key` says what it computes."""
    return f"{_maker()} {key}"


def kept_code(name: str, make: Callable[[], bytes]) -> bytes:
    """Object code from the cache, else made and kept, under a name of `code_name`. Raises what `make` raises."""
    cache = code_cache()
    found = cache.read(name) if cache is not None else None
    if found is not None:
        return bytes(found)
    made = make()
    if cache is not None:
        cache.write(name, made)
    return made
