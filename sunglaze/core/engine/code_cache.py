"""Object code of compiled passes, kept on disk between processes and starts.

The environment variable SUNGLAZE_CODE names the folder; without it nothing is kept. An entry is named by a hash of what its
pass computes, of the processor and LLVM that it was made for, and of the source of the printers that wrote it. It begins with a
hash of its own bytes, which is checked before it is loaded. Only this user may read or write the folder: what lies in it is
executed.
"""

from __future__ import annotations

import contextlib
import functools
import hashlib
import logging
import os
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path

VARIABLE = "SUNGLAZE_CODE"
MOST_BYTES = 96_000_000
"""Of a folder; some 2,500 passes. The least recently used go first."""
KEPT_SHARE = 0.8
"""Of MOST_BYTES, to which a full folder is cut."""
HASH_BYTES = 32
STALE_SECONDS = 3600
"""A use is noted in an entry's time stamp at most so often."""

_log = logging.getLogger("sunglaze")
_CORE = Path(__file__).parents[1]


@functools.cache
def _maker() -> bytes:
    """A hash of all that turns a pass into machine code: processor, LLVM, and the source of the language and its printers."""
    import llvmlite
    import llvmlite.binding as llvm

    found = hashlib.sha256()
    features = llvm.get_host_cpu_features().flatten()
    found.update(f"{llvmlite.__version__}|{llvm.llvm_version_info}|{llvm.get_host_cpu_name()}|{features}".encode())
    sources = [*(_CORE / "language").glob("*.py"), *(_CORE / "targets").glob("*.py"), _CORE / "engine" / "machine.py"]
    for path in sorted(sources):
        found.update(path.read_bytes())
    return found.digest()


class CodeCache:
    """A folder of object code. Threads and processes may share it: entries are written whole, under their final name at last."""

    def __init__(self, folder: Path, most_bytes: int = MOST_BYTES) -> None:
        """Make the folder, for this user alone. Raises PermissionError where it belongs to another user, OSError where it cannot
        be made."""
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        facts = folder.stat()
        if facts.st_uid != os.geteuid():
            raise PermissionError(f"{folder} belongs to another user")
        if facts.st_mode & 0o077:
            folder.chmod(0o700)
        self.folder, self.most_bytes = folder, most_bytes
        self._lock = threading.Lock()
        self._bytes: int | None = None

    def path(self, key: str) -> Path:
        """Where the code of a pass lies, which `key` names."""
        return self.folder / hashlib.sha256(_maker() + key.encode()).hexdigest()

    def read(self, key: str) -> bytes | None:
        """Object code, or nothing where there is none or it is damaged."""
        path = self.path(key)
        try:
            data, used = path.read_bytes(), path.stat().st_mtime
        except OSError:
            return None
        code = data[HASH_BYTES:]
        if hashlib.sha256(code).digest() != data[:HASH_BYTES]:
            with contextlib.suppress(OSError):
                path.unlink()
            return None
        if time.time() - used > STALE_SECONDS:
            with contextlib.suppress(OSError):
                os.utime(path)
        return code

    def write(self, key: str, code: bytes) -> None:
        """Keep object code. What cannot be written (a full disk) is not kept, and nobody is told."""
        path = self.path(key)
        begun = path.with_suffix(f".{os.getpid()}-{threading.get_ident()}")
        try:
            begun.write_bytes(hashlib.sha256(code).digest() + code)
            begun.replace(path)
        except OSError:
            with contextlib.suppress(OSError):
                begun.unlink()
            return
        with self._lock:
            self._bytes = self._size() if self._bytes is None else self._bytes + HASH_BYTES + len(code)
            if self._bytes > self.most_bytes:
                self._bytes = self._cut()

    def _entries(self) -> list[tuple[float, int, Path]]:
        """When each was last used, its bytes, and where it lies."""
        found = []
        with contextlib.suppress(OSError), os.scandir(self.folder) as entries:
            for entry in entries:
                with contextlib.suppress(OSError):
                    facts = entry.stat()
                    found.append((facts.st_mtime, facts.st_size, Path(entry.path)))
        return found

    def _size(self) -> int:
        return sum(size for _, size, _ in self._entries())

    def _cut(self) -> int:
        """Remove what was not used for longest, down to KEPT_SHARE; the bytes that are left."""
        entries = sorted(self._entries())
        left = sum(size for _, size, _ in entries)
        for _, size, path in entries:
            if left <= self.most_bytes * KEPT_SHARE:
                break
            with contextlib.suppress(OSError):
                path.unlink()
            left -= size
        return left


def keep_code_beside(data: Path) -> None:
    """Let this process, and those that it starts, keep compiled code in a data folder, unless they are told of another."""
    os.environ.setdefault(VARIABLE, str(data.resolve() / "code"))


@contextlib.contextmanager
def nothing_kept() -> Iterator[None]:
    """Meanwhile this process neither takes compiled code from the disk nor keeps any: quick builds are steps."""
    folder = os.environ.pop(VARIABLE, None)
    try:
        yield
    finally:
        if folder is not None:
            os.environ[VARIABLE] = folder


@functools.cache
def _opened(folder: str) -> CodeCache | None:
    try:
        return CodeCache(Path(folder))
    except OSError as error:
        _log.warning("compiled code is not kept: %s", error)
        return None


def code_cache() -> CodeCache | None:
    """The cache that this process is told to use, or none."""
    folder = os.environ.get(VARIABLE, "")
    return _opened(folder) if folder else None


def kept_code(key: str, make: Callable[[], bytes]) -> bytes:
    """Object code from the cache, else made and kept. Raises what `make` raises."""
    cache = code_cache()
    found = cache.read(key) if cache is not None else None
    if found is not None:
        return found
    made = make()
    if cache is not None:
        cache.write(key, made)
    return made
