"""Judging aids beside a grade: what a layer does to ten skin tones, along grey, and to colours all through the cube."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.people import MONK_TONES
from sunglaze.core.colour.difference import ciede2000
from sunglaze.core.colour.spaces import srgb_to_lab
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.language.expression import ordered
from sunglaze.core.moment.moment import Moment
from sunglaze.core.passes.program import Inputs, Program
from sunglaze.core.targets import numpy as reference

GREY_STEPS = 33
CLOUD_STEPS = 6


@dataclass(frozen=True)
class Tone:
    """A skin tone before and after, and by how much it shifts (CIEDE2000)."""

    before: str
    after: str
    difference: float


@dataclass(frozen=True)
class Judged:
    """What a layer does to colours.

    `grey`: what each of 33 greys from black to white becomes. `tones`: the skin tones with their CIEDE2000 shift. `cloud`:
    what 6 by 6 by 6 colours become, as hex, blue slowest and red fastest.
    """

    grey: list[tuple[float, float, float]]
    cloud: list[str]
    tones: list[Tone]


def judge(layer: Layer, material: Material) -> Judged | None:
    """A layer on plain colours, everywhere and as it lies on them; none where it is not about colours alone: where it looks at
    neighbours or places. Raises BadEffect for a layer that gives no picture."""
    bare = layer.model_copy(update={"on": True, "mask": None, "drives": {}, "group": None})
    compiled = compile_effect(Effect(name="judged", layers=[bare]), material)
    program = compiled.program.final
    if not is_local(program):
        return None
    steps = np.linspace(0, 1, GREY_STEPS)
    tones = skin_tones()
    cube = np.array(list(itertools.product(np.linspace(0, 1, CLOUD_STEPS), repeat=3)))[:, ::-1]
    colours = np.concatenate([np.repeat(steps[:, None], 3, axis=1), tones, cube])
    made = np.clip(reference.run(program, Moment.of(row_of(colours)), compiled.inputs)[0][0].astype(np.float64), 0, 1)
    grey, after, cloud = np.split(made, [GREY_STEPS, GREY_STEPS + len(tones)])
    shifts = ciede2000(srgb_to_lab(tones), srgb_to_lab(after))
    return Judged(
        [(float(r), float(g), float(b)) for r, g, b in grey],
        [_hex(colour) for colour in cloud],
        [Tone(b, _hex(a), round(float(d), 2)) for b, a, d in zip(MONK_TONES, after, shifts, strict=True)],
    )


FLAT = (16, 28)
"""Columns and rows of a picture of one tone."""


def flat_shifts(program: Program, inputs: Inputs, patience: Callable[[], None] = lambda: None) -> NDArray[np.float64]:
    """How far the mean of a picture of each skin tone alone shifts (10, CIEDE2000), the person all of it and nobody's face there.
    `patience` is called before each and raises what shall end it."""
    found = []
    for tone in skin_tones():
        patience()
        picture = np.ones((FLAT[1], FLAT[0], 4), np.float32)
        picture[..., :3] = tone
        after = np.clip(reference.run(program, Moment.of(picture), inputs)[0].astype(np.float64), 0, 1).mean(axis=(0, 1))
        found.append(float(ciede2000(srgb_to_lab(tone[None]), srgb_to_lab(after[None]))[0]))
    return np.array(found)


def skin_tones() -> NDArray[np.float64]:
    """The ten tones of the Monk Skin Tone scale, sRGB 0 to 1, as (10, 3)."""
    return np.array([[int(tone[n : n + 2], 16) / 255 for n in (1, 3, 5)] for tone in MONK_TONES])


def row_of(colours: NDArray[np.floating]) -> NDArray[np.float32]:
    """Colours (n, 3) as an opaque picture of one row."""
    picture = np.ones((1, len(colours), 4), np.float32)
    picture[0, :, :3] = colours
    return picture


def is_local(program: Program) -> bool:
    """Whether a pixel's colour hangs on nothing but the camera's colour there."""
    if len(program.plan.passes) != 1 or any(p.source != "camera" for p in program.plan.passes[0].pictures):
        return False
    values, _ = ordered(program.plan.passes[0].values)
    if any(one.op in ("pixel", "target", "fetch", "loop") for one in values):
        return False
    return all(a.op == "const" and a.attribute[0] == 0 for one in values if one.op == "near" for a in one.arguments)


def _hex(rgb: NDArray[np.float64]) -> str:
    return "#" + "".join(f"{round(float(part) * 255):02x}" for part in rgb)
