"""What lies on the skin of faces: where the drawn pixel is in the texture of a face, and the parts that are known there."""

from __future__ import annotations

import math
from typing import Annotated, NamedTuple

from sunglaze.core.errors import Unfit
from sunglaze.core.face.charts import CHARTS
from sunglaze.core.face.held import LAG
from sunglaze.core.face.model import four_places
from sunglaze.core.language import functions as f
from sunglaze.core.language import pictures as p
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value, needed
from sunglaze.core.language.vector import Vec
from sunglaze.core.nodes.colour import LUMA
from sunglaze.core.nodes.colour import luma as luma_of
from sunglaze.core.nodes.coordinates import in_quad, pin_corners
from sunglaze.core.nodes.face import is_held_second, of_face
from sunglaze.core.nodes.node import node
from sunglaze.core.nodes.smaller import across, copy_as_seen, largest, people
from sunglaze.core.nodes.types import Boolean, Colour, Fraction, Mask, Number, Painting, Seconds, Span, Vec2, Vec4, one_of

_APART = math.dist(*four_places()[:2])
"""Between the middles of the eyes, parts of the width of the face's flat picture."""
NARROWEST = 0.5
"""What the eyes' middles come together to at most when a face turns, where it is told how large that is."""


class SkinSeen(NamedTuple):
    """What *Skin of a face* gives."""

    place: Vec2
    there: Mask
    depth: Number
    wide: Number


@node("Skin of a face", "face")
def face_skin(
    who: Annotated[str, one_of(*p.WHO)] = "everybody",
    steady: Annotated[Seconds, Span(0, 2)] = LAG,
    mouth: Boolean = False,
    eyes: Boolean = False,
) -> SkinSeen:
    """Where the drawn pixel is in the flat picture of a face, as its template has it, and how much of the face is there: soft at
    its rim and where it turns away, less while it comes or goes. Mouth and eyes are left out, or covered. Depth tells how much
    nearer (below 0) or farther than the head's middle it is, in parts of the picture's width. Points at rest are followed within
    the time, moving ones nearly at once. Wide: over how many pixels the whole flat picture is seen, of the nearer face."""
    second = p.EVERYBODY if who == "everybody" else is_held_second(who)
    whose = v.number(second) if isinstance(second, Value) else v.value(float(second))
    numbers = (v.value(steady), v.number(mouth), v.number(eyes), whose)
    drawn = p.drawn_mesh(p.Vertices("face", who, tuple(_plain(one) for one in numbers)))
    u, w, depth, covers = (p.near(drawn, channel) for channel in range(4))
    return SkinSeen(Vec(u, w), smooth_edge(drawn, 0) * covers, depth, largest(*(flat_wide(one) for one in people(who))))


def flat_wide(who: str) -> Value:
    """Over how many pixels the flat picture of a face is seen, as if it looked straight at the lens; 0 where there is none."""
    turned = v.maximum(f.cos(of_face(who, "turn") * (math.pi / 180)), NARROWEST)
    return across(v.divide(of_face(who, "size"), turned) * (1 / _APART))


def _plain(number: Value) -> Value:
    return v.to_float(number) if number.kind == "int" else number


def smooth_edge(drawn: p.Picture, channel: int) -> Value:
    """1 inside, falling to 0 within the last pixel before an edge, where triangles begin at once: of the pixel and its eight
    neighbours, how many are inside. `channel`: which is 0 outside alone; no place in a face's texture is."""
    inside = [v.number(p.near(drawn, channel, right, down) > 0.0) for down in (-1, 0, 1) for right in (-1, 0, 1)]
    total = inside[0]
    for one in inside[1:]:
        total = total + one
    return v.clamp01(total * (2 / 9) - 1.0)


@node("Painting", "face")
def painting(place: Vec2 = None, painting: Painting = None, picture: Colour = None, wide: Number = 0.0) -> Colour:
    """Shapes painted on the flat face, at a place of it; where they show the picture, or leave it, that. Wide: over how many
    pixels the flat face is seen, as *Skin of a face* tells."""
    if painting is None:
        return picture
    drawn, reveals = painting
    drawn = copy_as_seen.rule(drawn, wide)
    half = v.divide(0.5, v.to_float(p.size(drawn)[1]))
    u, w = (v.clamp01(part) for part in place.parts())
    # A texel's half off the seam of both halves, so that neither shows in the other.
    shapes = p.sample(drawn, Vec(u, v.clamp(w * 0.5, 0.0, 0.5 - half)))
    # Where no shape reveals it, what the colours leave is seen.
    left = p.sample(drawn, Vec(u, v.clamp(w * 0.5 + 0.5, 0.5 + half, 1.0))).x if reveals else 1.0 - shapes.w
    below = picture.w * left
    alpha = shapes.w + below
    mixed = (shapes.rgb * shapes.w + picture.rgb * below).map(lambda part: v.divide(part, alpha))
    return Vec(*mixed.parts(), alpha)


