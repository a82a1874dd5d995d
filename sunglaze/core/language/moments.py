"""Names of the numbers that a program may read of a moment, and their kinds. core/moment says what they are."""

from __future__ import annotations

import re

from sunglaze.core.language.expression import Value, leaf
from sunglaze.core.language.operations import Kind

FACES = 2
POINTS = 478
_PLAIN: dict[str, Kind] = {
    "time": "float", "frame": "int", "delta": "float", "seed": "int",
    "width": "int", "height": "int", "back": "bool",
    "touch.down": "bool", "touch.u": "float", "touch.v": "float", "touch.taps": "int",
    "touch.turn": "float", "touch.scale": "float", "faces": "int",
}  # fmt: skip
FACE: dict[str, Kind] = {
    "seen": "bool", "u": "float", "v": "float", "size": "float", "x": "float", "y": "float", "z": "float",
    "turn": "float", "nod": "float", "tilt": "float", "mouth": "float", "left blink": "float", "right blink": "float",
    "smile": "float", "brows": "float",
}  # fmt: skip
"""Of a face, written face:N.NAME: place and size in the picture, pose in centimetres and degrees, how open mouth and eyes are,
how much it smiles and lifts its brows."""
POINT = re.compile(r"face:([01])\.point:(\d{1,3})\.([uvz])")
HELD = re.compile(r"held:([01])\.(there|(\d{1,3})\.([uvz]))")
_FACE = re.compile(r"face:([01])\.([a-z ]+)")
_GIVEN = re.compile(r"(dial|dialled|cue):([A-Za-z0-9_-]{1,40})")
DRAWN = "drawn:"
"""What names of cells begin with that go on only in frames that are drawn, as kept pictures do. Where one would change in a frame
that nobody saw, that frame is drawn as well, by whoever has its picture."""
STILL = frozenset(("seed", "width", "height", "back"))
"""Those that mostly stay what they were from frame to frame."""


def kind_of(name: str) -> Kind:
    """The kind of a moment's number: one of the clock, screen, touch; dial:NAME, dialled:NAME (whether the
    wearer has turned it), cue:NAME; face:N.NAME, face:N.point:P.u, v or z; held:N.P.u, v or z, of a face that is held steady, and
    held:N.there, how much of it is there.

    Raises KeyError for a name that moments do not have.
    """
    if name in _PLAIN:
        return _PLAIN[name]
    if found := _GIVEN.fullmatch(name):
        return "float" if found[1] == "dial" else "bool"
    if (point := POINT.fullmatch(name)) and int(point[2]) < POINTS:
        return "float"
    if (held := HELD.fullmatch(name)) and int(held[3] or 0) < POINTS:
        return "float"
    if (face := _FACE.fullmatch(name)) and face[2] in FACE:
        return FACE[face[2]]
    raise KeyError(f"moments have no '{name}'")


def moment(name: str) -> Value:
    """A number of the moment, which changes once a frame at most. Raises KeyError as `kind_of` does."""
    return leaf("moment", name, kind=kind_of(name))


def is_of_faces(name: str) -> bool:
    """Whether faces must be known for a moment's number."""
    return name == "faces" or name.startswith(("face:", "held:"))


def frame_size() -> tuple[Value, Value]:
    """Columns and rows of the effect's frame."""
    return moment("width"), moment("height")
