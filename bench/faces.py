"""Layers that cling to faces, with one face and with two, and how steady they hold one: 720 by 1280. Thirty frames a second are
33 ms."""

from __future__ import annotations

import statistics
import time
from itertools import combinations

import numpy as np

from demo import adornments
from demo.solids import lighthouse
from demo.wearing import HERON
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.camera.people import PEOPLE
from sunglaze.core.effect.compiling import Compiled, compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.shipped import shipped
from sunglaze.core.engine.playback import Playback
from sunglaze.core.engine.running import prepare
from sunglaze.core.face.held import LAG, HeldFaces, hold
from sunglaze.core.material.still import Still
from sunglaze.core.moment.moment import Reads
from sunglaze.parity.gpu import gpu

PAINT, GLASSES = "1" * 64, "2" * 64
ROOM, TOWER = "3" * 64, "4" * 64
PAINTED = "face-paint by shapes"
SIZE = (720, 1280)
PAIRS = 20
STACK = ("even-skin", "make-up", "tone-and-colour", "film-grain")


def layer(kind: str) -> Layer:
    start = shipped()[kind.partition(" ")[0]].start
    material = {"face-paint": PAINT, "pin": GLASSES, "ring-in-depth": GLASSES, "deep-backdrop": ROOM}
    values: dict[str, object] = {"picture": material[kind]} if kind in material else {}
    if kind == "mesh":
        values = {"mesh": {"asset": TOWER}, "wide": 15.0, "up": 13.0}
    if kind == PAINTED:
        kind, values = "face-paint", {"painting": {"shapes": HERON}}
    return Layer(id=kind, name=kind, kind=kind, blend=start.blend, opacity=start.opacity, values=values)


def formed(layers: list[Layer], pictures: dict[str, np.ndarray]) -> Compiled:
    return compile_effect(
        Effect(name="x", layers=layers),
        Material(pictures={key: Still.of(one) for key, one in pictures.items()}, meshes={TOWER: lighthouse()}),
    )


def spent(compiled: Compiled, sitting: Sitting, first: int) -> list[float]:
    """Milliseconds of each of eleven frames, once it runs."""
    program, camera, playback = compiled.program.final, StandIn(*SIZE, sitting), Playback()
    prepare(program, "bytes")
    times = []
    for n in range(first, first + 14):
        moment = camera.moment(n, program.reads)
        began = time.perf_counter()
        playback.at(program, compiled.inputs, camera, moment)
        times.append((time.perf_counter() - began) * 1000)
    return times[3:]


def milliseconds(compiled: Compiled, sitting: Sitting, first: int) -> float:
    return statistics.median(spent(compiled, sitting, first))


def flutter(who: str) -> tuple[float, float, float]:
    """From frame to frame, pixels: the median and root mean square of a still face as tracked, held; and how far a talking one is
    behind, in parts of the eyes' distance."""

    def points(sitting: Sitting, steady: bool = True) -> list[np.ndarray]:
        camera, before = StandIn(*SIZE, sitting), None
        found = []
        for n in range(75):
            moment = camera.moment(n, Reads(False, (), True))
            if not steady:
                found.append(moment.faces[0].points[:468, :2] * SIZE)
                continue
            held: HeldFaces = hold(before, moment, LAG)
            before = held
            if held[0] is not None:
                found.append(held[0].points[:468, :2] * SIZE)
        return found

    shaken, true = points(Sitting(who, "still", "shade", tracked=True)), points(Sitting(who, "still", "shade"))
    jumps = np.diff(np.array(shaken[25:]) - np.array(true[25:]), axis=0)
    talking, seen = points(Sitting(who, "talk", "shade")), points(Sitting(who, "talk", "shade"), False)
    apart = np.linalg.norm(seen[0][33] - seen[0][263])
    behind = np.linalg.norm(np.array(talking) - np.array(seen), axis=2).mean() / apart
    return float(np.median(np.abs(jumps))), float(np.sqrt((jumps**2).mean())), float(behind)


def given() -> dict[str, np.ndarray]:
    """Pictures that layers are given, (rows, columns, 4) with opacity, by their names."""
    room = adornments.boathouse()
    return {
        PAINT: adornments.tide_mask(), GLASSES: adornments.glasses(),
        ROOM: np.dstack([room, np.full(room.shape[:2], 255, np.uint8)]),
    }  # fmt: skip


def pairs() -> list[str]:
    """Any two stacked with a grade and grain: of those whose layers take longest by themselves, with a face that talks."""
    sitting, pictures = Sitting("beekeeper", "talk"), given()
    kinds = [kind for kind, recipe in shipped().items() if recipe.family in ("Face", "Depth")]
    alone = {kind: milliseconds(formed([layer(kind)], pictures), sitting, 0) for kind in kinds}
    wanted = sorted(combinations(kinds, 2), key=lambda pair: -alone[pair[0]] - alone[pair[1]])[:PAIRS]
    lines = ["| two with a grade and grain, one face | the median | the quickest frame |", "| --- | --- | --- |"]
    for pair in wanted:
        times = spent(formed([layer(kind) for kind in (*pair, *STACK[2:])], pictures), sitting, 0)
        names = " and ".join(shipped()[kind].name for kind in pair)
        lines.append(f"| {names} | {statistics.median(times):.1f} ms | {min(times):.1f} ms |")
    return lines


def measure() -> list[str]:
    pictures = given()
    lines = ["| layer | one face | two faces | the player in software, times as long |", "| --- | --- | --- | --- |"]
    stacks = {recipe.name: [layer(kind)] for kind, recipe in shipped().items() if recipe.family in ("Face", "Depth")}
    stacks["two with a grade and grain: " + ", ".join(shipped()[kind].name.lower() for kind in STACK)] = [layer(k) for k in STACK]
    stacks["Face paint as shapes"] = [layer(PAINTED)]
    for name, layers in stacks.items():
        compiled = formed(layers, pictures)
        one = milliseconds(compiled, Sitting("beekeeper", "talk"), 0)
        two = milliseconds(compiled, Sitting("ferry-pilot", "two"), 60)
        moment = StandIn(*SIZE, Sitting("beekeeper", "talk")).moment(7, compiled.program.final.reads)
        # A page for each: it keeps what it built.
        with gpu() as page:
            drawn = page.milliseconds(compiled.program.final, compiled.inputs, moment, 5)
        lines.append(f"| {name} | {one:.1f} ms | {two:.1f} ms | {drawn / one:.0f} |")
    lines += ["", "| held steady | median | rms | behind, talking |", "| --- | --- | --- | --- |"]
    for who in PEOPLE:
        median, rms, behind = flutter(who)
        lines.append(f"| {PEOPLE[who].role} | {median:.2f} px | {rms:.2f} px | {behind:.1%} of the eyes' distance |")
    return lines
