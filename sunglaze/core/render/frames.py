"""Run compiled effects on camera frames: the full picture, and the stages of the light path at thumbnail size."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.cameras import Camera
from sunglaze.core.effect.compiling import Compiled
from sunglaze.core.render import running
from sunglaze.core.render.kernel import Words, built, kernel
from sunglaze.core.render.running import Room
from sunglaze.core.shading.pictures import REGION
from sunglaze.core.shading.planning import Pass
from sunglaze.core.shading.program import Inputs, Program, State, clock

Pixels = NDArray[np.uint8]


Regions = Mapping[str, Pixels]
"""Masks of a camera's frame by the names of their pictures, as `regions_for` gives them."""


def at_frame(inputs: Inputs, frame: int, regions: Regions | None = None) -> Inputs:
    """Inputs with the clock at a frame, and the regions of the camera's picture there."""
    seed = int(inputs.uniforms.get("seed", 0))
    return Inputs({**inputs.uniforms, **clock(frame, seed)}, inputs.tables, {**inputs.pictures, **(regions or {})})


def regions_for(program: Program, camera: Camera, number: int) -> Regions:
    """The regions that a program reads, of a frame of a camera; those that the camera does not have stay empty."""
    names = [name.removeprefix(REGION) for name in program.pictures if name.startswith(REGION)]
    return {f"{REGION}{name}": mask for name, mask in camera.regions(number, names).items()} if names else {}


def render(
    compiled: Compiled,
    camera: Words,
    width: int,
    frame: int = 0,
    state: State | None = None,
    room: Room | None = None,
    regions: Regions | None = None,
) -> Words:
    """The effect's picture as words, BGRA, of the camera's shape."""
    inputs = at_frame(compiled.inputs, frame, regions)
    return running.run(compiled.program.final, camera, width, inputs, "bytes", state, room)


def as_bgra(picture: Words, width: int) -> Pixels:
    """Words as (height, width, 4), blue first, without the padding of rows; shares memory."""
    return picture.view(np.uint8).reshape(picture.shape[0], -1, 4)[:, :width]


def stages(
    compiled: Compiled,
    camera: Words,
    width: int,
    frame: int = 0,
    state: State | None = None,
    room: Room | None = None,
    regions: Regions | None = None,
) -> list[Words]:
    """Pictures as words, BGRA, of the camera and after each layer; for small cameras."""
    height = camera.shape[0]
    out = running.run(compiled.program, camera, width, at_frame(compiled.inputs, frame, regions), "bytes", state, room, threads=1)
    return [out[n * height : (n + 1) * height] for n in range(out.shape[0] // height)]


def prepare(compiled: Compiled, quick: bool = False) -> None:
    """Build what `render` needs, so that it does not wait when it is called."""
    running.prepare(compiled.program.final, "bytes", quick)


def unoptimised(compiled: Compiled) -> Iterator[Pass]:
    """The passes of `render` that only have a quick build, each when it is asked for."""
    for one in compiled.program.final.plan.passes:
        found = built(one, "bytes")
        if found is not None and found.quick:
            yield one


def prepare_stages(compiled: Compiled) -> Iterator[None]:
    """Build what `stages` needs, quickly, a part a step: at the size of thumbnails that is all it takes."""
    yield
    for one in compiled.program.plan.passes:
        yield
        kernel(one, "bytes", quick=True)


def stages_ready(compiled: Compiled) -> bool:
    return running.is_ready(compiled.program, "bytes")


def passed(compiled: Compiled, state: State, frame: int, width: int, rows: int, **more: Any) -> None:
    """Advance state cells over a frame that nobody saw."""
    given = {**at_frame(compiled.inputs, frame).uniforms, "frame.width": width, "frame.height": rows, **more}
    compiled.program.final.signals.run(given, state.cells)
