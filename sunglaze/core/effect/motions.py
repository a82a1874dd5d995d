"""What moves an effect, as documents: drives of controls, the effect's cues, the dials of who wears it."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from typing import Annotated, Any, ClassVar, Final, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator, model_validator

from sunglaze.core.effect.literals import Setting, parse, setting
from sunglaze.core.effect.recipe import Name, Plain, Recipe
from sunglaze.core.effect.recording import ports
from sunglaze.core.effect.recording import settings as set_on_nodes
from sunglaze.core.effect.references import colour_parts
from sunglaze.core.effect.shipped import cue_recipes, drive_recipes
from sunglaze.core.errors import BadEffect
from sunglaze.core.nodes.node import Port
from sunglaze.core.nodes.types import TRAITS

OWN: Final = "own"
Kind = Annotated[str, Field(pattern=r"^[a-z0-9-]{1,60}$")]
Id = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,36}$")]
Fraction = Annotated[float, Field(ge=0.0, le=1.0, allow_inf_nan=False)]
DRIVEABLE = frozenset(name for name, one in TRAITS.items() if one.driven)
"""Types of controls that something may move."""


class Strict(BaseModel):
    """Unknown fields are refused."""

    model_config = ConfigDict(extra="forbid")


class _Moved(Strict):
    """A recipe by its kind, or one of the artist's own, and what its controls are set to. `of`: which of those that ship."""

    of: ClassVar[str] = "drive"
    kind: Kind
    values: dict[str, Plain] = Field(default_factory=dict)
    recipe: Recipe | None = None

    @property
    def graph(self) -> Recipe | None:
        """Its recipe; none where its kind is not known here."""
        return self.recipe if self.kind == OWN else _SHIPPED[self.of]().get(self.kind)

    def controls(self) -> list[Port]:
        """Its controls; none where its kind is not known here."""
        if self.kind == OWN:
            return ports(self.recipe) if self.recipe else []
        return _controls(self.of, self.kind)

    def controls_set(self) -> list[tuple[Port, Any]]:
        """Its controls and what they stand at."""
        return standing(self.controls(), self.values)

    def settings(self, prefix: str) -> list[Setting]:
        """What is set on its controls, as programs name it."""
        found = [setting(f"{prefix}:{port.name}", port, plain) for port, plain in self.controls_set()]
        return found if self.graph is None else [*found, *set_on_nodes(self.graph, prefix, False)]

    @model_validator(mode="after")
    def _values_fit(self) -> _Moved:
        if self.kind == OWN and self.recipe is None:
            raise ValueError("a motion of your own needs a recipe")
        if self.graph is not None:
            check_values(f"a {self.graph.name.lower()}", self.controls(), self.values)
        return self


_SHIPPED: dict[str, Callable[[], dict[str, Recipe]]] = {"drive": drive_recipes, "cue": cue_recipes}


@cache
def _controls(of: str, kind: str) -> list[Port]:
    found = _SHIPPED[of]().get(kind)
    return ports(found) if found is not None else []


class Drive(_Moved):
    """What moves a control by itself: a recipe that gives a number (or a colour, where its family is that)."""


class Cue(_Moved):
    """Something that happens: a recipe that gives yes or no. It fires when that begins to hold."""

    of: ClassVar[str] = "cue"
    id: Id
    name: Name


@cache
def shipped_cue(kind: str) -> Cue:
    """The cue that a kind is by itself, with its settings to start from. Raises KeyError for a kind that is not known."""
    recipe = cue_recipes()[kind]
    values = recipe.settings[0].values if recipe.settings else {}
    return Cue(id=kind, name=recipe.name, kind=kind, values=values)


class Dial(Strict):
    """What the wearer may turn. `start`: where it stands at first: of a number 0 to 1, of a choice its place among `choices`
    from 0, of a switch 0 or 1, of a colour six hexadecimal digits. `low`, `high`, `unit`: what a number reads at its ends."""

    id: Id
    title: Annotated[str, Field(min_length=1, max_length=40)]
    kind: Literal["number", "choice", "switch", "colour", "photo"] = "number"
    start: float | str = 0.5
    low: Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)] = 0.0
    high: Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)] = 100.0
    unit: Annotated[str, Field(max_length=20)] = "%"
    choices: Annotated[list[Name], Field(max_length=6)] = Field(default_factory=list)

    @field_validator("start")
    @classmethod
    def _finite(cls, start: float | str) -> float | str:
        if not isinstance(start, str) and not abs(start) <= 100:
            raise ValueError("a dial starts at a number from 0 to 1, at one of its choices, or at a colour")
        return start

    @model_validator(mode="after")
    def _starts_within(self) -> Dial:
        if self.kind == "choice" and len(self.choices) < 2:
            raise ValueError(f"the dial '{self.title}' has fewer than two choices")
        most = len(self.choices) - 1 if self.kind == "choice" else 1
        if self.kind == "colour":
            try:
                colour_parts(self.start)
            except BadEffect as error:
                raise ValueError(f"the dial '{self.title}': {error}") from None
        elif isinstance(self.start, str) or not 0 <= self.start <= most:
            raise ValueError(f"the dial '{self.title}' starts at a number from 0 to {most}")
        return self

    @property
    def form(self) -> int:
        """How many choices it has, 0 for a number, 2 for a switch, -1 for a colour: what recording asks of it."""
        return {"choice": len(self.choices), "switch": 2, "colour": -1}.get(self.kind, 0)

    def numbers(self, stands: float | str) -> dict[str, float]:
        """The moment's dials, 0 to 1 by name, while it stands somewhere (as `start` has it). Raises BadEffect for no colour."""
        if self.kind == "photo":
            return {}
        if self.kind == "colour":
            return {f"{self.id}-{part}": held for part, held in zip("rgb", colour_parts(stands), strict=False)}
        number = float(stands) if not isinstance(stands, str) else 0.0
        return {self.id: number / (len(self.choices) - 1) if self.kind == "choice" else number}


def standing(known: list[Port], values: dict[str, Plain]) -> list[tuple[Port, Any]]:
    """Ports and what they stand at: as it is set, or by default."""
    return [(port, port.default if values.get(port.name) is None else values[port.name]) for port in known]


def check_values(what: str, known: list[Port], values: dict[str, Plain]) -> None:
    """Raises ValueError for what is set on a control that is not there, or does not fit it."""
    named = {port.name: port for port in known}
    for name, plain in values.items():
        if name not in named:
            raise ValueError(f"{what} has no control '{name}'; it has {', '.join(named) or 'none'}")
        try:
            parse(named[name].kind, plain, ranged=True)
        except BadEffect as error:
            raise ValueError(f"control '{name}' of {what}: {error}") from None
