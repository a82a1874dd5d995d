"""From an effect to a program and its inputs. The light path folds into one graph; its passes are planned as a whole.

Each layer: out = composite(below, clamp01(colour), opacity * alpha). Values of controls are uniforms, so turning one never
builds anew; the order of layers, their recipes, choices, blend modes and the kinds of their tables are the program's form.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Any

from sunglaze.core.effect.address import CUE, DIAL, DRIVE, MASK
from sunglaze.core.effect.cueing import Cues, cue_form, cues_used
from sunglaze.core.effect.document import MASKED, ON, OPACITY, OWN, Effect, Layer, LayerGroup, parts_of
from sunglaze.core.effect.literals import Known, Material, inputs_of, parse, symbol
from sunglaze.core.effect.motions import Drive
from sunglaze.core.effect.recipe import BadRecipe, Fault
from sunglaze.core.effect.recording import Recorder, Typed, kind_set, result_of
from sunglaze.core.errors import BadEffect
from sunglaze.core.language.expression import Rate, Value
from sunglaze.core.language.pictures import CAMERA, colour_here, passes_only_if, stage
from sunglaze.core.language.vector import Vec, clamp, clamp01, floor, mix, to_int
from sunglaze.core.material.mesh import MeshData
from sunglaze.core.material.sequence import Sequence
from sunglaze.core.nodes.blend import over
from sunglaze.core.nodes.node import Port, Scene, in_scene
from sunglaze.core.nodes.types import Symbol
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
    key = f"{known.key} {[cue_form(one) for one in effect.cues]} {[(one.id, one.form) for one in effect.dials]}"
    scenery = scene_of(effect)
    groups = {group.id: group for group in effect.groups}
    for layer in effect.layers:
        # What a layer records hangs on the names of those below it, not on what they are.
        group = groups.get(layer.group or "")
        around = f"{key} {[*stages]} {group and group.model_dump_json(exclude={'name', 'on'})}"
        scene = replace(scenery, below=below, stages=dict(stages))
        colour, found = _stage(_Stage(f"{around} {layer.model_dump_json()}", around, layer, group, scene, known))
        if found:
            faults[layer.id] = list(found)
        made[layer.id] = colour.parts()[:3]
        below = stages[layer.id] = stage(layer.id, colour)
    program = Program((colour_here(CAMERA), *stages.values()), stages=made)
    return Compiled(program, inputs_of_effect(effect, material), faults)


def scene_of(effect: Effect) -> Scene:
    """What surrounds the effect's nodes: its cues and dials, with the camera below."""
    return Scene(colour_here(CAMERA), cues=Cues(effect.cues), dials={one.id: one.form for one in effect.dials})


@dataclass(frozen=True)
class _Stage:
    """A layer on what lies below; `key` says all that its recording hangs on, `around` what that is besides the layer."""

    key: str
    around: str = field(compare=False)
    layer: Layer = field(compare=False)
    group: LayerGroup | None = field(compare=False)
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
    for port in (OPACITY, ON):
        if (moving := _moving(layer, port, "", scene, known)) is not None:
            amount = amount * moving
    if one.group is not None and (moving := _moving(one.group, ON, "", scene, known)) is not None:
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
    counts = _moving(layer, MASKED, "", scene, known)
    return clamp01(mask) if counts is None else mix(1.0, clamp01(mask), counts)


def record_mask(layer: Layer, scene: Scene, known: Known) -> Recorder:
    """A recorder of a layer's mask. Raises BadEffect where it has none."""
    if layer.mask_graph is None:
        raise BadEffect(f"'{layer.name}' has no mask", layer.id)
    prefix = f"{layer.id}.{MASK}"
    given = _given(layer.name, layer.id, layer.mask_set(), prefix, known, scene)
    given |= _driven(layer, [port for port, _ in layer.mask_set()], MASK, scene, known, given)
    return Recorder(layer.mask_graph, given, scene, prefix, known, False)


def _controls(layer: Layer, scene: Scene, known: Known) -> dict[str, Typed]:
    """What a layer's controls give its recipe: what they stand at, or what drives them."""
    given = _given(layer.name, layer.id, layer.controls_set(), f"{layer.id}.", known, scene)
    return given | _driven(layer, layer.controls(), "", scene, known, given)


def _driven(
    layer: Layer, ports: list[Port], before: str, scene: Scene, known: Known, given: Mapping[str, Typed]
) -> dict[str, Typed]:
    """What moves by itself among these, held to its range; `before` stands before their names where drives are named. Of a
    vector whose parts are not all driven the others stand as `given`."""
    found = {}
    for port in ports:
        if (moving := _moving(layer, port, before, scene, known)) is not None:
            found[port.name] = _typed(moving, port.kind.name)
        parts = [_moving(layer, part, before, scene, known) for part in parts_of(port)]
        if any(part is not None for part in parts):
            still = given[port.name].symbol.parts()
            mixed = [s if moving is None else moving for moving, s in zip(parts, still, strict=True)]
            found[port.name] = Typed(Vec(*mixed), port.kind.name)
    return found


