"""How pictures lie in memory where machine code reads and fills them: aligned, rows padded to whole groups of lanes."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.targets.llvm_reads import LANES

Words = NDArray[np.uint32]
"""A picture of one 32-bit word a pixel, (height, padded width)."""
Surface = NDArray[Any]
"""A picture as kernels take it: words (height, padded width), uint32, or planes (channels, height, padded width), float32."""

_LINE = 64
"""Bytes of a cache line. Vectors that lie across two take twice as long to read."""


def memory(shape: tuple[int, ...], kind: type[np.generic], filled: bool = True) -> Surface:
    """Memory that starts at a whole cache line: zeros, or whatever is there if it need not be `filled`."""
    size = math.prod(shape) * np.dtype(kind).itemsize
    raw = (np.zeros if filled else np.empty)(size + _LINE, np.uint8)
    start = -raw.ctypes.data % _LINE
    return raw[start : start + size].view(kind).reshape(shape)


def in_line(array: NDArray[Any]) -> NDArray[Any]:
    """A copy that starts at a whole cache line and has no gaps. Of any shape (n, ...)."""
    copy = memory(array.shape, array.dtype.type, filled=False)
    copy[...] = array
    return copy


def padded(width: int) -> int:
    """Words a row takes in memory."""
    return -(-width // LANES) * LANES


def blank(height: int, width: int) -> Words:
    """A picture's memory with padded rows, one 32-bit word a pixel; shape (height, padded width)."""
    return memory((height, padded(width)), np.uint32)


def words(pixels: NDArray[np.uint8], mask: NDArray[np.uint8] | None) -> Words:
    """A picture (height, width, 3 or more), red first, and a mask (height, width; none means nobody) as words."""
    height, width = pixels.shape[:2]
    out = blank(height, width)
    parts = out.view(np.uint8).reshape(height, -1, 4)
    parts[:, :width, :3] = pixels[:, :, :3]
    if mask is not None:
        parts[:, :width, 3] = mask
    return out


def parts_of(picture: Words, width: int) -> NDArray[np.uint8]:
    """Words as (height, width, 4) without the padding of rows; shares memory. Cameras put red first, engines blue."""
    return picture.view(np.uint8).reshape(picture.shape[0], -1, 4)[:, :width]


def planes(pixels: NDArray[Any], channels: int | None = None, into: Surface | None = None) -> Surface:
    """A picture (height, width, channels), float32 or bytes, as planes with padded rows; bytes become 0 to 1. Where there are
    three and four are wanted, the fourth is 1. `into`: memory of another picture that is needed no more; it is filled where it
    has this one's shape and width."""
    height, width, held = pixels.shape
    shape = (channels or held, height, padded(width))
    out = into if into is not None and into.shape == shape else memory(shape, np.float32)
    filled, numbers = out[:held, :, :width], np.moveaxis(pixels, 2, 0)[: shape[0]]
    if pixels.dtype == np.uint8:
        np.divide(numbers, np.float32(255), out=filled, dtype=np.float32)
    else:
        filled[...] = numbers
    if held == 3 and out.shape[0] == 4:
        out[3] = 1.0
    return out


def seen_as_floats(picture: NDArray[Any], width: int) -> NDArray[np.float32]:
    """A moment's picture, of whichever form, as (height, width, 3 or 4), 0 to 1."""
    pixels: NDArray[Any] = parts_of(picture, width) if picture.dtype == np.uint32 else picture
    seen: NDArray[np.float32] = pixels.astype(np.float32)
    return seen / np.float32(255) if pixels.dtype == np.uint8 else seen


def seen_as_surface(picture: NDArray[Any]) -> Surface:
    """A moment's picture, of whichever form, as kernels take the camera's: words for bytes, four planes for floats. (rows,
    padded columns) or (4, rows, padded columns)."""
    if picture.dtype == np.uint32:
        return picture
    if picture.dtype == np.uint8:
        return words(picture, picture[..., 3] if picture.shape[2] == 4 else None)
    return planes(picture, 4)
