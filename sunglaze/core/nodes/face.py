"""The face and the finger: what is known of who is before the camera, and of the hand on the screen."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Annotated, NamedTuple

from sunglaze.core.face.model import around
from sunglaze.core.language import functions as f
from sunglaze.core.language import pictures as p
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value, constant, together
from sunglaze.core.language.moments import frame_size, moment
from sunglaze.core.language.vector import Vec
from sunglaze.core.nodes.node import in_scene, node, scene
from sunglaze.core.nodes.time import cell, keep, since
from sunglaze.core.nodes.types import Boolean, Degrees, Fraction, Number, Seconds, Span, Type, Vec2, Whole, one_of

WHO = p.WHO[:-1]
"""Of whom there is one."""
Centimetres = Annotated[Number, Type("number", "centimetres", 0.0, 400.0, 1.0)]
Turned = Annotated[Degrees, Span(-90, 90)]


class Way(NamedTuple):
    """A measure: the moment's number, between which ends people move it (common practice, no source), and where it rests while
    there is no face."""

    number: str
    low: float
    high: float
    rests: float


MEASURES = {
    "mouth open": Way("mouth", 0.0, 0.8, 0.0),
    "smile": Way("smile", 0.0, 1.0, 0.0),
    "brows lifted": Way("brows", 0.0, 1.0, 0.0),
    "left eye shut": Way("left blink", 0.0, 1.0, 0.0),
    "right eye shut": Way("right blink", 0.0, 1.0, 0.0),
    "both eyes shut": Way("blinks", 0.0, 1.0, 0.0),
    "turn": Way("turn", -45.0, 45.0, 0.0),
    "nod": Way("nod", -30.0, 30.0, 0.0),
    "tilt": Way("tilt", -45.0, 45.0, 0.0),
    "distance": Way("z", 20.0, 200.0, 60.0),
    "size": Way("size", 0.0, 0.5, 0.15),
    "across": Way("u", 0.0, 1.0, 0.5),
    "down": Way("v", 0.0, 1.0, 0.5),
    "there": Way("seen", 0.0, 1.0, 0.0),
}
"""What of a face a control may follow."""
PLACES = {
    "nose tip": 4, "between the brows": 151, "chin": 152, "left cheek": 50, "right cheek": 280, "left lip corner": 61,
    "right lip corner": 291, "upper lip": 13, "lower lip": 14, "left temple": 127, "right temple": 356, "top of the forehead": 10,
    "left iris": 468, "right iris": 473, "left eye, outer corner": 33, "left eye, inner corner": 133,
    "right eye, inner corner": 362, "right eye, outer corner": 263, "left brow, middle": 105, "right brow, middle": 334,
    "left brow, inner end": 107, "right brow, inner end": 336, "left brow, outer end": 70, "right brow, outer end": 300,
    "nose bridge": 6, "left nostril": 64, "right nostril": 294, "left jaw": 172, "right jaw": 397, "left ear": 234,
    "right ear": 454,
}  # fmt: skip
"""Named points of a face by the tracker's numbers; left and right are the picture's."""


def _number(index: int, name: str) -> Value:
    if name == "blinks":
        return v.minimum(_number(index, "left blink"), _number(index, "right blink"))
    found = moment(f"face:{index}.{name}")
    if found.kind == "bool":
        return v.number(found)
    # The lens looks down the axis on which distances are below 0.
    return constant(0.0) - found if name == "z" else found


def is_second(who: str) -> Value | bool:
    """Whether it is the second face that is meant: a condition, where that changes."""
    return _is_second(who, lambda n: moment(f"face:{n}.seen"), lambda n: _number(n, "size"))


def _is_second(who: str, there: Callable[[int], Value], size: Callable[[int], Value]) -> Value | bool:
    if who in ("first", "second"):
        return who == "second"
    if who == "any":
        return ~there(0) & there(1)
    return there(1) & (~there(0) | (size(1) > size(0)))


def of_face(who: str, name: str) -> Value:
    """A number of a face (core/language/moments.FACE, `blinks` for the eye that is less shut, point:P.u); 0 where there is
    none."""
    second = is_second(who)
    if isinstance(second, bool):
        return _number(int(second), name)
    return v.select(second, _number(1, name), _number(0, name))


def is_there(who: str) -> Value:
    """Whether a face is there."""
    return of_face(who, "seen") > 0.5


def is_held_second(who: str) -> Value | bool:
    """As `is_second`, of faces that are held steady, which stay a moment when they are lost."""
    columns, rows = (v.to_float(n) for n in frame_size())

    def size(n: int) -> Value:
        """Between the outer corners of the eyes, parts of the screen's width."""
        across, down = (moment(f"held:{n}.33.{axis}") - moment(f"held:{n}.263.{axis}") for axis in "uv")
        return v.length(Vec(across, down * v.divide(rows, columns)))

    return _is_second(who, lambda n: moment(f"held:{n}.there") > 0.0, size)


