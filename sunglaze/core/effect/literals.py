"""What is set on nodes and layers: plain data, parsed once to a typed value, which becomes symbols and inputs of programs.

Each type has one record of rules (RULES); nothing else asks what a type is called.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Mapping
from dataclasses import dataclass, field
from functools import partial
from typing import Any

import numpy as np

from sunglaze.core.colour.curves import curve_table, read_curves
from sunglaze.core.colour.hues import hue_table, over_table, read_hues
from sunglaze.core.colour.lut import Lut
from sunglaze.core.effect.references import (
    HASH,
    STAGE,
    WEARER,
    LookupRef,
    MeshRef,
    Played,
    Wearers,
    colour_parts,
    is_number,
    lookup_ref,
    mesh_ref,
    numbers,
    played,
    wearers,
)  # fmt: skip
from sunglaze.core.errors import BadEffect
from sunglaze.core.language.expression import constant
from sunglaze.core.language.functions import iadd
from sunglaze.core.language.moments import moment
from sunglaze.core.language.operations import Kind
from sunglaze.core.language.pictures import asset_picture, shown_sequence
from sunglaze.core.language.vector import Vec, floor, select, to_float, to_int
from sunglaze.core.material.mesh import MeshData
from sunglaze.core.material.painting import painted, read_painting
from sunglaze.core.material.path import path_table, read_path
from sunglaze.core.material.sequence import Sequence
from sunglaze.core.material.still import Still
from sunglaze.core.material.text import read_text, text_picture
from sunglaze.core.nodes.colour import OVER
from sunglaze.core.nodes.cues import EARLY
from sunglaze.core.nodes.cues import cue as cue_node
from sunglaze.core.nodes.lookup import domain_uniforms, lookup_symbol
from sunglaze.core.nodes.node import Port, Table
from sunglaze.core.nodes.playing import frame_of
from sunglaze.core.nodes.solids import TEXTURE, ShelfMesh
from sunglaze.core.nodes.types import WIDTHS, WORDS, Symbol, Type
from sunglaze.core.passes.program import Inputs, uniform

MESH_NUMBERS = ("size", "x", "y", "z", "motion", "speed", "broad")
"""What a program is told of a mesh beside its triangles."""


@dataclass(frozen=True)
class LutForm:
    """What recording asks of a lookup."""

    is_cube: bool
    has_unit_domain: bool


@dataclass(frozen=True)
class SequenceForm:
    """What recording asks of a sequence: how many pictures, over how many ticks."""

    frames: int
    ticks: int


@dataclass(frozen=True)
class Known:
    """What recording asks of material: what is there and of which form, not what it holds. So what is recorded, which is kept for
    long, holds no material."""

    luts: Mapping[LookupRef, LutForm] = field(default_factory=dict)
    pictures: frozenset[str] = frozenset()
    sequences: Mapping[str, SequenceForm] = field(default_factory=dict)
    meshes: frozenset[str] = frozenset()

    @property
    def key(self) -> str:
        """Equal for equal forms."""
        moving = sorted(map(repr, self.sequences.items()))
        return f"{sorted(map(repr, self.luts.items()))} {sorted(self.pictures)} {moving} {sorted(self.meshes)}"


@dataclass(frozen=True)
class Material:
    """What effects refer to, by asset: lookups, pictures of four channels of bytes, sequences and meshes. `packed`: pictures as
    the files that phones are given; those without one travel as PNG."""

    luts: Mapping[LookupRef, Lut] = field(default_factory=dict)
    pictures: Mapping[str, Still] = field(default_factory=dict)
    sequences: Mapping[str, Sequence] = field(default_factory=dict)
    packed: Mapping[str, bytes] = field(default_factory=dict)
    meshes: Mapping[str, MeshData] = field(default_factory=dict)

    def __post_init__(self) -> None:
        for key, made in ((key, one.made) for key, one in self.pictures.items()):
            if made is not None and (made.ndim != 3 or made.shape[2] != 4):
                raise ValueError(f"the picture {key[:12]} has the shape {made.shape}; four channels are wanted")

    @property
    def known(self) -> Known:
        """What recording asks of this material."""
        luts = {ref: LutForm(lut.is_cube, lut.has_unit_domain) for ref, lut in self.luts.items()}
        moving = {key: SequenceForm(one.frames, one.ticks) for key, one in self.sequences.items()}
        return Known(luts, frozenset(self.pictures), moving, frozenset(self.meshes))


Parsed = Any
"""What is set, parsed: a number, numbers, a word, a LookupRef, an asset's hash, a Played, curves, hues, a Path, a Painting, a
MeshRef, a Text."""


@dataclass(frozen=True)
class Rules:
    """How what is set of one type is read, recorded, and given to programs.

    `parse`: plain data to the typed value; raises BadEffect. `symbol`: the typed value under a name, or as a constant without
    one; raises BadEffect for material that is not there. `inputs`: what a program is given under the name. `form`: what of it is
    part of a program's form, so that another one is another program.
    """

    parse: Callable[[Type, Any], Parsed]
    symbol: Callable[[Parsed, str | None, Known], Symbol]
    inputs: Callable[[Parsed, str, Material], Inputs]
    form: Callable[[Parsed], Hashable]


def _parse_switch(_: Type, plain: Any) -> bool:
    if not isinstance(plain, bool):
        raise BadEffect("this is a switch; set it to true or false")
    return plain


def _parse_whole(_: Type, plain: Any) -> int:
    if isinstance(plain, bool) or not isinstance(plain, int) or abs(plain) > 2**31 - 1:
        raise BadEffect("this takes a whole number")
    return plain


def _parse_number(_: Type, plain: Any) -> float:
    if not is_number(plain):
        raise BadEffect("this takes a number")
    number: float = plain
    return number


def _parse_any(_: Type, plain: Any) -> float | tuple[float, ...]:
    return float(plain) if is_number(plain) else numbers(plain, (2, 3, 4), "this")


def _parse_vector(kind: Type, plain: Any) -> tuple[float, ...]:
    width = WIDTHS[kind.name]
    return (float(plain),) * width if is_number(plain) else numbers(plain, (width,), "this")


def _parse_choice(kind: Type, plain: Any) -> str:
    if plain not in kind.choices:
        raise BadEffect(f"'{plain}' is no choice here; choose from {', '.join(kind.choices)}")
    return str(plain)


def _parse_asset(_: Type, plain: Any) -> str | Played | Wearers:
    if isinstance(plain, dict):
        return wearers(plain) if WEARER in plain else played(plain)
    if not isinstance(plain, str) or not HASH.fullmatch(plain):
        raise BadEffect("a picture is set by its 64 hexadecimal digits")
    return plain


def _parse_stage(_: Type, plain: Any) -> str:
    if not isinstance(plain, str) or not STAGE.fullmatch(plain):
        raise BadEffect("the picture after a layer is set by the layer's id, or 'camera'")
    return plain


def _parse_name(kind: Type, plain: Any) -> str:
    if not isinstance(plain, str) or not STAGE.fullmatch(plain):
        raise BadEffect(f"a {kind.name} is set by its id")
    return plain


def _parse_nothing(kind: Type, _: Any) -> Parsed:
    raise BadEffect(f"{WORDS[kind.name]} cannot be set; wire it")


def _named(typed: Parsed, name: str) -> dict[str, float]:
    """A number under a name, numbers under the name and their places."""
    return {f"{name}.{n}": part for n, part in enumerate(typed)} if isinstance(typed, tuple) else {name: typed}


def _number_symbol(kind: Kind, typed: Parsed, name: str | None, _: Known) -> Symbol:
    values = [uniform(key, kind) if name else constant(number, kind) for key, number in _named(typed, name or "").items()]
    return Vec(*values) if isinstance(typed, tuple) else values[0]


def _colour_symbol(typed: Parsed, name: str | None, known: Known) -> Symbol:
    made = _number_symbol("float", typed, name, known)
    # Opacity is part of the form as long as it is full: most colours are opaque, and stay quicker so.
    return Vec(*made.parts()[:3], constant(1.0)) if typed[3] == 1.0 else made


def _lookup_symbol(typed: Parsed, name: str | None, known: Known) -> Table:
    if typed not in known.luts:
        raise BadEffect(f"its lookup ({typed.asset[:12]}) is not there; choose one again")
    lut = known.luts[typed]
    return lookup_symbol(name or "lookup", lut.is_cube, lut.has_unit_domain)


def _asset_symbol(typed: Parsed, name: str | None, known: Known) -> Symbol:
    if isinstance(typed, Played):
        return _played_symbol(typed, name, known)
    if isinstance(typed, Wearers):
        return asset_picture(WEARER)
    if typed not in known.pictures:
        raise BadEffect(f"the picture {typed[:12]} is not there; choose one again")
    return asset_picture(typed)


def _played_symbol(typed: Played, name: str | None, known: Known) -> Symbol:
    form = known.sequences.get(typed.asset)
    if form is None:
        raise BadEffect(f"the sequence {typed.asset[:12]} is not there; choose one again")
    rate, shift = (uniform(f"{name}.{part}") if name else constant(getattr(typed, part)) for part in ("rate", "shift"))
    each = typed.order == "shuffled"
    ticks = form.frames if each else form.ticks
    passed = moment("time")
    if typed.cue is not None:
        started = cue_node(typed.cue)
        passed = select(to_float(started.times) > 0.5, started.since + moment("delta") * EARLY, 0.0)
    turn = to_int(floor((passed + shift) * rate * constant(ticks / form.frames)))
    count = constant(ticks, "int")
    shows, soon = (frame_of(at, count, typed.order) for at in (turn, iadd(turn, 1)))
    return shown_sequence(typed.identity, shows, soon)


def _asset_inputs(typed: Parsed, name: str, material: Material) -> Inputs:
    if isinstance(typed, Wearers):
        stand_in = material.pictures.get(typed.asset) if typed.asset else None
        return Inputs(pictures={WEARER: stand_in} if stand_in is not None else {})
    if not isinstance(typed, Played):
        return Inputs()
    found = material.sequences.get(typed.asset)
    shown = {typed.identity: found.each if typed.order == "shuffled" else found} if found is not None else {}
    return Inputs({f"{name}.rate": typed.rate, f"{name}.shift": typed.shift}, sequences=shown)


def _mesh_symbol(typed: MeshRef, name: str | None, known: Known) -> ShelfMesh:
    if typed.asset not in known.meshes:
        raise BadEffect(f"the mesh {typed.asset[:12]} is not there; choose one again")
    size, x, y, z, motion, speed, broad = (uniform(f"{name}.{part}") for part in MESH_NUMBERS)
    return ShelfMesh(typed.asset, size, Vec(x, y, z), motion, speed, broad)


WHITE = Still.of(np.full((1, 1, 4), 255, np.uint8))
"""The texture of a mesh that has none."""


def _mesh_inputs(typed: MeshRef, name: str, material: Material) -> Inputs:
    found = material.meshes.get(typed.asset)
    if found is None:
        return Inputs()
    names = [one.name for one in found.motions]
    motion = names.index(typed.motion) if typed.motion in names else -1
    numbers = (found.size, *found.middle.tolist(), float(motion), typed.speed, found.broad)
    texture = {f"{TEXTURE}{typed.asset}": WHITE if found.texture is None else Still.of(found.texture)}
    uniforms = {f"{name}.{part}": number for part, number in zip(MESH_NUMBERS, numbers, strict=True)}
    return Inputs(uniforms, pictures=texture, meshes={typed.asset: found})


def _asset_form(typed: Parsed) -> Hashable:
    # Another photo in the wearer's place is no other program.
    if isinstance(typed, Wearers):
        return WEARER
    return (typed.asset, typed.order, typed.cue) if isinstance(typed, Played) else typed


def _lookup_inputs(typed: Parsed, name: str, material: Material) -> Inputs:
    lut = material.luts.get(typed)
    return Inputs(domain_uniforms(name, lut), {name: lut.padded}) if lut is not None else Inputs()


def _as_it_is(typed: Parsed) -> Hashable:
    """Another value is another program."""
    held: Hashable = typed
    return held


def _none(*_: Any) -> Hashable:
    """No part of the form."""
    return None


def _width(typed: Parsed) -> Hashable:
    return len(typed) if isinstance(typed, tuple) else 0


def _uniforms(typed: Parsed, name: str, _: Material) -> Inputs:
    return Inputs(_named(typed, name))


def _word(typed: Parsed, *_: Any) -> Symbol:
    return typed


def _no_inputs(*_: Any) -> Inputs:
    return Inputs()


def _no_symbol(*_: Any) -> Symbol:
    raise TypeError("what cannot be set has no symbol")


def _drawn_table(_: Parsed, name: str | None, __: Known) -> Table:
    return Table(f"{name}", is_cube=False)


def _numeric(parse: Callable[[Type, Any], Parsed], kind: Kind = "float", form: Callable[[Parsed], Hashable] = _none) -> Rules:
    return Rules(parse, partial(_number_symbol, kind), _uniforms, form)


_VECTOR = _numeric(_parse_vector)
_NOT_SET = Rules(_parse_nothing, _no_symbol, _no_inputs, _none)
RULES: dict[str, Rules] = {
    "boolean": _numeric(_parse_switch, "bool"),
    "whole": _numeric(_parse_whole, "int"),
    "number": _numeric(_parse_number),
    "mask": _numeric(_parse_number),
    "any": _numeric(_parse_any, form=_width),
    "vec2": _VECTOR,
    "vec3": _VECTOR,
    "vec4": _VECTOR,
    "colour": Rules(lambda _, plain: colour_parts(plain), _colour_symbol, _uniforms, lambda typed: typed[3] == 1.0),
    "choice": Rules(_parse_choice, _word, _no_inputs, _as_it_is),
    "stage": Rules(_parse_stage, _word, _no_inputs, _as_it_is),
    "cue": Rules(_parse_name, _word, _no_inputs, _as_it_is),
    "dial": Rules(_parse_name, _word, _no_inputs, _as_it_is),
    "lookup": Rules(lambda _, plain: lookup_ref(plain), _lookup_symbol, _lookup_inputs, _as_it_is),
    "asset": Rules(_parse_asset, _asset_symbol, _asset_inputs, _asset_form),
    "curves": Rules(
        lambda _, plain: read_curves(plain), _drawn_table, lambda typed, name, _: Inputs({}, {name: curve_table(typed)}), _none
    ),
    "hues": Rules(
        lambda _, plain: read_hues(plain), _drawn_table,
        lambda typed, name, _: Inputs({}, {name: hue_table(typed), f"{name}{OVER}": over_table(typed)}), _none,
    ),
    "path": Rules(
        lambda _, plain: read_path(plain), _drawn_table, lambda typed, name, _: Inputs({}, {name: path_table(typed)}), _none
    ),
    "painting": Rules(
        lambda _, plain: read_painting(plain), lambda typed, name, _: (asset_picture(name or "painting"), typed.reveals),
        lambda typed, name, _: Inputs({}, pictures={name: Still.of(painted(typed))}), lambda typed: typed.reveals,
    ),
    "mesh": Rules(lambda _, plain: mesh_ref(plain), _mesh_symbol, _mesh_inputs, lambda typed: typed.asset),
    "text": Rules(
        lambda _, plain: read_text(plain), lambda _, name, __: asset_picture(name or "text"),
        lambda typed, name, _: Inputs({}, pictures={name: Still.of(text_picture(typed))}), _none,
    ),
    "picture": _NOT_SET,
}  # fmt: skip


def parse(kind: Type, plain: Any, ranged: bool = False) -> Parsed:
    """What is set as a typed value; none where nothing is. `ranged`: numbers must lie in the control's range. Raises BadEffect
    with what is wrong, in words."""
    if plain is None:
        return None
    typed = RULES[kind.name].parse(kind, plain)
    if ranged and kind.low is not None and kind.high is not None and is_number(plain) and not kind.low <= plain <= kind.high:
        raise BadEffect(f"{plain} lies outside {kind.low:g} to {kind.high:g}")
    return typed


def fits(kind: Type, plain: Any) -> bool:
    """Whether this can be set on an input of this type, in its range or not."""
    try:
        parse(kind, plain)
    except BadEffect:
        return False
    return True


@dataclass(frozen=True)
class Setting:
    """What is set under a name of the program. `typed`: parsed; none where nothing is set, or what is set does not fit (a fault
    that recording tells)."""

    name: str
    port: Port
    plain: Any
    typed: Parsed

    @property
    def form(self) -> Hashable:
        """Equal where a program takes both by its inputs alone."""
        if self.typed is None:
            return None if self.plain is None else ("fault", repr(self.plain))
        return "set", RULES[self.port.kind.name].form(self.typed)


def setting(name: str, port: Port, plain: Any) -> Setting:
    """What is set on a control or input, parsed."""
    try:
        return Setting(name, port, plain, parse(port.kind, plain))
    except BadEffect:
        return Setting(name, port, plain, None)


def symbol(kind: Type, typed: Parsed, name: str | None, known: Known) -> Symbol:
    """What is set as a symbol: uniforms under `name`, which turning moves without a new build, or constants without one. Raises
    BadEffect for material that is not there."""
    return RULES[kind.name].symbol(typed, name, known)


def inputs_of(one: Setting, material: Material) -> Inputs:
    """What a program is given for one thing that is set."""
    return Inputs() if one.typed is None else RULES[one.port.kind.name].inputs(one.typed, one.name, material)
