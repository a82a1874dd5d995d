"""What the server and its rendering process say to each other, as plain data over one pipe."""

from __future__ import annotations

import signal
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from sunglaze.core.camera.cast import Sitting
from sunglaze.core.effect.address import Address
from sunglaze.core.effect.document import Effect
from sunglaze.core.moment.rehearsal import Finger

FRAME, TILES, SCOPE = "frame", "tiles", "scope"
TELLS = signal.SIGUSR1
"""At which the rendering process writes down where its threads are."""


@dataclass(frozen=True)
class SetEffects:
    """What a viewer looks at, by id: one effect, which streams with its stages as tiles, or nothing. `small`: as a moving print.

    `serial` comes back with the first frame that shows it, as with moves.
    """

    viewer: int
    effects: dict[str, Effect]
    small: bool = False
    serial: int = 0


@dataclass(frozen=True)
class Forget:
    """What trackers saw in a file of footage has changed: it is read anew with the next effect that needs it."""

    key: str


@dataclass(frozen=True)
class Move:
    """A number of the viewed effect at a new value, not saved yet. `serial` comes back with the frame that shows it."""

    viewer: int
    at: Address
    value: Any
    serial: int


@dataclass(frozen=True)
class View:
    """How a viewer looks; what is none stays as it is.

    `frame` sets the clock, `speed` its pace (1 is true time). `wipe`: the place of the border between bare and effect, 0 to 1.
    `muted`: layers that are left out while looking. `screen`: its shape as 9:16, `short`: its short side in pixels. `scope`:
    which one to send ("none" for none), of `region` (left, top, right, bottom, 0 to 1). `clipping` marks what is cut
    off. `probe`: a place whose colour comes with each frame, before and after; outside 0 to 1 for none. `sitting`: who is before
    the stand-in camera. `look` comes back with the frames from the first that shows it on. `watched`: the layer of
    which each frame says where what is driven stands; "" for none. `scored`: each frame says what the effect listens to.
    `rehearsing`: the effect's own rehearsal is played in a loop.
    """

    viewer: int
    playing: bool | None = None
    frame: int | None = None
    bare: bool | None = None
    wipe: float | None = None
    speed: float | None = None
    muted: tuple[str, ...] | None = None
    screen: str | None = None
    short: int | None = None
    scope: str | None = None
    region: tuple[float, float, float, float] | None = None
    clipping: bool | None = None
    probe: tuple[float, float] | None = None
    sitting: Sitting | None = None
    look: int | None = None
    watched: str | None = None
    scored: bool | None = None
    rehearsing: bool | None = None


@dataclass(frozen=True)
class Done:
    """What a hand does at the workbench, as if it wore the effect: a finger on the picture, a cue given by name, dials turned.
    `anew`: what was done before is forgotten, and the clock goes back to the start. `asks`: what was done is wanted back, as a
    rehearsal."""

    viewer: int
    touch: Finger | None = None
    cue: str | None = None
    dials: Mapping[str, float] = field(default_factory=dict)
    anew: bool = False
    asks: bool = False


@dataclass(frozen=True)
class Acknowledge:
    """The viewer has drawn `count` frames, tiles or scopes."""

    viewer: int
    kind: str
    count: int = 1


@dataclass(frozen=True)
class Leave:
    viewer: int


@dataclass(frozen=True)
class Ping:
    """Answered at once; a process that does not is ended and started again."""


Request = SetEffects | Forget | Move | View | Done | Acknowledge | Leave | Ping


@dataclass(frozen=True)
class Reply:
    """To a viewer: `header` is JSON for the browser, `payload` a picture file or nothing. Viewer 0 answers a ping."""

    viewer: int
    header: dict[str, Any]
    payload: bytes = b""
