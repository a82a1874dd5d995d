"""Signals with every kind of state cell, for checks of the two interpreters."""

from __future__ import annotations

from sunglaze.core.language.expression import Value, constant
from sunglaze.core.language.pictures import CAMERA, colour_here
from sunglaze.core.language.vector import number, to_float, value
from sunglaze.core.nodes import time
from sunglaze.core.nodes.node import Scene, in_scene


def random_signals(x: Value, y: Value) -> list[Value]:
    """Numbers that change once a frame, from two inputs."""
    event, half = x > 0.3, value(0.5)
    below = colour_here(CAMERA)

    def at(path: str) -> Scene:
        return Scene(below, path=path)

    found: list[Value] = []
    with in_scene(at("follow")):
        found.append(time.follow(x, value(0.25)))
    with in_scene(at("closely")):
        found.append(time.one_euro(x, value(1.2), value(0.4)))
    with in_scene(at("since")):
        found.append(time.since(event))
    with in_scene(at("toggle")):
        found.append(number(time.toggle(event, y > 0.5)))
    with in_scene(at("hold")):
        found.append(time.hold(x * y, event))
    with in_scene(at("count")):
        found.append(to_float(time.count(event, constant(7, "int"))))
    with in_scene(at("wander")):
        found.append(time.wander(half, x, y, constant(3, "int")))
        found.append(time.pulse(x, y, half + 1.0, "smooth", half))
        found.append(time.time_ramp(x, y, half, value(0.1), "ease", time.since(event)))
    return found
