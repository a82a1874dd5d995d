"""Pins: pictures that are fixed to a place of a face, or to the head in space, and turn with it.

The head's axes are told by points that are held steady, so what is pinned and what is painted move as one. Lengths are
centimetres of a head of middle size; perspective is that of a phone's front camera (core/face/pose.py).
"""

from __future__ import annotations

import math
from typing import Annotated, NamedTuple

import numpy as np

from sunglaze.core.face.head import SIDES, lean
from sunglaze.core.face.model import around, middle_face
from sunglaze.core.face.pose import FIELD_OF_VIEW
from sunglaze.core.language import functions as f
from sunglaze.core.language import pictures as p
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value
from sunglaze.core.language.moments import frame_size
from sunglaze.core.language.vector import Vec
from sunglaze.core.nodes.face import PLACES, held_number
from sunglaze.core.nodes.node import node
from sunglaze.core.nodes.smaller import across, largest, people
from sunglaze.core.nodes.types import Boolean, Degrees, Mask, Number, PictureIn, Span, Type, Vec2, one_of

HEAD = "the head"
PINNED = (*PLACES, HEAD)
TURNS = ("with the whole head", "with its tilt", "flat to the screen")
APART = float(np.linalg.norm(middle_face()[263] - middle_face()[33]))
"""Centimetres between the outer corners of the eyes of the middle face."""
HIDDEN, SEEN = 88.0, 72.0
"""Degrees by which the skin at a place turns away where what is pinned there is gone, and up to which it is wholly seen."""
Centimetres = Annotated[Number, Type("number", "centimetres", -60.0, 60.0, 0.1)]
Wide = Annotated[Number, Type("number", "centimetres", 0.2, 120.0, 0.1)]
Turn = Annotated[Degrees, Span(-180, 180)]


class Head(NamedTuple):
    """Axes of a head in the camera's (x to the right, y down, z away from the lens), and how much of the picture's width a
    centimetre of it takes."""

    right: Vec
    down: Vec
    away: Vec
    scale: Value


def _shape() -> Value:
    columns, rows = (v.to_float(n) for n in frame_size())
    return v.divide(rows, columns)


def _point(who: str, number: int) -> Vec:
    """A point that is held steady, in parts of the picture's width."""
    u, down, z = (held_number(who, f"{number}.{axis}") for axis in "uvz")
    return Vec(u, down * _shape(), z)


def head_of(who: str) -> Head:
    """A head's axes, by points that are held steady: across by eyes and temples, down by the sides of forehead and jaw, which
    neither chin nor lips move, and which differ least from person to person (core/face/head.py)."""
    eyes = _seen(who, 263) - _seen(who, 33)
    right = v.unit(eyes + _seen(who, 454) - _seen(who, 234))
    (left, jaw), (other, far) = SIDES
    along = _seen(who, jaw) - _seen(who, left) + _seen(who, far) - _seen(who, other)
    leant = v.unit(along - right * v.dot(along, right))
    behind = v.cross(right, leant)
    cos, sin = lean()
    return Head(right, leant * cos - behind * sin, leant * sin + behind * cos, v.length(eyes) * (1 / APART))


def _seen(who: str, number: int) -> Vec:
    """A point from the lens (x to the right, y down, z away from it), in widths of the picture at the head's distance, which is
    the focal length."""
    point, focal = _point(who, number), _focal()
    spread = v.divide(point.z + focal, focal)
    return Vec((point.x - 0.5) * spread, (point.y - _shape() * 0.5) * spread, point.z + focal)


def anchor(who: str, which: str) -> Vec:
    """Where a place of a face is from the lens, as points are; of the head, the middle between the ears."""
    return _seen(who, PLACES[which]) if which != HEAD else (_seen(who, 234) + _seen(who, 454)) * 0.5


def _facing(who: str, which: str) -> Value:
    """1 where the skin at a place is seen, 0 where it turns away, between them softly."""
    if which == HEAD:
        return v.value(1.0)
    points = around(PLACES[which])
    one, two, three = (_point(who, n) for n in points)
    normal = v.unit(v.cross(two - one, three - one))
    a, b, c = middle_face()[list(points)]
    straight = np.cross(c - a, b - a)
    # The skin at the sides is edge-on to begin with.
    turned = math.degrees(math.acos(straight[2] / np.linalg.norm(straight)))
    hidden, seen = (math.cos(math.radians(max(limit, turned + more))) for limit, more in ((HIDDEN, 24.0), (SEEN, 10.0)))
    return v.smoothstep(hidden, seen, normal.z)


