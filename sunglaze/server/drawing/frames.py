"""Pictures of cameras: frames, masks and moments of who sits there, faces of the cast, icons, and files made small."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.cameras import Own, colours, screen_size
from sunglaze.core.camera.cast import KNOWN, Sitting, StandIn
from sunglaze.core.colour.lut import Lut
from sunglaze.core.colour.open_lut import open_lut
from sunglaze.core.engine.grade import apply_lut
from sunglaze.core.errors import BadFile
from sunglaze.core.material.files import encode_jpeg, encode_png, encode_webp
from sunglaze.core.material.footage import Footage
from sunglaze.core.moment.moment import Reads, write_moment
from sunglaze.core.prints.icons import layer_icon, node_icon
from sunglaze.core.prints.meshes import mesh_print
from sunglaze.server.drawing.desk import Desk, Patience
from sunglaze.server.drawing.messages import SHORT, Seat
from sunglaze.store import files, shelf
from sunglaze.store.effects import NotThere

QUALITY = 86
FACE = (slice(165, 615), slice(45, 495))
PRINT = 132
"""Pixels of the longer side of a small picture of a file."""
LONGEST, TRACKED_QUALITY = 960, 95
"""The longer side of what trackers are shown, in pixels, and its quality."""


def camera(desk: Desk, seat: Seat) -> StandIn | Own:
    """Raises NotThere or BadFile."""
    if not seat.own:
        return StandIn(*seat.size, seat.sitting)
    with desk.session() as session:
        return desk.own_cameras.get(session, seat.own, seat.size)


def length(desk: Desk, _patience: Patience, seat: Seat) -> int:
    """How many frames a camera has until it begins again."""
    return camera(desk, seat).length


def frame(desk: Desk, _patience: Patience, seat: Seat, number: int) -> bytes:
    """A frame as JPEG."""
    found = camera(desk, seat)
    return encode_jpeg(colours(found.frame(number), found.width), QUALITY)


def mask(desk: Desk, _patience: Patience, seat: Seat, region: str, number: int) -> bytes:
    """A region's mask in a frame as PNG, black where it is not known. Raises NotThere."""
    found = camera(desk, seat)
    if region == "person":
        pixels = found.frame(number).view(np.uint8).reshape(found.height, -1, 4)[:, : found.width, 3:]
    elif region in KNOWN:
        pixels = found.regions(number, [region]).get(region, np.zeros((found.height, found.width, 1), np.uint8))
    else:
        raise NotThere(f"the camera has no region '{region}'; it has {', '.join(KNOWN)}")
    return encode_png(pixels, 1)


def moment(desk: Desk, _patience: Patience, seat: Seat, number: int) -> dict[str, Any]:
    """The moment of a frame without its picture and masks, as core/moment writes it."""
    return write_moment(camera(desk, seat).moment(number, Reads(picture=False, faces=True)))


def face(_desk: Desk, _patience: Patience, who: str, light: str) -> bytes:
    """A performer's face, still, in a light, as JPEG."""
    return _face(who, light)


@lru_cache(maxsize=64)
def _face(who: str, light: str) -> bytes:
    size = screen_size("9:16", SHORT)
    picture = colours(StandIn(*size, Sitting(who, "still", light)).frame(0), SHORT)[FACE]
    return encode_jpeg(np.asarray(cv2.resize(picture, (128, 128), interpolation=cv2.INTER_AREA), np.uint8), QUALITY)


def icon_of_layer(_desk: Desk, _patience: Patience, kind: str, setting: int | None, sitting: Sitting) -> bytes:
    """A ready-made layer on who sits there, as PNG."""
    return layer_icon(kind, setting, sitting)


def icon_of_node(_desk: Desk, _patience: Patience, kind: str) -> bytes:
    """What a node gives by itself, as PNG."""
    return node_icon(kind)


def _footage(desk: Desk, key: str) -> Footage:
    with desk.session() as session:
        return desk.own_cameras.get(session, key, (1, 1)).footage


def footage_times(desk: Desk, _patience: Patience, key: str) -> list[float]:
    """Seconds at which the pictures of footage begin. Raises NotThere."""
    return list(_footage(desk, key).times)


def footage_picture(desk: Desk, _patience: Patience, key: str, number: int) -> bytes:
    """One picture as trackers are shown it, as JPEG. Raises BadFile where it has no such number."""
    source = _footage(desk, key)
    if number >= len(source.times):
        raise BadFile(f"it has {len(source.times)} pictures, the first being 0; there is no number {number}")
    return encode_jpeg(_within(source.picture(number), LONGEST), TRACKED_QUALITY)


def _within(pixels: NDArray[np.uint8], longest: int) -> NDArray[np.uint8]:
    """Made smaller where its longer side has more pixels."""
    scale = min(1.0, longest / max(pixels.shape[:2]))
    size = max(1, round(pixels.shape[1] * scale)), max(1, round(pixels.shape[0] * scale))
    return pixels if scale == 1.0 else np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), np.uint8)


def strip(desk: Desk, _patience: Patience, key: str, count: int, height: int) -> bytes:
    """So many pictures of a clip, evenly spread, side by side, as JPEG."""
    clip = _footage(desk, key)
    numbers = [min(int((n + 0.5) / count * len(clip.times)), len(clip.times) - 1) for n in range(count)]
    wide = max(1, round(clip.width * height / clip.height))
    some = [cv2.resize(clip.picture(n), (wide, height), interpolation=cv2.INTER_AREA) for n in numbers]
    return encode_jpeg(np.hstack(some), 80)


def print_of(desk: Desk, _patience: Patience, key: str, at: float) -> bytes:
    """A file, small, as WebP: a lookup as colours, the picture of a sequence or clip at a part of it. Raises BadFile where it
    holds no picture."""
    with desk.session() as session:
        row = files.asset(session, key)
        kind = shelf.kind_of(row) or ("sequence" if "sequence" in row.facts else None)
        if kind == "lookup":
            pixels = _colours(open_lut(row.data).lut)
        elif kind == "picture":
            pixels = files.read_pixels(session, key)
        elif kind == "sequence":
            sequence = files.read_sequence(session, key)
            pixels = sequence.each.frame(min(int(at * sequence.frames), sequence.frames - 1))
        elif kind == "mesh":
            pixels = mesh_print(files.read_mesh(session, key), PRINT)
        elif kind == "footage":
            clip = desk.own_cameras.get(session, key, (1, 1)).footage
            pixels = clip.picture(min(int(at * len(clip.times)), len(clip.times) - 1))
        else:
            raise BadFile(f"{row.name} holds no picture")
    return encode_webp(_within(pixels, PRINT), 82)


def _colours(lut: Lut) -> NDArray[np.uint8]:
    """What a lookup makes of hues across and of light down, (rows, columns, 3) of bytes."""
    hue, light = np.meshgrid(np.linspace(0, 1, 96, endpoint=False), np.linspace(1, 0, 64))
    turn = np.stack([np.abs((hue * 6 + shift) % 6 - 3) - 1 for shift in (0.0, 4.0, 2.0)], axis=-1)
    pure = np.clip(turn, 0, 1)
    plain = np.where(light[..., None] < 0.5, pure * light[..., None] * 2, 1 - (1 - pure) * (1 - light[..., None]) * 2)
    graded = apply_lut(lut, plain.astype(np.float32))
    return np.asarray(np.rint(np.clip(graded, 0, 1) * 255), np.uint8)
