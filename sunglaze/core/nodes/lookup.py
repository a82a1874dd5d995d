"""Reading a three-dimensional lookup table at a colour: tetrahedral and trilinear."""

from __future__ import annotations

from sunglaze.core.colour.lut import Lut
from sunglaze.core.language.expression import Value, cube_entry, curve_entry, leaf, record
from sunglaze.core.language.vector import Vec, clamp01, floor, maximum, minimum, mix, mix3, select3, to_float, to_int
from sunglaze.core.nodes.node import Table


def lookup_symbol(name: str, is_cube: bool, has_unit_domain: bool) -> Table:
    """A lookup of a program under a name; its domain, where that is not 0 to 1, comes as uniforms (`domain_uniforms`)."""
    if has_unit_domain:
        return Table(name, is_cube)
    low, high = (Vec(*(leaf("uniform", f"{name}.domain_{end}.{c}") for c in range(3))) for end in ("min", "max"))
    return Table(name, is_cube, (low, high))


def domain_uniforms(name: str, lut: Lut) -> dict[str, float]:
    """Values for the uniforms of a lookup's domain where that is not 0 to 1."""
    if lut.has_unit_domain:
        return {}
    both = (("min", lut.domain_min), ("max", lut.domain_max))
    return {f"{name}.domain_{end}.{c}": values[c] for end, values in both for c in range(3)}


def _axis(x: Value, last: Value) -> tuple[Value, Value]:
    """Lower grid index and fraction (0 to 1) along one axis for x in 0 to 1; the last cell takes x = 1."""
    scaled = clamp01(x) * to_float(last)
    low = minimum(floor(scaled), to_float(last) - 1.0)
    return to_int(low), scaled - low


def _entry(name: str, i: Value, j: Value, k: Value) -> Vec:
    return Vec(*(cube_entry(name, i, j, k, channel) for channel in range(3)))


def _grid(name: str, colour: Vec) -> tuple[list[Value], list[Value]]:
    last = record("isub", leaf("table_size", name), 1)
    pairs = [_axis(x, last) for x in colour.parts()]
    return [index for index, _ in pairs], [fraction for _, fraction in pairs]


def _plus(index: Value, condition: Value) -> Value:
    return record("iadd", index, record("bool_to_int", condition))


def tetrahedral(name: str, colour: Vec) -> Vec:
    """The table `name` at a colour in 0 to 1, by the tetrahedron that holds it.

    Kanamori, Fumoto and Kotera, "Color transformation algorithms using prism interpolation" (1993), in the form that sorts
    the three fractions: the corners on the way from the cell's low to its high corner, largest fraction first.
    """
    (i, j, k), (x, y, z) = _grid(name, colour)
    xy, yz, xz = x >= y, y >= z, x >= z
    x_first, z_first = xy & xz, ~yz & ~xz
    y_first = ~(x_first | z_first)
    x_last, z_last = ~xy & ~xz, yz & xz
    y_last = ~(x_last | z_last)
    high = maximum(maximum(x, y), z)
    low = minimum(minimum(x, y), z)
    middle = maximum(minimum(x, y), minimum(maximum(x, y), z))
    near = _entry(name, i, j, k)
    second = _entry(name, _plus(i, x_first), _plus(j, y_first), _plus(k, z_first))
    third = _entry(name, _plus(i, ~x_last), _plus(j, ~y_last), _plus(k, ~z_last))
    far = _entry(name, *(record("iadd", index, 1) for index in (i, j, k)))
    return near * (1.0 - high) + second * (high - middle) + third * (middle - low) + far * low


def trilinear(name: str, colour: Vec) -> Vec:
    """The table `name` at a colour in 0 to 1, by linear interpolation along red, then green, then blue."""
    (i, j, k), (x, y, z) = _grid(name, colour)
    ends = [(index, record("iadd", index, 1)) for index in (i, j, k)]
    planes = []
    for depth in ends[2]:
        rows = [mix3(_entry(name, ends[0][0], row, depth), _entry(name, ends[0][1], row, depth), x) for row in ends[1]]
        planes.append(mix3(rows[0], rows[1], y))
    return mix3(planes[0], planes[1], z)


def piecewise(name: str, colour: Vec) -> Vec:
    """Each part of a colour through its own curve, the three columns of the table `name`, by linear interpolation."""
    last = record("isub", leaf("table_size", name), 1)

    def curve(x: Value, channel: int) -> Value:
        index, fraction = _axis(x, last)
        after = record("iadd", index, 1)
        return mix(curve_entry(name, index, channel), curve_entry(name, after, channel), fraction)

    return Vec(*(curve(x, channel) for channel, x in enumerate(colour.parts())))


def graded(
    name: str,
    colour: Vec,
    strength: Value,
    interpolation: str = "tetrahedral",
    is_cube: bool = True,
    domain: tuple[Vec, Vec] | None = None,
) -> Vec:
    """A colour on its way to what the lookup makes of it: strength 0 leaves it, 1 is the lookup.

    `domain`: the inputs at the table's first and last entries, which must differ; 0 to 1 where not given.
    """
    place = (colour - domain[0]) / (domain[1] - domain[0]) if domain else colour
    if not is_cube:
        looked_up = piecewise(name, place)
    elif interpolation == "trilinear":
        looked_up = trilinear(name, place)
    else:
        looked_up = tetrahedral(name, place)
    # At full strength the lookup itself: far outside the domain, mixing would cancel it away.
    return select3(strength >= 1.0, looked_up, mix3(colour, looked_up, strength))
