"""The moment: all that an effect can know of a frame, as plain frozen data that is written to JSON and read back.

Cameras give moments (core/camera), rehearsals add touch, cues and dials to them (rehearsal.py); engines take them.
"""

from __future__ import annotations

import base64
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Annotated, Any, Literal, Protocol

import numpy as np
from numpy.typing import NDArray
from pydantic import BeforeValidator, ConfigDict, Field, PlainSerializer, TypeAdapter, ValidationError

from sunglaze.core.errors import GlazeError, in_words
from sunglaze.core.language.moments import FACES, POINT, POINTS, kind_of
from sunglaze.core.language.operations import Plain

RATE = 30
"""Frames a second of every clock: frame = floor(30 t), whatever the display's rate."""
_KINDS = ("uint8", "uint32", "float32", "float64", "bool")
_MOST_VALUES = 64_000_000


def _packed(array: NDArray[Any]) -> dict[str, Any]:
    """An array as JSON, exact: its kind, shape, and bytes in Base64."""
    data = base64.b64encode(np.ascontiguousarray(array).tobytes()).decode()
    return {"kind": array.dtype.name, "shape": list(array.shape), "data": data}


def _unpacked(plain: Any) -> Any:
    if not isinstance(plain, Mapping):
        return plain
    kind, shape, data = plain.get("kind"), plain.get("shape"), plain.get("data")
    if kind not in _KINDS or not isinstance(data, str) or not isinstance(shape, list):
        raise ValueError(f"an array has a kind ({', '.join(_KINDS)}), a shape and data in Base64")
    if not all(isinstance(n, int) and 0 <= n <= _MOST_VALUES for n in shape):
        raise ValueError("the shape of an array is whole numbers")
    raw = np.frombuffer(base64.b64decode(data, validate=True), kind)
    if raw.size != np.prod(shape, dtype=object):
        raise ValueError(f"an array of the shape {shape} does not have {raw.size} values")
    return raw.reshape(shape)


Array = Annotated[NDArray[Any], BeforeValidator(_unpacked), PlainSerializer(_packed)]
_CONFIG = ConfigDict(arbitrary_types_allowed=True, extra="forbid")


@dataclass(frozen=True)
class Clock:
    """`seconds` and `frame` since the effect began, `delta` seconds since the frame before. `seed`: of this run, on top of the
    effect's own; random choices take seed and frame."""

    __pydantic_config__ = _CONFIG
    frame: int = 0
    seconds: float = 0.0
    delta: float = 1 / RATE
    seed: int = 0

    @classmethod
    def at(cls, frame: int, seed: int = 0) -> Clock:
        """The clock at a frame's number."""
        return cls(frame, frame / RATE, 1 / RATE, seed)


@dataclass(frozen=True)
class Screen:
    """Columns and rows of what is drawn, and which camera looks: the front one is mirrored, the back one is not."""

    __pydantic_config__ = _CONFIG
    columns: Annotated[int, Field(ge=1, le=8192)] = 540
    rows: Annotated[int, Field(ge=1, le=8192)] = 960
    side: Literal["front", "back"] = "front"


@dataclass(frozen=True)
class Touch:
    """A finger on the screen: whether it is down, where (u to the right, v down, 0 to 1), and how many taps there were so far.
    `turn` (degrees clockwise) and `scale`: by how much two fingers have turned and spread things so far, altogether."""

    __pydantic_config__ = _CONFIG
    down: bool = False
    u: float = 0.5
    v: float = 0.5
    taps: Annotated[int, Field(ge=0)] = 0
    turn: float = 0.0
    scale: float = 1.0


@dataclass(frozen=True, eq=False)
class Face:
    """A face as it is seen. `points` (478, 3) float64: u and v in the picture, 0 to 1, and z, how much farther than the head's
    middle in parts of the picture's width; `hidden` (478,) bool. `place`: of its middle (u, v). `size`: between the middles of
    the eyes, parts of the picture's width. `centimetres`: from the lens (x to the picture's right, y up, z towards the lens).
    `degrees`: turned to the picture's right, nodded down, tilted anticlockwise. `mouth`: gap between the lips over the mouth's
    width. `blinks`: of the picture's left and right eye, 0 open to 1 shut. `smile` and `brows` (lifted): 0 to 1."""

    __pydantic_config__ = _CONFIG
    points: Array
    hidden: Array
    place: tuple[float, float]
    size: float
    centimetres: tuple[float, float, float]
    degrees: tuple[float, float, float]
    mouth: float = 0.0
    blinks: tuple[float, float] = (0.0, 0.0)
    smile: float = 0.0
    brows: float = 0.0

    def __post_init__(self) -> None:
        if self.points.shape != (POINTS, 3) or self.hidden.shape != (POINTS,):
            raise ValueError(f"a face has {POINTS} points of three numbers each, and as many flags")


