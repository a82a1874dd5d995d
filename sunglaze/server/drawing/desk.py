"""What work in the drawing process is given: the database, footage that was opened, and previews that were made lately."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Protocol

from sqlalchemy.orm import Session, sessionmaker

from sunglaze.core.prints.previews import Previews
from sunglaze.store.cameras import OwnCameras
from sunglaze.store.database import engine_for


class Patience(Protocol):
    """To be called now and then; raises where the work should end. `share`: how much is done, 0 to 1, for whoever waits."""

    def __call__(self, share: float | None = None) -> None: ...


_KEPT = 4


@dataclass
class Known:
    """Previews with the size of their pictures; nodes that keep pictures go on from those that they kept, one at a time."""

    previews: Previews
    size: tuple[int, int]
    busy: threading.Lock = field(default_factory=threading.Lock)


class Recent:
    """The latest previews."""

    def __init__(self) -> None:
        self._kept: list[Known] = []
        self._lock = threading.Lock()

    def find(self, size: tuple[int, int], fits: Callable[[Previews], bool]) -> Known | None:
        """Those of this size that still hold, if there are any."""
        with self._lock:
            return next((one for one in self._kept if one.size == size and fits(one.previews)), None)

    def keep(self, known: Known) -> None:
        """Remember them; the oldest go."""
        with self._lock:
            self._kept[:] = [known, *[one for one in self._kept if one is not known]][:_KEPT]


class Desk:
    """One in a process; threads share it. `dist`: the built front end, of which parts leave with exported pages."""

    def __init__(self, folder: Path, dist: Path) -> None:
        self.dist = dist
        self.own_cameras = OwnCameras()
        self.recent = Recent()
        self._sessions = sessionmaker(engine_for(folder), expire_on_commit=False)

    def session(self) -> Session:
        """A session for reading."""
        return self._sessions()
