"""Compile times by number of layers, and the time a frame takes as layers are added; render only, 720 by 1280."""

from __future__ import annotations

import time

import numpy as np

from bench.timing import in_turns
from sunglaze.core.camera.cameras import StandIn
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Fill
from sunglaze.core.render.kernel import Kernel
from sunglaze.core.shading.expression import ordered

MODES = ("multiply", "screen", "soft-light", "overlay", "luminosity", "difference", "color-dodge", "plus")


def measure() -> list[str]:
    camera = StandIn(720, 1280).frame(30)
    lines = ["| fills fused | operations | record and compile | a frame, 2 threads |", "| --- | --- | --- | --- |"]
    for count in (1, 2, 4, 8, 16):
        layers = [Fill(id=f"l{n}", name="x", blend=MODES[n % len(MODES)], opacity=0.3) for n in range(count)]
        began = time.perf_counter()
        compiled = compile_effect(Effect(name="x", layers=list(layers)), {})
        built = Kernel(compiled.program.final, "bytes")
        building = (time.perf_counter() - began) * 1000
        out = np.empty_like(camera)

        def frame(built=built, compiled=compiled, out=out) -> None:  # type: ignore[no-untyped-def]
            built.run(camera, out, compiled.inputs, 1280)

        operations = len(ordered(compiled.program.final.flat)[0])
        lines.append(f"| {count} | {operations} | {building:.0f} ms | {in_turns({'frame': frame}, 12)['frame']:.1f} ms |")
    return lines
