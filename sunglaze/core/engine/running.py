"""Run programs on frames: signals once, then the passes in order; what the next frame needs is kept in the state."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.engine.boxes import Part, filled, parts, size_of
from sunglaze.core.engine.kernel import POOL, built, kernel
from sunglaze.core.engine.machine import Run
from sunglaze.core.engine.room import Drawn, Key, Room
from sunglaze.core.language.operations import Plain
from sunglaze.core.language.pictures import Picture
from sunglaze.core.material.still import Still
from sunglaze.core.moment.moment import Moment
from sunglaze.core.passes.planning import Sweep
from sunglaze.core.passes.program import Floats, Inputs, Program, State, sequence_of
from sunglaze.core.passes.reach import Box
from sunglaze.core.passes.triangles import triangles
from sunglaze.core.targets.fitting import Kept
from sunglaze.core.targets.llvm import PixelFormat
from sunglaze.core.targets.memory import Surface, memory, padded, seen_as_surface


def unoptimised(program: Program) -> Iterator[Sweep]:
    """The passes that only have a quick build for the display, each when it is asked for."""
    for one in program.sweeps:
        found = built(one, "bytes")
        if found is not None and found.quick:
            yield one


def prepare_quickly(program: Program) -> Iterator[None]:
    """Build what `draw` needs for the display, quickly, a part a step: at the size of thumbnails that is all it takes."""
    yield
    for one in program.sweeps:
        yield
        kernel(one, "bytes", quick=True)


def prepare(program: Program, pixels: PixelFormat, quick: bool = False) -> None:
    """Build the kernels of all passes and draw the charts that they read, so that `run` does not wait."""
    _ = program.signals
    for picture in program.given:
        if picture.source == "asset":
            Inputs().asset(picture.id)
    for one in program.sweeps:
        kernel(one, pixels, quick)


def is_ready(program: Program, pixels: PixelFormat) -> bool:
    """Whether `run` would begin at once, be it with quick builds."""
    return all(built(one, pixels) is not None for one in program.sweeps)


def is_quick(program: Program, pixels: PixelFormat) -> bool:
    """Whether some pass still waits for its optimised build."""
    return any(k is not None and k.quick for k in (built(one, pixels) for one in program.sweeps))


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
    room = room if room is not None else Room()
    room.keep_to(program)
    camera = seen_as_surface(moment.picture)
    frame = _Frame(program, moment, camera, inputs, state if state is not None else State(), room, threads)
    frame.show()
    frame.rasterise()
    out = frame.sweep()
    frame.hand_on()
    return out


class _Frame:
    """One frame while it is drawn. `done`: pictures and their columns, by name; `kept`: those for the next frame, by id; `seen`:
    where pictures are not 0, of those of which that is known."""

    def __init__(
        self,
        program: Program,
        moment: Moment,
        camera: Surface,
        inputs: Inputs,
        state: State,
        room: Room,
        threads: int | None,
    ) -> None:
        self.program, self.moment, self.inputs, self.state, self.room = program, moment, inputs, state, room
        self.threads = threads
        self.pixels: PixelFormat = "bytes" if camera.dtype == np.uint32 else "floats"
        self.size = moment.screen.columns, moment.screen.rows
        self.numbers = program.advance(moment, inputs, state)
        self.words = _words(self.numbers)
        self.done: dict[str, tuple[Surface, int]] = {"camera": (camera, self.size[0])}
        self.kept: dict[str, Surface] = {}
        self.seen: dict[str, Box] = {}

    def show(self) -> None:
        """This frame's pictures of sequences, and smaller copies."""
        plan, shown = self.program.plan, dict[str, Still]()
        for upload in plan.uploads:
            sequence = self.inputs.sequences.get(sequence_of(upload.target))
            if sequence is not None:
                shown[upload.target.name] = sequence.still(int(self.numbers[upload.shows]))
                sequence.expect(int(self.numbers[upload.soon]))
        for copy in plan.copies:
            still = shown.get(copy.of.name) or self.inputs.asset(copy.of.id)
            if still is not None:
                shown[copy.target.name] = still.fitting(float(self.numbers[copy.wide]))
        for name in shown.keys() & self.program.pictures.keys():
            self.done[name] = self.room.planes_of(self.program.pictures[name], shown[name])

    def rasterise(self) -> None:
        """The meshes."""
        if not self.program.plan.meshes:
            return
        # Compiled by Numba, which takes half a second to import.
        from sunglaze.core.targets.raster import rasterise

        columns, rows = self.size
        for mesh in self.program.plan.meshes:
            name = mesh.target.name
            surface = self.room.mesh(name, rows, columns)
            data = self.inputs.meshes.get(mesh.vertices.material)
            held = self.state.faces.get(name, ())
            found = triangles(mesh.vertices, [self.numbers[n] for n in mesh.numbers], self.moment, data, held)
            stale = self.room.filled[name]
            pool = None if self.threads == 1 else POOL
            box = rasterise(found.corners, found.depths, found.w, found.attributes, surface, columns, stale, pool)
            self.seen[name] = self.room.filled[name] = box
            self.done[name] = (surface, columns)

    def sweep(self) -> Surface:
        """The passes in order, each where it has to be run; what the last one gives."""
        passes = self.program.clearings
        # Where a mask is 0 is known when it is there.
        for place, one in enumerate(passes):
            if one.masks and one.sweep.target is not None and self.is_enabled(one.sweep):
                self.seen[one.sweep.target.name] = filled(self.fill(place, None), self.size[0])
        shares = parts(passes, self.numbers, self.size, self.seen) if passes else [None] * len(self.program.plan.passes)
        for place, share in enumerate(shares):
            if not passes or not (passes[place].masks and self.is_enabled(passes[place].sweep)):
                out = self.fill(place, share)
        return out

    def is_enabled(self, one: Sweep) -> bool:
        """Whether a pass is run in this frame."""
        return one.enabled is None or bool(self.numbers[one.enabled])

    def fill(self, place: int, part: Part | None) -> Surface:
        """Run a pass: in a part of its picture, or in all of it."""
        one = self.program.plan.passes[place]
        columns, rows = size_of(one.target, self.size)
        if one.target is None:
            return self.run(one, _handed_out(one, columns, rows, self.pixels), place, part)
        out = self.room.sweep(one, self.key(place, one.target), (columns, rows))
        self.done[one.target.name] = (out, columns)
        if one.target.keeps:
            self.kept[one.target.keeps] = out
        return self.run(one, out, place, part) if self.is_enabled(one) else out

    def run(self, one: Sweep, out: Surface, place: int, part: Part | None) -> Surface:
        """Fill a picture by a pass, and by its clear form around a part of it."""
        vanishes = part is not None and self.program.clearings[place].vanishes
        if part is not None and part.empty and not vanishes:
            return out
        pictures = [self.done.get(p.name) or self.given(p) for p in one.pictures]
        slots = self.words[self.program.slots[place]]
        # A kept picture is read from the frame before while it is written: it has two surfaces.
        tables = [self.inputs.tables[name] for name in one.tables]
        if one.target is not None and one.target.name in self.program.lasting:
            now = Drawn(slots.tobytes(), (*map(self.source, one.pictures), *tables), part)
            key = self.key(place, one.target)
            if now.is_same(self.room.drawn.get(key)):
                return out
            self.room.drawn[key] = now
        if part is not None and one.target is not None and vanishes:
            self.room.cleared(self.key(place, one.target), part.box)
            if part.empty:
                return out
        made, boxes = kernel(one, self.pixels, quick=True), None
        if part is not None:
            boxes = [] if part.box.empty else [(made, part.box)]
            clear = self.program.clearings[place].clear
            if clear is not None and part.around:
                other = kernel(clear, self.pixels, quick=True)
                boxes += [(other, box) for box in part.around]
        operands = self.room.operands(place, made, pictures, tables, out.shape[-1])
        made.run(Run(operands, out, slots, size_of(one.target, self.size)), self.threads, boxes)
        return out

    def key(self, place: int, target: Picture) -> Key:
        """Under which the room has a pass's memory."""
        columns, rows = size_of(target, self.size)
        return place, f"{target.name} {columns} {rows}"

    def source(self, picture: Picture) -> object:
        """What tells a picture that a lasting pass reads from one of before: the artist's, or how another pass was drawn."""
        place = self.program.lasting.get(picture.name)
        if place is not None:
            return self.room.drawn.get(self.key(place, picture))
        return None if self.inputs.asset(picture.id) is None else self.room.given.get(picture.name)

    def given(self, picture: Picture) -> tuple[Surface, int]:
        """A picture that no pass makes, and its columns."""
        columns, rows = self.size
        if picture.source == "kept":
            held: Kept | None = self.state.kept.get(picture.id)
            if held is not None and held.surface.shape[0] >= picture.channels:
                return held.at(columns, rows), columns
            return memory((picture.channels, rows, padded(columns)), np.float32), columns
        still = self.inputs.picture(picture, self.moment)
        if still is None:
            return memory((picture.channels, 1, padded(1)), np.float32), 1
        return self.room.planes_of(picture, still)

    def hand_on(self) -> None:
        """Keep what the next frame needs, and give its pass other memory for that."""
        for place, one in enumerate(self.program.plan.passes):
            if one.target is None or one.target.keeps not in self.kept:
                continue
            surface, before = self.kept[one.target.keeps], self.state.kept.get(one.target.keeps)
            self.state.kept[one.target.keeps] = Kept(surface, self.size[0])
            spare = before.surface if before is not None else None
            if spare is None or spare.shape != surface.shape:
                spare = memory(surface.shape, np.float32)
            self.room.surfaces[self.key(place, one.target)] = spare