@dataclass(frozen=True, eq=False)
class Moment:
    """What an effect can know of one frame.

    `cues`: names of those given in this frame. `dials`: by name, 0 to 1. `faces`: at most two, the first being the one that was
    there first. `picture`: of the camera, none where nobody asked for it: (rows, columns, 3 or 4) of bytes or float32 0 to 1, or
    words as kernels take them (core/targets/memory.py); its alpha is the person mask. `regions`: further masks by name,
    (rows, columns, 1) of bytes.
    """

    __pydantic_config__ = _CONFIG
    clock: Clock = field(default_factory=Clock)
    screen: Screen = field(default_factory=Screen)
    touch: Touch = field(default_factory=Touch)
    cues: tuple[str, ...] = ()
    dials: dict[str, float] = field(default_factory=dict)
    faces: Annotated[tuple[Face, ...], Field(max_length=FACES)] = ()
    picture: Array | None = None
    regions: dict[str, Array] = field(default_factory=dict)

    @classmethod
    def of(cls, picture: NDArray[Any], frame: int = 0, regions: Mapping[str, NDArray[Any]] | None = None) -> Moment:
        """The moment of a frame before a camera that shows just this picture (rows, columns, 3 or 4)."""
        return cls(Clock.at(frame), Screen(picture.shape[1], picture.shape[0]), picture=picture, regions=dict(regions or {}))


@dataclass(frozen=True)
class Reads:
    """What someone needs to know of moments beside clock, screen, touch, cues and dials; the rest may be left out."""

    picture: bool = True
    regions: tuple[str, ...] = ()
    faces: bool = False

    @property
    def numbers(self) -> Reads:
        """The same without pictures: for a frame that nobody sees."""
        return Reads(False, (), self.faces)


class Source(Protocol):
    """Whatever gives moments: a camera, a rehearsal before one, a list that was kept."""

    def moment(self, frame: int, reads: Reads) -> Moment:
        """The moment of a frame, from 0 on, with at least what is asked for as far as it is known."""
        ...


_GETTERS: dict[str, Callable[[Moment], Plain]] = {
    "time": lambda m: m.clock.seconds,
    "frame": lambda m: m.clock.frame,
    "delta": lambda m: m.clock.delta,
    "seed": lambda m: m.clock.seed,
    "width": lambda m: m.screen.columns,
    "height": lambda m: m.screen.rows,
    "back": lambda m: m.screen.side == "back",
    "touch.down": lambda m: m.touch.down,
    "touch.u": lambda m: m.touch.u,
    "touch.v": lambda m: m.touch.v,
    "touch.taps": lambda m: m.touch.taps,
    "touch.turn": lambda m: m.touch.turn,
    "touch.scale": lambda m: m.touch.scale,
    "faces": lambda m: len(m.faces),
}
_OF_FACE: dict[str, Callable[[Face], Plain]] = {
    "seen": lambda _: True,
    "u": lambda f: f.place[0],
    "v": lambda f: f.place[1],
    "size": lambda f: f.size,
    "x": lambda f: f.centimetres[0],
    "y": lambda f: f.centimetres[1],
    "z": lambda f: f.centimetres[2],
    "turn": lambda f: f.degrees[0],
    "nod": lambda f: f.degrees[1],
    "tilt": lambda f: f.degrees[2],
    "mouth": lambda f: f.mouth,
    "left blink": lambda f: f.blinks[0],
    "right blink": lambda f: f.blinks[1],
    "smile": lambda f: f.smile,
    "brows": lambda f: f.brows,
}


def getter(name: str) -> Callable[[Moment], Plain]:
    """What reads a number (core/language/moments.py) of moments; 0 of a face or dial that is not there. Raises KeyError."""
    kind_of(name)
    if name in _GETTERS:
        return _GETTERS[name]
    group, _, rest = name.partition(":")
    if group == "dial":
        return lambda m: float(m.dials.get(rest, 0.0))
    if group == "dialled":
        return lambda m: rest in m.dials
    if group == "cue":
        return lambda m: rest in m.cues
    number = int(rest[0])
    if point := POINT.fullmatch(name):
        place = int(point[2]), "uvz".index(point[3])
        return lambda m: float(m.faces[number].points[place]) if number < len(m.faces) else 0.0
    of = _OF_FACE[rest[2:]]
    nothing = kind_of(name) == "float" and 0.0
    return lambda m: of(m.faces[number]) if number < len(m.faces) else nothing


_ADAPTER = TypeAdapter(Moment)


def write_moment(moment: Moment) -> dict[str, Any]:
    """A moment as JSON's data; arrays are exact."""
    plain: dict[str, Any] = _ADAPTER.dump_python(moment, mode="json")
    return plain


def read_moment(plain: Any) -> Moment:
    """A moment from JSON's data. Raises GlazeError with what is wrong and where."""
    try:
        return _ADAPTER.validate_python(plain)
    except ValidationError as error:
        raise GlazeError(f"this is no moment: {in_words(error, 'it')}") from None
