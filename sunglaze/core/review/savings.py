"""What a saving costs to the eye: an effect over who sits there, with one picture of a file as it was and as it would be."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.literals import Material
from sunglaze.core.engine.playback import Playback
from sunglaze.core.material.files import encode_png, material_pixels
from sunglaze.core.material.reels import made
from sunglaze.core.material.sequence import Sequence
from sunglaze.core.material.still import Still
from sunglaze.core.material.weighing import Form, encoded
from sunglaze.core.moment.moment import Source
from sunglaze.core.targets.memory import parts_of

Bytes = NDArray[np.uint8]


@dataclass(frozen=True, eq=False)
class Saving:
    """A picture that may be saved in a form: the one of a `number` in `piece`, which is what was there first; `used`: the id that
    effects have in its place; `quality`: of WebP."""

    piece: Still | Sequence
    used: str
    form: Form
    quality: int
    number: int

    def shown(self, material: Material, saved: bool) -> Material:
        """The material with this picture alone in its place, `saved` or as it was. Raises BadFile."""
        piece = self.piece
        picture = piece.frame() if isinstance(piece, Still) else piece.each.frame(min(self.number, piece.frames - 1))
        data = encoded(picture, self.form, self.quality) if saved else encode_png(picture, 1)
        if isinstance(piece, Still):
            return replace(material, pictures={**material.pictures, self.used: Still.of(material_pixels(data))})
        return replace(material, sequences={**material.sequences, self.used: made([data], piece.rate)})


def compared(
    effect: Effect, material: Material, saving: Saving, source: Source, frame: int, patience: Callable[[], None] = lambda: None
) -> tuple[Bytes, Bytes]:
    """An effect at a frame of who sits there, with a picture as it was and saved: two pictures (height, width, 3). What is kept
    from frame to frame begins there. `patience` is called before each and raises what shall end it. Raises BadEffect, BadFile."""
    found = []
    for saved in (False, True):
        patience()
        compiled = compile_effect(effect, saving.shown(material, saved))
        program = compiled.program.final
        moment = source.moment(frame, program.reads)
        picture = Playback().at(program, compiled.inputs, source, moment)
        found.append(parts_of(picture, moment.screen.columns)[:, :, 2::-1].copy())
    return found[0], found[1]