def held_number(who: str, name: str) -> Value:
    """A number of a face that is held steady: P.u, v or z, or there; 0 where there is none."""
    second = is_held_second(who)
    if isinstance(second, bool):
        return moment(f"held:{int(second)}.{name}")
    return v.select(second, moment(f"held:1.{name}"), moment(f"held:0.{name}"))


class FaceSeen(NamedTuple):
    """What *Face* gives."""

    there: Boolean
    middle: Vec2
    size: Fraction
    turn: Turned
    nod: Turned
    tilt: Turned
    distance: Centimetres
    mouth_open: Fraction
    left_eye_shut: Fraction
    right_eye_shut: Fraction
    smile: Fraction
    brows: Fraction
    came: Annotated[Seconds, Span(0, 600)]
    went: Annotated[Seconds, Span(0, 600)]


@node("Face", "face")
def face(who: Annotated[str, one_of(*WHO)] = "first") -> FaceSeen:
    """Where a face is, how large (between the middles of the eyes, of the picture's width), how it is turned and nodded, how far
    away, how open mouth and eyes are, how much it smiles and lifts its brows; for how many seconds it has been there, or gone
    (600 for what never was). The rest is 0 where there is none. Distance is for a head of middle size."""
    there = is_there(who)
    with in_scene(scene().at(f"{scene().path}.there")):
        came = since.rule(there)
    with in_scene(scene().at(f"{scene().path}.gone")):
        went = since.rule(~there)
    return FaceSeen(
        there, Vec(of_face(who, "u"), of_face(who, "v")), of_face(who, "size"), of_face(who, "turn"), of_face(who, "nod"),
        of_face(who, "tilt"), of_face(who, "z"), of_face(who, "mouth"), of_face(who, "left blink"), of_face(who, "right blink"),
        of_face(who, "smile"), of_face(who, "brows"), came, went,
    )  # fmt: skip


class Measured(NamedTuple):
    """What *Measure of a face* gives."""

    value: Number
    share: Fraction
    there: Boolean


@node("Measure of a face", "face")
def face_measure(
    which: Annotated[str, one_of(*MEASURES)] = "mouth open", who: Annotated[str, one_of(*WHO)] = "first",
    gone: Annotated[str, one_of("rests", "stays")] = "rests",
) -> Measured:  # fmt: skip
    """One number of a face: in its own unit, and as a share of what people do: a mouth open by 0.8 of its width, turned and
    tilted by 45 degrees to either side, nodded by 30, 20 to 200 cm away, as large as half of the picture. Where there is no face
    it rests (shut, upright, in the middle, 60 cm away), or stays at what it was."""
    way, there = MEASURES[which], is_there(who)
    rests = v.value(way.rests)
    here = of_face(who, way.number)
    value = v.select(there, here, rests)
    if gone == "stays" and which != "there":
        value = keep("value", v.select(there, here, cell("value", way.rests)), way.rests)
    return Measured(value, v.clamp01((value - way.low) * (1 / (way.high - way.low))), there)


@node("Faces", "face")
def faces() -> Annotated[Whole, Span(0, 2)]:
    """How many faces there are."""
    return moment("faces")


@node("Presence", "face")
def presence(
    who: Annotated[str, one_of(*WHO)] = "any", what: Annotated[str, one_of("is there", "has left")] = "is there",
    patience: Annotated[Seconds, Span(0, 3)] = 0.3,
) -> Boolean:  # fmt: skip
    """Whether a face is there, or has been and is gone. One that is lost for no longer than the patience counts as there."""
    there = is_there(who)
    gone, ever = cell("gone", 600.0), cell("ever")
    away = v.select(there, 0.0, v.minimum(gone + moment("delta"), 600.0))
    been = v.select(there, 1.0, ever)
    here = (been > 0.5) & (away <= patience)
    kept = keep("gone", away, 600.0), keep("ever", been)
    shown = here if what == "is there" else (been > 0.5) & ~here
    return together(v.number(shown), *kept) > 0.5


