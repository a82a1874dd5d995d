"""The face and the finger: what is known of who is before the camera, and of the hand on the screen."""

from __future__ import annotations

from typing import Annotated, NamedTuple

from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value, constant
from sunglaze.core.language.moments import moment
from sunglaze.core.language.vector import Vec
from sunglaze.core.nodes.node import node
from sunglaze.core.nodes.time import since
from sunglaze.core.nodes.types import Boolean, Degrees, Fraction, Number, Seconds, Span, Type, Vec2, Whole, one_of

WHO = ("first", "second")
Centimetres = Annotated[Number, Type("number", "centimetres", 0.0, 400.0, 1.0)]
Turned = Annotated[Degrees, Span(-90, 90)]
MEASURES = {
    "mouth open": "mouth", "left eye shut": "left blink", "right eye shut": "right blink", "turn": "turn", "nod": "nod",
    "tilt": "tilt", "distance": "z", "size": "size", "across": "u", "down": "v", "there": "seen",
}  # fmt: skip
"""What of a face a control may follow, by the name of the moment's number."""
RANGES = {
    "mouth open": (0.0, 0.8), "left eye shut": (0.0, 1.0), "right eye shut": (0.0, 1.0), "turn": (-45.0, 45.0),
    "nod": (-30.0, 30.0), "tilt": (-45.0, 45.0), "distance": (20.0, 200.0), "size": (0.0, 0.5), "across": (0.0, 1.0),
    "down": (0.0, 1.0), "there": (0.0, 1.0),
}  # fmt: skip
"""Between which ends people move each, in its own unit; common practice, no source."""
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


def _of(who: str, name: str) -> Value:
    found = moment(f"face:{WHO.index(who)}.{name}")
    if found.kind == "bool":
        return v.number(found)
    # The lens looks down the axis on which distances are below 0.
    return constant(0.0) - found if name == "z" else found


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


@node("Face", "face")
def face(who: Annotated[str, one_of(*WHO)] = "first") -> FaceSeen:
    """Where a face is, how large (between the middles of the eyes, of the picture's width), how it is turned and nodded, how far
    away, how open mouth and eyes are. All is 0 where there is none. Distance is for a head of middle size."""
    return FaceSeen(
        moment(f"face:{WHO.index(who)}.seen"), Vec(_of(who, "u"), _of(who, "v")), _of(who, "size"), _of(who, "turn"),
        _of(who, "nod"), _of(who, "tilt"), _of(who, "z"), _of(who, "mouth"), _of(who, "left blink"), _of(who, "right blink"),
    )  # fmt: skip


class Measured(NamedTuple):
    """What *Measure of a face* gives."""

    value: Number
    share: Fraction


@node("Measure of a face", "face")
def face_measure(
    which: Annotated[str, one_of(*MEASURES)] = "mouth open", who: Annotated[str, one_of(*WHO)] = "first"
) -> Measured:
    """One number of a face, 0 where there is none: in its own unit, and as a share of what people do: a mouth open by 0.8 of its
    width, turned and tilted by 45 degrees to either side, nodded by 30, 20 to 200 cm away, as large as half of the picture."""
    value = _of(who, MEASURES[which])
    low, high = RANGES[which]
    return Measured(value, v.clamp01((value - low) * (1 / (high - low))))


@node("Point of a face", "face")
def face_point(which: Annotated[str, one_of(*PLACES)] = "nose tip", who: Annotated[str, one_of(*WHO)] = "first") -> Vec2:
    """Where a named point of a face is in the picture; the upper left corner where there is no face."""
    at = f"face:{WHO.index(who)}.point:{PLACES[which]}"
    return Vec(moment(f"{at}.u"), moment(f"{at}.v"))


class TouchSeen(NamedTuple):
    """What *Touch* gives."""

    down: Boolean
    place: Vec2
    since: Seconds
    taps: Whole


@node("Touch", "touch")
def touch() -> TouchSeen:
    """A finger on the screen: whether it is down, where, for how many seconds since it last came down, and how many taps there
    were so far."""
    down = moment("touch.down")
    return TouchSeen(down, Vec(moment("touch.u"), moment("touch.v")), since(down), moment("touch.taps"))
