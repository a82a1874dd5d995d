"""From an effect to a program and its inputs. The light path folds into one graph; its passes are planned as a whole.

Each layer: out = composite(below, clamp01(colour), opacity * alpha). Values of controls are uniforms, so turning one never
builds anew; the order of layers, their recipes, choices, blend modes and the kinds of their tables are the program's form.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Any

from sunglaze.core.effect.address import DRIVE, MASK
from sunglaze.core.effect.document import OPACITY, OWN, Effect, Layer, parts_of
from sunglaze.core.effect.literals import Known, Material, inputs_of, parse, symbol
from sunglaze.core.effect.recipe import BadRecipe, Fault
from sunglaze.core.effect.recording import Recorder, Typed, kind_set, result_of
from sunglaze.core.errors import BadEffect
from sunglaze.core.language.expression import Rate, Value
from sunglaze.core.language.pictures import CAMERA, colour_here, passes_only_if, stage
from sunglaze.core.language.vector import Vec, clamp, clamp01
from sunglaze.core.material.sequence import Sequence
from sunglaze.core.nodes.blend import over
from sunglaze.core.nodes.node import Port, Scene
from sunglaze.core.passes.program import Floats, Inputs, Program, uniform


@dataclass(frozen=True)
class Compiled:
    """`program` has one output a stage: the camera, then the picture after each layer, the effect's last.

    `faults`: what is wrong with layers though they give a picture, by layer.
    """

    program: Program
    inputs: Inputs
    faults: Mapping[str, list[Fault]] = field(default_factory=dict)


def compile_effect(effect: Effect, material: Material) -> Compiled:
    """Raises BadEffect, naming the layer, where one gives no picture; BadRecipe says all that is wrong with it."""
    below = colour_here(CAMERA)
    made: dict[str, tuple[Value, ...]] = {}
    stages: dict[str, Vec] = {}
    faults = {}
    known = material.known
    key = known.key
    for layer in effect.layers:
        # What a layer records hangs on the names of those below it, not on what they are.
        around = f"{key} {[*stages]}"
        scene = Scene(below, stages=dict(stages))
        colour, found = _stage(_Stage(f"{around} {layer.model_dump_json()}", around, layer, scene, known))
        if found:
            faults[layer.id] = list(found)
        made[layer.id] = colour.parts()[:3]
        below = stages[layer.id] = stage(layer.id, colour)
    program = Program((colour_here(CAMERA), *stages.values()), stages=made)
    return Compiled(program, inputs_of_effect(effect, material), faults)


@dataclass(frozen=True)
class _Stage:
    """A layer on what lies below; `key` says all that its recording hangs on, `around` what that is besides the layer."""

    key: str
    around: str = field(compare=False)
    layer: Layer = field(compare=False)
    scene: Scene = field(compare=False)
    known: Known = field(compare=False)


@lru_cache(maxsize=128)
def _stage(one: _Stage) -> tuple[Vec, tuple[Fault, ...]]:
    """The picture after a layer, and what is wrong with it though it gives one. Kept: an edit of one layer leaves the others as
    they were."""
    layer = one.layer
    rest = layer.model_dump_json(exclude={"name", "on", "group", "blend", "light", "opacity"})
    colour, much, found = _itself(replace(one, key=f"{one.around} {rest}"))
    return over(one.scene.below, colour, layer.blend, much, layer.light == "linear"), found


@lru_cache(maxsize=128)
def _itself(one: _Stage) -> tuple[Vec, Value, tuple[Fault, ...]]:
    """A layer's colour and how much of it shows: all but how it is laid on what is below."""
    layer, scene, known = one.layer, one.scene, one.known
    amount = uniform(f"{layer.id}.{OPACITY.name}")
    if (moving := _moving(layer, OPACITY, "", scene, known)) is not None:
        amount = amount * moving
    # A layer that is off or clear computes none of its passes.
    with passes_only_if(amount > 0.0):
        colour, found = _colour(layer, scene, known)
        mask = _mask(layer, scene, known)
    return colour, amount if mask is None else amount * mask, tuple(found)


def _colour(layer: Layer, scene: Scene, known: Known) -> tuple[Vec, list[Fault]]:
    if layer.graph is None:
        message = f"'{layer.kind}' is a layer of a newer version; it is kept, and leaves the picture as it is"
        return scene.below, [Fault(message=message)]
    recorder = record_layer(layer, scene, known)
    colour = result_of(recorder)
    if colour is None:
        raise BadRecipe(recorder.faults, layer.id, layer.name)
    return colour, recorder.faults


def record_layer(layer: Layer, scene: Scene, known: Known) -> Recorder:
    """A recorder of a layer's recipe. Raises BadEffect for a layer of a newer version."""
    if layer.graph is None:
        raise BadEffect(f"'{layer.kind}' is a layer of a newer version; its recipe is not known here", layer.id)
    given = _controls(layer, scene, known)
    return Recorder(layer.graph, given, scene, layer.id, known, layer.kind == OWN)


def _mask(layer: Layer, scene: Scene, known: Known) -> Value | None:
    if layer.mask_graph is None:
        return None
    recorder = record_mask(layer, scene, known)
    mask = result_of(recorder, "mask")
    if mask is None:
        raise BadEffect(f"the mask of '{layer.name}': {recorder.faults[0].message}", layer.id)
    return clamp01(mask)


