"""How the time of a frame grows with layers and pixels, and how long building takes by number of nodes."""

from __future__ import annotations

import statistics
import time

import numpy as np

from bench.timing import in_turns, percentile
from sunglaze.core.camera.cast import StandIn
from sunglaze.core.effect.compiling import Compiled, compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.engine import kernel as kernels
from sunglaze.core.engine.playback import Playback
from sunglaze.core.engine.running import draw, prepare
from sunglaze.core.engine.stepping import machine
from sunglaze.core.language.expression import ordered
from sunglaze.core.moment.moment import Reads
from sunglaze.parity.generating import random_recipe
from tests.layers import fill

MODES = ("multiply", "screen", "soft-light", "overlay", "luminosity", "difference", "color-dodge", "plus")
SIZES = ((360, 640), (540, 960), (720, 1280), (1080, 1920))


def operations(compiled: Compiled) -> int:
    return sum(len(ordered(one.values)[0]) for one in compiled.program.final.plan.passes)


def fills(count: int) -> Compiled:
    layers = [fill(f"l{n}", blend=MODES[n % len(MODES)], opacity=0.3) for n in range(count)]
    return compile_effect(Effect(name="x", layers=layers), Material())


def growth() -> list[str]:
    camera = StandIn(720, 1280)
    moment = camera.moment(30, Reads())
    lines = ["| fills fused | operations | a frame, 720 by 1280, 2 threads |", "| --- | --- | --- |"]
    for count in (1, 2, 4, 8, 16):
        compiled, playback = fills(count), Playback()
        program = compiled.program.final
        prepare(program, "bytes")
        times = in_turns({"frame": lambda c=compiled, p=playback: p.at(c.program.final, c.inputs, camera, moment)}, 12)
        lines.append(f"| {count} | {operations(compiled)} | {times['frame']:.1f} ms |")
    compiled = fills(8)
    lines += ["", "| pixels, 8 fills | a frame | nanoseconds a pixel |", "| --- | --- | --- |"]
    for width, height in SIZES:
        moment = StandIn(width, height).moment(30, Reads())
        ms = in_turns({"frame": lambda m=moment: draw(compiled.program.final, m, compiled.inputs)}, 9)["frame"]
        lines.append(f"| {width} by {height} | {ms:.1f} ms | {ms * 1e6 / (width * height):.1f} |")
    return lines


def building() -> list[str]:
    """Random recipes: the time from the document to the first picture, taken in steps at half of 540 by 960, as the stream shows
    it; and that of the machine code behind it."""
    moment = StandIn(270, 480).moment(30, Reads())
    head = "| nodes | operations | document to picture, 270 by 480 | of it the frame | machine code behind it |"
    lines = [head, "| --- | --- | --- | --- | --- |"]
    rng = np.random.default_rng(4)
    everything: list[float] = []
    machine()  # the application compiles it when it starts
    for count in (5, 10, 20, 40, 60):
        soon, frame, later, size = [], [], [], []
        for _ in range(8):
            own = random_recipe(rng, count)
            effect = Effect(name="x", layers=[Layer(id="l", name="x", kind="own", recipe=own)])
            kernels._cache.clear()
            began = time.perf_counter()
            compiled = compile_effect(effect, Material())
            prepare(compiled.program.final, "bytes", quick=True)
            built = time.perf_counter()
            draw(compiled.program.final, moment, compiled.inputs)
            soon.append((time.perf_counter() - began) * 1000)
            frame.append((time.perf_counter() - built) * 1000)
            began = time.perf_counter()
            prepare(compiled.program.final, "bytes")
            later.append((time.perf_counter() - began) * 1000)
            size.append(operations(compiled))
        everything += soon
        cells = [
            f"{count}",
            f"{statistics.median(size):.0f} (most {max(size)})",
            f"{statistics.median(soon):.0f} ms (most {max(soon):.0f})",
            f"{statistics.median(frame):.0f} ms",
            f"{statistics.median(later):.0f} ms (most {max(later):.0f})",
        ]
        lines.append(f"| {' | '.join(cells)} |")
    lines += ["", f"95th percentile of document to picture over all {len(everything)}: {percentile(everything, 0.95):.0f} ms."]
    return lines


def measure() -> list[str]:
    return [*growth(), "", *building()]
