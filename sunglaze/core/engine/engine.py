"""The one interface of everything that draws programs: NumPy, machine code, the player in a browser.

`sunglaze parity` compares implementations of it; whoever wants a picture calls one of them.
"""

from __future__ import annotations

from typing import Protocol

from sunglaze.core.moment.moment import Moment
from sunglaze.core.passes.program import Floats, Inputs, Program, State


class Engine(Protocol):
    """core/targets/numpy.run, core/engine/running.run and the GPU page of sunglaze/parity are such."""

    def __call__(self, program: Program, moment: Moment, inputs: Inputs, state: State) -> list[Floats]:
        """The program's outputs in a frame, each (rows, columns, 3), float32. `state` is read, and changed to what the next frame
        reads."""
        ...
