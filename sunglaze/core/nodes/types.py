"""Types of wires and controls, and the few conversions between them.

A node's signature is written with the names at the end of this module; what they carry (unit, range, step) reaches the
interface from here.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated, Any, Literal

from sunglaze.core.language.expression import Value
from sunglaze.core.language.pictures import colour_here, computed, picture_of
from sunglaze.core.language.vector import Vec, clamp01, select, to_float

TypeName = Literal[
    "boolean", "whole", "number", "vec2", "vec3", "vec4", "colour", "mask", "picture",
    "choice", "lookup", "asset", "curves", "hues", "path", "painting", "mesh", "text", "stage", "cue", "dial", "any",
]  # fmt: skip
"""`any` stands for number, vec2, vec3, vec4 or colour: the widest that is wired to the node. `choice`, `lookup`, `asset`,
`curves`, `hues`, `path`, `painting`, `mesh`, `text`, `stage` (the picture after a layer, by its id), `cue` and `dial` (by their
ids) are set on the node, never wired."""

Wire = Literal["", "single", "double", "hatched", "film"]


@dataclass(frozen=True)
class Traits:
    """What a type is, for the rules and for the interface. `parts`: how many numbers it holds, 0 where it is none. `wire`: how
    wires of it are drawn, "" where it is set on the node and never wired. `any`: whether it fits an input that takes numbers and
    vectors. `driven`: whether something may move a control of it. `material`: whether it is the artist's own, so that a setting
    leaves it. `large`: its control is no line among others, but has a place of its own."""

    words: str
    parts: int
    wire: Wire
    any: bool = False
    driven: bool = False
    material: bool = False
    large: bool = False


TRAITS: dict[str, Traits] = {
    "boolean": Traits("yes or no", 1, "single", driven=True),
    "whole": Traits("whole number", 1, "single", any=True, driven=True),
    "number": Traits("number", 1, "single", any=True, driven=True),
    "vec2": Traits("2 numbers", 2, "double", any=True),
    "vec3": Traits("3 numbers", 3, "double", any=True),
    "vec4": Traits("4 numbers", 4, "double", any=True),
    "colour": Traits("colour", 4, "double", any=True, driven=True),
    "mask": Traits("mask", 1, "hatched", any=True, driven=True),
    "picture": Traits("picture", 0, "film", any=True),
    "choice": Traits("choice", 0, ""),
    "lookup": Traits("lookup table", 0, "", material=True, large=True),
    "asset": Traits("picture from the shelf", 0, "", material=True),
    "curves": Traits("curves", 0, "", large=True),
    "hues": Traits("hue curves", 0, "", large=True),
    "path": Traits("drawn path", 0, ""),
    "painting": Traits("painting", 0, "", material=True),
    "mesh": Traits("mesh from the shelf", 0, "", material=True),
    "text": Traits("text", 0, "", material=True),
    "stage": Traits("picture after a layer", 0, ""),
    "cue": Traits("cue", 0, ""),
    "dial": Traits("dial", 0, ""),
    "any": Traits("number or vector", 0, "single"),
}
WORDS = {name: one.words for name, one in TRAITS.items()}
SET_ON_NODE = frozenset(name for name, one in TRAITS.items() if not one.wire)
WIDTHS = {name: one.parts for name, one in TRAITS.items() if one.parts > 1}

Symbol = Any
"""A value, vector, picture, table or word while it is recorded; the name of its type goes beside it."""


@dataclass(frozen=True)
class Type:
    """A type with what the interface needs: unit, range and step of its control, choices."""

    name: TypeName
    unit: str = ""
    low: float | None = None
    high: float | None = None
    step: float | None = None
    choices: tuple[str, ...] = ()


@dataclass(frozen=True)
class Span:
    """Narrows a type's range: `Annotated[Degrees, Span(-90, 90)]`."""

    low: float
    high: float
    step: float | None = None

    def of(self, kind: Type) -> Type:
        """The type with this range."""
        return replace(kind, low=self.low, high=self.high, step=self.step or kind.step)


CONVERSIONS: dict[tuple[str, str], str] = {
    ("whole", "number"): "the same number",
    **{("number", wide): "the number in every part" for wide in ("vec2", "vec3", "vec4")},
    **{("whole", wide): "the number in every part" for wide in ("vec2", "vec3", "vec4")},
    ("number", "colour"): "grey",
    ("mask", "number"): "0 outside to 1 inside",
    ("mask", "colour"): "white inside, black outside",
    ("number", "mask"): "held to 0 to 1",
    ("vec3", "colour"): "red, green and blue, opaque",
    ("colour", "vec3"): "red, green and blue",
    ("colour", "picture"): "by an intermediate picture",
    ("mask", "picture"): "by an intermediate picture",
    ("number", "picture"): "by an intermediate picture",
    ("picture", "colour"): "its colour at this pixel",
    ("boolean", "number"): "0 or 1",
}
"""Every conversion that a wire makes, and what it does. All others need a node."""


