"""Recipes as documents: nodes, wires and inputs. What is wrong with one is data, a list of faults, never a crash."""

from __future__ import annotations

import json
import math
from collections.abc import Iterator, Mapping
from typing import Annotated, Any, Final, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator, model_validator

from sunglaze.core.errors import BadEffect

FORMAT: Final = "sun-glaze/recipe"
VERSION: Final = 1
MOST_NODES = 1000
DEEPEST = 16

Id = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,40}$")]
End = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,40}\.[A-Za-z0-9_-]{1,40}$")]
Name = Annotated[str, Field(min_length=1, max_length=80)]
Coordinate = Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)]
Plain = str | bool | int | float | list[Any] | dict[str, Any] | None
"""What a control is set to, as JSON has it."""


class Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


class RecipeNode(Strict):
    """One node: `kind` names the catalogue's entry, or `group:ID` one of the recipe's groups. `set` holds what is set on it.

    A node of a newer version is kept as it is: its kind is then unknown here, and what is set on it is not looked at.
    """

    id: Id
    kind: Annotated[str, Field(pattern=r"^[a-z0-9:_A-Z-]{1,80}$")]
    name: Annotated[str, Field(max_length=80)] = ""
    set: dict[str, Plain] = Field(default_factory=dict)
    at: tuple[Coordinate, Coordinate] = (0.0, 0.0)
    comment: Annotated[str, Field(max_length=2000)] = ""

    @field_validator("set")
    @classmethod
    def _numbers_are_finite(cls, given: dict[str, Plain]) -> dict[str, Plain]:
        for name, plain in given.items():
            if not _finite(plain):
                raise ValueError(f"'{name}' is set to something that is no finite number")
        return given

    @property
    def title(self) -> str:
        return self.name or self.kind


class Wire(Strict):
    """From an output to an input, each written NODE.NAME."""

    model_config = ConfigDict(extra="forbid", populate_by_name=True)
    source: End = Field(alias="from")
    target: End = Field(alias="to")


class RecipeInput(Strict):
    """What a recipe is given from outside: a control of its layer, or an input of its group. It feeds `to`, NODE.INPUT each.

    Its type is that of the first of them; range, step and unit may be narrowed here. `default` is plain data; without one, that
    of the first input it feeds.
    """

    id: Id
    title: Annotated[str, Field(max_length=80)] = ""
    to: Annotated[list[End], Field(min_length=1, max_length=64)]
    default: Plain = None
    low: float | None = None
    high: float | None = None
    step: float | None = None
    unit: str | None = None
    help: str = ""

    @property
    def shown(self) -> str:
        return self.title or self.id.replace("_", " ").replace("-", " ").capitalize()


class RecipeOutput(Strict):
    """What a group gives: an output of one of its nodes under a name."""

    model_config = ConfigDict(extra="forbid", populate_by_name=True)
    id: Id
    source: End = Field(alias="from")


class Start(Strict):
    """How a new layer of a ready-made recipe lies on what is below."""

    blend: str = "normal"
    opacity: Annotated[float, Field(ge=0.0, le=1.0)] = 1.0


class Setting(Strict):
    """A named way to start: what the controls of a ready-made layer are set to."""

    name: Name
    values: dict[str, Plain] = Field(default_factory=dict)


class Look(Strict):
    """What one of the nodes gives is worth seeing beside the controls, under this title."""

    node: Id
    title: Name


class Recipe(Strict):
    """A graph of nodes from the picture below to a colour. `result` is the output that the layer shows (NODE.OUTPUT), `family`
    the part of the palette in which a ready-made layer stands, `looks` what is shown beside its controls."""

    format: Literal["sun-glaze/recipe"] = FORMAT
    version: Literal[1] = VERSION
    name: Name = "Recipe"
    help: Annotated[str, Field(max_length=2000)] = ""
    family: Annotated[str, Field(max_length=40)] = ""
    nodes: Annotated[list[RecipeNode], Field(max_length=MOST_NODES)] = Field(default_factory=list)
    wires: Annotated[list[Wire], Field(max_length=8 * MOST_NODES)] = Field(default_factory=list)
    inputs: Annotated[list[RecipeInput], Field(max_length=64)] = Field(default_factory=list)
    outputs: Annotated[list[RecipeOutput], Field(max_length=32)] = Field(default_factory=list)
    result: End | None = None
    start: Start = Field(default_factory=Start)
    settings: Annotated[list[Setting], Field(max_length=12)] = Field(default_factory=list)
    looks: Annotated[list[Look], Field(max_length=4)] = Field(default_factory=list)
    groups: dict[Id, Recipe] = Field(default_factory=dict)

    @model_validator(mode="after")
    def _no_two_of_a_name(self) -> Recipe:
        for what, ids in (
            ("nodes", [n.id for n in self.nodes]),
            ("inputs", [i.id for i in self.inputs]),
            ("outputs", [o.id for o in self.outputs]),
        ):
            seen: set[str] = set()
            for one in ids:
                if one in seen:
                    raise ValueError(f"two {what} have the id '{one}'")
                seen.add(one)
        return self

    def node(self, identity: str) -> RecipeNode | None:
        return next((n for n in self.nodes if n.id == identity), None)


