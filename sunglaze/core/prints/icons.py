"""Small pictures of ready-made layers and of nodes, made by the renderer from the stand-in camera.

All together take some ten seconds, so `./run setup` makes them ahead; what is not there is made when it is asked for.
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache, lru_cache
from hashlib import sha256
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.cast import StandIn
from sunglaze.core.colour.lut import cube, neutral
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Known, LookupRef, Material
from sunglaze.core.effect.recipe import Recipe, RecipeNode
from sunglaze.core.effect.recording import Recorder, ports
from sunglaze.core.effect.shipped import shipped
from sunglaze.core.language.pictures import CAMERA, colour_here
from sunglaze.core.material.files import encode_png
from sunglaze.core.nodes.catalogue import CATALOGUE
from sunglaze.core.nodes.node import Scene
from sunglaze.core.passes.program import Floats, Inputs, Program, State
from sunglaze.core.prints.previews import seen
from sunglaze.core.targets import numpy as reference

WIDTH, HEIGHT = 90, 160
FRAME = 12
CROP = slice(24, 114)
EARLIER = 5
"""Frames that run before the one that is shown, for layers that keep pictures."""


@lru_cache(maxsize=1)
def _stand_in() -> StandIn:
    return StandIn(WIDTH, HEIGHT)


def _png(picture: Floats) -> bytes:
    pixels: NDArray[np.uint8] = np.rint(np.clip(np.nan_to_num(picture), 0, 1) * 255).astype(np.uint8)
    return encode_png(np.ascontiguousarray(pixels[CROP]), 9)


_SAMPLE = LookupRef("0" * 64)


@lru_cache(maxsize=1)
def _sample_material() -> Material:
    """A lookup for the icons of grades: warm lights and cool shadows."""
    red, green, blue = np.moveaxis(neutral(9).table, -1, 0)
    table = np.stack([red**0.85 * 1.02, green * 0.97 + 0.01, blue**1.15 * 0.86 + 0.06], axis=-1)
    return Material({_SAMPLE: cube(np.clip(table, 0, 1))})


@lru_cache(maxsize=512)
def layer_icon(kind: str, setting: int | None = None) -> bytes:
    """A ready-made layer at its defaults or one of its settings, as a square PNG. Raises LookupError for what does not ship."""
    recipe = shipped()[kind]
    start, values = recipe.start, dict(recipe.settings[setting].values) if setting is not None else {}
    if any(port.kind.name == "lookup" for port in ports(recipe)):
        values["lookup"] = {"asset": _SAMPLE.asset}
    layer = Layer(id="icon", name=kind, kind=kind, blend=start.blend, opacity=start.opacity, values=values)
    compiled = compile_effect(Effect(name=kind, layers=[layer]), _sample_material())
    state, program = State(), compiled.program.final
    for frame in range(FRAME - (EARLIER if program.plan.kept else 0), FRAME + 1):
        picture = reference.run(program, _stand_in().moment(frame, program.reads), compiled.inputs, state)[0]
    return _png(picture)


@lru_cache(maxsize=512)
def node_icon(kind: str) -> bytes:
    """What a node gives by itself at its defaults, as a square PNG: numbers as greys, places as red and green.

    Raises KeyError for a kind that is not in the catalogue.
    """
    output = CATALOGUE[kind].outputs[0].name
    recipe = Recipe(nodes=[RecipeNode(id="node", kind=kind)], result=f"node.{output}")
    recorder = Recorder(recipe, {}, Scene(colour_here(CAMERA)), "icon", Known(), False)
    found = (recorder.try_outputs("node") or {})[output]
    program = Program((seen(found.symbol),))
    return _png(reference.run(program, _stand_in().moment(FRAME, program.reads), Inputs())[0])


@cache
def edition() -> str:
    """Changes with whatever may change an icon: the code and recipes of the core, and the takes of the cast."""
    core = Path(__file__).parents[1]
    files = sorted(one for one in core.rglob("*") if one.is_file() and "__pycache__" not in one.parts)
    found = sha256()
    for one in files:
        what = one.read_bytes() if one.suffix in (".py", ".json") else str(one.stat().st_size).encode()
        found.update(f"{one.relative_to(core)} {sha256(what).hexdigest()}\n".encode())
    return found.hexdigest()[:16]


def icon_file(folder: Path, what: str, kind: str, setting: int | None = None) -> Path:
    """Where the icon of a layer or node ("layers", "nodes") lies among those made ahead."""
    return folder / edition() / what / f"{kind}{'' if setting is None else f'.{setting}'}.png"


def make_icons(folder: Path) -> Iterator[Path]:
    """Make all icons ahead, one after another."""
    layers = [(kind, n) for kind, one in shipped().items() for n in (None, *range(len(one.settings)))]
    for kind, setting in layers:
        yield _written(icon_file(folder, "layers", kind, setting), layer_icon(kind, setting))
    for kind in CATALOGUE:
        yield _written(icon_file(folder, "nodes", kind), node_icon(kind))


def _written(file: Path, data: bytes) -> Path:
    file.parent.mkdir(parents=True, exist_ok=True)
    file.write_bytes(data)
    return file
