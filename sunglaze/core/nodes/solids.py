"""Meshes of the shelf on the head: hung on a place as pins are, lit, and hidden by the head where they are behind it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Annotated, NamedTuple

from sunglaze.core.language import functions as f
from sunglaze.core.language import pictures as p
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value
from sunglaze.core.language.moments import moment
from sunglaze.core.language.vector import Vec
from sunglaze.core.nodes.face import held_number
from sunglaze.core.nodes.node import node
from sunglaze.core.nodes.pins import (
    HEAD,
    PINNED,
    TURNS,
    Centimetres,
    Head,
    Turn,
    Wide,
    anchor,
    axes,
    head_of,
    other_side,
    seen_from,
    seen_wide,
)
from sunglaze.core.nodes.skin import smooth_edge
from sunglaze.core.nodes.smaller import copy_as_seen, largest, people
from sunglaze.core.nodes.types import Boolean, Colour, Degrees, Fraction, Mask, Mesh, Number, Span, Vec2, one_of

TEXTURE = "mesh:"
"""Begins the name of a mesh's texture among a program's pictures."""


@dataclass(frozen=True)
class ShelfMesh:
    """A mesh as programs know it. `size`: its longest side, centimetres; `middle`: of the box about it; `motion`: the number of
    the one that moves it, below 0 for none; `speed`: seconds of it a second; `broad`: over how many of its centimetres the width
    of its texture goes."""

    id: str
    size: Value
    middle: Vec
    motion: Value
    speed: Value
    broad: Value


class SolidSeen(NamedTuple):
    """What *Mesh on the head* gives."""

    colour: Colour
    there: Mask
    depth: Number
    middle: Vec2
    across: Vec2
    down: Vec2


@node("Mesh on the head", "face")
def mesh_on_head(
    mesh: Mesh = None, which: Annotated[str, one_of(*PINNED)] = HEAD, who: Annotated[str, one_of(*p.WHO)] = "everybody",
    turned: Annotated[str, one_of(*TURNS)] = TURNS[0], wide: Wide = 15.0, right: Centimetres = 0.0, up: Centimetres = 0.0,
    out: Centimetres = 0.0, turn: Turn = 0.0, nod: Turn = 0.0, tilt: Turn = 0.0, both: Boolean = False,
    middle: Boolean = True, hides: Boolean = True,
    unlit: Fraction = 0.0, sky: Fraction = 0.55, from_right: Turn = -35.0, from_above: Annotated[Degrees, Span(-90, 90)] = 40.0,
) -> SolidSeen:  # fmt: skip
    """A mesh at a place of a face, or of the head in space: its longest side so many centimetres, so far to the right, up and
    out of the face, turned, nodded and tilted (clockwise); `both`: on the other side as well, mirrored. Hung by its middle, or
    by its own origin. Hidden behind the head, if wanted. Its colour in light from one side and from the sky, or as its texture
    has it; also where the first face's hangs on the screen."""
    if mesh is None:
        nothing, nowhere = v.value(0.0), Vec(0.0, 0.0)
        return SolidSeen(Vec(0.0, 0.0, 0.0, 0.0), nothing, nothing, nowhere, nowhere, nowhere)
    above, aside = (v.value(angle) * (math.pi / 180) for angle in (from_above, from_right))
    light = (f.sin(aside) * f.cos(above), f.sin(above), f.cos(aside) * f.cos(above))
    together = (mesh.motion, moment("time") * mesh.speed, *light, v.value(sky), v.value(unlit))
    numbers: list[Value] = []
    for one in people(who):
        head = head_of(one)
        there = held_number(one, "there")
        shows = [v.number(hides) * part for part in _rows(_ways(head, TURNS[0]), _centimetres(one, HEAD, head))]
        own = (wide, right, up, out), (turn, nod, tilt), middle
        numbers += [*_placed(mesh, one, head, which, turned, *own), *shows, there]
        # The head that hides one side hides the other.
        over = _placed(mesh, one, head, other_side(which), turned, *own, mirrored=True)
        numbers += [*over, *(v.value(0.0) for _ in shows), there * v.number(both)]
    told = (*together, *numbers)
    drawn, lit = (p.drawn_mesh(p.Vertices("mesh", f"{mesh.id}{end}", told)) for end in ("", p.LIT))
    u, w, depth, covers = (p.near(drawn, channel) for channel in range(4))
    larger = v.divide(v.value(wide) * mesh.broad, v.maximum(mesh.size, 1e-6))
    seen = largest(*(seen_wide(one, which, larger) for one in people(who)))
    texture = p.sample(copy_as_seen.rule(p.asset_picture(f"{TEXTURE}{mesh.id}"), seen), Vec(u, w))
    # Light is multiplied as if sRGB's curve were a square; common practice.
    shade = [v.sqrt(v.maximum(p.near(lit, channel), 0.0)) for channel in range(3)]
    lit_up = [part * how for part, how in zip(texture.parts()[:3], shade, strict=True)]
    there = smooth_edge(drawn, 3) * covers * texture.w
    hung = seen_from("any" if who == "everybody" else who, which, turned)
    return SolidSeen(Vec(*(v.clamp01(part) for part in lit_up), there), there, depth, *hung)


