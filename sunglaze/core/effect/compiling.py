"""From an effect to a program and its inputs. The light path folds into one graph; its passes are planned as a whole.

Each layer: out = composite(below, clamp01(colour), opacity * alpha). Values of controls are uniforms, so turning one never
builds anew; the order of layers, their recipes, choices, blend modes and the kinds of their tables are the program's form.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from sunglaze.core.effect.document import OWN, Effect, Layer
from sunglaze.core.effect.literals import Material, same_form, symbol
from sunglaze.core.effect.recipe import BadRecipe, Fault
from sunglaze.core.effect.recording import Given, record_result, values_of
from sunglaze.core.errors import BadEffect
from sunglaze.core.nodes.blend import over
from sunglaze.core.nodes.node import Scene
from sunglaze.core.shading.pictures import CAMERA, colour_here, passes_only_if
from sunglaze.core.shading.program import Floats, Inputs, Program, uniform
from sunglaze.core.shading.vector import Vec


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
    stages, faults = [below], {}
    for layer in effect.layers:
        amount = uniform(f"{layer.id}.opacity")
        # A layer that is off or clear computes none of its passes.
        with passes_only_if(amount > 0.0):
            colour, found = _colour(layer, below, material)
        if found:
            faults[layer.id] = found
        below = over(below, colour, layer.blend, amount, layer.light == "linear")
        stages.append(below)
    return Compiled(Program(tuple(stages)), inputs_of_effect(effect, material), faults)


def _colour(layer: Layer, below: Vec, material: Material) -> tuple[Vec, list[Fault]]:
    recipe = layer.graph
    if recipe is None:
        message = f"'{layer.kind}' is a layer of a newer version; it is kept, and leaves the picture as it is"
        return below, [Fault(message=message)]
    given = {}
    for port in layer.controls():
        plain = layer.value(port)
        if plain is None:
            continue
        try:
            given[port.name] = Given(symbol(port.kind, plain, f"{layer.id}.{port.name}", material), port.kind.name)
        except BadEffect as error:
            raise BadEffect(f"layer '{layer.name}': {error}", layer.id) from None
    colour, faults = record_result(recipe, given, Scene(below), layer.id, material, layer.kind == OWN)
    if colour is None:
        raise BadRecipe(faults, layer.id, layer.name)
    return colour, faults


def inputs_of_effect(effect: Effect, material: Material) -> Inputs:
    """Values of the uniforms and tables of the program that `compile_effect` makes of this effect."""
    uniforms: dict[str, float] = {"seed": effect.seed}
    tables: dict[str, Floats] = {}
    for layer in effect.layers:
        uniforms[f"{layer.id}.opacity"] = layer.opacity if layer.on else 0.0
        for name, port, plain in layer.everything_set():
            if plain is not None:
                numbers, found = values_of(name, port, plain, material)
                uniforms |= numbers
                tables |= found
    pictures = {f"asset:{key}": pixels for key, pixels in material.pictures.items()}
    return Inputs(uniforms, tables, pictures)


def has_same_form(before: Effect, after: Effect) -> bool:
    """Whether two effects have one program, so that only its inputs differ. May say no where they have."""

    def form(effect: Effect) -> list[object]:
        return [(layer.id, layer.kind, layer.blend, layer.light, layer.recipe is None) for layer in effect.layers]

    if form(before) != form(after) or before.still != after.still:
        return False
    for one, other in zip(before.layers, after.layers, strict=True):
        old, new = one.everything_set(), other.everything_set()
        if [n for n, _, _ in old] != [n for n, _, _ in new]:
            return False
        if not all(same_form(port.kind, a, b) for (_, port, a), (_, _, b) in zip(old, new, strict=True)):
            return False
        if one.recipe is not None and other.recipe is not None and _skeleton(one) != _skeleton(other):
            return False
    return True


def _skeleton(layer: Layer) -> object:
    assert layer.recipe is not None
    return layer.recipe.model_dump(exclude={"nodes": {"__all__": {"set", "at", "name", "comment"}}})
