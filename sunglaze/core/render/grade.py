"""Apply a lookup to a picture of floats, and resample it to another cube. The rules are those of core/nodes/lookup.py."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.colour.lut import Floats, Lut, cube, inputs_of, neutral
from sunglaze.core.effect.literals import LookupRef, Material, domain_uniforms, symbol
from sunglaze.core.nodes.colour import lookup_table
from sunglaze.core.nodes.types import Type
from sunglaze.core.render.running import render_floats
from sunglaze.core.shading.program import Inputs, Program, source, uniform
from sunglaze.core.shading.vector import rgba

Interpolation = Literal["tetrahedral", "trilinear"]
_NAMELESS = LookupRef("0" * 64)


def lookup_program(lut: Lut, interpolation: Interpolation = "tetrahedral") -> Program:
    """A program that grades its camera picture by the table `lut` at uniform `strength`."""
    table = symbol(Type("lookup"), {"asset": _NAMELESS.asset}, "lut", Material({_NAMELESS: lut}).known)
    return Program((lookup_table(rgba(source(), 1.0), table, uniform("strength"), interpolation),))


def apply_lut(
    lut: Lut, picture: NDArray[np.floating], strength: float = 1.0, interpolation: Interpolation = "tetrahedral"
) -> Floats:
    """The graded picture. `picture` (height, width, 3), floats of any range; inputs are clamped to the domain."""
    inputs = Inputs({"strength": strength, **domain_uniforms("lut", lut)}, {"lut": lut.padded})
    return render_floats(lookup_program(lut, interpolation), picture.astype(np.float32), inputs)[0]


def resampled(lut: Lut, size: int) -> Lut:
    """The same lookup as a cube of `size` steps over 0 to 1; the table itself where it is one already."""
    if lut.is_cube and lut.size == size and lut.has_unit_domain:
        return lut
    points = inputs_of(neutral(size)).reshape(size, size * size, 3)
    table = apply_lut(lut, points).reshape(size, size, size, 3)
    return cube(table, title=lut.title)
