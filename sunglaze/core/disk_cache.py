"""A folder that keeps what is made anew where it is lost: object code, frames of the cast, small pictures. Bounded in bytes, this
user's alone. Variables of the environment name the folders, so that processes share them; without them nothing is kept."""

from __future__ import annotations

import contextlib
import functools
import hashlib
import logging
import os
import threading
import time
import zlib
from collections.abc import Callable, Iterator
from pathlib import Path

KEPT_SHARE = 0.8
"""Of the most bytes, to which a full folder is cut."""
CODE, FRAMES, PICTURES = "SUNGLAZE_CODE", "SUNGLAZE_FRAMES", "SUNGLAZE_PICTURES"
"""Variables that name folders: of compiled passes, of the cast's frames, and of small pictures and findings."""
STALE_SECONDS = 3600
"""A use is noted in an entry's time stamp at most so often."""


Digest = Callable[[bytes | memoryview], bytes]
_log = logging.getLogger("sunglaze")


def sha256(data: bytes | memoryview) -> bytes:
    """The digest of what is executed or handed out."""
    return hashlib.sha256(data).digest()


def crc32(data: bytes | memoryview) -> bytes:
    """Four bytes, in a seventh of the time: of what is large, and where only damage is to be found."""
    return zlib.crc32(data).to_bytes(4, "big")


class DiskCache:
    """A folder of entries by name. Each begins with a digest of its own bytes, which is checked before it is given. Threads and
    processes may share it: entries are written whole, under their final name at last."""

    def __init__(self, folder: Path, most_bytes: int, digest: Digest = sha256) -> None:
        """Make the folder, for this user alone. `digest`: of as many bytes whatever it is of. Raises PermissionError where the
        folder belongs to another user, OSError where it cannot be made."""
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        facts = folder.stat()
        if facts.st_uid != os.geteuid():
            raise PermissionError(f"{folder} belongs to another user")
        if facts.st_mode & 0o077:
            folder.chmod(0o700)
        self.folder, self.most_bytes = folder, most_bytes
        self._digest, self._head = digest, len(digest(b""))
        self._lock = threading.Lock()
        self._bytes: int | None = None

    def path(self, key: str) -> Path:
        """Where an entry lies."""
        return self.folder / hashlib.sha256(key.encode()).hexdigest()

    def read(self, key: str) -> memoryview | None:
        """What was kept, or nothing where there is none or it is damaged."""
        path = self.path(key)
        try:
            data, used = path.read_bytes(), path.stat().st_mtime
        except OSError:
            return None
        kept = memoryview(data)[self._head :]
        if self._digest(kept) != data[: self._head]:
            with contextlib.suppress(OSError):
                path.unlink()
            return None
        if time.time() - used > STALE_SECONDS:
            with contextlib.suppress(OSError):
                os.utime(path)
        return kept

    def write(self, key: str, data: bytes) -> None:
        """Keep something. What cannot be written (a full disk) is not kept, and nobody is told."""
        path = self.path(key)
        begun = path.with_suffix(f".{os.getpid()}-{threading.get_ident()}")
        try:
            begun.write_bytes(self._digest(data) + data)
            begun.replace(path)
        except OSError:
            with contextlib.suppress(OSError):
                begun.unlink()
            return
        with self._lock:
            self._bytes = self._size() if self._bytes is None else self._bytes + self._head + len(data)
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


def keep_beside(data: Path) -> None:
    """Let this process, and those that it starts, keep what it makes in a data folder, unless they are told of others."""
    for variable, name in ((CODE, "code"), (FRAMES, "frames"), (PICTURES, "pictures")):
        os.environ.setdefault(variable, str(data.resolve() / name))


def named(variable: str, most_bytes: int, digest: Digest = sha256) -> DiskCache | None:
    """The cache that this process is told to use by a variable, or none."""
    folder = os.environ.get(variable, "")
    return _opened(folder, most_bytes, digest) if folder else None


@functools.cache
def _opened(folder: str, most_bytes: int, digest: Digest) -> DiskCache | None:
    try:
        return DiskCache(Path(folder), most_bytes, digest)
    except OSError as error:
        _log.warning("nothing is kept in %s: %s", folder, error)
        return None


@contextlib.contextmanager
def unnamed(variable: str) -> Iterator[None]:
    """Meanwhile this process neither takes anything from the folder that a variable names, nor keeps anything there."""
    folder = os.environ.pop(variable, None)
    try:
        yield
    finally:
        if folder is not None:
            os.environ[variable] = folder
