"""An effect in one picture, as the list shows it."""

from __future__ import annotations

import numpy as np

from sunglaze.core.camera.cameras import Camera, screen_size
from sunglaze.core.camera.cast import StandIn
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.literals import Material
from sunglaze.core.engine.playback import play_to
from sunglaze.core.engine.running import prepare
from sunglaze.core.material.files import encode_jpeg
from sunglaze.core.moment.rehearsal import Rehearsed
from sunglaze.core.targets.memory import parts_of

SIZE = screen_size("9:16", 324)
"""Columns and rows."""
FRAME = 45
"""By then what swells or follows has come to something."""
QUALITY = 84


def effect_print(effect: Effect, material: Material, own: Camera | None) -> bytes:
    """A frame of an effect with all that led to it, as JPEG of SIZE. `own`: what it is looked at on, where that is footage.
    Raises BadEffect."""
    compiled = compile_effect(effect, material)
    program = compiled.program.final
    prepare(program, "bytes", quick=True)
    camera = own.sized(*SIZE) if own is not None else StandIn(*SIZE)
    source = Rehearsed(camera, effect.rehearsal) if effect.rehearsal is not None else camera
    drawn = play_to(program, compiled.inputs, source, FRAME)
    return encode_jpeg(np.ascontiguousarray(parts_of(drawn, SIZE[0])[:, :, 2::-1]), QUALITY)
