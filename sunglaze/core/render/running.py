"""Run programs on frames: signals once, then the passes in order; what the next frame needs is kept in the state."""

from __future__ import annotations

import struct
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.render.kernel import Words, built, kernel, padded
from sunglaze.core.render.machine import Surface, memory
from sunglaze.core.shading.expression import single
from sunglaze.core.shading.pictures import Picture
from sunglaze.core.shading.planning import Pass
from sunglaze.core.shading.printers.llvm import Pixels
from sunglaze.core.shading.program import Floats, Inputs, Program, State, clock

_SINGLE, _WORD = struct.Struct("<f"), struct.Struct("<i")


@dataclass
class Room:
    """Memory of passes, kept from frame to frame, by place of the pass; and given pictures as planes."""

    surfaces: dict[tuple[int, str], Surface] = field(default_factory=dict)
    given: dict[str, tuple[NDArray[Any], Surface]] = field(default_factory=dict)


def prepare(program: Program, pixels: Pixels, quick: bool = False) -> None:
    """Build the kernels of all passes, so that `run` does not wait."""
    _ = program.signals
    for one in program.plan.passes:
        kernel(one, pixels, quick)


def is_ready(program: Program, pixels: Pixels) -> bool:
    """Whether `run` would begin at once, be it with quick builds."""
    return all(built(one, pixels) is not None for one in program.plan.passes)


def is_quick(program: Program, pixels: Pixels) -> bool:
    """Whether some pass still waits for its optimised build."""
    return any(k is not None and k.quick for k in (built(one, pixels) for one in program.plan.passes))


def run(
    program: Program,
    camera: Surface,
    width: int,
    inputs: Inputs,
    pixels: Pixels,
    state: State | None = None,
    room: Room | None = None,
    threads: int | None = None,
) -> Surface:
    """The outputs of one frame, one after another: words (outputs * rows, padded) or planes (3 * outputs, rows, padded).

    `camera`: words (rows, padded), or planes (4, rows, padded). `state` is read and changed; without one it is a first frame.
    """
    state = state if state is not None else State()
    room = room if room is not None else Room()
    rows = camera.shape[-2]
    given = {**clock(0), **inputs.uniforms, "frame.width": width, "frame.height": rows}
    numbers = program.signals.run(given, state.cells)
    done: dict[str, tuple[Surface, int]] = {"camera": (camera, width)}
    kept: dict[str, Surface] = {}
    plan = program.plan
    for old in [key for key in room.surfaces if key[0] >= len(plan.passes)]:
        del room.surfaces[old]
    for place, one in enumerate(plan.passes):
        out, size = _target(one, place, room, width, rows, pixels)
        if one.target is not None:
            done[one.target.name] = (out, size[0])
            if one.target.keeps:
                kept[one.target.keeps] = out
        if one.enabled is not None and not numbers[one.enabled]:
            continue
        pictures = [done.get(p.name) or _given(p, inputs, state, room, width, rows) for p in one.pictures]
        slots = np.array([_word(numbers[s]) for s in one.slots] or [0], np.int32)
        # A kept picture is read from the frame before while it is written: it has two surfaces.
        tables = [inputs.tables[name] for name in one.tables]
        kernel(one, pixels, quick=True).run(pictures, out, size, slots, tables, threads)
    for identity, surface in kept.items():
        before = state.kept.get(identity)
        state.kept[identity] = surface
        name = next(p.target.name for p in plan.passes if p.target is not None and p.target.keeps == identity)
        spare = before if before is not None and before.shape == surface.shape else memory(surface.shape, np.float32)
        room.surfaces[_key_of(plan.passes, name, width, rows)] = spare
    return out


def _key_of(passes: tuple[Pass, ...], name: str, width: int, rows: int) -> tuple[int, str]:
    place = next(n for n, p in enumerate(passes) if p.target is not None and p.target.name == name)
    return place, f"{name} {width} {rows}"


def _target(one: Pass, place: int, room: Room, width: int, rows: int, pixels: Pixels) -> tuple[Surface, tuple[int, int]]:
    """Memory for what a pass gives, and its columns and rows. The frame's is new each time: it is handed out."""
    if one.target is None:
        count = len(one.values)
        if pixels == "bytes":
            return memory((count // 3 * rows, padded(width)), np.uint32, filled=False), (width, rows)
        return memory((count, rows, padded(width)), np.float32, filled=False), (width, rows)
    reduce = one.target.reduce
    columns, lines = -(-width // reduce), -(-rows // reduce)
    key = (place, f"{one.target.name} {width} {rows}")
    if key not in room.surfaces:
        # One picture of a place and size at a time: what an edit left behind goes.
        for old in [k for k in room.surfaces if k[0] == place]:
            del room.surfaces[old]
        room.surfaces[key] = memory((len(one.values), lines, padded(columns)), np.float32)
    return room.surfaces[key], (columns, lines)


def _given(picture: Picture, inputs: Inputs, state: State, room: Room, width: int, rows: int) -> tuple[Surface, int]:
    if picture.name.startswith("kept:"):
        held = state.kept.get(picture.name.removeprefix("kept:"))
        if held is not None and held.shape[0] >= picture.channels and held.shape[1:] == (rows, padded(width)):
            return held, width
        return memory((picture.channels, rows, padded(width)), np.float32), width
    pixels = inputs.pictures.get(picture.name)
    if pixels is None:
        return memory((picture.channels, 1, padded(1)), np.float32), 1
    known = room.given.get(picture.name)
    if known is None or known[0] is not pixels:
        # What an edit left behind goes.
        for old in [name for name in room.given if name not in inputs.pictures]:
            del room.given[old]
        room.given[picture.name] = known = (pixels, planes(pixels, picture.channels))
    return known[1], pixels.shape[1]


def planes(pixels: NDArray[Any], channels: int | None = None) -> Floats:
    """A picture (height, width, channels), float32 or bytes, as planes with padded rows; bytes become 0 to 1."""
    height, width, held = pixels.shape
    out = memory((channels or held, height, padded(width)), np.float32)
    numbers = pixels.astype(np.float32) / np.float32(255) if pixels.dtype == np.uint8 else pixels
    out[:held, :, :width] = np.moveaxis(numbers, 2, 0)[: out.shape[0]]
    if held == 3 and out.shape[0] == 4:
        out[3] = 1.0
    return out


def _word(number: float) -> int:
    """A signal as the 32-bit word that kernels take."""
    return int(_WORD.unpack(_SINGLE.pack(single(number)))[0]) if isinstance(number, float) else int(number)


def render_words(program: Program, camera: Words, width: int, inputs: Inputs, **more: Any) -> Words:
    """The program's last output as words, BGRA, of the camera's shape."""
    return run(program.final, camera, width, inputs, "bytes", **more)


def render_floats(program: Program, camera: Floats, inputs: Inputs, state: State | None = None) -> list[Floats]:
    """Outputs as (height, width, 3) from a camera picture (height, width, 3 or 4), float32; for checks and float pictures."""
    width = camera.shape[1]
    out = run(program, planes(camera, 4), width, inputs, "floats", state)
    return [np.ascontiguousarray(np.moveaxis(out[n : n + 3, :, :width], 0, 2)) for n in range(0, out.shape[0], 3)]
