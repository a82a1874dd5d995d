"""Depth of the scene: a flat picture as the inside of a box, and clean edges of who stands before it."""

from __future__ import annotations

from typing import Annotated

from sunglaze.core.language import pictures as p
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value
from sunglaze.core.language.moments import frame_size
from sunglaze.core.language.vector import Vec, rgba
from sunglaze.core.nodes.filters import frame_sized, halved, held_channels, softened
from sunglaze.core.nodes.handles import Handle
from sunglaze.core.nodes.node import node
from sunglaze.core.nodes.types import Colour, Fraction, Mask, Number, PictureIn, ReferencePixels, Span, Vec2, one_of

DEEPEST = 4.0
SURE, ENOUGH = 0.92, 0.05
"""From where on a mask is surely inside, and how much of that must be near for its colour to count."""


@node(
    "Inside of a box", "coordinates",
    Handle(kind="point", title="Vanishing point", moves={"at": "vanishing"}),
)  # fmt: skip
def box_inside(
    place: Vec2 = None, picture: PictureIn = None, vanishing: Vec2 = (0.5, 0.45),
    wall: Annotated[Fraction, Span(0.1, 0.9)] = 0.45, depth: Annotated[Number, Span(0.1, DEEPEST)] = 1.0,
    eye: Vec2 = (0.5, 0.5), scale: Annotated[Number, Span(1.0, 3.0)] = 1.2,
) -> Vec2:  # fmt: skip
    """Where to read a flat picture of a room so that one looks into it from another place. In the picture the room's far wall is
    a part `wall` as large as all of it, about its vanishing point; depth is how far that wall is behind the picture's frame. The
    eye moves across the frame, from its middle; scale enlarges. Nothing outside of the picture is read, whatever is set. Rays
    through a box: Kay and Kajiya (1986)."""
    columns, rows = (v.to_float(n) for n in frame_size())
    width, height = (v.to_float(n) for n in p.size(picture))
    # The picture covers the screen; its frame is the box's open side.
    cover = v.maximum(v.divide(columns, width), v.divide(rows, height))
    part = Vec(v.divide(columns, width * cover), v.divide(rows, height * cover))
    at = (place - Vec(0.5, 0.5)) * part * v.divide(1.0, v.maximum(scale, 1.0)) + Vec(0.5, 0.5)
    share, far = v.clamp(wall, 0.1, 0.9), v.clamp(depth, 0.1, DEEPEST)
    # The picture was taken from where its far wall looks `wall` as large as its frame: so far before the frame.
    lens = far * v.divide(share, 1.0 - share)
    point = Vec(v.clamp(vanishing.x, 0.02, 0.98), v.clamp(vanishing.y, 0.02, 0.98))
    # The eye stays within the frame, so that what it sees through it is always a wall.
    from_ = Vec(v.clamp(point.x + eye.x - 0.5, 0.02, 0.98), v.clamp(point.y + eye.y - 0.5, 0.02, 0.98))
    # A ray from the eye meets the frame at `at`; so many times as far again it goes to the far wall, or to a side before that.
    reach = v.divide(far, lens)
    for way, start in zip((at - from_).parts(), at.parts(), strict=True):
        straight = v.absolute(way) < 1e-6
        meets = v.divide(v.select(way > 0.0, 1.0, 0.0) - start, v.select(straight, 1.0, way))
        reach = v.minimum(reach, v.select(straight, 1e6, v.maximum(meets, 0.0)))
    met = at + (at - from_) * reach
    # Seen from where the picture was taken, towards the vanishing point.
    seen = point + (met - point) * v.divide(1.0, reach + 1.0)
    return Vec(v.clamp01(seen.x), v.clamp01(seen.y))


def _colour(half: p.Picture) -> tuple[Value, ...]:
    """Red, green and blue of a halved picture, for a pass of its own size."""
    return p.as_colour(half, [p.near(half, n) for n in range(held_channels(half))]).parts()[:3]


def own_colour(picture: p.Picture, mask: Value, smaller: Value, reach: Value) -> Vec:
    """The colour that what is inside a mask has by itself where its edge is soft and what was behind shines through: colours of
    what is surely inside, carried outwards by `reach` (pixels). What is surely inside stays as it is. Opaque. `smaller`: the
    mask at half the size.

    After the multi-level estimation of Germer et al. (2020), on two levels.
    """
    sure, surely = (v.smoothstep(SURE, 1.0, one) for one in (mask, smaller))
    colour, half = p.colour_here(picture), halved(picture)
    inner = p.computed([*(part * surely for part in _colour(half)), surely], reduce=2, opaque=False)
    close, wide = p.colour_here(softened(inner, reach * 0.3)), p.colour_here(softened(halved(inner), reach))
    near, known = v.smoothstep(0.0, ENOUGH, close.a), v.smoothstep(0.0, ENOUGH * 0.1, wide.a) * (1.0 - sure)
    parts = zip(colour.parts()[:3], wide.parts()[:3], close.parts()[:3], strict=True)
    return Vec(*(v.mix(seen, v.mix(far, by, near), known) for seen, far, by in parts), 1.0)


@node("Behind a mask", "masks")
def behind(
    backdrop: Colour = None, picture: PictureIn = None, mask: Mask = 1.0,
    edge: Annotated[str, one_of("clean", "as it is")] = "clean", clean: Fraction = 1.0,
    reach: Annotated[ReferencePixels, Span(2, 40)] = 9.0, wrap: Fraction = 0.0,
    wrap_reach: Annotated[ReferencePixels, Span(2, 60)] = 14.0,
) -> Colour:  # fmt: skip
    """A backdrop behind what is inside a mask, as a layer over the picture that the mask is of. Of a clean edge, how much of the
    old backdrop is taken out of it, and wrap, how much of the new one's light goes round it."""
    mask_here = v.clamp01(v.value(mask))
    if edge == "as it is":
        return rgba(backdrop.rgb, (1.0 - mask_here) * backdrop.a)
    source, behind_it = frame_sized(picture), frame_sized(p.picture_of(backdrop))
    backdrop = p.colour_here(behind_it)
    much, round_ = v.value(clean), v.value(wrap)
    with p.passes_only_if((much > 0.0) | (round_ > 0.0)):
        # Colours and mask are halved each by itself, so that what is made of both is made for a quarter of the pixels.
        smaller = p.near(halved(p.computed([mask_here])), 0)
        own = own_colour(source, mask_here, smaller, p.pixels(reach))
        half, outside = halved(behind_it), 1.0 - smaller
        around = p.computed([*(part * outside for part in _colour(half)), outside], reduce=2, opaque=False)
        glow = p.enlarged(softened(halved(around), p.pixels(wrap_reach)))
    person = [v.mix(seen, by, much) for seen, by in zip(p.colour_here(source).parts()[:3], own.parts()[:3], strict=True)]
    lit = [part + (1.0 - part) * (given * round_) for part, given in zip(person, glow[:3], strict=True)]
    sure = v.smoothstep(SURE, 1.0, mask_here)
    redrawn = v.clamp01(v.maximum(much * (1.0 - sure), v.minimum(round_ * glow[3] * 8.0, 1.0))) * mask_here
    opacity = (1.0 - mask_here) * backdrop.a + redrawn
    seen_behind = (1.0 - mask_here) * backdrop.a
    made = [v.divide(b * seen_behind + part * redrawn, opacity) for b, part in zip(backdrop.parts()[:3], lit, strict=True)]
    return Vec(*made, opacity)
