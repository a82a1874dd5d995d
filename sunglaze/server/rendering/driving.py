"""Where the controls of a layer are in a frame that something drives: for handles on the picture, which follow them."""

from __future__ import annotations

from collections.abc import Mapping

from sunglaze.core.effect.compiling import driven_numbers
from sunglaze.core.effect.document import Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.moment.moment import Moment
from sunglaze.core.passes.signals import SignalProgram


class Driving:
    """Follows one layer. What drives is recorded again only where it changed."""

    def __init__(self) -> None:
        self._key: object = None
        self._names: tuple[str, ...] = ()
        self._signals = SignalProgram([])

    def values(
        self, layer: Layer, material: Material, uniforms: Mapping[str, float], moment: Moment, seed: int
    ) -> dict[str, float]:
        """The numbers of a moment, by the name of the drive. Drives keep nothing from frame to frame."""
        # What is form, as an easing in words, is another program of signals; numbers are not.
        key = layer.id, list(layer.drives), [(one.name, one.form) for one in layer.everything_set()]
        if key != self._key:
            found = driven_numbers(layer, material.known)
            self._key, self._names, self._signals = key, tuple(found), SignalProgram(list(found.values()))
        values = self._signals.run(moment, uniforms, {}, seed)
        return {name: round(float(value), 5) for name, value in zip(self._names, values, strict=True)}
