"""Programs drawn on one picture, by machine code (or steps) and by the NumPy reference."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from sunglaze.core.camera.cameras import Camera
from sunglaze.core.effect.compiling import Compiled
from sunglaze.core.engine import running
from sunglaze.core.engine.playback import play_to
from sunglaze.core.moment.moment import Moment, Screen
from sunglaze.core.passes.program import Floats, Inputs, Program, State
from sunglaze.core.targets import numpy as numpy_target
from sunglaze.core.targets.memory import Words, parts_of

Regions = Mapping[str, np.ndarray]


def drawn(
    program: Program,
    picture: np.ndarray,
    inputs: Inputs,
    state: State | None = None,
    frame: int = 0,
    regions: Regions | None = None,
) -> list[Floats]:
    """Outputs (height, width, 3) from a camera picture (height, width, 3 or 4), float32."""
    return running.run(program, Moment.of(picture, frame, regions), inputs, state)


def readable(
    program: Program,
    picture: np.ndarray,
    inputs: Inputs,
    state: State | None = None,
    frame: int = 0,
    regions: Regions | None = None,
) -> list[Floats]:
    """The same by NumPy."""
    return numpy_target.run(program, Moment.of(picture, frame, regions), inputs, state)


def shown(compiled: Compiled, source: Camera, frame: int = 0) -> np.ndarray:
    """What the display gets of an effect before a camera: (height, width, 3) bytes, red first."""
    words = play_to(compiled.program.final, compiled.inputs, source, frame)
    return parts_of(words, source.width)[:, :, 2::-1]


def words_drawn(
    program: Program, words: np.ndarray, width: int, inputs: Inputs | None = None, threads: int | None = None
) -> Words:
    """The outputs as words, from a camera's words of so many columns."""
    moment = Moment(screen=Screen(width, words.shape[0]), picture=words)
    return running.draw(program, moment, inputs or Inputs(), threads=threads)
