"""What a viewer is told of numbers beside the picture: where the controls of a layer stand that something drives, for handles
that follow them; and what the effect listens to, for the score."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from sunglaze.core.effect.compiling import driven_numbers, record_layer, scene_of
from sunglaze.core.effect.cueing import cue_form
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Known
from sunglaze.core.effect.score import Score, score
from sunglaze.core.engine.playback import FARTHEST_BACK
from sunglaze.core.language.expression import Value
from sunglaze.core.language.moments import is_of_faces
from sunglaze.core.moment.moment import Moment, Reads, Source
from sunglaze.core.nodes.node import Scene
from sunglaze.core.passes.program import Inputs, State
from sunglaze.core.passes.signals import SignalProgram


class Driving:
    """Follows one layer. What drives is recorded again only where it changed."""

    def __init__(self) -> None:
        self._key: object = None
        self._names: tuple[str, ...] = ()
        self._signals = SignalProgram([])

    def values(
        self, effect: Effect, layer: Layer, known: Known, inputs: Inputs, moment: Moment, state: State
    ) -> dict[str, float]:
        """The numbers of a moment, by the name of the drive, or NODE:OUTPUT.N of what handles hang on. `state`: what the frame
        left."""
        # What is form, as an easing in words, is another program of signals; numbers are not.
        cues = [cue_form(one) for one in effect.cues]
        key = layer.id, list(layer.drives), cues, [(one.name, one.form) for one in layer.everything_set()], layer.recipe
        if key != self._key:
            found = driven_numbers(layer, known, scene_of(effect)) | anchors(layer, known, scene_of(effect))
            self._key, self._names, self._signals = key, tuple(found), SignalProgram(list(found.values()))
        # Time stands still: the frame has stepped the state already.
        still = replace(moment, clock=replace(moment.clock, delta=0.0))
        values = self._signals.run(still, inputs.uniforms, dict(state.cells), inputs.seed, state.faces.get("", ()))
        return {name: round(float(value), 5) for name, value in zip(self._names, values, strict=True)}


def hangs(layer: Layer) -> tuple[str, ...]:
    """The nodes that handles of a layer hang on."""
    handles = layer.graph.handles if layer.graph is not None else []
    return tuple(dict.fromkeys(one.anchor for one in handles if one.anchor is not None))


def anchors(layer: Layer, known: Known, scene: Scene) -> dict[str, Value]:
    """Where handles hang, by NODE:OUTPUT.N: frame-rate numbers. Nothing of a node that gives nothing."""
    found: dict[str, Value] = {}
    for identity in hangs(layer):
        outputs = record_layer(layer, scene, known).try_outputs(identity) or {}
        for name in ("middle", "across", "down"):
            if name in outputs:
                found |= {f"{identity}:{name}.{n}": part for n, part in enumerate(outputs[name].symbol.parts())}
    return found


class Scoring:
    """Follows what an effect listens to, with a state of its own, so that cues that nothing answers to yet are seen as well."""

    def __init__(self) -> None:
        self._effect: Effect | None = None
        self._score: Score | None = None
        self._cells: dict[str, float] = {}
        self._before: dict[str, float] = {}
        self._frame = -1

    def anew(self) -> None:
        """Tell lines and cues again with the next frame, and begin at the clock's start."""
        self._effect, self._frame = None, -1

    def told(self, effect: Effect, known: Known) -> dict[str, Any] | None:
        """Its lines and cues, where they are others than before."""
        if effect is self._effect:
            return None
        before = self._score and self._score.described()
        anew, self._effect = self._effect is None, effect
        self._score = score(effect, known)
        described = self._score.described()
        return described if anew or described != before else None

    @property
    def reads(self) -> Reads:
        """What it needs of moments."""
        listens = self._score is not None and any(is_of_faces(name) for name in self._score.program.moments)
        return Reads(False, (), listens)

    def values(self, inputs: Inputs, source: Source, number: int) -> list[float]:
        """Numbers of a frame: of each line, then of each cue whether it holds and how often it has fired."""
        assert self._score is not None
        program, frame = self._score.program, number
        if frame == self._frame:
            self._cells = dict(self._before)
        else:
            if frame < self._frame or frame > self._frame + FARTHEST_BACK:
                self._cells, self._frame = {}, max(-1, frame - FARTHEST_BACK - 1)
            for missed in range(self._frame + 1, frame):
                program.run(source.moment(missed, self.reads), inputs.uniforms, self._cells, inputs.seed)
            self._frame, self._before = frame, dict(self._cells)
        found = program.run(source.moment(frame, self.reads), inputs.uniforms, self._cells, inputs.seed)
        return [round(float(value), 4) for value in found]
