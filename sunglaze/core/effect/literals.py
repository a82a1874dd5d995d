"""What is set on nodes and layers: plain data checked against a type, as numbers for uniforms, and as symbols for recording."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.colour.curves import curve_table, hue_table, read_curves, read_hues
from sunglaze.core.colour.lut import Lut
from sunglaze.core.errors import BadEffect
from sunglaze.core.language.expression import constant
from sunglaze.core.language.operations import Kind
from sunglaze.core.language.pictures import asset_picture
from sunglaze.core.language.vector import Vec
from sunglaze.core.material.text import read_text, text_picture
from sunglaze.core.nodes.lookup import domain_uniforms, lookup_symbol
from sunglaze.core.nodes.node import Table
from sunglaze.core.nodes.types import WIDTHS, WORDS, Symbol, Type
from sunglaze.core.passes.program import Floats, uniform

_HEX = re.compile(r"#[0-9a-fA-F]{6}([0-9a-fA-F]{2})?")
_STAGE = re.compile(r"[A-Za-z0-9_-]{1,40}")
_HASH = re.compile(r"[0-9a-f]{64}")
LAYOUTS = ("strip", "grid", "hald")
Layout = Literal["strip", "grid", "hald"]


@dataclass(frozen=True)
class LookupRef:
    """A lookup asset and, where the artist said otherwise than what was found, its layout."""

    asset: str
    layout: Layout | None = None


@dataclass(frozen=True)
class LutForm:
    """What recording asks of a lookup."""

    is_cube: bool
    has_unit_domain: bool


@dataclass(frozen=True)
class Known:
    """What recording asks of material: what is there and of which form, not what it holds. So what is recorded, which is kept for
    long, holds no material."""

    luts: Mapping[LookupRef, LutForm] = field(default_factory=dict)
    pictures: frozenset[str] = frozenset()

    @property
    def key(self) -> str:
        """Equal for equal forms."""
        return f"{sorted(map(repr, self.luts.items()))} {sorted(self.pictures)}"


@dataclass(frozen=True)
class Material:
    """What effects refer to: lookups, and pictures (height, width, 4) of bytes by asset."""

    luts: Mapping[LookupRef, Lut] = field(default_factory=dict)
    pictures: Mapping[str, NDArray[Any]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        for key, pixels in self.pictures.items():
            if pixels.ndim != 3 or pixels.shape[2] != 4:
                raise ValueError(f"the picture {key[:12]} has the shape {pixels.shape}; four channels are wanted")

    @property
    def known(self) -> Known:
        """What recording asks of this material."""
        return Known({ref: LutForm(lut.is_cube, lut.has_unit_domain) for ref, lut in self.luts.items()}, frozenset(self.pictures))


def lookup_ref(plain: Any) -> LookupRef:
    """A lookup as it is set: {"asset": HASH, "layout": strip, grid or hald, or none}. Raises BadEffect."""
    if not isinstance(plain, dict) or not isinstance(plain.get("asset"), str) or not _HASH.fullmatch(plain["asset"]):
        raise BadEffect("a lookup is set as {'asset': its 64 hexadecimal digits}")
    if set(plain) - {"asset", "layout"} or plain.get("layout") not in (None, *LAYOUTS):
        raise BadEffect(f"the layout of a lookup is one of {', '.join(LAYOUTS)}")
    return LookupRef(plain["asset"], plain.get("layout"))


def colour_parts(plain: Any) -> tuple[float, float, float, float]:
    """A colour as it is set: sRGB hex, #rrggbb or #rrggbbaa, or three or four numbers. Raises BadEffect."""
    if isinstance(plain, str):
        if not _HEX.fullmatch(plain):
            raise BadEffect(f"'{plain}' is no colour; write it as six hexadecimal digits, like #a8420d")
        parts = [int(plain[n : n + 2], 16) / 255 for n in range(1, len(plain), 2)]
    else:
        parts = _numbers(plain, (3, 4), "a colour")
    return (*parts, 1.0)[:4] if len(parts) == 3 else tuple(parts)  # type: ignore[return-value]


def _numbers(plain: Any, counts: tuple[int, ...], what: str) -> list[float]:
    good = isinstance(plain, list | tuple) and len(plain) in counts and all(_is_number(p) for p in plain)
    if not good:
        raise BadEffect(f"{what} takes {' or '.join(map(str, counts))} numbers")
    return [float(p) for p in plain]


def _is_number(plain: Any) -> bool:
    if isinstance(plain, bool) or not isinstance(plain, int | float):
        return False
    return abs(plain) <= 3e38 if isinstance(plain, int) else math.isfinite(plain)


