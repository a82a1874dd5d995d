"""What the server and the drawing process tell each other. The server itself imports nothing of what draws."""

from __future__ import annotations

from dataclasses import dataclass
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any, Literal

from sunglaze.core.camera.cameras import screen_size
from sunglaze.core.camera.cast import Sitting
from sunglaze.core.errors import GlazeError

Task = Literal[
    "length", "frame", "mask", "moment", "face", "icon of layer", "icon of node", "footage times", "footage picture", "strip",
    "print", "effect print", "preview", "worn", "beside", "judged", "program", "icon", "package", "page", "grade", "check",
    "check package",
]  # fmt: skip
QUICK: frozenset[Task] = frozenset(
    {
        "length", "frame", "mask", "moment", "face", "icon of layer", "icon of node", "footage times", "footage picture",
        "strip", "print",
    }
)  # fmt: skip
"""Pictures that are made at once: they do not wait for what takes a while."""
SHORT = 540
"""Pixels of the shorter side of a camera's picture for browsers."""
WORKERS = 2
"""So many are made at once of each of these two kinds."""


class Busy(GlazeError):
    """There is more to compute than is fair to all others; it may be asked for again."""


class Gone(GlazeError):
    """Nobody waits for the answer any more."""


@dataclass(frozen=True)
class Seat:
    """The camera that is meant: a sitting of the stand-in, or footage of one's own by its hash, on a screen of this shape."""

    sitting: Sitting
    own: str
    screen: str

    @property
    def size(self) -> tuple[int, int]:
        """Columns and rows of its screen, whose short side has SHORT pixels."""
        return screen_size(self.screen, SHORT)


@dataclass(frozen=True)
class Do:
    """Work that is asked for: it may take `most` seconds from when it begins."""

    number: int
    task: Task
    args: tuple[Any, ...]
    most: float


@dataclass(frozen=True)
class Leave:
    """Nobody waits for this work any more."""

    number: int


@dataclass(frozen=True)
class Renew:
    """What was tracked in footage has changed."""

    key: str


@dataclass(frozen=True)
class Said:
    """What became of work: it begins, or a part of it is there, or it was done, or failed by an error."""

    number: int
    what: Literal["begins", "part", "done", "failed"]
    found: Any = None


def start(pipe: Connection, folder: Path, dist: Path) -> None:
    """The process, which alone imports what draws."""
    from sunglaze.server.drawing.worker import main

    main(pipe, folder, dist)
