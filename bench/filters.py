"""Gaussian blur beside OpenCV's, 720 by 1280, three channels."""

from __future__ import annotations

import cv2
import numpy as np

from bench.timing import in_turns
from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import StandIn
from sunglaze.core.engine.room import Room
from sunglaze.core.engine.running import draw, prepare
from sunglaze.core.language import pictures as p
from sunglaze.core.moment.moment import Reads
from sunglaze.core.nodes.filters import gaussian
from sunglaze.core.passes.program import Inputs, Program, uniform

WIDTH, HEIGHT = 720, 1280


def measure() -> list[str]:
    camera = StandIn(WIDTH, HEIGHT)
    moment = camera.moment(30, Reads())
    pixels = np.ascontiguousarray(colours(camera.frame(30), WIDTH))
    floats = pixels.astype(np.float32) / np.float32(255)
    made = {q: Program((p.colour_here(gaussian(p.CAMERA, uniform("sigma"), q)).rgb,)) for q in ("exact", "wide")}
    rooms = {q: Room() for q in made}
    for program in made.values():
        prepare(program, "bytes")
    lines = ["| deviation | ours, exact | ours, wide | OpenCV, float32 | OpenCV, 8 bits |", "| --- | --- | --- | --- | --- |"]
    for sigma in (2.0, 8.0, 32.0, 64.0):
        inputs = Inputs({"sigma": sigma})
        ways = {q: lambda q=q, inputs=inputs: draw(made[q], moment, inputs, room=rooms[q]) for q in made}
        ways["float"] = lambda s=sigma: cv2.GaussianBlur(floats, (0, 0), s, borderType=cv2.BORDER_REPLICATE)
        ways["bytes"] = lambda s=sigma: cv2.GaussianBlur(pixels, (0, 0), s, borderType=cv2.BORDER_REPLICATE)
        times = in_turns(ways, 7)
        lines.append(f"| {sigma:.0f} px | " + " | ".join(f"{ms:.1f} ms" for ms in times.values()) + " |")
    return lines