def converts(given: str, wanted: str) -> bool:
    """Whether a wire of one type fits an input of another."""
    if given == wanted or (given, wanted) in CONVERSIONS:
        return True
    return wanted == "any" and TRAITS[given].any


def what_fits(wanted: str) -> str:
    """The types that may be wired to an input, in words."""
    given = [name for name in WORDS if name != "any" and name not in SET_ON_NODE and converts(name, wanted)]
    return ", ".join(WORDS[name] for name in given)


def convert(symbol: Symbol, given: str, wanted: str) -> Symbol:
    """A wire's value as the input takes it. Raises TypeError where no conversion is listed."""
    if given == wanted:
        return symbol
    if wanted == "any":
        return convert(symbol, given, {"whole": "number", "mask": "number", "picture": "colour"}.get(given, given))
    if (given, wanted) not in CONVERSIONS:
        raise TypeError(f"{WORDS[given]} does not fit {WORDS[wanted]}")
    if given == "boolean":
        return select(symbol, 1.0, 0.0)
    if given == "whole":
        symbol = to_float(symbol)
    if given == "picture":
        return colour_here(symbol)
    if given == "colour":
        return symbol.rgb if wanted == "vec3" else picture_of(symbol)
    if wanted == "picture":
        # A number may be an angle or a place, which half precision would spoil.
        return computed([symbol], precise=True)
    if wanted == "colour":
        return Vec(*symbol.parts(), 1.0) if given == "vec3" else _grey(symbol)
    if wanted in WIDTHS:
        return Vec(*[symbol] * WIDTHS[wanted])
    return clamp01(symbol) if wanted == "mask" else symbol


def _grey(number: Value) -> Vec:
    return Vec(number, number, number, 1.0)


def widest(names: list[str]) -> TypeName | None:
    """What several wires to `any` inputs become together; none where vectors of unequal sizes meet. Three numbers go with a
    colour, whose opacity is left out of maths."""
    sized = {n for n in names if n in WIDTHS}
    if sized == {"vec3", "colour"}:
        return "colour"
    if not sized:
        return "number"
    if len(sized) > 1:
        return None
    return sized.pop()  # type: ignore[return-value]


def type_of(annotation: Any) -> Type:
    """The type that an annotation carries, narrowed by its spans. Raises TypeError where it carries none."""
    found: Type | None = None
    for part in annotation.__metadata__:
        if isinstance(part, Type):
            found = part
        elif isinstance(part, Span):
            assert found is not None
            found = part.of(found)
    if found is None:
        raise TypeError(f"{annotation} is no type of a node's")
    return found


Boolean = Annotated[Any, Type("boolean")]
Whole = Annotated[Any, Type("whole", low=0, high=100, step=1)]
Number = Annotated[Any, Type("number", step=0.01)]
Fraction = Annotated[Any, Type("number", low=0.0, high=1.0, step=0.01)]
Signed = Annotated[Any, Type("number", low=-1.0, high=1.0, step=0.01)]
Degrees = Annotated[Any, Type("number", "degrees", -360.0, 360.0, 1.0)]
Seconds = Annotated[Any, Type("number", "seconds", 0.0, 10.0, 0.05)]
ReferencePixels = Annotated[Any, Type("number", "reference pixels", 0.0, 100.0, 0.5)]
Stops = Annotated[Any, Type("number", "stops", -4.0, 4.0, 0.05)]
PerSecond = Annotated[Any, Type("number", "a second", 0.0, 60.0, 0.1)]
Vec2 = Annotated[Any, Type("vec2", step=0.01)]
Vec3 = Annotated[Any, Type("vec3", step=0.01)]
Vec4 = Annotated[Any, Type("vec4", step=0.01)]
Any_ = Annotated[Any, Type("any", step=0.01)]
Colour = Annotated[Any, Type("colour")]
Mask = Annotated[Any, Type("mask", low=0.0, high=1.0, step=0.01)]
PictureIn = Annotated[Any, Type("picture")]
Lookup = Annotated[Any, Type("lookup")]
Asset = Annotated[Any, Type("asset")]
Curves = Annotated[Any, Type("curves")]
Hues = Annotated[Any, Type("hues")]
Path = Annotated[Any, Type("path")]
Painting = Annotated[Any, Type("painting")]
Mesh = Annotated[Any, Type("mesh")]
Text = Annotated[Any, Type("text")]
Stage = Annotated[Any, Type("stage")]
CueName = Annotated[Any, Type("cue")]
DialName = Annotated[Any, Type("dial")]


def one_of(*choices: str) -> Type:
    """A choice among words; part of a program's form."""
    return Type("choice", choices=choices)
