"""Lookup tables as pictures, in the three layouts of docs/formats.md: strip, grid and Hald; 8 and 16 bits a channel.

All: red grows to the right, green downwards, blue by slice. strip: N slices in a row, N*N by N. grid: sqrt(N) by sqrt(N)
slices, row by row. hald: the entries one after another, red fastest, as wide as high (Hald CLUT, the layout that FFmpeg's
haldclutsrc writes). Grid and Hald exist for square N and have the same size, so the contents decide between them.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.colour.layouts import LARGEST_CUBE, SMALLEST, Layout
from sunglaze.core.colour.lut import Lut, cube
from sunglaze.core.errors import BadFile
from sunglaze.core.material.files import PictureFile, encode_png, picture_size, read_picture

CLEARLY_SMOOTHER = 0.8
"""Ratio of roughness below which one reading of a square picture is taken over the other (chosen by trial)."""


@dataclass(frozen=True)
class Reading:
    """What a picture was read as. `sure` is False where the contents fit two layouts and grid was taken."""

    lut: Lut
    layout: Layout
    bits: int
    sure: bool
    file: PictureFile


def fitting_layouts(width: int, height: int) -> list[tuple[Layout, int]]:
    """Layouts with their N that a picture of this size can have."""
    found: list[tuple[Layout, int]] = []
    if SMALLEST <= height <= LARGEST_CUBE and width == height * height:
        found.append(("strip", height))
    level = round(width ** (1 / 3))
    if width == height == level**3 and SMALLEST <= level**2 <= LARGEST_CUBE:
        found += [("grid", level**2), ("hald", level**2)]
    return found


def read_lut_picture(data: bytes, layout: Layout | None = None) -> Reading:
    """A lookup from a picture file. `layout` overrides what would be found. Raises BadFile naming the size that is wrong."""
    width, height = picture_size(data)
    fits = dict(fitting_layouts(width, height))
    if not fits or (layout and layout not in fits):
        what = f"the {layout} layout" if layout and fits else "any lookup layout"
        raise BadFile(f"a picture of {width} by {height} pixels does not fit {what}; {_nearest(width, height)}")
    file = read_picture(data)
    scale = 255.0 if file.bits == 8 else 65535.0
    colours = file.pixels[:, :, :3].astype(np.float64) / scale
    sure = True
    found: Layout
    if layout is not None:
        found = layout
    elif len(fits) > 1:
        found, sure = _smoother(colours, fits["grid"])
    else:
        found = next(iter(fits))
    return Reading(cube(_unfold(colours, found, fits[found])), found, file.bits, sure, file)


def _nearest(width: int, height: int) -> str:
    sizes = {(n * n, n): f"{n * n} by {n} (a row of {n} slices)" for n in (16, 25, 32, 33, 64)}
    sizes |= {(s**3, s**3): f"{s**3} by {s**3} (grid or Hald of {s * s} steps)" for s in (4, 5, 6, 7, 8)}
    near = sorted(sizes, key=lambda s: abs(math.log(s[0] / width)) + abs(math.log(s[1] / height)))[:2]
    return "the nearest that do are " + " and ".join(sizes[s] for s in near) + ". Export it without scaling or cropping"


def _smoother(colours: NDArray[np.float64], size: int) -> tuple[Layout, bool]:
    """Which of grid and Hald gives the smoother cube, and whether clearly so."""
    grid, hald = (_roughness(_unfold(colours, which, size)) for which in ("grid", "hald"))
    if hald < grid * CLEARLY_SMOOTHER:
        return "hald", True
    return "grid", grid < hald * CLEARLY_SMOOTHER


def _roughness(table: NDArray[np.float64]) -> float:
    return float(sum(np.abs(np.diff(table, axis=axis)).mean() for axis in range(3)))


def _unfold(colours: NDArray[np.float64], layout: str, n: int) -> NDArray[np.float64]:
    """Picture (height, width, 3) to table [blue, green, red, channel]."""
    if layout == "strip":
        return colours.reshape(n, n, n, 3).transpose(1, 0, 2, 3)
    if layout == "grid":
        s = math.isqrt(n)
        return colours.reshape(s, n, s, n, 3).transpose(0, 2, 1, 3, 4).reshape(n, n, n, 3)
    return colours.reshape(n, n, n, 3)


def _fold(table: NDArray[np.float32], layout: Layout) -> NDArray[np.float32]:
    n = table.shape[0]
    s = math.isqrt(n)
    if layout == "strip":
        return table.transpose(1, 0, 2, 3).reshape(n, n * n, 3)
    if layout == "grid":
        return table.reshape(s, s, n, n, 3).transpose(0, 2, 1, 3, 4).reshape(s * n, s * n, 3)
    return table.reshape(s * n, s * n, 3)


def write_lut_picture(lut: Lut, layout: Layout, bits: int = 16) -> bytes:
    """The cube as a PNG. Raises BadFile where N does not fit the layout; values are clamped to 0 to 1."""
    if not lut.is_cube or not lut.has_unit_domain:
        raise BadFile("a lookup picture holds a cube over 0 to 1; resample the lookup first")
    if layout != "strip" and math.isqrt(lut.size) ** 2 != lut.size:
        raise BadFile(f"the {layout} layout takes a square number of steps (16, 25, 36, 49, 64), this is {lut.size}")
    scale = 255 if bits == 8 else 65535
    picture = np.rint(np.clip(_fold(lut.table, layout).astype(np.float64), 0, 1) * scale).astype(np.uint16)
    return encode_png(picture.astype(np.uint8) if bits == 8 else picture)
