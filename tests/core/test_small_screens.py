"""The moving picture is made small on a slow machine, and must look like the large one: each ready-made layer at 180 by 320
beside its own 720 by 1280 made smaller (OpenCV's area). The bound is the issue's, of 255 in the mean."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from sunglaze.core.camera.cameras import Shrunk
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.shipped import shipped
from sunglaze.core.engine.playback import play_to
from sunglaze.core.targets.memory import parts_of

LARGE, SMALL, FRAME = (720, 1280), (180, 320), 12
USUAL = 3.0
OTHERS = {
    # Its blocks are whole pixels: four of the small picture's are 16 of the large one's, five 20.
    "blocks": 4.0,
    # Dots of a few pixels and their edges.
    "cells": 18.0,
    # Lines of a pixel and a half of the large picture are a pixel at least.
    "ink": 14.0,
    "outline": 9.0,
    # The mean of steps is no step.
    "posterize": 4.5,
    # It weighs a pixel with its neighbours, whatever they show.
    "sharpen-kernel": 6.0,
    # Noise in cells finer than a pixel, which shows one of them.
    "tape": 9.0,
}
"""Layers that work on pixels by their number, and how far off they may be."""


@pytest.mark.parametrize("kind", sorted(shipped()))
def test_a_layer_looks_the_same_on_a_small_screen(kind: str) -> None:
    start = shipped()[kind].start
    effect = Effect(name="t", layers=[Layer(id="l", name="l", kind=kind, blend=start.blend, opacity=start.opacity)])
    compiled, camera = compile_effect(effect, Material()), StandIn(*LARGE, Sitting("beekeeper", "talk", "noon"))
    program = compiled.program.final
    large = parts_of(play_to(program, compiled.inputs, camera, FRAME), LARGE[0])[..., :3]
    small = parts_of(play_to(program, compiled.inputs, Shrunk(camera, *SMALL), FRAME), SMALL[0])[..., :3]
    want = cv2.resize(np.ascontiguousarray(large), SMALL, interpolation=cv2.INTER_AREA)
    assert np.abs(want.astype(int) - small).mean() < OTHERS.get(kind, USUAL)
