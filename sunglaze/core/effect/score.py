"""The score of an effect: the measures that its cues and drives listen to, their thresholds, and its cues, frame by frame."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from sunglaze.core.effect.address import DRIVE
from sunglaze.core.effect.compiling import record_drive, scene_of
from sunglaze.core.effect.cueing import cues_used, recorder_of
from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.literals import Known
from sunglaze.core.effect.recipe import Look
from sunglaze.core.effect.recording import Recorder
from sunglaze.core.language.expression import Rate, Value
from sunglaze.core.language.vector import number
from sunglaze.core.nodes.catalogue import CATALOGUE
from sunglaze.core.nodes.cues import cue as cue_node
from sunglaze.core.nodes.face import FINGER, MEASURES, Way
from sunglaze.core.nodes.node import in_scene
from sunglaze.core.passes.signals import SignalProgram

THRESHOLD = "threshold"
"""The control of a cue that is drawn as a rule over what it looks at."""
_WAYS: dict[str, dict[str, Way]] = {"face-measure": MEASURES, "touch-measure": FINGER}


@dataclass(frozen=True)
class Line:
    """A measure. `low`, `high`: between which it is drawn, in its own `unit`. `cue`: the id of the cue whose threshold lies on
    it, none where there is none. `sided`: whether the threshold counts on both sides of 0."""

    title: str
    low: float
    high: float
    unit: str
    cue: str | None
    sided: bool = False


@dataclass(frozen=True)
class Marked:
    """A cue. `kept`: whether it is one of the effect's own, or a kind by itself."""

    id: str
    name: str
    kept: bool


@dataclass(frozen=True)
class Score:
    """`program` gives a number for each line, then for each cue whether it holds (0 or 1) and how often it has fired."""

    lines: tuple[Line, ...]
    cues: tuple[Marked, ...]
    program: SignalProgram

    def described(self) -> dict[str, Any]:
        """Lines and cues as plain data, for the page."""
        return {"lines": [vars(one) for one in self.lines], "cues": [vars(one) for one in self.cues]}


def score(effect: Effect, known: Known) -> Score:
    """The score of an effect. Raises BadEffect as compiling does."""
    scene = scene_of(effect)
    cues, own = cues_used(effect), {one.id for one in effect.cues}
    found: dict[bytes, tuple[Line, Value]] = {}

    def add(looks: list[Look], recorder: Recorder, cue: str | None) -> None:
        for look in looks:
            for line, value in _line(look, recorder, cue):
                # What a drive follows is drawn once, with the threshold of a cue where one lies on it.
                if value.digest not in found or found[value.digest][0].cue is None:
                    found[value.digest] = line, value

    marks: list[Value] = []
    for one in cues:
        if one.graph is not None:
            add(one.graph.looks, recorder_of(one), one.id)
        with in_scene(scene.at("score")):
            seen = cue_node(one.id)
        marks += [number(seen.holds), seen.times]
    for holder in effect.holders():
        for control, drive in holder.drives.items():
            if drive.graph is not None and drive.graph.looks:
                add(drive.graph.looks, record_drive(holder, drive, f"{holder.id}.{DRIVE}{control}", scene, known), None)
    lines = tuple(line for line, _ in found.values())
    program = SignalProgram([*(value for _, value in found.values()), *marks])
    return Score(lines, tuple(Marked(one.id, one.name, one.id in own) for one in cues), program)


def _line(look: Look, recorder: Recorder, cue: str | None) -> Iterator[tuple[Line, Value]]:
    """What a node gives, as a line; nothing where it gives no number that changes once a frame."""
    node = recorder.recipe.node(look.node)
    outputs = recorder.try_outputs(look.node) if node else None
    if node is None or not outputs:
        return
    name, first = next(iter(outputs.items()))
    value = first.symbol
    if not isinstance(value, Value) or value.rate > Rate.FRAME:
        return
    low, high, unit, title = 0.0, 1.0, "", look.title
    ways = _WAYS.get(node.kind)
    if ways is not None:
        which = str(recorder.word(node, "which"))
        low, high, title = ways[which].low, ways[which].high, which
    elif (port := CATALOGUE[node.kind].output(name)) and port.kind.low is not None and port.kind.high is not None:
        low, high, unit = port.kind.low, port.kind.high, port.kind.unit
    has_rule = cue is not None and any(given.id == THRESHOLD for given in recorder.recipe.inputs)
    side = next((recorder.word(one, "side") for one in recorder.recipe.nodes if one.kind == "past"), None)
    plain = number(value) if value.kind == "bool" else value
    yield Line(title, low, high, unit, cue if has_rule else None, side == "either side"), plain
