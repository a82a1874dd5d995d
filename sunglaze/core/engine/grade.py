"""Apply a lookup to a picture of floats, and resample it to another cube. The rules are those of core/nodes/lookup.py."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.colour.layouts import Interpolation
from sunglaze.core.colour.lut import Floats, Lut, cube, inputs_of, neutral
from sunglaze.core.engine.running import run
from sunglaze.core.language.vector import rgba
from sunglaze.core.moment.moment import Moment
from sunglaze.core.nodes.colour import lookup_table
from sunglaze.core.nodes.lookup import domain_uniforms, lookup_symbol
from sunglaze.core.passes.program import Inputs, Program, source, uniform


def lookup_program(lut: Lut, interpolation: Interpolation = "tetrahedral") -> Program:
    """A program that grades its camera picture by the table `lut` at uniform `strength`."""
    table = lookup_symbol("lut", lut.is_cube, lut.has_unit_domain)
    return Program((lookup_table(rgba(source(), 1.0), table, uniform("strength"), interpolation),))


def apply_lut(
    lut: Lut, picture: NDArray[np.floating], strength: float = 1.0, interpolation: Interpolation = "tetrahedral"
) -> Floats:
    """The graded picture. `picture` (height, width, 3), floats of any range; inputs are clamped to the domain."""
    inputs = Inputs({"strength": strength, **domain_uniforms("lut", lut)}, {"lut": lut.padded})
    return run(lookup_program(lut, interpolation), Moment.of(picture.astype(np.float32)), inputs)[0]


def resampled(lut: Lut, size: int) -> Lut:
    """The same lookup as a cube of `size` steps over 0 to 1; the table itself where it is one already."""
    if lut.is_cube and lut.size == size and lut.has_unit_domain:
        return lut
    points = inputs_of(neutral(size)).reshape(size, size * size, 3)
    table = apply_lut(lut, points).reshape(size, size, size, 3)
    return cube(table, title=lut.title)
