"""Signal programs: what is computed once a frame, with state cells. Run here in Python, and by web/src/engine as data.

Both interpreters compute in double precision with the same few operations, so they agree; whole numbers are of 32 bits. What
they are given is a moment, and what the controls stand at.
"""

from __future__ import annotations

from array import array
from collections.abc import Mapping, Sequence
from typing import Any

from sunglaze.core.face.held import HeldFaces, held_getter
from sunglaze.core.language.expression import Value, ordered
from sunglaze.core.language.moments import DRAWN, HELD, STILL
from sunglaze.core.language.operations import OPERATIONS, Plain, folded, wrap32
from sunglaze.core.moment.moment import Moment, getter

_CASTS = {"float": float, "int": int, "bool": bool}


class SignalProgram:
    """Runs once a frame. `values` are its outputs; cells are advanced all at once, after everything was computed."""

    def __init__(self, values: Sequence[Value]) -> None:
        self._order, self._places = ordered(values)
        self._index = {id(v): n for n, v in enumerate(self._order)}
        self.uniforms = {str(v.attribute[0]): v.kind for v in self._order if v.op == "uniform"}
        self.moments = tuple(str(v.attribute[0]) for v in self._order if v.op == "moment")
        self._getters = {name: getter(name) for name in self.moments if not HELD.fullmatch(name)}
        self._held = {name: held_getter(name) for name in self.moments if HELD.fullmatch(name)}
        self._steps = [(v, [self._index[id(a)] for a in v.arguments], OPERATIONS.get(v.op)) for v in self._order]
        self._still = [name for name in self.moments if name in STILL]
        self._moving = self._those_that_move()
        self._last: tuple[bytes, list[Plain]] = b"", []
        self.turned: frozenset[str] = frozenset()
        """Cells of kept pictures that would have changed in the last frame, where that was not drawn: what it shows is kept."""

    @property
    def keeps(self) -> bool:
        """Whether it hands anything on to the next frame."""
        return self.holds or any(value.op == "advance" for value in self._order)

    @property
    def holds(self) -> bool:
        """Whether it reads faces that are held steady."""
        return bool(self._held)

    def _those_that_move(self) -> list[int]:
        """Places of the steps that may give another number in a frame in which no control moved."""
        moving: set[int] = set()
        for n, (value, arguments, _) in enumerate(self._steps):
            outside = value.op == "moment" and value.attribute[0] not in STILL
            if outside or value.op in ("cell", "advance") or not moving.isdisjoint(arguments):
                moving.add(n)
        return sorted(moving)

    def run(
        self,
        moment: Moment,
        uniforms: Mapping[str, float],
        cells: dict[str, float],
        seed: int = 0,
        held: HeldFaces = (),
        drawn: bool = True,
    ) -> list[Plain]:
        """The outputs of one frame. `cells` is read, then changed to what the next frame reads. `seed`: of the effect, to which
        that of the moment is added. `held`: the moment's faces, held steady. `drawn`: whether it is a frame that somebody sees.
        Raises KeyError for a uniform that is not given."""
        outside = {name: get(moment) for name, get in self._getters.items()}
        outside |= {name: get(held) for name, get in self._held.items()}
        if "seed" in outside:
            outside["seed"] = wrap32(int(outside["seed"]) + seed)
        kept: dict[str, float] = {}
        turned = set[str]()
        # Most controls stand still from frame to frame, and with them most of this.
        given = array("d", [*(uniforms[name] for name in self.uniforms), *(outside[name] for name in self._still)]).tobytes()
        before, last = self._last
        found = list(last) if last and given == before else [0.0] * len(self._steps)
        places = self._moving if last and given == before else range(len(self._steps))
        for n in places:
            value, arguments, rule = self._steps[n]
            if rule is not None:
                found[n] = folded(rule, [found[a] for a in arguments])
            elif value.op == "const":
                found[n] = value.attribute[0]
            elif value.op in ("uniform", "moment"):
                source = uniforms if value.op == "uniform" else outside
                found[n] = _CASTS[value.kind](source[str(value.attribute[0])])
            elif value.op == "cell":
                found[n] = cells.get(str(value.attribute[0]), float(value.attribute[1]))
            else:
                assert value.op in ("advance", "together"), value.op
                found[n] = found[arguments[0]]
                if value.op == "advance":
                    name, number = str(value.attribute[0]), float(found[n])
                    if drawn or not name.startswith(DRAWN):
                        kept[name] = number
                    elif cells.get(name, float(value.attribute[1])) != number:
                        turned.add(name)
        self._last, self.turned = (given, found), frozenset(turned)
        cells |= kept
        return [found[place] for place in self._places]

    def as_data(self) -> dict[str, Any]:
        """For players: `steps` are [operation, argument places or attributes ...], `outputs` places of the outputs."""
        steps: list[list[Any]] = []
        for value, arguments, rule in self._steps:
            attributes = list(value.attribute) if rule is None else []
            if value.op == "const":
                attributes = [value.attribute[0] if value.kind != "bool" else int(value.attribute[0])]
            steps.append([value.op, *attributes, *arguments])
        return {"steps": steps, "outputs": self._places, "kinds": [self._order[p].kind for p in self._places]}


def run_once(value: Value, uniforms: Mapping[str, float], moment: Moment | None = None) -> Plain:
    """One frame-rate value, without state."""
    return SignalProgram([value]).run(moment or Moment(), uniforms, {})[0]
