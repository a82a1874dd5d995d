"""A folder that keeps what is made anew where it is lost: object code, small pictures. Bounded in bytes, this user's alone."""

from __future__ import annotations

import contextlib
import hashlib
import os
import threading
import time
from pathlib import Path

KEPT_SHARE = 0.8
"""Of the most bytes, to which a full folder is cut."""
HASH_BYTES = 32
STALE_SECONDS = 3600
"""A use is noted in an entry's time stamp at most so often."""


class DiskCache:
    """A folder of entries by name. Each begins with a hash of its own bytes, which is checked before it is given. Threads and
    processes may share it: entries are written whole, under their final name at last."""

    def __init__(self, folder: Path, most_bytes: int) -> None:
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
        """Where an entry lies."""
        return self.folder / hashlib.sha256(key.encode()).hexdigest()

    def read(self, key: str) -> bytes | None:
        """What was kept, or nothing where there is none or it is damaged."""
        path = self.path(key)
        try:
            data, used = path.read_bytes(), path.stat().st_mtime
        except OSError:
            return None
        kept = data[HASH_BYTES:]
        if hashlib.sha256(kept).digest() != data[:HASH_BYTES]:
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
            begun.write_bytes(hashlib.sha256(data).digest() + data)
            begun.replace(path)
        except OSError:
            with contextlib.suppress(OSError):
                begun.unlink()
            return
        with self._lock:
            self._bytes = self._size() if self._bytes is None else self._bytes + HASH_BYTES + len(data)
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
