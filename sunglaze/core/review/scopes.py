"""Scopes: where a picture's values lie, as small pictures. Input: sRGB pixels (height, width, 3) of bytes, red first.

Waveform and parade stand a column of the picture over each column of the scope, values from the foot (0) to the head (255). The
vectorscope lays ITU-R BT.709's colour differences on a plane, Cb to the right and Cr up, and draws the line near which skin lies
(the I axis of the NTSC colour system, 123 degrees from +Cb; the Monk tones lie within 30 degrees of it).
"""

from __future__ import annotations

import math
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.material.files import Bytes

Scope = Literal["histogram", "waveform", "parade", "vectorscope"]
SCOPES: tuple[Scope, ...] = get_args(Scope)
WIDTH, HEIGHT = 256, 128
SKIN_ANGLE = 123.0
GROUND = 36
_INK = np.array([[224, 96, 84], [112, 184, 96], [104, 144, 224]], np.float32)
_LUMA = np.array([0.2126, 0.7152, 0.0722], np.float32)


def scope(kind: Scope, pixels: Bytes) -> Bytes:
    """A scope's picture: (128, 256, 3); the vectorscope's is (256, 256, 3)."""
    return {"histogram": histogram, "waveform": waveform, "parade": parade, "vectorscope": vectorscope}[kind](pixels)


def counts(pixels: Bytes) -> NDArray[np.int64]:
    """How many pixels have each value: (3, 256), red, green, blue."""
    return np.stack([np.bincount(pixels[..., channel].ravel(), minlength=256) for channel in range(3)])


def histogram(pixels: Bytes) -> Bytes:
    """Three curves over each other, each value a column. Tall peaks are cut at the 99th percentile, so that the rest is seen.
    `pixels`: (rows, columns, 3) of bytes, as the picture that is given back."""
    found = counts(pixels).astype(np.float32)
    top = max(1.0, float(np.percentile(found, 99)))
    heights = np.minimum(found / top, 1.0) * (HEIGHT - 8)
    rows = np.arange(HEIGHT, 0, -1, dtype=np.float32)[:, None]
    out = _ground(HEIGHT, WIDTH)
    for channel in range(3):
        out += np.where(rows <= heights[channel][None, :], 1.0, 0.0)[..., None] * _INK[channel] * 0.62
    return _bytes(out)


def traces(values: NDArray[np.uint8], columns: int) -> NDArray[np.float32]:
    """How often each value stands in each of so many columns of a picture's channel: (256, columns), value 0 in the first row."""
    width = values.shape[1]
    column = np.arange(width) * columns // width
    flat = values.astype(np.int64) * columns + column[None, :]
    found: NDArray[np.int64] = np.bincount(flat.ravel(), minlength=256 * columns)
    return found.astype(np.float32).reshape(256, columns)


def _drawn(trace: NDArray[np.float32], rows: int) -> NDArray[np.float32]:
    """Traces as light, head up, as bright as the logarithm of how often."""
    pooled = trace.reshape(HEIGHT, 2, -1).sum(axis=1)[::-1]
    light: NDArray[np.float32] = np.minimum(np.log1p(pooled) / np.log1p(max(4.0, rows / 6)), 1.0)
    return light


def waveform(pixels: Bytes) -> Bytes:
    """Luma (ITU-R BT.709) from left to right. `pixels`: (rows, columns, 3) of bytes."""
    luma = np.rint(pixels.astype(np.float32) @ _LUMA).astype(np.uint8)
    light = _drawn(traces(luma, WIDTH), pixels.shape[0])
    return _bytes(_ruled(_ground(HEIGHT, WIDTH)) + light[..., None] * np.array([220, 216, 204], np.float32))


def parade(pixels: Bytes) -> Bytes:
    """Red, green and blue, side by side. `pixels`: (rows, columns, 3) of bytes, as the picture that is given back."""
    each = (WIDTH - 4) // 3
    out = _ruled(_ground(HEIGHT, WIDTH))
    for channel in range(3):
        light = _drawn(traces(pixels[..., channel], each), pixels.shape[0])
        left = channel * (each + 2)
        out[:, left : left + each] += light[..., None] * _INK[channel]
    return _bytes(out)


def differences(pixels: Bytes) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Cb and Cr of ITU-R BT.709, -0.5 to 0.5, a number a pixel. `pixels`: (rows, columns, 3) of bytes."""
    rgb = pixels.reshape(-1, 3).astype(np.float32) / 255
    luma = rgb @ _LUMA
    cb: NDArray[np.float32] = ((rgb[:, 2] - luma) / 1.8556).astype(np.float32)
    cr: NDArray[np.float32] = ((rgb[:, 0] - luma) / 1.5748).astype(np.float32)
    return cb, cr


def vectorscope(pixels: Bytes) -> Bytes:
    """Colour differences as points in their own colour, grey in the middle, and the skin line. `pixels`: (rows, columns, 3) of
    bytes."""
    side = WIDTH
    cb, cr = differences(pixels)
    x = np.clip(np.rint((cb + 0.5) * (side - 1)), 0, side - 1).astype(np.int64)
    y = np.clip(np.rint((0.5 - cr) * (side - 1)), 0, side - 1).astype(np.int64)
    place = y * side + x
    found = np.bincount(place, minlength=side * side).astype(np.float32)
    colour = np.stack([np.bincount(place, pixels[..., c].ravel(), side * side) for c in range(3)], axis=-1)
    colour = (colour / np.maximum(found, 1)[:, None]).reshape(side, side, 3).astype(np.float32)
    light = np.minimum(0.35 + np.log1p(found) / 5, 1.0).reshape(side, side, 1) * (found > 0).reshape(side, side, 1)
    out = _ground(side, side)
    middle = (side - 1) / 2
    rows, columns = np.indices((side, side))
    radius = np.hypot(rows - middle, columns - middle)
    out[np.abs(radius - middle * 0.75) < 0.7] = 84
    out[(np.abs(rows - middle) < 0.7) | (np.abs(columns - middle) < 0.7)] = 60
    reach = np.linspace(0, middle * 0.98, 400)
    angle = math.radians(SKIN_ANGLE)
    line = np.rint(middle - reach * math.sin(angle)).astype(int), np.rint(middle + reach * math.cos(angle)).astype(int)
    out[line] = 210
    return _bytes(np.where(light > 0, np.maximum(colour, 90) * light + out * (1 - light), out))


def _ground(rows: int, columns: int) -> NDArray[np.float32]:
    return np.full((rows, columns, 3), GROUND, np.float32)


def _ruled(ground: NDArray[np.float32]) -> NDArray[np.float32]:
    """Lines at a quarter, a half and three quarters."""
    for part in (1, 2, 3):
        ground[HEIGHT * part // 4] = 66
    return ground


def _bytes(picture: NDArray[np.float32]) -> Bytes:
    return np.clip(picture, 0, 255).astype(np.uint8)
