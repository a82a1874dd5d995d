"""Small pictures of ready-made layers and of nodes, made by the renderer from the stand-in camera."""

from __future__ import annotations

from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.colour.lut import cube, neutral
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Known, Material
from sunglaze.core.effect.motions import Drive
from sunglaze.core.effect.recipe import Recipe, RecipeNode
from sunglaze.core.effect.recording import Recorder, ports
from sunglaze.core.effect.references import LookupRef
from sunglaze.core.effect.shipped import shipped
from sunglaze.core.engine.room import Room
from sunglaze.core.engine.running import draw, prepare
from sunglaze.core.language.pictures import CAMERA, colour_here
from sunglaze.core.material.files import encode_png
from sunglaze.core.material.text import read_text, text_picture
from sunglaze.core.moment.rehearsal import Finger, Rehearsal, Rehearsed, Step
from sunglaze.core.nodes.catalogue import CATALOGUE
from sunglaze.core.nodes.node import Scene
from sunglaze.core.passes.program import Inputs, Program, State
from sunglaze.core.prints.previews import seen
from sunglaze.core.targets import numpy as reference
from sunglaze.core.targets.memory import parts_of

WIDTH, HEIGHT = 90, 160
FRAME = 12
CROP = slice(24, 114)
EASED = 60
"""Frames over which whoever is there stands still before that, so that what eases in has come."""
EARLIER = 8
"""Frames that run before the one that is shown, for layers that keep pictures."""
USUAL = Sitting()


@lru_cache(maxsize=64)
def _stand_in(sitting: Sitting = USUAL) -> StandIn:
    return StandIn(WIDTH, HEIGHT, sitting)


def _png(pixels: NDArray[np.uint8]) -> bytes:
    return encode_png(np.ascontiguousarray(pixels[CROP]), 9)


_SAMPLE = LookupRef("0" * 64)


@lru_cache(maxsize=1)
def _sample_material() -> Material:
    """A lookup for the icons of grades: warm lights and cool shadows."""
    red, green, blue = np.moveaxis(neutral(9).table, -1, 0)
    table = np.stack([red**0.85 * 1.02, green * 0.97 + 0.01, blue**1.15 * 0.86 + 0.06], axis=-1)
    return Material({_SAMPLE: cube(np.clip(table, 0, 1))})


_TAPPED = Rehearsal(steps=tuple(Step(frame=FRAME - 4 + 2 * n, touch=Finger(down=n % 2 == 0)) for n in range(3)))
"""Whatever answers to a tap has had two of them: what is frozen is."""


@lru_cache(maxsize=512)
def layer_icon(kind: str, setting: int | None = None, sitting: Sitting = USUAL) -> bytes:
    """A ready-made layer at its defaults or one of its settings, on whoever sits there, as a square PNG. Raises LookupError for
    what does not ship."""
    recipe = shipped()[kind]
    start, values = recipe.start, dict(recipe.settings[setting].values) if setting is not None else {}
    if any(port.kind.name == "lookup" for port in ports(recipe)):
        values["lookup"] = {"asset": _SAMPLE.asset}
    moving = recipe.settings[setting].drives if setting is not None else {}
    drives = {control: Drive(kind=one.kind, values=one.values) for control, one in moving.items()}
    layer = Layer(id="icon", name=kind, kind=kind, blend=start.blend, opacity=start.opacity, values=values, drives=drives)
    compiled = compile_effect(Effect(name=kind, layers=[layer]), _sample_material())
    state, program, room = State(), compiled.program.final, Room()
    prepare(program, "bytes", quick=True)
    source = Rehearsed(_stand_in(sitting), _TAPPED)
    for _ in range(EASED if program.keeps else 0):
        still = source.moment(FRAME - EARLIER, program.reads.numbers)
        program.advance(still, compiled.inputs, state, drawn=False)
    for frame in range(FRAME - (EARLIER if program.plan.kept or program.keeps else 0), FRAME + 1):
        picture = draw(program, source.moment(frame, program.reads), compiled.inputs, state, room)
    return _png(parts_of(picture, WIDTH)[:, :, 2::-1])


_SIGNS = {"number": "0.5", "whole": "12", "boolean": "on", "vec2": "x y", "vec3": "x y z", "vec4": "x y z w", "text": "Aa"}
_PAPER, _INK = (239, 236, 228), (35, 33, 29)


def _sign(words: str) -> bytes:
    """Words on paper, as large as a square takes them."""
    letters = text_picture(read_text({"text": words, "font": "figures", "weight": 500}))[..., 3]
    wide = round(WIDTH * 0.8)
    size = wide, max(1, round(letters.shape[0] * wide / letters.shape[1]))
    if size[1] > wide:
        size = max(1, round(wide * size[0] / size[1])), wide
    much = cv2.resize(letters, size, interpolation=cv2.INTER_AREA)[..., None] / 255
    square = np.full((WIDTH, WIDTH, 3), _PAPER, np.float64)
    top, left = (WIDTH - size[1]) // 2, (WIDTH - size[0]) // 2
    place = square[top : top + size[1], left : left + size[0]]
    place[...] = place * (1 - much) + np.array(_INK) * much
    return encode_png(np.rint(square).astype(np.uint8), 9)


@lru_cache(maxsize=512)
def node_icon(kind: str) -> bytes:
    """What a node gives by itself at its defaults, as a square PNG: numbers as greys, places as red and green; of a plain value,
    what kind of value it is.

    Raises KeyError for a kind that is not in the catalogue.
    """
    first = CATALOGUE[kind].outputs[0]
    if CATALOGUE[kind].family == "values" and first.kind.name in _SIGNS:
        return _sign(_SIGNS[first.kind.name])
    output = first.name
    recipe = Recipe(nodes=[RecipeNode(id="node", kind=kind)], result=f"node.{output}")
    recorder = Recorder(recipe, {}, Scene(colour_here(CAMERA)), "icon", Known(), False)
    found = (recorder.try_outputs("node") or {})[output]
    program = Program((seen(found.symbol),))
    shown = reference.run(program, _stand_in().moment(FRAME, program.reads), Inputs())[0]
    return _png(np.rint(np.clip(np.nan_to_num(shown), 0, 1) * 255).astype(np.uint8))