def other_side(which: str) -> str:
    """The place that takes this one's when the face is mirrored."""
    if "left" in which:
        return which.replace("left", "right")
    return which.replace("right", "left") if "right" in which else which


class Hook(NamedTuple):
    """Where on another pin one hangs: how far that is from its place (to the right, up, out), how it turns with the head and by
    itself, and how far from its middle (to its right, up) the hook is. Centimetres and degrees."""

    right: Value
    up: Value
    out: Value
    turned: str
    turn: Value
    aside: Value
    above: Value

    @property
    def is_none(self) -> bool:
        """Whether there is none: all of it constant, and nothing."""
        numbers = (self.right, self.up, self.out, self.turn, self.aside, self.above)
        return all(one.op == "const" and one.attribute[0] == 0 for one in numbers)

    def at(self, head: Head, side: float) -> Vec:
        """How far the hook is from the other pin's place, in centimetres; `side`: -1 where it is mirrored."""
        a, b, n = axes(head, self.turned)
        cos, sin = _turned(self.turn)
        right = self.right + self.aside * cos + self.above * sin
        up = self.up + self.above * cos - self.aside * sin
        return a * (right * side) - b * up - n * self.out


def _laid(
    who: str,
    which: str,
    turned: str,
    moved: tuple[Value, Value, Value],
    wide: Value,
    tall: Value,
    turn: Value,
    over: bool,
    hook: Hook,
) -> tuple[Vec, Value]:
    """Where the drawn pixel is in a picture that is pinned, and whether it is there."""
    head = head_of(who)
    focal = _focal()
    right, up, out = moved
    side = -1.0 if over else 1.0
    across = right * side
    a, b, n = axes(head, turned)
    away = a * across - b * up - n * out
    centre = anchor(who, which) + (away if hook.is_none else away + hook.at(head, side)) * head.scale
    here = p.here()
    ray = Vec(here.x - 0.5, (here.y - 0.5) * _shape(), focal)
    reach = v.divide(v.dot(centre, n), v.dot(ray, n))
    away = ray * reach - centre
    x, y = v.dot(away, a), v.dot(away, b)
    cos, sin = _turned(turn * (-1.0 if over else 1.0))
    x, y = x * cos + y * sin, y * cos - x * sin
    if over:
        x = x * -1.0
    size = v.maximum(head.scale, 1e-6)
    place = Vec(v.divide(x, wide * size) + 0.5, v.divide(y, tall * size) + 0.5)
    before = (reach > 0.0) & (held_number(who, "there") > 0.0)
    inside = before & (place.x >= 0.0) & (place.x <= 1.0) & (place.y >= 0.0) & (place.y <= 1.0)
    return place, v.number(inside)


def _turned(degrees: Value) -> tuple[Value, Value]:
    return f.cos(degrees * (math.pi / 180)), f.sin(degrees * (math.pi / 180))


def _focal() -> Value:
    """Focal length in widths of the picture."""
    longer = v.maximum(1.0, _shape())
    return longer * (0.5 / math.tan(math.radians(FIELD_OF_VIEW / 2)))


class PinSeen(NamedTuple):
    """What *Pin* gives."""

    place: Vec2
    shown: Mask
    middle: Vec2
    across: Vec2
    down: Vec2
    seen: Number