def record_mask(layer: Layer, scene: Scene, known: Known) -> Recorder:
    """A recorder of a layer's mask. Raises BadEffect where it has none."""
    if layer.mask_graph is None:
        raise BadEffect(f"'{layer.name}' has no mask", layer.id)
    prefix = f"{layer.id}.{MASK}"
    given = _given(layer, layer.mask_set(), prefix, known)
    given |= _driven(layer, [port for port, _ in layer.mask_set()], MASK, scene, known, given)
    return Recorder(layer.mask_graph, given, scene, prefix, known, False)


def _controls(layer: Layer, scene: Scene, known: Known) -> dict[str, Typed]:
    """What a layer's controls give its recipe: what they stand at, or what drives them."""
    given = _given(layer, layer.controls_set(), f"{layer.id}.", known)
    return given | _driven(layer, layer.controls(), "", scene, known, given)


def _driven(
    layer: Layer, ports: list[Port], before: str, scene: Scene, known: Known, given: Mapping[str, Typed]
) -> dict[str, Typed]:
    """What moves by itself among these, held to its range; `before` stands before their names where drives are named. Of a
    vector whose parts are not all driven the others stand as `given`."""
    found = {}
    for port in ports:
        if (moving := _moving(layer, port, before, scene, known)) is not None:
            found[port.name] = Typed(moving, "number")
        parts = [_moving(layer, part, before, scene, known) for part in parts_of(port)]
        if any(part is not None for part in parts):
            still = given[port.name].symbol.parts()
            mixed = [s if moving is None else moving for moving, s in zip(parts, still, strict=True)]
            found[port.name] = Typed(Vec(*mixed), port.kind.name)
    return found


def _moving(layer: Layer, port: Port, before: str, scene: Scene, known: Known) -> Value | None:
    """What drives a number; none where nothing does."""
    drive = layer.drives.get(before + port.name)
    if drive is None or drive.graph is None:
        return None
    prefix = f"{layer.id}.{DRIVE}{before}{port.name}"
    given = _given(layer, drive.controls_set(), f"{prefix}:", known)
    moving: Value = result_of(Recorder(drive.graph, given, scene, prefix, known, False), "number")
    low, high = port.kind.low, port.kind.high
    return moving if low is None or high is None else clamp(moving, low, high)


def driven_numbers(layer: Layer, known: Known) -> dict[str, Value]:
    """What moves by itself of a layer, by the name of its drive: frame-rate values that stand in the control's place."""
    scene = Scene(colour_here(CAMERA))
    found = {}
    for name, port in layer.driveable().items():
        before = MASK if name.startswith(MASK) else ""
        bare = port if port.name == name else replace(port, name=name.removeprefix(before))
        if (moving := _moving(layer, bare, before, scene, known)) is not None and moving.rate <= Rate.FRAME:
            found[name] = moving
    return found


def _given(layer: Layer, controls: list[tuple[Port, Any]], prefix: str, known: Known) -> dict[str, Typed]:
    given = {}
    for port, plain in controls:
        if plain is None:
            continue
        try:
            made = symbol(port.kind, parse(port.kind, plain), f"{prefix}{port.name}", known)
            given[port.name] = Typed(made, kind_set(port.kind, made))
        except BadEffect as error:
            raise BadEffect(f"layer '{layer.name}': {error}", layer.id) from None
    return given


def inputs_of_effect(effect: Effect, material: Material) -> Inputs:
    """Values of the uniforms and tables of the program that `compile_effect` makes of this effect."""
    uniforms: dict[str, float] = {}
    tables: dict[str, Floats] = {}
    pictures = dict(material.pictures)
    sequences: dict[str, Sequence] = {}
    for layer in effect.layers:
        amount = 1.0 if OPACITY.name in layer.drives else layer.opacity
        uniforms[f"{layer.id}.{OPACITY.name}"] = amount if effect.shows(layer) else 0.0
        for one in layer.everything_set():
            given = inputs_of(one, material)
            uniforms |= given.uniforms
            tables |= given.tables
            pictures |= given.pictures
            sequences |= given.sequences
    return Inputs(uniforms, tables, pictures, effect.seed, sequences)


def has_same_form(before: Effect, after: Effect) -> bool:
    """Whether two effects have one program, so that only its inputs differ. May say no where they have."""

    def form(effect: Effect) -> list[object]:
        return [
            (
                one.id,
                one.kind,
                one.blend,
                one.light,
                one.recipe is None,
                one.mask and one.mask.kind,
                {control: drive.kind for control, drive in one.drives.items()},
            )
            for one in effect.layers
        ]

    if form(before) != form(after) or before.still != after.still:
        return False
    for one, other in zip(before.layers, after.layers, strict=True):
        old, new = one.everything_set(), other.everything_set()
        if [(was.name, was.form) for was in old] != [(now.name, now.form) for now in new]:
            return False
        if one.recipe is not None and other.recipe is not None and _skeleton(one) != _skeleton(other):
            return False
    return True


def _skeleton(layer: Layer) -> object:
    assert layer.recipe is not None
    return layer.recipe.model_dump(exclude={"nodes": {"__all__": {"set", "at", "name", "comment"}}})
