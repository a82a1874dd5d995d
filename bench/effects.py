"""Every ready-made layer alone, and ten stacked: render only, 720 by 1280. Thirty frames a second are 33 ms."""

from __future__ import annotations

import statistics
import time

from sunglaze.core.camera.cast import StandIn
from sunglaze.core.effect.compiling import Compiled, compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.shipped import shipped
from sunglaze.core.engine.playback import Playback
from sunglaze.core.engine.running import prepare
from sunglaze.core.moment.moment import Reads

TEN = (
    "tone-and-colour", "sharpen", "vignette", "film-grain", "colour-fringes", "outline", "fill", "two-colour-map", "glow",
    "posterize",
)  # fmt: skip


def layer(kind: str) -> Layer:
    start = shipped()[kind].start
    return Layer(id=kind, name=kind, kind=kind, blend=start.blend, opacity=min(start.opacity, 0.6))


def milliseconds(compiled: Compiled, camera: StandIn) -> float:
    playback, times = Playback(), []
    for n in range(14):
        moment = camera.moment(n, Reads())
        began = time.perf_counter()
        playback.at(compiled.program.final, compiled.inputs, camera, moment)
        times.append((time.perf_counter() - began) * 1000)
    return statistics.median(times[3:])


def measure() -> list[str]:
    camera = StandIn(720, 1280)
    lines = ["| ready-made layer | passes | a frame | frames a second |", "| --- | --- | --- | --- |"]
    stacks = {recipe.name: [layer(kind)] for kind, recipe in shipped().items() if kind != "lookup-grade"}
    stacks["ten stacked: " + ", ".join(shipped()[kind].name.lower() for kind in TEN)] = [layer(kind) for kind in TEN]
    for name, layers in stacks.items():
        compiled = compile_effect(Effect(name="x", layers=layers), Material())
        prepare(compiled.program.final, "bytes")
        ms = milliseconds(compiled, camera)
        lines.append(f"| {name} | {len(compiled.program.final.plan.passes)} | {ms:.1f} ms | {1000 / ms:.0f} |")
    return lines