@node("Pin", "face")
def pin(
    picture: PictureIn = None, which: Annotated[str, one_of(*PINNED)] = "nose bridge",
    who: Annotated[str, one_of(*p.WHO)] = "everybody", turned: Annotated[str, one_of(*TURNS)] = TURNS[0],
    wide: Wide = 8.0, right: Centimetres = 0.0, up: Centimetres = 0.0, out: Centimetres = 0.0,
    turn: Turn = 0.0, both: Boolean = False, hides: Boolean = True,
    on_right: Centimetres = 0.0, on_up: Centimetres = 0.0, on_out: Centimetres = 0.0,
    on_turned: Annotated[str, one_of(*TURNS)] = TURNS[0], on_turn: Turn = 0.0,
    hook_right: Centimetres = 0.0, hook_up: Centimetres = 0.0, hangs: Centimetres = 0.0,
) -> PinSeen:  # fmt: skip
    """Where the drawn pixel is in a picture that is pinned to a place of a face, or to the head in space, so many centimetres
    wide and so far from it: to the right, up, and out of the face. `both`: on the other side as well, mirrored. Hidden where its
    place turns away, if wanted. Hung on another pin of the same place, it moves with that one (`on_...`: how that one stands), by
    a hook on it, its own middle `hangs` below, the way it is turned. Also where the first face's place is on the screen, how far
    a centimetre goes there, and over how many pixels all of the picture is seen, of the nearer face."""
    columns, rows = (v.to_float(n) for n in p.size(picture))
    tall = v.value(wide) * v.divide(rows, columns)
    stands, aside, above = [v.value(n) for n in (on_right, on_up, on_out)], v.value(hook_right), v.value(hook_up)
    hook = Hook(stands[0], stands[1], stands[2], on_turned, v.value(on_turn), aside, above)
    moved, below = (v.value(right), v.value(up), v.value(out)), v.value(hangs)
    if not (below.op == "const" and below.attribute[0] == 0):
        cos, sin = _turned(v.value(turn))
        moved = moved[0] - below * sin, moved[1] - below * cos, moved[2]
    place, shown = Vec(-1.0, -1.0), v.value(0.0)
    for one in reversed(people(who)):
        for side, over in ((which, False), (other_side(which), True)):
            at, inside = _laid(one, side, turned, moved, v.value(wide), tall, v.value(turn), over, hook)
            if over:
                inside = inside * v.number(both)
            much = inside * v.select(hides, _facing(one, side), 1.0) * held_number(one, "there")
            place = Vec(*(v.select(inside > 0.5, new, old) for new, old in zip(at.parts(), place.parts(), strict=True)))
            shown = v.select(inside > 0.5, much, shown)
    one = "any" if who == "everybody" else who
    seen = largest(*(seen_wide(each, which, v.value(wide)) for each in people(who)))
    if hook.is_none:
        return PinSeen(place, shown, *seen_from(one, which, turned), seen)
    # Its hook is what a hand moves, along the sides of the other pin.
    head = head_of(one)
    bare = hook._replace(aside=v.value(0.0), above=v.value(0.0)).at(head, 1.0)
    a, b, _ = axes(head, turned)
    return PinSeen(place, shown, *seen_from(one, which, on_turned, v.value(on_turn), bare + a * moved[0] - b * moved[1]), seen)


def seen_wide(who: str, which: str, wide: Value) -> Value:
    """Over how many pixels so many centimetres are seen at a place; 0 where there is no face."""
    nearer = v.divide(_focal(), v.maximum(anchor(who, which).z, 1e-3))
    return across(head_of(who).scale * nearer * wide * v.number(held_number(who, "there") > 0.0))


def seen_from(who: str, which: str, turned: str, turn: Value | None = None, beside: Vec | None = None) -> tuple[Vec, Vec, Vec]:
    """Where a pin hangs on the screen, and by how much of it a centimetre goes to the right and down there: of the head's axes,
    or those turned by so many degrees, clockwise. `beside`: how far from its place, centimetres."""
    head = head_of(who)
    at, shape = anchor(who, which), _shape()
    if beside is not None:
        at = at + beside * head.scale
    a, b, _ = axes(head, turned)
    if turn is not None:
        cos, sin = _turned(turn)
        a, b = a * cos + b * sin, b * cos - a * sin
    # What is nearer than the head's middle is seen larger.
    nearer = v.divide(_focal(), v.maximum(at.z, 1e-3))
    size = head.scale * nearer
    across, down = (Vec(way.x * size, v.divide(way.y * size, shape)) for way in (a, b))
    return Vec(at.x * nearer + 0.5, v.divide(at.y * nearer, shape) + 0.5), across, down


def axes(head: Head, turned: str) -> tuple[Vec, Vec, Vec]:
    """To the right, down and away from the lens, of what turns with a head so far."""
    if turned == TURNS[0]:
        return head.right, head.down, head.away
    flat = turned == TURNS[2]
    a = Vec(1.0, 0.0, 0.0) if flat else v.unit(Vec(head.right.x, head.right.y, 0.0))
    return a, Vec(a.y * -1.0, a.x, 0.0), Vec(0.0, 0.0, 1.0)
