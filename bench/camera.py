"""The stand-in camera: frames made for the first time, at 720 by 1280, one after the other, and masks of them."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from functools import partial

from sunglaze.core.camera.cast import LENGTHS, SCRIPTS, Sitting, StandIn

FRAMES = 40
MASKS = ("hair", "face skin", "clothes")


def _milliseconds(work: Callable[[], object]) -> float:
    began = time.perf_counter()
    work()
    return (time.perf_counter() - began) * 1000


def measure() -> list[str]:
    lines = [
        "| script, first round | a frame with its person mask | three more masks | frames a second with all |",
        "| --- | --- | --- | --- |",
    ]
    for script in [name for name in SCRIPTS if name != "still"]:
        camera = StandIn(720, 1280, Sitting("lamp-tender", script))
        frames, masks = [], []
        for number in range(min(FRAMES, LENGTHS[script])):
            frames.append(_milliseconds(partial(camera.frame, number)))
            masks.append(_milliseconds(partial(camera.regions, number, MASKS)))
        # The first ones begin with what is read once.
        frame, mask = (statistics.median(times[5:]) for times in (frames, masks))
        lines.append(f"| {SCRIPTS[script]} | {frame:.1f} ms | {mask:.1f} ms | {1000 / (frame + mask):.0f} |")
    return lines
