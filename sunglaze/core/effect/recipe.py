"""Recipes as documents: nodes, wires and inputs. What is wrong with one is data, a list of faults, never a crash."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping
from typing import Annotated, Any, Final, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, PrivateAttr, ValidationError, model_validator

from sunglaze.core.colour.hues import of_eight
from sunglaze.core.errors import BadEffect, in_words
from sunglaze.core.nodes.handles import Handle

FORMAT: Final = "sun-glaze/recipe"
VERSION: Final = 1
MOST_NODES = 1000
MOST_EXPANDED = 4000
"""Nodes of a recipe with its groups taken apart: a group that is used twice counts twice."""
DEEPEST = 16

Id = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,40}$")]
End = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,40}\.[A-Za-z0-9_-]{1,40}$")]
PRINTABLE = r"^[^\x00]*$"
"""What files and databases elsewhere take for the end of a text has no place in one."""
Name = Annotated[str, Field(min_length=1, max_length=80, pattern=PRINTABLE)]
Bound = Annotated[float, Field(ge=-1e9, le=1e9, allow_inf_nan=False)]
Coordinate = Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)]
LARGEST, DEEPEST_PLAIN = 3e38, 8


def plain_data(plain: Any, depth: int = 0) -> Any:
    """What was given, if all numbers in it are finite in single precision and nothing lies too deep. Raises ValueError."""
    if isinstance(plain, int | float) and not isinstance(plain, bool) and not abs(plain) <= LARGEST:
        raise ValueError("this holds something that is no finite number")
    if isinstance(plain, list | dict):
        if depth >= DEEPEST_PLAIN:
            raise ValueError(f"lists lie more than {DEEPEST_PLAIN} deep in each other")
        for part in plain.values() if isinstance(plain, dict) else plain:
            plain_data(part, depth + 1)
    return plain


Plain = Annotated[str | bool | int | float | list[Any] | dict[str, Any] | None, AfterValidator(plain_data)]
"""What a control is set to, as JSON has it."""


class Strict(BaseModel):
    """Unknown fields are refused."""

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

    @property
    def title(self) -> str:
        """Its own name, or its kind."""
        return self.name or self.kind


class Wire(Strict):
    """From an output to an input, each written NODE.NAME."""

    model_config = ConfigDict(extra="forbid", populate_by_name=True)
    source: End = Field(alias="from")
    target: End = Field(alias="to")


class RecipeInput(Strict):
    """What a recipe is given from outside: a control of its layer, or an input of its group. It feeds `to`, NODE.INPUT each.

    Its type is that of the first of them; range, step and unit may be narrowed here. `default` is plain data; without one, that
    of the first input it feeds. `driven`: of a drive, an end between which it moves a control, whose unit and range it then has.
    `also`: what other inputs are set to when this one is chosen, as the switch that a picture needs. `facts`: inputs that take
    what is found in material that is chosen, as the cells of a sheet or the size of a mesh. `template`: what is handed out to
    paint its picture on.
    """

    id: Id
    title: Annotated[str, Field(max_length=80)] = ""
    to: Annotated[list[End], Field(min_length=1, max_length=64)]
    default: Plain = None
    low: Bound | None = None
    high: Bound | None = None
    step: Annotated[float, Field(gt=0, le=1e9, allow_inf_nan=False)] | None = None
    unit: Annotated[str, Field(max_length=40)] | None = None
    also: dict[Id, Plain] = Field(default_factory=dict)
    facts: dict[Id, Literal["columns", "rows", "size"]] = Field(default_factory=dict)
    driven: bool = False
    template: Literal["face"] | None = None
    help: Annotated[str, Field(max_length=2000)] = ""

    @model_validator(mode="after")
    def _has_a_range(self) -> RecipeInput:
        if self.low is not None and self.high is not None and self.low > self.high:
            raise ValueError(f"'{self.shown}' ends at {self.high:g}, below where it starts ({self.low:g})")
        return self

    @property
    def shown(self) -> str:
        """Its title, or its id in words."""
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
    """A named way to start: what the controls of a ready-made layer are set to, and what drives them (as in a layer's drives)."""

    name: Name
    values: dict[str, Plain] = Field(default_factory=dict)
    drives: dict[str, Started] = Field(default_factory=dict)


class Started(Strict):
    """A drive of a setting: its kind, and what its controls are set to."""

    kind: Annotated[str, Field(pattern=r"^[a-z0-9-]{1,60}$")]
    values: dict[str, Plain] = Field(default_factory=dict)


class Look(Strict):
    """What one of the nodes gives is worth seeing beside the controls, under this title."""

    node: Id
    title: Name


class Recipe(Strict):
    """A graph of nodes from the picture below to a colour. `result` is the output that the layer shows (NODE.OUTPUT), `family`
    the part of the palette in which a ready-made layer stands, `also` what else people call it, `looks` what is shown beside its
    controls, `handles` what is placed on the picture by them: those that name an input which is not there are passed over.
    `sentence`: of a drive or cue, what it does in words, its controls among them as {ID}; [ID=VALUE:words], with =, != or >=,
    is said only where a control stands so."""

    format: Literal["sun-glaze/recipe"] = FORMAT
    version: Literal[1] = VERSION
    name: Name = "Recipe"
    help: Annotated[str, Field(max_length=2000)] = ""
    family: Annotated[str, Field(max_length=40)] = ""
    also: Annotated[list[Name], Field(max_length=12)] = Field(default_factory=list)
    sentence: Annotated[str, Field(max_length=400)] = ""
    nodes: Annotated[list[RecipeNode], Field(max_length=MOST_NODES)] = Field(default_factory=list)
    wires: Annotated[list[Wire], Field(max_length=8 * MOST_NODES)] = Field(default_factory=list)
    inputs: Annotated[list[RecipeInput], Field(max_length=64)] = Field(default_factory=list)
    outputs: Annotated[list[RecipeOutput], Field(max_length=32)] = Field(default_factory=list)
    result: End | None = None
    start: Start = Field(default_factory=Start)
    settings: Annotated[list[Setting], Field(max_length=12)] = Field(default_factory=list)
    looks: Annotated[list[Look], Field(max_length=4)] = Field(default_factory=list)
    handles: Annotated[list[Handle], Field(max_length=8)] = Field(default_factory=list)
    groups: Annotated[dict[Id, Recipe], Field(max_length=256)] = Field(default_factory=dict)
    _expanded: int = PrivateAttr(0)
    _depth: int = PrivateAttr(0)

    @property
    def expanded(self) -> int:
        """How many nodes are recorded for it: those of groups as often as the groups are used."""
        return self._expanded

    @model_validator(mode="before")
    @classmethod
    def _of_today(cls, plain: Any) -> Any:
        return renewed(plain) if isinstance(plain, dict) and isinstance(plain.get("nodes"), list) else plain

    @model_validator(mode="after")
    def _is_not_endless(self) -> Recipe:
        # Groups were counted before what holds them, so this is one step a level though use may double at each.
        inner = {f"group:{name}": group._expanded for name, group in self.groups.items()}
        self._expanded = sum(1 + inner.get(node.kind, 0) for node in self.nodes)
        self._depth = 1 + max((group._depth for group in self.groups.values()), default=0)
        if self._expanded > MOST_EXPANDED:
            most = f"{MOST_EXPANDED:,} are the most"
            raise ValueError(f"with its groups taken apart the recipe has {self._expanded:,} nodes; {most}")
        if self._depth > DEEPEST + 1:
            raise ValueError(f"groups lie more than {DEEPEST} deep in each other; take some apart")
        return self

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
        """The node of this id; none where there is none."""
        return next((n for n in self.nodes if n.id == identity), None)


def renewed(plain: dict[str, Any]) -> dict[str, Any]:
    """A recipe with what nodes were once called, and how eight hues were once set, in today's words."""
    if not any(isinstance(node, dict) and node.get("kind") == "hue-by-hue" for node in plain["nodes"]):
        return plain
    nodes = []
    for node in plain["nodes"]:
        if isinstance(node, dict) and node.get("kind") == "hue-by-hue":
            given = node.get("set")
            node = {**node, "kind": "hue-curves"}
            if isinstance(given, dict):
                node["set"] = {name: of_eight(value) for name, value in given.items()}
        nodes.append(node)
    inputs = plain.get("inputs")
    if isinstance(inputs, list):
        inputs = [{**one, "default": of_eight(one.get("default"))} if isinstance(one, dict) else one for one in inputs]
    return {**plain, "nodes": nodes, **({"inputs": inputs} if inputs is not None else {})}


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