class PointSeen(NamedTuple):
    """What *Point of a face* gives."""

    place: Vec2
    away: Annotated[Degrees, Span(0, 180)]


@node("Point of a face", "face")
def face_point(which: Annotated[str, one_of(*PLACES)] = "nose tip", who: Annotated[str, one_of(*WHO)] = "first") -> PointSeen:
    """Where a named point of a face is in the picture (the upper left corner where there is no face), and how far the skin there
    turns away: 0 degrees towards the lens, 90 at the edge of what is seen, more behind it."""
    columns, rows = v.to_float(moment("width")), v.to_float(moment("height"))
    one, two, three = (_spot(who, n, v.divide(rows, columns)) for n in around(PLACES[which]))
    a, b = two - one, three - one
    # Clockwise as it is seen, with v down: what looks at the lens has its normal against z.
    normal = Vec(a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x)
    away = f.atan2(v.sqrt(normal.x * normal.x + normal.y * normal.y), normal.z) * (180 / math.pi)
    at = f"point:{PLACES[which]}"
    return PointSeen(Vec(of_face(who, f"{at}.u"), of_face(who, f"{at}.v")), away)


def _spot(who: str, number: int, shape: Value) -> Vec:
    """A point of a face in parts of the picture's width: u, v, and how much farther than the head's middle."""
    u, v_, z = (of_face(who, f"point:{number}.{part}") for part in "uvz")
    return Vec(u, v_ * shape, z)


class TouchSeen(NamedTuple):
    """What *Touch* gives."""

    down: Boolean
    place: Vec2
    since: Seconds
    taps: Whole
    turn: Degrees
    scale: Annotated[Number, Span(0, 10)]


@node("Touch", "touch")
def touch() -> TouchSeen:
    """A finger on the screen: whether it is down, where, for how many seconds since it last came down, how many taps there were
    so far; by how much two fingers have turned (clockwise) and spread things so far, altogether."""
    down = moment("touch.down")
    return TouchSeen(
        down, Vec(moment("touch.u"), moment("touch.v")), since.rule(down), moment("touch.taps"), moment("touch.turn"),
        moment("touch.scale"),
    )  # fmt: skip


FINGER = {
    "across": Way("touch.u", 0.0, 1.0, 0.5),
    "down": Way("touch.v", 0.0, 1.0, 0.5),
    "two fingers' turn": Way("touch.turn", -180.0, 180.0, 0.0),
    "two fingers' spread": Way("touch.scale", 0.25, 4.0, 1.0),
    "taps": Way("touch.taps", 0.0, 10.0, 0.0),
    "pressed": Way("touch.down", 0.0, 1.0, 0.0),
}
"""What of a finger a control may follow."""


class FingerMeasured(NamedTuple):
    """What *Measure of a finger* gives."""

    value: Number
    share: Fraction


@node("Measure of a finger", "touch")
def touch_measure(which: Annotated[str, one_of(*FINGER)] = "across") -> FingerMeasured:
    """One number of the finger on the screen, in its own unit and as a share: of the picture's width or height, of a whole turn,
    of spread from a quarter to four times, of ten taps. A finger that was lifted stays where it was."""
    way = FINGER[which]
    found = moment(way.number)
    value = v.number(found) if found.kind == "bool" else v.to_float(found) if found.kind == "int" else found
    if way.number == "touch.scale":
        # Twice as large is as far as half as large.
        share = f.log(value * (1 / way.low)) * (1 / math.log(way.high / way.low))
        return FingerMeasured(value, v.clamp01(share))
    return FingerMeasured(value, v.clamp01((value - way.low) * (1 / (way.high - way.low))))


class LensSeen(NamedTuple):
    """What *Camera and screen* gives."""

    back: Boolean
    shape: Annotated[Number, Span(0, 4)]
    upright: Boolean


@node("Camera and screen", "face")
def camera_and_screen() -> LensSeen:
    """Whether the back camera looks; the screen's width over its height, and whether it stands upright."""
    columns, rows = v.to_float(moment("width")), v.to_float(moment("height"))
    return LensSeen(moment("back"), v.divide(columns, rows), rows > columns)
