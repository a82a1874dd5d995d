"""Run programs on frames: signals once, then the passes in order; what the next frame needs is kept in the state."""

from __future__ import annotations

import struct
from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np

from sunglaze.core.engine.kernel import built, kernel
from sunglaze.core.language.operations import single
from sunglaze.core.language.pictures import Picture
from sunglaze.core.material.still import Still
from sunglaze.core.moment.moment import Moment
from sunglaze.core.passes.planning import Sweep
from sunglaze.core.passes.program import Floats, Inputs, Program, State, sequence_of
from sunglaze.core.passes.triangles import triangles
from sunglaze.core.targets.llvm import PixelFormat
from sunglaze.core.targets.memory import Surface, memory, padded, planes, seen_as_surface
from sunglaze.core.targets.raster import rasterise

_SINGLE, _WORD = struct.Struct("<f"), struct.Struct("<i")


@dataclass
class Room:
    """Memory of passes, kept from frame to frame, by place of the pass; and given pictures as planes."""

    surfaces: dict[tuple[int, str], Surface] = field(default_factory=dict)
    given: dict[str, tuple[Still, Surface, int]] = field(default_factory=dict)
    meshes: dict[str, tuple[Surface, slice]] = field(default_factory=dict)

    def keep_to(self, program: Program) -> None:
        """Let go of what an edit left behind."""
        for key in [key for key in self.surfaces if key[0] >= len(program.plan.passes)]:
            del self.surfaces[key]
        wanted = {picture.name for picture in program.given} | {one.target.name for one in program.plan.uploads}
        for name in self.given.keys() - wanted:
            del self.given[name]
        for name in self.meshes.keys() - {one.target.name for one in program.plan.meshes}:
            del self.meshes[name]

    def planes_of(self, picture: Picture, still: Still) -> tuple[Surface, int]:
        """What is given for a picture as planes, converted when it is another one than last time; and its columns."""
        known = self.given.get(picture.name)
        if known is None or not known[0].is_same(still):
            pixels = still.frame()
            self.given[picture.name] = known = (still, planes(pixels, picture.channels), pixels.shape[1])
        return known[1], known[2]

    def mesh_surface(self, name: str, rows: int, columns: int) -> tuple[Surface, slice]:
        """Memory for what a mesh is drawn into: (4, rows, padded), and the rows in which it is not 0."""
        shape = (4, rows, padded(columns))
        if name not in self.meshes or self.meshes[name][0].shape != shape:
            self.meshes[name] = memory(shape, np.float32), slice(0, 0)
        return self.meshes[name]


def unoptimised(program: Program) -> Iterator[Sweep]:
    """The passes that only have a quick build for the display, each when it is asked for."""
    for one in program.plan.passes:
        found = built(one, "bytes")
        if found is not None and found.quick:
            yield one


def prepare_quickly(program: Program) -> Iterator[None]:
    """Build what `draw` needs for the display, quickly, a part a step: at the size of thumbnails that is all it takes."""
    yield
    for one in program.plan.passes:
        yield
        kernel(one, "bytes", quick=True)


def prepare(program: Program, pixels: PixelFormat, quick: bool = False) -> None:
    """Build the kernels of all passes, so that `run` does not wait."""
    _ = program.signals
    for one in program.plan.passes:
        kernel(one, pixels, quick)


def is_ready(program: Program, pixels: PixelFormat) -> bool:
    """Whether `run` would begin at once, be it with quick builds."""
    return all(built(one, pixels) is not None for one in program.plan.passes)


def is_quick(program: Program, pixels: PixelFormat) -> bool:
    """Whether some pass still waits for its optimised build."""
    return any(k is not None and k.quick for k in (built(one, pixels) for one in program.plan.passes))


