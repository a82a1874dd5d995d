"""The artist's own footage as cameras: files are read once, tracks anew where they changed."""

from __future__ import annotations

import itertools
import threading
from collections import defaultdict

from sqlalchemy.orm import Session

from sunglaze.core.cache import CACHE
from sunglaze.core.camera.cameras import Own
from sunglaze.core.camera.tracks import Tracks
from sunglaze.core.material.footage import Footage
from sunglaze.store import files, tracking


class OwnCameras:
    """Threads share it. Files and tracks are held by the cache of the process, and read one at a time."""

    _numbers = itertools.count()

    def __init__(self) -> None:
        self._editions: defaultdict[str, int] = defaultdict(self._next)
        self._reading = threading.Lock()

    def _next(self) -> int:
        return next(self._numbers)

    def get(self, session: Session, key: str, size: tuple[int, int]) -> Own:
        """Footage for a screen of so many columns and rows. Raises NotThere or BadFile."""
        edition = self._editions[key]
        with self._reading:
            found = CACHE.get(("footage", key), lambda: Footage(files.asset(session, key).data), lambda one: one.weight)
            seen = CACHE.get(("tracks", key, edition), lambda: tracking.tracks(session, key), _weight)
        return Own(found, *size, seen, ("own", key, edition))

    def renew(self, key: str) -> None:
        """What was tracked in it has changed."""
        self._editions[key] = self._next()


def _weight(tracks: Tracks) -> int:
    return sum(len(track.mask) + sum(len(one) for one in (*track.faces, *(track.hands or []))) * 24 for track in tracks.values())