def _handed_out(one: Sweep, columns: int, rows: int, pixels: PixelFormat) -> Surface:
    """Memory for what the last pass gives, new each time: it is handed out."""
    count = len(one.values)
    if pixels == "bytes":
        return memory((count // 3 * rows, padded(columns)), np.uint32, filled=False)
    return memory((count, rows, padded(columns)), np.float32, filled=False)


def _words(numbers: Sequence[Plain]) -> NDArray[np.int32]:
    """Signals as the 32-bit words that kernels take, and a last one that is 0."""
    found, is_float = np.array([*numbers, 0], np.float64), [isinstance(number, float) for number in numbers]
    with np.errstate(all="ignore"):
        return np.where([*is_float, False], found.astype(np.float32).view(np.int32), found.astype(np.int32))


def run(program: Program, moment: Moment, inputs: Inputs, state: State | None = None) -> list[Floats]:
    """An Engine: outputs as (height, width, 3), from a moment whose picture is of floats. Raises ValueError for a moment
    without a picture, or one of bytes."""
    width = moment.screen.columns
    out = draw(program, moment, inputs, state)
    if out.dtype == np.uint32:
        raise ValueError("pictures of floats are drawn from a picture of floats")
    return [np.ascontiguousarray(np.moveaxis(out[n : n + 3, :, :width], 0, 2)) for n in range(0, out.shape[0], 3)]