@node("Part of the skin", "face")
def skin_part(which: Annotated[str, one_of(*CHARTS)] = "lips", place: Vec2 = None) -> Mask:
    """A part of the face at a place of its flat picture: 1 inside, soft at its edge."""
    chart, channel = CHARTS[which]
    return p.sample(p.chart_picture(chart), place).parts()[channel]


LEAVES = 0.56
"""Luma of a tint that leaves luma as it is: that of a grey of lightness 60 (CIE Lab); common practice, no source."""
DEEP = 0.6
"""Share of a tint's colour that the deepest skin takes; chosen on ten skin tones, so that the shift of chroma (CIE Lab) is
alike."""
_OWN = [tuple(round(float(n), 4) for n in place) for place in four_places()]


@node("Tint of a part", "face")
def skin_tint(
    before: Vec4 = (1.0, 1.0, 0.0, 0.0), which: Annotated[str, one_of(*CHARTS)] = "lips", tint: Colour = (0.7, 0.3, 0.3, 1.0),
    amount: Fraction = 0.5, depth: Fraction = 0.5,
) -> Vec4:  # fmt: skip
    """A tint on a part of the face, after those before it, for *Wear tints*: by what luma is multiplied, how much stays of the
    two colour differences (ITU-R BT.709), and what comes to them. So the shift is much the same on pale and on deep skin.
    Depth: how much luma goes along with the tint's; one of 0.56 leaves it."""
    luma, red, blue = _differences(tint)
    much = v.value(amount) * skin_part.rule(which, p.here())
    share, stays = v.clamp(luma * (1 / LEAVES), 0.0, 1.5), 1.0 - much
    times, kept, to_red, to_blue = before.parts()
    return Vec(times * v.mix(1.0, share, much * depth), kept * stays, v.mix(to_red, red, much), v.mix(to_blue, blue, much))


def _differences(colour: Vec) -> tuple[Value, Value, Value]:
    """Luma, red less luma, blue less luma, of an encoded colour. ITU-R BT.709."""
    luma = luma_of(colour)
    return luma, colour.r - luma, colour.b - luma


@node("Wear tints", "face")
def wear_tints(colour: Colour = None, tints: Vec4 = (1.0, 1.0, 0.0, 0.0), place: Vec2 = None) -> Colour:
    """A colour under tints of the face's parts, where it lies in the face's flat picture."""
    if any(one.op in ("near", "enlarged", "stage") for one in needed(tints.parts())):
        raise Unfit(
            "tints lie in the face's flat picture; what is read of the screen cannot go into them, but into this node's colour"
        )
    flat = p.computed(tints.parts(), reduce=2, opaque=False)
    times, kept, to_red, to_blue = p.sampled(flat, place)
    luma, red, blue = _differences(colour)
    # On deep skin the same difference of encoded colours is a larger one to the eye.
    much = luma * (1.0 - DEEP) * (1 / LEAVES) + DEEP
    luma, red, blue = luma * times, red * kept + to_red * much, blue * kept + to_blue * much
    green = (red * LUMA[0] + blue * LUMA[2]) * (-1 / LUMA[1])
    return Vec(*(v.clamp01(luma + part) for part in (red, green, blue)), colour.a)


class TemplateSeen(NamedTuple):
    """What *Another template* gives."""

    out: Vec2
    times: Number


@node("Another template", "face")
def face_template(
    place: Vec2 = None, first: Vec2 = _OWN[0], second: Vec2 = _OWN[1], third: Vec2 = _OWN[2], fourth: Vec2 = _OWN[3],
) -> TemplateSeen:  # fmt: skip
    """A place of the face's flat picture in another flat picture of a face, told by where its eyes' middles (first, second)
    and the corners of its mouth (third, fourth) are there; left and right are the picture's. It starts as the template itself.
    Times: how much wider than the template that picture is where it is laid."""
    own = [Vec(*one) for one in (_OWN[0], _OWN[1], _OWN[3], _OWN[2])]
    apart = v.length(second - first)
    found = in_quad(pin_corners.rule(place, *own), first, second, fourth, third)
    return TemplateSeen(found, v.divide(_APART, v.maximum(apart, _APART * 0.05)))
