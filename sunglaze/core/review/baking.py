"""A grade that was made of layers as one lookup: what of an effect is about colours alone, baked, and what baking loses."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.colour.difference import ciede2000
from sunglaze.core.colour.layouts import LAYOUTS
from sunglaze.core.colour.lut import Lut, Triple, cube, inputs_of, neutral
from sunglaze.core.colour.open_lut import lut_bytes
from sunglaze.core.colour.process_lists import Decision, write_cdl
from sunglaze.core.colour.spaces import srgb_to_lab
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.engine.grade import apply_lut
from sunglaze.core.engine.running import run
from sunglaze.core.errors import BadEffect, BadFile
from sunglaze.core.language.moments import STILL
from sunglaze.core.moment.moment import Moment
from sunglaze.core.review.judging import is_local, row_of, skin_tones

Floats = NDArray[np.float32]
GRID: Final = 24
"""Colours along an edge of the cube that what is lost is measured on: they lie between the entries of every usual lookup."""
SHADES: Final = 9


@dataclass(frozen=True)
class Loss:
    """Differences (CIEDE2000) between the layers and their lookup: over the whole cube, and over shades of skin."""

    mean: float
    largest: float
    skin_mean: float
    skin_largest: float


@dataclass(frozen=True)
class Left:
    """A layer that is not baked, and why."""

    layer: str
    name: str
    why: str


@dataclass(frozen=True, eq=False)
class Baked:
    """`layers`: the names of those in the lookup, in their order. `decision`: the same grade as a colour decision list, where it
    is one."""

    lut: Lut
    layers: list[str]
    left: list[Left]
    loss: Loss
    decision: Decision | None


def bake(effect: Effect, material: Material, size: int, to: str | None = None) -> Baked:
    """The layers of an effect that are about colours alone, from the first to `to` (an id) or all, as a cube of `size` steps.

    Raises BadEffect where there is none, naming all and why.
    """
    known = [layer.id for layer in effect.layers]
    if to is not None and to not in known:
        raise BadEffect(f"there is no layer '{to}'; the layers are {', '.join(known) or 'none'}")
    asked = effect.layers if to is None else effect.layers[: known.index(to) + 1]
    shown = [layer for layer in asked if effect.shows(layer)]
    left = [Left(layer.id, layer.name, why) for layer in shown if (why := _hindrance(layer, material))]
    gone = {one.layer for one in left}
    layers = [layer for layer in shown if layer.id not in gone]
    if not layers:
        reasons = "; ".join(f"'{one.name}' {one.why}" for one in left) or "no layer is on"
        raise BadEffect(f"nothing here is about colours alone: {reasons}")
    graded = Effect(name=effect.name, layers=[layer.model_copy(update={"group": None}) for layer in layers], seed=effect.seed)
    compiled = compile_effect(graded, material)

    def of(colours: Floats) -> Floats:
        return np.asarray(np.clip(run(compiled.program.final, Moment.of(row_of(colours)), compiled.inputs)[0][0], 0.0, 1.0))

    points = inputs_of(neutral(size)).reshape(-1, 3)
    lut = cube(of(points).reshape(size, size, size, 3), title=effect.name)
    return Baked(lut, [layer.name for layer in layers], left, _loss(lut, of), _decision(layers))


def _hindrance(layer: Layer, material: Material) -> str:
    """Why a layer is not about colours alone, in words; nothing where it is."""
    if layer.graph is None:
        return "is of a newer version"
    if layer.drives:
        return "moves by itself"
    program = compile_effect(Effect(name="asked", layers=[layer.model_copy(update={"group": None})]), material).program.final
    if not is_local(program):
        return "has a mask that hangs on places" if _local_without_mask(layer, material) else "looks at places or neighbours"
    return "changes from moment to moment" if set(program.signals.moments) - STILL else ""


def _local_without_mask(layer: Layer, material: Material) -> bool:
    bare = layer.model_copy(update={"mask": None, "group": None})
    return layer.mask is not None and is_local(compile_effect(Effect(name="asked", layers=[bare]), material).program.final)


def _loss(lut: Lut, of: Callable[[Floats], Floats]) -> Loss:
    axis = (np.arange(GRID) + 0.5) / GRID
    grid = np.array(list(itertools.product(axis, repeat=3)), np.float32)
    skin = np.concatenate([skin_tones() * share for share in np.linspace(0.5, 1.0, SHADES)]).astype(np.float32)

    def apart(colours: Floats) -> NDArray[np.float64]:
        both = of(colours), np.clip(apply_lut(lut, colours[None])[0], 0.0, 1.0)
        return ciede2000(*(srgb_to_lab(one.astype(np.float64)) for one in both))

    whole, on_skin = apart(grid), apart(skin)
    return Loss(*(round(float(number), 3) for number in (whole.mean(), whole.max(), on_skin.mean(), on_skin.max())))


def _decision(layers: list[Layer]) -> Decision | None:
    """The decision list that the layers are: one layer of that kind, laid on as it is."""
    layer = layers[0]
    plain = layer.kind == "decision-list" and layer.blend == "normal" and layer.opacity == 1.0 and layer.mask is None
    if len(layers) != 1 or not plain:
        return None
    values = {port.name: value for port, value in layer.controls_set()}
    return Decision(_three(values["slope"]), _three(values["offset"]), _three(values["power"]), float(values["saturation"]))


def _three(plain: Any) -> Triple:
    red, green, blue = map(float, plain)
    return red, green, blue


FORMS: Final = {"cube": ".cube", "clf": ".clf", "strip": ".png", "grid": ".png", "hald": ".png", "cdl": ".cdl"}
"""Ways in which a baked grade is written, and how their files end."""


def written(baked: Baked, form: str, name: str) -> bytes:
    """The file of a baked grade in one of FORMS. Raises BadFile for a form that does not hold it."""
    if form == "cdl":
        if baked.decision is None:
            raise BadFile(
                "this grade is no colour decision list: it is not one layer *Decision list*, laid on whole and without a mask"
            )
        return write_cdl(baked.decision, name)
    ending = FORMS[form]
    layout = form if form in LAYOUTS else None
    return lut_bytes(baked.lut, f"grade{ending}", layout)
