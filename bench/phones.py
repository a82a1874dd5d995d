"""A phone's GPU, on paper: what each demo effect computes and moves in a frame of 1080 by 1920, against a middling phone.

The phone: 240 thousand million operations a second in single precision (an Arm Mali-G57 with two cores at 0.95 GHz, each with 64
multiply-adds a clock, two operations apiece), and 17 GB/s of memory (LPDDR4X, two channels of 16 bits at 2133 MHz), from memory
of what the makers publish; of either a shader of this kind gets about 40 % (common practice, no source). Loops count as often as
they are turned at the controls' values; each picture that a pass reads counts once, since neighbours share what the cache holds.
"""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from pathlib import Path

from demo.seed import seed
from sunglaze.core.camera.cast import StandIn
from sunglaze.core.effect.compiling import Compiled, compile_effect
from sunglaze.core.language.expression import Value, ordered
from sunglaze.core.language.pictures import Picture
from sunglaze.core.passes.planning import Sweep
from sunglaze.core.passes.program import State
from sunglaze.store import effects
from sunglaze.store.database import open_database
from sunglaze.store.files import material_of

PIXELS = 1080 * 1920
OPERATIONS, BYTES, USABLE, RATE = 240e9, 17e9, 0.4, 60
FRAME, MOST = 12, 512.0


def operations(values: tuple[Value, ...], turns: Callable[[Value], float]) -> float:
    """Operations a pixel. `turns`: how often a loop is repeated, by what says so."""
    count = 0.0
    for value in ordered(values)[0]:
        if value.op == "loop":
            most, states, body = value.attribute
            start = 1 + int(str(states))

            def within(inner: Value, loop: Value = value, start: int = start) -> float:
                # What a body takes from outside are arguments of its loop.
                return turns(loop.arguments[start + int(str(inner.attribute[0]))]) if inner.op == "outer" else turns(inner)

            count += min(float(str(most)), turns(value.arguments[0])) * operations(body.results, within)  # type: ignore[union-attr]
        elif value.arguments:
            count += 1
    return count


def size_of(picture: Picture | None) -> float:
    """Bytes of a picture that passes fill or read; none: the screen, which takes four a pixel."""
    if picture is None or picture.source in ("camera", "region"):
        return 4.0 * PIXELS
    channels = 4 if picture.channels > 2 else picture.channels
    return PIXELS / picture.reduce**2 * channels * (4 if picture.precise else 2)


def weighed(compiled: Compiled) -> tuple[float, float, int]:
    """Operations and bytes of a frame, and passes."""
    program = compiled.program.final
    plan = program.plan
    moment = StandIn(1080, 1920).moment(FRAME, program.reads.numbers)
    numbers = program.advance(moment, compiled.inputs, State())
    computed = moved = 0.0
    for one in plan.passes:

        def turns(value: Value, one: Sweep = one) -> float:
            if value.op == "const":
                return float(value.attribute[0])  # type: ignore[arg-type]
            return float(numbers[one.slots[int(str(value.attribute[0]))]]) if value.op == "slot" else MOST

        part = 1.0 if one.target is None else 1 / one.target.reduce**2
        computed += operations(one.values, turns) * PIXELS * part
        moved += size_of(one.target) + sum(size_of(picture) for picture in one.pictures)
    moved += sum(2 * size_of(one.target) for one in plan.meshes)
    return computed, moved, len(plan.passes) + len(plan.meshes)


def measure() -> list[str]:
    """Lines of a table."""
    lines = [
        "| effect | passes | operations a frame | bytes a frame | of a 60th of a second | short side that keeps 60 a second |",
        "| --- | --- | --- | --- | --- | --- |",
    ]
    with tempfile.TemporaryDirectory() as folder:
        seed(Path(folder))
        with open_database(Path(folder))() as session:
            found = {
                kept.effect.name: weighed(compile_effect(kept.effect, material_of(session, kept.effect)))
                for kept in effects.every(session)
            }
    for name, (computed, moved, passes) in sorted(found.items()):
        share = RATE * max(computed / OPERATIONS, moved / BYTES) / USABLE
        side = 1080 * min(1.0, share**-0.5)
        much = f"{computed / 1e6:,.0f} M | {moved / 1e6:,.0f} MB"
        lines.append(f"| {name} | {passes} | {much} | {100 * share:.0f} % | {side:.0f} |")
    over = [name for name, (computed, moved, _) in found.items() if RATE * max(computed / OPERATIONS, moved / BYTES) > USABLE]
    lines += ["", f"{len(found) - len(over)} of {len(found)} keep 60 a second on paper; the others take a smaller picture there."]
    return lines
