"""A lookup of 33 steps on 720 by 1280, 8 bits, one thread, beside OpenColorIO's CPU processor."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np
import PyOpenColorIO as ocio

from bench.timing import in_turns
from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import StandIn
from sunglaze.core.colour.cube_file import write_cube
from sunglaze.core.engine.grade import Interpolation, lookup_program
from sunglaze.core.engine.room import Room
from sunglaze.core.engine.running import draw, prepare
from sunglaze.core.moment.moment import Reads
from sunglaze.core.passes.program import Inputs
from tests.grades import smooth_grade

WIDTH, HEIGHT = 720, 1280
WAYS: dict[Interpolation, object] = {"tetrahedral": ocio.INTERP_TETRAHEDRAL, "trilinear": ocio.INTERP_LINEAR}


def opencolorio(folder: Path, interpolation: object, optimization: object) -> ocio.CPUProcessor:
    transform = ocio.FileTransform(str(folder / "grade.cube"), interpolation=interpolation)
    processor = ocio.Config.CreateRaw().getProcessor(transform)
    depth = ocio.BIT_DEPTH_UINT8
    return processor.getOptimizedCPUProcessor(depth, depth, optimization)


def measure() -> list[str]:
    camera = StandIn(WIDTH, HEIGHT)
    moment = camera.moment(30, Reads())
    packed = np.concatenate([colours(camera.frame(30), WIDTH), np.full((HEIGHT, WIDTH, 1), 255, np.uint8)], axis=2)
    lut = smooth_grade(np.random.default_rng(1), 33)
    inputs = Inputs({"strength": 1.0}, {"lut": lut.padded})
    lines = ["| | Sun Glaze, 1 thread | 2 threads | OpenColorIO | OpenColorIO / ours |", "| --- | --- | --- | --- | --- |"]
    with tempfile.TemporaryDirectory() as folder:
        (Path(folder) / "grade.cube").write_bytes(write_cube(lut))
        for name, theirs in WAYS.items():
            program, room = lookup_program(lut, name), Room()
            prepare(program, "bytes")
            processor = opencolorio(Path(folder), theirs, ocio.OPTIMIZATION_DEFAULT)
            target = packed.copy()
            description = ocio.PackedImageDesc(target, WIDTH, HEIGHT, 4, ocio.BIT_DEPTH_UINT8, 1, 4, WIDTH * 4)

            def one(program=program, room=room) -> None:  # type: ignore[no-untyped-def]
                draw(program, moment, inputs, room=room, threads=1)

            def two(program=program, room=room) -> None:  # type: ignore[no-untyped-def]
                draw(program, moment, inputs, room=room, threads=2)

            def other(processor=processor, description=description) -> None:  # type: ignore[no-untyped-def]
                processor.apply(description)

            times = in_turns({"one": one, "two": two, "other": other})
            ratio = times["other"] / times["one"]
            lines.append(f"| {name} | {times['one']:.1f} ms | {times['two']:.1f} ms | {times['other']:.1f} ms | {ratio:.2f} |")
    return lines
