"""What nodes of a recipe give, as it is now: pictures at thumbnail size, drawn in steps, and numbers."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.effect.address import DRIVE
from sunglaze.core.effect.compiling import (
    compile_effect,
    has_same_form,
    inputs_of_effect,
    record_drive,
    record_layer,
    record_mask,
    scene_of,
)
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.recipe import Fault
from sunglaze.core.effect.recording import Recorder, Typed
from sunglaze.core.engine.playback import FARTHEST_BACK
from sunglaze.core.engine.room import Room
from sunglaze.core.engine.running import draw, prepare_quickly
from sunglaze.core.errors import BadEffect
from sunglaze.core.language.expression import Rate, Value
from sunglaze.core.language.pictures import Picture, colour_here
from sunglaze.core.language.vector import Vec, number, to_float
from sunglaze.core.moment.moment import Moment, Source
from sunglaze.core.passes.program import Program, State
from sunglaze.core.targets import numpy as reference
from sunglaze.core.targets.memory import parts_of


@dataclass(frozen=True)
class NodeView:
    """What a node gives: numbers where it is alike at all pixels, else a picture (height, width, 3) of bytes."""

    kind: str
    numbers: tuple[float, ...] = ()
    picture: NDArray[np.uint8] | None = None


RUN_IN = 75
"""Frames over which state is run where it begins in the middle of a clip: what eases in has come by then."""


@dataclass
class Previews:
    """The nodes of one layer's recipe, or of a group in it (`path`: ids of group nodes on the way in).

    `mask`: of the layer's mask instead; `drive`: of what drives this control of it. `only`: these nodes alone, where they are
    there; all of them otherwise. `program` is what is run; it says what it reads of moments.
    """

    effect: Effect
    material: Material
    layer: str
    path: tuple[str, ...] = ()
    mask: bool = False
    only: tuple[str, ...] = ()
    drive: str = ""
    faults: list[Fault] = field(default_factory=list)
    _given: dict[str, Typed] = field(default_factory=dict)
    _numbers: Program = field(init=False, default_factory=lambda: Program(()))
    _pictures: Program = field(init=False, default_factory=lambda: Program(()))
    _room: Room = field(default_factory=Room)
    _state: State = field(default_factory=State)
    _frame: int = -1
    program: Program = field(init=False, default_factory=lambda: Program(()))

    def __post_init__(self) -> None:
        recorder, stages = _recorder(self.effect, self.layer, self.material, self.mask, self.drive)
        everything = [recorder]
        for step in self.path:
            if recorder.recipe.node(step) is not None:
                recorder.try_outputs(step)
            if step not in recorder.inner:
                return
            recorder = recorder.inner[step]
            everything.append(recorder)
        for node in [one for one in recorder.recipe.nodes if not self.only or one.id in self.only]:
            outputs = recorder.try_outputs(node.id)
            if outputs:
                self._given[node.id] = next(iter(outputs.values()))
        if not self.path and not self.only and recorder.recipe.result is None:
            recorder.fault("the recipe has no result; wire the last node to the layer")
        self.faults = [fault for one in everything for fault in one.faults]
        self.program, self._numbers, self._pictures = (
            Program(tuple(seen(given.symbol) for given in some), stages=stages)
            for some in (self._given.values(), self._those(True).values(), self._those(False).values())
        )

    def _those(self, alike: bool) -> dict[str, Typed]:
        """The nodes that give numbers which are alike at all pixels, or the others."""
        return {identity: given for identity, given in self._given.items() if _is_alike(given.symbol) == alike}

    def fits(
        self, effect: Effect, layer: str, path: tuple[str, ...], mask: bool = False, only: tuple[str, ...] = (), drive: str = ""
    ) -> bool:
        """Whether these show another state of the same effect, in which only values have changed."""
        asked = layer, path, mask, only, drive
        return asked == (self.layer, self.path, self.mask, self.only, self.drive) and has_same_form(self.effect, effect)

    def step_to(self, source: Source, frame: int, effect: Effect) -> None:
        """Run the state over the frames since the last one that was shown, or over the last second or so."""
        if not self.program.keeps:
            return
        if not self._frame <= frame <= self._frame + FARTHEST_BACK:
            self._state, self._frame = State(), max(-1, frame - RUN_IN)
        inputs = inputs_of_effect(effect, self.material)
        for missed in range(self._frame + 1, frame):
            moment = source.moment(missed, self.program.reads.numbers)
            self.program.advance(moment, inputs, self._state, drawn=False)
        self._frame = frame

    def at(self, moment: Moment, effect: Effect, patience: Callable[[], None] = lambda: None) -> dict[str, NodeView]:
        """By node, in a moment whose picture is of words or bytes (`program` says what it reads of it), and at the values of
        `effect`. `patience` is called now and then and raises what shall end it."""
        inputs, found = inputs_of_effect(effect, self.material), dict[str, NodeView]()
        if self._numbers.outputs:
            shown = reference.run(self._numbers, moment, inputs, self._state.copy(), patience=patience)
            for (identity, given), alike in zip(self._those(True).items(), shown, strict=True):
                found[identity] = NodeView(given.kind, tuple(float(n) for n in alike[0, 0, : _count(given.symbol)]))
        if self._pictures.outputs:
            for _ in prepare_quickly(self._pictures):
                patience()
            rows, columns = moment.screen.rows, moment.screen.columns
            drawn = draw(self._pictures, moment, inputs, self._state, self._room)
            for n, (identity, given) in enumerate(self._those(False).items()):
                tile = parts_of(drawn[n * rows : (n + 1) * rows], columns)[:, :, 2::-1]
                found[identity] = NodeView(given.kind, picture=tile.copy())
        return {identity: found[identity] for identity in self._given}


Stages = Mapping[str, tuple[Value, ...]]


def _recorder(effect: Effect, layer_id: str, material: Material, mask: bool, drive: str) -> tuple[Recorder, Stages]:
    """A recorder of a layer's recipe, its mask, or what drives a control of it or of a group, on what lies below; where that
    cannot be had, on the bare camera. And what the names of those below stand for."""
    at = next((n for n, layer in enumerate(effect.layers) if layer_id in (layer.id, layer.group)), None)
    if at is None:
        raise BadEffect("the layer is not in the effect (any more)")
    layer: Layer = effect.layers[at]
    holder = next(one for one in effect.holders() if one.id == layer_id)
    scene, made = scene_of(effect), {}
    try:
        below = compile_effect(effect.model_copy(update={"layers": effect.layers[:at]}), material)
        stages: Mapping[str, Vec] = dict(zip([one.id for one in effect.layers[:at]], below.program.outputs[1:], strict=True))
        scene, made = replace(scene, below=below.program.outputs[-1], stages=stages), dict(below.program.stages)
    except BadEffect:
        pass
    moving = holder.drives.get(drive)
    if (drive or holder is not layer) and (moving is None or moving.graph is None):
        raise BadEffect(f"nothing that is known here drives '{drive}' of '{holder.name}' (any more)")
    if moving is not None:
        recorder = record_drive(holder, moving, f"{holder.id}.{DRIVE}{drive}", scene, material.known)
    else:
        recorder = record_mask(layer, scene, material.known) if mask else record_layer(layer, scene, material.known)
    return recorder, made


def seen(symbol: Any) -> Vec:
    """Anything as three values that can be looked at."""
    if isinstance(symbol, Picture):
        return colour_here(symbol).rgb
    if isinstance(symbol, Vec):
        parts = symbol.parts()
        return Vec(*parts[:2], 0.0) if len(parts) == 2 else Vec(*parts[:3])
    if not isinstance(symbol, Value):
        return Vec(0.0, 0.0, 0.0)
    plain = number(symbol) if symbol.kind == "bool" else to_float(symbol) if symbol.kind == "int" else symbol
    return Vec(plain, plain, plain)


def _is_alike(symbol: Any) -> bool:
    """Whether something is numbers that are alike at all pixels."""
    parts = symbol.parts() if isinstance(symbol, Vec) else [symbol]
    return all(isinstance(part, Value) and part.rate <= Rate.FRAME for part in parts)


def _count(symbol: Any) -> int:
    """How many numbers are told of it."""
    return 1 if isinstance(symbol, Value) else min(3, len(symbol.parts()))


def numbers_of(view: NodeView) -> str:
    """Numbers as a slip shows them."""
    if view.kind == "boolean":
        return "yes" if view.numbers[0] else "no"
    return ", ".join(f"{n:.0f}" if view.kind == "whole" else f"{n:.3g}" for n in view.numbers)