class Fault(Strict):
    """Something wrong with a recipe. `path`: ids of the group nodes on the way in. `stops`: nothing comes out of that node."""

    path: list[str] = Field(default_factory=list)
    node: str | None = None
    input: str | None = None
    message: str
    stops: bool = True


class BadRecipe(BadEffect):
    """A recipe that gives no picture. `faults` says why."""

    def __init__(self, faults: list[Fault], layer: str | None = None, name: str | None = None) -> None:
        first = faults[0]
        where = f"layer '{name}': " if name else ""
        super().__init__(f"{where}{first.message}", layer)
        self.faults = faults


def _finite(plain: Plain) -> bool:
    if isinstance(plain, float):
        return math.isfinite(plain)
    if isinstance(plain, list):
        return all(_finite(p) for p in plain)
    if isinstance(plain, dict):
        return all(_finite(p) for p in plain.values())
    return True


def ends(end: str) -> tuple[str, str]:
    """NODE.NAME apart."""
    node, _, name = end.partition(".")
    return node, name


def read_recipe(data: bytes | str | Mapping[str, Any]) -> Recipe:
    """A recipe from JSON. Raises BadEffect with what is wrong and where."""
    try:
        plain = json.loads(data) if isinstance(data, bytes | str) else dict(data)
    except (ValueError, RecursionError) as error:
        raise BadEffect(f"this is not JSON: {error}") from None
    if not isinstance(plain, dict) or plain.get("format") != FORMAT:
        raise BadEffect(f"this is JSON but no recipe: 'format' should be '{FORMAT}'")
    if isinstance(plain.get("version"), int) and plain["version"] > VERSION:
        raise BadEffect(f"the recipe has version {plain['version']}, this program reads up to {VERSION}; update Sun Glaze")
    if _depth(plain) > DEEPEST:
        raise BadEffect(f"groups lie more than {DEEPEST} deep in each other; take some apart")
    try:
        return Recipe.model_validate(plain)
    except ValidationError as error:
        raise BadEffect(in_words(error)) from None
    except RecursionError:
        raise BadEffect("the recipe is nested too deeply") from None


def _depth(plain: Any) -> int:
    """How deep groups lie in each other; walks by hand, since imports may be hostile."""
    deepest, stack = 0, [(plain, 0)]
    while stack:
        one, depth = stack.pop()
        deepest = max(deepest, depth)
        if depth > DEEPEST:
            return depth
        groups = one.get("groups") if isinstance(one, dict) else None
        if isinstance(groups, dict):
            stack.extend((group, depth + 1) for group in groups.values())
    return deepest


def in_words(error: ValidationError) -> str:
    """The first fault of a validation, with its place in the document."""
    first = error.errors()[0]
    place = ".".join(str(part) for part in first["loc"])
    return f"{place or 'the document'}: {first['msg'].removeprefix('Value error, ')}"


def write_recipe(recipe: Recipe) -> str:
    """The recipe as JSON, as short as it can be said."""
    return json.dumps(recipe.model_dump(by_alias=True, exclude_defaults=True) | {"format": FORMAT, "version": VERSION}, indent=2)


def schema() -> dict[str, Any]:
    """The published JSON schema of recipes."""
    return Recipe.model_json_schema(by_alias=True)


def all_groups(recipe: Recipe) -> Iterator[Recipe]:
    """The recipe and all groups in it."""
    yield recipe
    for group in recipe.groups.values():
        yield from all_groups(group)