def _typed(moving: Symbol, kind: str) -> Typed:
    """What drives a control, as the control's type: of a switch whether it is above a half, of a whole number the nearest."""
    if kind == "boolean":
        return Typed(moving > 0.5, kind)
    return Typed(to_int(floor(moving + 0.5)), kind) if kind == "whole" else Typed(moving, kind if kind == "colour" else "number")


def _moving(layer: Layer | LayerGroup, port: Port, before: str, scene: Scene, known: Known) -> Any:
    """What drives a number, or a colour; none where nothing does. Raises BadEffect where a drive of one's own gives nothing."""
    drive = layer.drives.get(before + port.name)
    if drive is None or drive.graph is None:
        return None
    recorder = record_drive(layer, drive, f"{layer.id}.{DRIVE}{before}{port.name}", scene, known)
    moving = result_of(recorder, "colour" if port.kind.name == "colour" else "number")
    if moving is None:
        raise BadEffect(f"what drives '{port.title}' of '{layer.name}': {recorder.faults[0].message}", layer.id)
    low, high = port.kind.low, port.kind.high
    return moving if low is None or high is None or port.kind.name == "colour" else clamp(moving, low, high)


def record_drive(holder: Layer | LayerGroup, drive: Drive, prefix: str, scene: Scene, known: Known) -> Recorder:
    """A recorder of what drives a control; `prefix` names its uniforms. The drive's kind must be known."""
    assert drive.graph is not None
    given = _given(holder.name, holder.id, drive.controls_set(), f"{prefix}:", known, scene)
    return Recorder(drive.graph, given, scene, prefix, known, False)


def driven_numbers(layer: Layer, known: Known, scene: Scene | None = None) -> dict[str, Value]:
    """What moves by itself of a layer, by the name of its drive: frame-rate values that stand in the control's place. `scene` as
    `scene_of` gives it for the layer's effect."""
    scene = scene or Scene(colour_here(CAMERA))
    found = {}
    for name, port in layer.driveable().items():
        before = MASK if name.startswith(MASK) else ""
        bare = port if port.name == name else replace(port, name=name.removeprefix(before))
        moving = _moving(layer, bare, before, scene, known)
        if isinstance(moving, Value) and moving.rate <= Rate.FRAME:
            found[name] = moving
    return found


def _given(name: str, layer: str, controls: list[tuple[Port, Any]], prefix: str, known: Known, scene: Scene) -> dict[str, Typed]:
    given = {}
    for port, plain in controls:
        if plain is None:
            continue
        try:
            with in_scene(scene):
                made = symbol(port.kind, parse(port.kind, plain), f"{prefix}{port.name}", known)
            given[port.name] = Typed(made, kind_set(port.kind, made))
        except BadEffect as error:
            raise BadEffect(f"layer '{name}': {error}", layer) from None
    return given


def inputs_of_effect(effect: Effect, material: Material) -> Inputs:
    """Values of the uniforms and tables of the program that `compile_effect` makes of this effect."""
    uniforms: dict[str, float] = {}
    tables: dict[str, Floats] = {}
    pictures = dict(material.pictures)
    sequences: dict[str, Sequence] = {}
    meshes: dict[str, MeshData] = {}
    for layer in effect.layers:
        amount = 1.0 if OPACITY.name in layer.drives else layer.opacity
        uniforms[f"{layer.id}.{OPACITY.name}"] = amount if effect.shows(layer) else 0.0
    cues = [one for cue in cues_used(effect) for one in cue.settings(f"{CUE}{cue.id}")]
    for dial in effect.dials:
        uniforms |= {f"{DIAL}{name}": number for name, number in dial.numbers(dial.start).items()}
    for one in [*cues, *(one for holder in effect.holders() for one in holder.everything_set())]:
        given = inputs_of(one, material)
        uniforms |= given.uniforms
        tables |= given.tables
        pictures |= given.pictures
        sequences |= given.sequences
        meshes |= given.meshes
    return Inputs(uniforms, tables, pictures, effect.seed, sequences, meshes)


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
                {control: (drive.kind, drive.recipe) for control, drive in one.drives.items()},
                one.group,
            )
            for one in effect.layers
        ] + [
            *([{control: (drive.kind, drive.recipe) for control, drive in one.drives.items()} for one in effect.groups]),
            *map(cue_form, effect.cues),
            *((one.id, one.form) for one in effect.dials),
        ]

    if form(before) != form(after) or before.still != after.still:
        return False
    for holder, of_today in zip(before.holders(), after.holders(), strict=True):
        old, new = holder.everything_set(), of_today.everything_set()
        if [(was.name, was.form) for was in old] != [(now.name, now.form) for now in new]:
            return False
    for one, other in zip(before.layers, after.layers, strict=True):
        if one.recipe is not None and other.recipe is not None and _skeleton(one) != _skeleton(other):
            return False
    return True


def _skeleton(layer: Layer) -> object:
    assert layer.recipe is not None
    return layer.recipe.model_dump(exclude={"nodes": {"__all__": {"set", "at", "name", "comment"}}})
