"""What lies on the skin of faces: where the drawn pixel is in the texture of a face, and the parts that are known there."""

from __future__ import annotations

from typing import Annotated, NamedTuple

from sunglaze.core.face.charts import CHARTS
from sunglaze.core.language import pictures as p
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value
from sunglaze.core.language.vector import Vec
from sunglaze.core.nodes.node import node
from sunglaze.core.nodes.types import Boolean, Mask, Number, Seconds, Span, Vec2, one_of

STEADY = 0.5
"""Seconds, at which points of a still face flutter by less than a pixel that a tracker shakes by several."""


class SkinSeen(NamedTuple):
    """What *Skin of a face* gives."""

    place: Vec2
    there: Mask
    depth: Number


@node("Skin of a face", "face")
def face_skin(
    who: Annotated[str, one_of(*p.WHO)] = "everybody",
    steady: Annotated[Seconds, Span(0, 2)] = STEADY,
    mouth: Boolean = False,
    eyes: Boolean = False,
) -> SkinSeen:
    """Where the drawn pixel is in the flat picture of a face, as its template has it, and how much of the face is there: soft at
    its rim and where it turns away, less while it comes or goes. Mouth and eyes are left out, or covered. Depth tells how much
    nearer (below 0) or farther than the head's middle it is, in parts of the picture's width. Points at rest are followed within
    the time, moving ones nearly at once."""
    numbers = (v.value(steady), v.number(mouth), v.number(eyes))
    drawn = p.drawn_mesh(p.Vertices("face", who, tuple(_plain(one) for one in numbers)))
    u, w, depth, covers = (p.near(drawn, channel) for channel in range(4))
    return SkinSeen(Vec(u, w), _smooth_edge(drawn) * covers, depth)


def _plain(number: Value) -> Value:
    return v.to_float(number) if number.kind == "int" else number


def _smooth_edge(drawn: p.Picture) -> Value:
    """1 inside, falling to 0 within the last pixel before an edge, where triangles begin at once: of the pixel and its eight
    neighbours, how many are inside. No place in a face's texture is 0."""
    inside = [v.number(p.near(drawn, 0, right, down) > 0.0) for down in (-1, 0, 1) for right in (-1, 0, 1)]
    total = inside[0]
    for one in inside[1:]:
        total = total + one
    return v.clamp01(total * (2 / 9) - 1.0)


@node("Part of the skin", "face")
def skin_part(which: Annotated[str, one_of(*CHARTS)] = "lips", place: Vec2 = None) -> Mask:
    """A part of the face at a place of its flat picture: 1 inside, soft at its edge."""
    chart, channel = CHARTS[which]
    return p.sample(p.asset_picture(f"chart:{chart}"), place).parts()[channel]
