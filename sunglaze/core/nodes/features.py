"""Features of a face on the screen: its irises, and gentle bending of its parts, by the tracker's points."""

from __future__ import annotations

from typing import Annotated

from sunglaze.core.language import pictures as p
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value
from sunglaze.core.language.vector import Vec
from sunglaze.core.nodes.coordinates import sides
from sunglaze.core.nodes.face import held_number, is_held_second
from sunglaze.core.nodes.node import node
from sunglaze.core.nodes.types import Fraction, Mask, Number, Span, Vec2, one_of

IRISES = (468, 473)
"""The tracker's points at the middles of the irises; those after each are its right, top, left and bottom."""
PUPIL = 0.38
"""Of the iris's radius, in middling light; common practice, no source."""


def _at(who: str, point: int) -> Vec:
    """A point that is held steady, in short sides of the screen, from its upper left corner."""
    size = sides()
    return Vec(held_number(who, f"{point}.u") * size.x, held_number(who, f"{point}.v") * size.y)


def _middle(who: str, points: tuple[int, ...]) -> Vec:
    total = _at(who, points[0])
    for point in points[1:]:
        total = total + _at(who, point)
    return total * (1 / len(points))


def _each(who: str) -> tuple[str, ...]:
    return ("first", "second") if who == "everybody" else (who,)


@node("Iris", "face")
def iris(
    who: Annotated[str, one_of(*p.WHO)] = "everybody", size: Annotated[Number, Span(0.5, 1.5)] = 1.0,
    pupil: Fraction = PUPIL, softness: Fraction = 0.25,
) -> Mask:  # fmt: skip
    """The rings of the irises, which follow the gaze: 1 between pupil and rim. Cut it by the eyes' region, so that lids cover it.
    Size 1 is as large as the tracker sees it; the pupil is a share of that."""
    here, found = p.here() * sides(), v.value(0.0)
    for one in _each(who):
        for middle in IRISES:
            centre = _at(one, middle)
            apart = [_at(one, middle + n) - centre for n in (1, 2, 3, 4)]
            radius = (v.length(apart[0]) + v.length(apart[1]) + v.length(apart[2]) + v.length(apart[3])) * (v.value(size) * 0.25)
            far = v.divide(v.length(here - centre), v.maximum(radius, 1e-6))
            ring = v.smoothstep(1.0 + softness * 0.5, 1.0 - softness * 0.5, far)
            inner = v.smoothstep(pupil - softness * 0.3, pupil + softness * 0.3 + 1e-3, far)
            found = v.maximum(found, ring * inner * held_number(one, "there"))
    return found


EYES, NOSE, MOUTH = ((33, 133, 159, 145), (263, 362, 386, 374)), (4, 195), (13, 14, 61, 291)
JAWS, BROWS = (172, 397), (105, 334)
Shift = Annotated[Number, Span(-1, 1, 0.01)]


@node("Shape of a face", "face")
def face_shape(
    place: Vec2 = None, who: Annotated[str, one_of(*p.WHO)] = "everybody", eyes: Shift = 0.0, left_eye: Shift = 0.0,
    right_eye: Shift = 0.0, nose: Shift = 0.0, lips: Shift = 0.0, jaw: Shift = 0.0, brows: Shift = 0.0,
) -> Vec2:  # fmt: skip
    """Where to read a picture so that parts of a face are a little larger (above 0) or smaller, the jaw wider or narrower, the
    brows higher or lower; an eye by itself on top of both. Beyond half an eyes' distance from them nothing moves. At 1 it is as
    far as it stays a face."""
    at, moved = place * sides(), Vec(0.0, 0.0)
    for one in _each(who):
        apart = v.maximum(v.length(_at(one, 33) - _at(one, 263)), 1e-6)
        across = v.unit(_at(one, 263) - _at(one, 33))
        down = Vec(across.y * -1.0, across.x)
        much = held_number(one, "there")
        shift = Vec(0.0, 0.0)
        for points, own in zip(EYES, (left_eye, right_eye), strict=True):
            shift = shift + _grown(at, _middle(one, points), apart * 0.36, (v.value(eyes) + own) * 0.22)
        shift = shift + _grown(at, _middle(one, NOSE), apart * 0.42, v.value(nose) * 0.25, across)
        shift = shift + _grown(at, _middle(one, MOUTH), apart * 0.5, v.value(lips) * 0.22)
        middle = _at(one, 4)
        for point in JAWS:
            outwards = across * _side(at_jaw := _at(one, point), middle, across)
            shift = shift - outwards * (_bell(at, at_jaw, apart * 0.75) * apart * 0.11 * v.value(jaw))
        for point in BROWS:
            shift = shift + down * (_bell(at, _at(one, point), apart * 0.42) * apart * 0.09 * v.value(brows))
        moved = moved + shift * much
    return Vec(*(v.divide(part, side) for part, side in zip((at + moved).parts(), sides().parts(), strict=True)))


