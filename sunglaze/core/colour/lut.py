"""Lookup tables as data: a cube of colours, or three curves. Reading and writing them is in cube_file.py and lut_picture.py."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float32]
Triple = tuple[float, float, float]


@dataclass(frozen=True, eq=False)
class Lut:
    """A lookup table.

    `table` has shape (N, N, N, 3), indexed [blue, green, red], for a cube, and (N, 3) for three curves; float32, of any
    range. `domain_min` and `domain_max` are the inputs at the first and last entry of each channel.
    """

    table: Floats
    domain_min: Triple = (0.0, 0.0, 0.0)
    domain_max: Triple = (1.0, 1.0, 1.0)
    title: str = ""

    @property
    def size(self) -> int:
        """Entries along one axis."""
        return int(self.table.shape[0])

    @property
    def is_cube(self) -> bool:
        """Whether it is a cube; else it is three curves."""
        return self.table.ndim == 4

    @property
    def has_unit_domain(self) -> bool:
        """Whether its inputs are 0 to 1."""
        return self.domain_min == (0.0, 0.0, 0.0) and self.domain_max == (1.0, 1.0, 1.0)

    @cached_property
    def padded(self) -> Floats:
        """The table with a fourth channel of zeros, as kernels read it: 16 bytes an entry."""
        return np.ascontiguousarray(np.concatenate([self.table, np.zeros_like(self.table[..., :1])], axis=-1))


def cube(table: ArrayLike, domain_min: Triple = (0, 0, 0), domain_max: Triple = (1, 1, 1), title: str = "") -> Lut:
    """A lookup from anything of shape (N, N, N, 3), [blue, green, red], or (N, 3)."""
    low, high = (tuple(float(v) for v in end) for end in (domain_min, domain_max))
    return Lut(np.ascontiguousarray(table, np.float32), low, high, title)  # type: ignore[arg-type]


def neutral(size: int) -> Lut:
    """The cube that changes nothing: entry (b, g, r) is (r, g, b) / (size - 1)."""
    ramp = np.linspace(0.0, 1.0, size, dtype=np.float32)
    blue, green, red = np.meshgrid(ramp, ramp, ramp, indexing="ij")
    return Lut(np.stack([red, green, blue], axis=-1))


def inputs_of(lut: Lut) -> Floats:
    """The colour at which each entry of the table stands; the shape of the table."""
    axes = [np.linspace(low, high, lut.size, dtype=np.float64) for low, high in zip(lut.domain_min, lut.domain_max, strict=True)]
    if not lut.is_cube:
        return np.stack(axes, axis=-1).astype(np.float32)
    blue, green, red = np.meshgrid(axes[2], axes[1], axes[0], indexing="ij")
    return np.stack([red, green, blue], axis=-1).astype(np.float32)
