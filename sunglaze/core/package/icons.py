"""Icons of packages: a square of a frame as the effect shows it, or of a picture."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.cameras import Camera
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.effect.compiling import Compiled
from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.listing import ICON, ICON_FRAME, IconAt, Seen
from sunglaze.core.engine.playback import play_to
from sunglaze.core.material.files import encode_png, with_alpha
from sunglaze.core.moment.moment import RATE, Source
from sunglaze.core.moment.rehearsal import Rehearsed
from sunglaze.core.targets.memory import parts_of

Bytes = NDArray[np.uint8]


def source_of(effect: Effect, seen: Seen, size: tuple[int, int], own: Camera | None) -> Source:
    """Who is before the camera, with the effect's rehearsal. `size`: columns and rows; `own`: what the effect is looked at on,
    where that is footage."""
    camera = own.sized(*size) if seen.own and own is not None else StandIn(*size, Sitting(seen.who, seen.script, seen.light))
    return Rehearsed(camera, effect.rehearsal) if effect.rehearsal is not None else camera


def icon_png(effect: Effect, compiled: Compiled, at: IconAt, own: Camera | None = None, picture: Bytes | None = None) -> bytes:
    """A square PNG of ICON pixels. `picture`: (rows, columns, 3 or 4) of bytes, in a frame's place, on white where it
    is clear."""
    if picture is None:
        source = source_of(effect, at.seen, ICON_FRAME, own)
        drawn = play_to(compiled.program.final, compiled.inputs, source, int(at.seconds * RATE + 1e-9))
        shown = parts_of(drawn, ICON_FRAME[0])[:, :, 2::-1]
    else:
        whole = with_alpha(picture).astype(float)
        alpha = whole[:, :, 3:] / 255
        shown = np.rint(whole[:, :, :3] * alpha + 255 * (1 - alpha)).astype(np.uint8)
    return encode_png(cv2.resize(_square(shown, at), (ICON, ICON), interpolation=cv2.INTER_AREA), 9)


def _square(picture: Bytes, at: IconAt) -> Bytes:
    """The part of a picture (rows, columns, 3) that an icon shows; it never reaches outside."""
    rows, columns = picture.shape[:2]
    side = max(1, min(rows, columns, round(at.side * columns)))
    left = min(max(0, round(at.u * columns - side / 2)), columns - side)
    top = min(max(0, round(at.v * rows - side / 2)), rows - side)
    return np.ascontiguousarray(picture[top : top + side, left : left + side])