def _side(at: Vec, middle: Vec, across: Vec) -> Value:
    """1 where a place lies to the right of the middle along the face, -1 to the left."""
    return v.select(v.dot(at - middle, across) > 0.0, 1.0, -1.0)


def _bell(at: Vec, centre: Vec, reach: Value) -> Value:
    """1 at the centre, 0 from the reach on, smooth at both: (1 - r^2)^2."""
    away = at - centre
    near = v.maximum(1.0 - v.divide(v.dot(away, away), reach * reach), 0.0)
    return near * near


def _grown(at: Vec, centre: Vec, reach: Value, by: Value, only: Vec | None = None) -> Vec:
    """By how much farther in to read, so that what is about the centre looks larger; along one direction `only`, if given."""
    away = at - centre
    shift = away * (_bell(at, centre, reach) * by * -1.0)
    return shift if only is None else only * v.dot(shift, only)


@node("Whose part", "face")
def face_whose(who: Annotated[str, one_of(*p.WHO)] = "everybody") -> Mask:
    """The part of the screen that belongs to a face: what is nearer to it than to the other, in sizes of each; all for
    everybody, nothing where the face is not there."""
    if who == "everybody":
        return v.value(1.0)
    here = p.here() * sides()

    def far(one: str) -> Value:
        apart = v.maximum(v.length(_at(one, 33) - _at(one, 263)), 1e-6)
        return v.select(held_number(one, "there") > 0.0, v.divide(v.length(here - _at(one, 4)), apart), 1e6)

    first, second = far("first"), far("second")
    seconds = v.smoothstep(0.6, -0.6, second - first)
    meant = is_held_second(who)
    if isinstance(meant, bool):
        part = seconds if meant else 1.0 - seconds
    else:
        part = v.select(meant, seconds, 1.0 - seconds)
    return part * held_number(who, "there")


@node("Under the eyes", "face")
def under_eyes(who: Annotated[str, one_of(*p.WHO)] = "everybody") -> Mask:
    """The skin below the lower lids, where shadows are: 1 in the middle, soft at its edge."""
    at, found = p.here() * sides(), v.value(0.0)
    for one in _each(who):
        apart = v.maximum(v.length(_at(one, 33) - _at(one, 263)), 1e-6)
        across = v.unit(_at(one, 263) - _at(one, 33))
        for lid, outwards in ((145, -1.0), (374, 1.0)):
            away = at - (_at(one, lid) + Vec(across.y * -1.0, across.x) * (apart * 0.1) + across * (apart * 0.02 * outwards))
            right, down = away.x * across.x + away.y * across.y, away.y * across.x - away.x * across.y
            far = v.divide(right * right * (1 / 0.21**2) + down * down * (1 / 0.1**2), apart * apart)
            near = v.maximum(1.0 - far, 0.0)
            found = v.maximum(found, near * (2.0 - near) * held_number(one, "there"))
    # Soft as it is, half the size will do.
    return p.enlarged(p.computed([found], reduce=2))[0]