def check(kind: Type, plain: Any, ranged: bool = False) -> None:
    """Raises BadEffect with what is wrong, in words. `ranged`: also outside the control's range."""
    if plain is None:
        return
    name = kind.name
    if name == "boolean":
        if not isinstance(plain, bool):
            raise BadEffect("this is a switch; set it to true or false")
    elif name == "whole":
        if isinstance(plain, bool) or not isinstance(plain, int) or abs(plain) > 2**31 - 1:
            raise BadEffect("this takes a whole number")
    elif name in ("number", "mask"):
        if not _is_number(plain):
            raise BadEffect("this takes a number")
    elif name == "any":
        if not _is_number(plain):
            _numbers(plain, (2, 3, 4), "this")
    elif name in ("vec2", "vec3", "vec4"):
        if not _is_number(plain):
            _numbers(plain, (WIDTHS[name],), "this")
    elif name == "colour":
        colour_parts(plain)
    elif name == "choice":
        if plain not in kind.choices:
            raise BadEffect(f"'{plain}' is no choice here; choose from {', '.join(kind.choices)}")
    elif name == "lookup":
        lookup_ref(plain)
    elif name == "asset":
        if not isinstance(plain, str) or not _HASH.fullmatch(plain):
            raise BadEffect("a picture is set by its 64 hexadecimal digits")
    elif name == "curves":
        read_curves(plain)
    elif name == "hues":
        read_hues(plain)
    elif name == "text":
        read_text(plain)
    elif name == "stage":
        if not isinstance(plain, str) or not _STAGE.fullmatch(plain):
            raise BadEffect("the picture after a layer is set by the layer's id, or 'camera'")
    else:
        raise BadEffect(f"{WORDS[name]} cannot be set; wire it")
    if ranged and kind.low is not None and kind.high is not None and _is_number(plain) and not kind.low <= plain <= kind.high:
        raise BadEffect(f"{plain} lies outside {kind.low:g} to {kind.high:g}")


def fits(kind: Type, plain: Any) -> bool:
    """Whether this can be set on an input of this type, in its range or not."""
    try:
        check(kind, plain)
    except BadEffect:
        return False
    return True


def uniforms_of(kind: Type, plain: Any, name: str) -> dict[str, float]:
    """Values of the uniforms that `symbol` makes for what is set; none for what is part of the form."""
    if kind.name in ("boolean", "whole", "number", "mask"):
        return {name: plain}
    if kind.name == "any" and _is_number(plain):
        return {name: float(plain)}
    if kind.name in ("vec2", "vec3", "vec4", "any"):
        parts = [float(plain)] * WIDTHS[kind.name] if _is_number(plain) else [float(p) for p in plain]
        return {f"{name}.{n}": part for n, part in enumerate(parts)}
    if kind.name == "colour":
        return {f"{name}.{n}": part for n, part in enumerate(colour_parts(plain))}
    return {}


def symbol(kind: Type, plain: Any, name: str | None, known: Known) -> Symbol:
    """What is set as a symbol: uniforms under `name`, which turning moves without a new build, or constants without one. Raises
    BadEffect for material that is not there."""
    if kind.name in ("choice", "stage"):
        return plain
    if kind.name == "text":
        return asset_picture(name or "text")
    if kind.name == "lookup":
        return _lookup(plain, name or "lookup", known)
    if kind.name == "asset":
        if plain not in known.pictures:
            raise BadEffect(f"the picture {plain[:12]} is not there; choose one again")
        return asset_picture(plain)
    if kind.name in ("curves", "hues"):
        return Table(f"{name}", is_cube=False)
    kinds: dict[str, Kind] = {"boolean": "bool", "whole": "int"}
    numbers = uniforms_of(kind, plain, name or "")
    values = [
        uniform(key, kinds.get(kind.name, "float")) if name else constant(number, kinds.get(kind.name, "float"))
        for key, number in numbers.items()
    ]
    if kind.name == "colour" and name is not None and numbers[f"{name}.3"] == 1.0:
        # Opacity is part of the form as long as it is full: most colours are opaque, and stay quicker so.
        values[3] = constant(1.0)
    return values[0] if len(values) == 1 and kind.name not in WIDTHS else Vec(*values)


def _lookup(plain: Any, name: str, known: Known) -> Table:
    ref = lookup_ref(plain)
    if ref not in known.luts:
        raise BadEffect(f"its lookup ({ref.asset[:12]}) is not there; choose one again")
    lut = known.luts[ref]
    return lookup_symbol(name, lut.is_cube, lut.has_unit_domain)


def tables_of(kind: Type, plain: Any, name: str, material: Material) -> tuple[dict[str, Floats], dict[str, float]]:
    """Tables that what is set stands for, and the uniforms of their domains."""
    if plain is None:
        return {}, {}
    if kind.name == "curves":
        return {name: curve_table(read_curves(plain))}, {}
    if kind.name == "hues":
        return {name: hue_table(read_hues(plain))}, {}
    if kind.name != "lookup":
        return {}, {}
    lut = material.luts.get(lookup_ref(plain))
    if lut is None:
        return {}, {}
    return {name: lut.padded}, domain_uniforms(name, lut)


def pictures_of(kind: Type, plain: Any, name: str) -> dict[str, NDArray[Any]]:
    """Pictures that what is set stands for, by the id under which the program reads them."""
    return {name: text_picture(read_text(plain))} if kind.name == "text" and plain is not None else {}


def same_form(kind: Type, before: Any, after: Any) -> bool:
    """Whether a change of what is set leaves the program's form: it then moves uniforms or tables only."""
    if before == after:
        return True
    if before is None or after is None or kind.name in ("choice", "asset", "lookup", "stage"):
        return False
    if kind.name == "colour":
        return (colour_parts(before)[3] == 1.0) == (colour_parts(after)[3] == 1.0)
    if kind.name == "any":
        return bool(np.shape(before) == np.shape(after))
    return True
