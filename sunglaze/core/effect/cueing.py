"""The cues of an effect as symbols: whether each holds. They are recorded when somebody asks for them, and once for all who
do."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from functools import lru_cache
from typing import Any

from sunglaze.core.effect.address import CUE
from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.literals import Known, parse, symbol
from sunglaze.core.effect.motions import Cue, shipped_cue
from sunglaze.core.effect.recording import Recorder, Typed, kind_set, result_of
from sunglaze.core.effect.references import Played
from sunglaze.core.effect.shipped import cue_recipes
from sunglaze.core.errors import BadEffect
from sunglaze.core.language.expression import Value
from sunglaze.core.language.moments import moment
from sunglaze.core.language.pictures import CAMERA, colour_here
from sunglaze.core.language.vector import number, select
from sunglaze.core.nodes.cues import NEVER
from sunglaze.core.nodes.node import Scene, in_scene
from sunglaze.core.nodes.time import cell, keep


def recorder_of(cue: Cue) -> Recorder:
    """A recorder of a cue's recipe, its controls being uniforms. Raises BadEffect for a kind of a newer version."""
    if cue.graph is None:
        raise BadEffect(f"'{cue.kind}' is a cue of a newer version; it is kept, and never fires here")
    given = {}
    for port, plain in cue.controls_set():
        if plain is not None:
            made = symbol(port.kind, parse(port.kind, plain), f"{CUE}{cue.id}:{port.name}", Known())
            given[port.name] = Typed(made, kind_set(port.kind, made))
    return Recorder(cue.graph, given, Scene(colour_here(CAMERA)), f"{CUE}{cue.id}", Known(), False)


@lru_cache(maxsize=256)
def _holds(_: str, cue: _Given) -> Value:
    recorder = recorder_of(cue.cue)
    found = result_of(recorder, "boolean")
    if found is None:
        raise BadEffect(f"the cue '{cue.cue.name}': {recorder.faults[0].message}")
    # A rehearsal, or a hand at the workbench, may give it, too: it begins then, or, where it holds already, lets go and begins.
    with in_scene(Scene(colour_here(CAMERA), path=f"{CUE}{cue.cue.id}.given")):
        holds = select(moment(f"cue:{cue.cue.id}"), 1.0 - cell("holds"), number(found))
        return keep("holds", holds) > 0.5


class _Given:
    """A cue, equal to all others: the text beside it says what it is."""

    def __init__(self, cue: Cue) -> None:
        self.cue = cue

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Given)

    def __hash__(self) -> int:
        return 0


def cue_form(cue: Cue) -> Any:
    """Equal for cues that are one program with other inputs."""
    return cue.id, cue.kind, cue.recipe and cue.recipe.model_dump_json(), [(one.name, one.form) for one in cue.settings(CUE)]


class Cues(Mapping[str, Value]):
    """Whether each cue holds, by its id; kinds that no cue has as its id are cues, too."""

    def __init__(self, cues: list[Cue]) -> None:
        self._cues = {one.id: one for one in cues}

    def __getitem__(self, name: str) -> Value:
        cue = self.cue(name)
        return NEVER if cue.graph is None else _holds(repr(cue_form(cue)), _Given(cue))

    def cue(self, name: str) -> Cue:
        """The cue of a name. Raises KeyError."""
        return self._cues[name] if name in self._cues else shipped_cue(name)

    def __contains__(self, name: object) -> bool:
        return name in self._cues or name in cue_recipes()

    def __iter__(self) -> Iterator[str]:
        return iter(dict.fromkeys([*self._cues, *cue_recipes()]))

    def __len__(self) -> int:
        return len({*self._cues, *cue_recipes()})


def cues_used(effect: Effect) -> list[Cue]:
    """The effect's cues, and the kinds that something of it answers to by themselves, in that order."""
    known = Cues(effect.cues)
    everything = [one for holder in effect.holders() for one in holder.everything_set()]
    named = [str(one.typed) for one in everything if one.port.kind.name == "cue" and one.typed]
    named += [one.typed.cue for one in everything if isinstance(one.typed, Played) and one.typed.cue]
    own = {one.id for one in effect.cues}
    return [*effect.cues, *(known.cue(name) for name in dict.fromkeys(named) if name not in own and name in known)]
