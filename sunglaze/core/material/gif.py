"""GIF: its pictures as they are seen one after the other, put together as the specification says (GIF89a, CompuServe, 1990).

Pillow decodes what each picture holds; where it lies, what of it is clear and what becomes of it afterwards is read here.
"""

from __future__ import annotations

import io
import struct
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from sunglaze.core.errors import BadFile

SIGNATURES = (b"GIF87a", b"GIF89a")
TICK_MS = 10
CLEARED, AS_BEFORE = 2, 3
"""Disposals: what is under the picture is cleared, or is again what was there before it. The others leave it."""
COLOURS = 256
Bytes = NDArray[np.uint8]


@dataclass(frozen=True)
class _Part:
    """One picture: its rectangle, what becomes of it, its milliseconds, colours, and the bytes that hold its pixels."""

    left: int
    top: int
    width: int
    height: int
    disposal: int
    milliseconds: int
    clear: int | None
    colours: Bytes
    flags: int
    data: bytes

    @property
    def area(self) -> tuple[slice, slice]:
        """Rows and columns."""
        return slice(self.top, self.top + self.height), slice(self.left, self.left + self.width)

    def indices(self) -> Bytes:
        """(height, width) places among the colours, in order of rows, also where they were stored interlaced."""
        screen = struct.pack("<HHBBB", self.width, self.height, 0xF7, 0, 0) + bytes(3 * COLOURS)
        place = b"," + struct.pack("<HHHHB", 0, 0, self.width, self.height, self.flags & 0x40)
        with Image.open(io.BytesIO(SIGNATURES[1] + screen + place + self.data + b";"), formats=("GIF",)) as image:
            return np.asarray(image if image.mode == "P" else image.convert("L"), np.uint8)


@dataclass(frozen=True)
class Gif:
    """What was read of a file before any of its pixels was decoded. `size`: width and height in pixels."""

    size: tuple[int, int]
    parts: tuple[_Part, ...]

    @property
    def milliseconds(self) -> list[int]:
        """How long each picture asks to be shown."""
        return [part.milliseconds for part in self.parts]

    def shown(self) -> Iterator[Bytes]:
        """What is seen of each picture: (height, width, 4), straight alpha, 0 or 255; what nothing was drawn on is clear. Raises
        OSError where pixels are damaged."""
        width, height = self.size
        canvas = np.zeros((height, width, 4), np.uint8)
        for part in self.parts:
            before = canvas.copy() if part.disposal == AS_BEFORE else canvas
            rows, columns = part.area
            under = canvas[rows, columns]
            indices = part.indices()[: under.shape[0], : under.shape[1]]
            drawn = indices != part.clear if part.clear is not None else np.ones(indices.shape, bool)
            under[drawn] = part.colours[indices[drawn]]
            yield canvas.copy()
            if part.disposal == CLEARED:
                under[:] = 0
            canvas = before


def read_gif(data: bytes) -> Gif:
    """A GIF's parts. Raises BadFile where its blocks do not follow each other as they must."""
    try:
        return _read(data)
    except (IndexError, struct.error):
        raise BadFile("the GIF ends in the middle; is the file whole?") from None


def _read(data: bytes) -> Gif:
    if data[:6] not in SIGNATURES:
        raise BadFile("this is no GIF")
    width, height, flags = struct.unpack_from("<HHB", data, 6)
    everywhere, at = _colours(data, 13, flags)
    parts: list[_Part] = []
    control: tuple[int, int, int | None] = (0, 0, None)
    while (kind := data[at : at + 1]) == b"!" or kind == b",":
        if kind == b"!":
            if data[at + 1] == 0xF9:
                packed, ticks, clear = struct.unpack_from("<BHB", data, at + 3)
                control = (packed >> 2) & 7, ticks * TICK_MS, clear if packed & 1 else None
            at = _behind_blocks(data, at + 2)
            continue
        left, top, wide, tall, flags = struct.unpack_from("<HHHHB", data, at + 1)
        own, first = _colours(data, at + 10, flags)
        at = _behind_blocks(data, first + 1)
        if wide and tall:
            colours = own if own is not None else everywhere
            parts.append(_Part(left, top, wide, tall, *control, _opaque(colours), flags, data[first:at]))
        control = (0, 0, None)
    # What stands behind the pictures is nothing, as browsers have it: many files end without their last byte, or on more of them.
    if not parts:
        raise BadFile("the GIF has no picture in it; is the file whole?")
    # They make room for a first picture that is larger than the screen that the file names, too (common practice, no source).
    size = max(width, parts[0].left + parts[0].width), max(height, parts[0].top + parts[0].height)
    if any(part.width > size[0] or part.height > size[1] for part in parts):
        raise BadFile("the GIF has a picture in it that is larger than the GIF itself; is the file whole?")
    return Gif(size, tuple(parts))


def _colours(data: bytes, at: int, flags: int) -> tuple[Bytes | None, int]:
    """A table of colours (n, 3), where the flags say that there is one, and where it ends."""
    if not flags & 0x80:
        return None, at
    behind = at + 3 * (2 << (flags & 7))
    if behind > len(data):
        raise IndexError
    return np.frombuffer(data[at:behind], np.uint8).reshape(-1, 3), behind


def _opaque(colours: Bytes | None) -> Bytes:
    """All 256 colours with alpha: what the table does not name is black; without a table the second is white."""
    found = np.zeros((COLOURS, 4), np.uint8)
    found[:, 3] = 255
    table = np.array([[0, 0, 0], [255, 255, 255]], np.uint8) if colours is None else colours
    found[: len(table), :3] = table
    return found


def _behind_blocks(data: bytes, at: int) -> int:
    """Where a row of data blocks ends, behind the empty one that ends it."""
    while length := data[at]:
        at += 1 + length
    return at + 1
