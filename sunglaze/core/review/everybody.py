"""A layer on the face of everybody of the cast: before and after, side by side, and how far their skin shifts."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.camera.people import PEOPLE
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.engine.playback import Playback
from sunglaze.core.moment.moment import Moment, Reads
from sunglaze.core.review.measures import moved_skin_shift
from sunglaze.core.targets.memory import parts_of

SIZE, SIDE = (270, 480), 160
ASIDE, SEEN, ABOVE = 0.35, 12, 14
"""The share of what changes beside the face from which on more of the picture is shown, how much a
change is (of 255), and how many rows that leaves out above."""
SKIN = "face skin"
SCRIPT = "still"
Bytes = NDArray[np.uint8]


@dataclass(frozen=True, eq=False)
class Worn:
    """One performer: `before` and `after` (SIDE, SIDE, 3), the face in the middle, or all about it where the layer is worn
    there; `shift` of the skin's mean colour (CIEDE2000)."""

    who: str
    name: str
    before: Bytes
    after: Bytes
    shift: float


def everybody(layer: Layer, material: Material, light: str, patience: Callable[[], None] = lambda: None) -> list[Worn]:
    """What a layer alone does to everybody's face in a light, as its controls stand, whatever drives them. `patience` is called
    before each and raises what shall end it. Raises BadEffect."""
    # What drives it may answer to cues and dials of its effect, which is not here.
    alone = layer.model_copy(update={"group": None, "on": True, "drives": {}})
    compiled = compile_effect(Effect(name="worn", layers=[alone]), material)
    program = compiled.program.final
    seen = []
    for who in PEOPLE:
        patience()
        camera = StandIn(*SIZE, Sitting(who, SCRIPT, light).known())
        moment = camera.moment(0, Reads(True, tuple({*program.reads.regions, SKIN}), True))

        def shown(other: Moment, camera: StandIn = camera) -> Bytes:
            return parts_of(Playback().at(program, compiled.inputs, camera, other), SIZE[0])[:, :, 2::-1].copy()

        bare, after = colours(camera.frame(0), SIZE[0]).copy(), shown(moment)
        shift = moved_skin_shift(bare, after, moment, moment.regions[SKIN][..., 0], shown)
        assert shift is not None, "everybody who keeps still shows skin"
        seen.append((who, moment, bare, after, shift[0]))
    wide = sum(_aside(*one[1:4]) for one in seen) > ASIDE * len(seen)
    return [_worn(*one, wide) for one in seen]


def _part(moment: Moment) -> tuple[slice, slice]:
    """Rows and columns about the face."""
    column, row = np.clip((moment.faces[0].points[[1, 6], :2].mean(axis=0) * SIZE).astype(int) - SIDE // 2, 0, None)
    column, row = min(column, SIZE[0] - SIDE), min(row, SIZE[1] - SIDE)
    return np.s_[row : row + SIDE, column : column + SIDE]


def _aside(moment: Moment, bare: Bytes, after: Bytes) -> float:
    """How much of what changes lies beside the face, as a hat does."""
    changed = np.abs(bare.astype(int) - after).max(axis=2) > SEEN
    return 1.0 - float(changed[_part(moment)].sum()) / max(1, int(changed.sum())) if changed.any() else 0.0


def _worn(who: str, moment: Moment, bare: Bytes, after: Bytes, shift: float, wide: bool) -> Worn:
    if wide:
        # All of the picture's width, from a little below its upper edge.
        upper = [one[ABOVE : ABOVE + SIZE[0]] for one in (bare, after)]
        shown = [np.asarray(cv2.resize(one, (SIDE, SIDE), interpolation=cv2.INTER_AREA), np.uint8) for one in upper]
    else:
        shown = [one[_part(moment)].copy() for one in (bare, after)]
    return Worn(who, PEOPLE[who].role, shown[0], shown[1], shift)