def _ways(head: Head, turned: str) -> tuple[Vec, Vec, Vec]:
    """To the right, up, and towards the lens, of what turns with a head so far, y up and z towards the lens."""
    a, b, n = axes(head, turned)
    return _flipped(a), _flipped(b * -1.0), _flipped(n * -1.0)


def _flipped(way: Vec) -> Vec:
    return Vec(way.x, way.y * -1.0, way.z * -1.0)


def _centimetres(who: str, which: str, head: Head) -> Vec:
    """Where a place is from the lens, y up and z towards it."""
    return _flipped(anchor(who, which)) * v.divide(1.0, v.maximum(head.scale, 1e-6))


def _rows(ways: tuple[Vec, Vec, Vec], at: Vec) -> list[Value]:
    """Three rows of four that take a place along the ways to centimetres from the lens."""
    columns = [way.parts() for way in ways]
    return [number for row in range(3) for number in (*(one[row] for one in columns), at.parts()[row])]


def _placed(
    mesh: ShelfMesh,
    who: str,
    head: Head,
    which: str,
    turned: str,
    how: tuple[Value, ...],
    turns: tuple[Value, ...],
    middle: Value,
    mirrored: bool = False,
) -> list[Value]:
    """A mesh's rows: what its own axes are, turned (core/face/pose.py: rotation), as long as wanted. `mirrored`: all of it, as in
    a looking glass between the eyes."""
    side = -1.0 if mirrored else 1.0
    wide, right, up, out = (v.value(n) for n in how)
    right = right * side
    ways = _ways(head, turned)
    # Tilting goes clockwise, as everything that is turned on the picture does.
    angles = [v.value(n) * (by * math.pi / 180) for n, by in zip(turns, (side, 1.0, -side), strict=True)]
    (st, ct), (sn, cn), (sa, ca) = ((f.sin(one), f.cos(one)) for one in angles)
    # tilt @ nod @ turn, its columns.
    local = (
        Vec(ca * ct - sa * sn * st, sa * ct + ca * sn * st, cn * st * -1.0),
        Vec(sa * cn * -1.0, ca * cn, sn),
        Vec(ca * st + sa * sn * ct, sa * st - ca * sn * ct, cn * ct),
    )
    scale = v.divide(wide, v.maximum(mesh.size, 1e-6))
    columns = tuple((ways[0] * one.x + ways[1] * one.y + ways[2] * one.z) * scale for one in (local[0] * side, *local[1:]))
    hung = mesh.middle * v.number(middle)
    at = _centimetres(who, which, head) + ways[0] * right + ways[1] * up + ways[2] * out
    at = at - (columns[0] * hung.x + columns[1] * hung.y + columns[2] * hung.z)
    return _rows((columns[0], columns[1], columns[2]), at)
