"""The artist's own footage as cameras, of the latest that were asked for: files are read once, tracks anew where they changed."""

from __future__ import annotations

import threading

from sqlalchemy.orm import Session

from sunglaze.core.camera.cameras import Own
from sunglaze.core.camera.footage import Footage
from sunglaze.store import files, footage

RECENT = 3


class OwnCameras:
    """Threads share it. The lock is held for moments; files are read one at a time, beside it."""

    def __init__(self) -> None:
        self._found: dict[str, Own] = {}
        self._stale: set[str] = set()
        self._lock = threading.Lock()
        self._reading = threading.Lock()

    def get(self, session: Session, key: str, size: tuple[int, int]) -> Own:
        """Footage for a screen of so many columns and rows. Raises NotThere or BadFile."""
        known = self._fresh(key)
        if known is None:
            with self._reading:
                known = self._fresh(key) or self._read(session, key, size)
        return known.sized(*size)

    def renew(self, key: str) -> None:
        """What was tracked in it has changed."""
        with self._lock:
            self._stale.add(key)

    def _fresh(self, key: str) -> Own | None:
        with self._lock:
            known = None if key in self._stale else self._found.pop(key, None)
            if known is not None:
                self._found[key] = known
            return known

    def _read(self, session: Session, key: str, size: tuple[int, int]) -> Own:
        with self._lock:
            before = self._found.get(key)
            self._stale.discard(key)
        made = Own(before.footage if before else Footage(files.asset(session, key).data), *size, footage.tracks(session, key))
        with self._lock:
            self._found[key] = made
            while len(self._found) > RECENT:
                del self._found[next(iter(self._found))]
        return made