def draw(
    program: Program,
    moment: Moment,
    inputs: Inputs,
    state: State | None = None,
    room: Room | None = None,
    threads: int | None = None,
) -> Surface:
    """The outputs of one frame, one after another: words, BGRA (outputs * rows, padded), where the moment's picture is of
    words or bytes, else planes (3 * outputs, rows, padded).

    `state` is read and changed; without one it is a first frame. Raises ValueError for a moment without a picture.
    """
    if moment.picture is None:
        raise ValueError("a moment that is drawn has a picture")
    camera = seen_as_surface(moment.picture)
    pixels: PixelFormat = "bytes" if camera.dtype == np.uint32 else "floats"
    state = state if state is not None else State()
    room = room if room is not None else Room()
    width, rows = moment.screen.columns, moment.screen.rows
    numbers = program.advance(moment, inputs, state)
    done: dict[str, tuple[Surface, int]] = {"camera": (camera, width)}
    kept: dict[str, Surface] = {}
    plan = program.plan
    room.keep_to(program)
    for upload in plan.uploads:
        sequence = inputs.sequences.get(sequence_of(upload.target))
        if sequence is not None:
            done[upload.target.name] = room.planes_of(upload.target, Still.of(sequence.frame(int(numbers[upload.shows]))))
            sequence.expect(int(numbers[upload.soon]))
    for mesh in plan.meshes:
        surface, stale = room.mesh_surface(mesh.target.name, rows, width)
        data = inputs.meshes.get(mesh.vertices.material)
        held = state.faces.get(mesh.target.name, ())
        found = triangles(mesh.vertices, [numbers[n] for n in mesh.numbers], moment, data, held)
        seen = rasterise(found.corners, found.depths, found.w, found.attributes, surface, width, stale)
        room.meshes[mesh.target.name] = surface, seen
        done[mesh.target.name] = (surface, width)
    for place, one in enumerate(plan.passes):
        out, size = _target(one, place, room, width, rows, pixels)
        if one.target is not None:
            done[one.target.name] = (out, size[0])
            if one.target.keeps:
                kept[one.target.keeps] = out
        if one.enabled is not None and not numbers[one.enabled]:
            continue
        pictures = [done.get(p.name) or _given(p, moment, inputs, state, room) for p in one.pictures]
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


def _key_of(passes: tuple[Sweep, ...], name: str, width: int, rows: int) -> tuple[int, str]:
    place = next(n for n, p in enumerate(passes) if p.target is not None and p.target.name == name)
    return place, f"{name} {width} {rows}"


def _target(one: Sweep, place: int, room: Room, width: int, rows: int, pixels: PixelFormat) -> tuple[Surface, tuple[int, int]]:
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


def _given(picture: Picture, moment: Moment, inputs: Inputs, state: State, room: Room) -> tuple[Surface, int]:
    width, rows = moment.screen.columns, moment.screen.rows
    if picture.source == "kept":
        held = state.kept.get(picture.id)
        if held is not None and held.shape[0] >= picture.channels and held.shape[1:] == (rows, padded(width)):
            return held, width
        return memory((picture.channels, rows, padded(width)), np.float32), width
    still = inputs.picture(picture, moment)
    if still is None:
        return memory((picture.channels, 1, padded(1)), np.float32), 1
    return room.planes_of(picture, still)


def _word(number: float) -> int:
    """A signal as the 32-bit word that kernels take."""
    return int(_WORD.unpack(_SINGLE.pack(single(number)))[0]) if isinstance(number, float) else int(number)


def run(program: Program, moment: Moment, inputs: Inputs, state: State | None = None) -> list[Floats]:
    """An Engine: outputs as (height, width, 3), from a moment whose picture is of floats. Raises ValueError for a moment
    without a picture, or one of bytes."""
    width = moment.screen.columns
    out = draw(program, moment, inputs, state)
    if out.dtype == np.uint32:
        raise ValueError("pictures of floats are drawn from a picture of floats")
    return [np.ascontiguousarray(np.moveaxis(out[n : n + 3, :, :width], 0, 2)) for n in range(0, out.shape[0], 3)]
