"""What a node is: a rule, and a catalogue entry read from its signature. Also what a rule may ask of its surroundings."""

from __future__ import annotations

import inspect
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field, replace
from typing import Any, get_type_hints

from sunglaze.core.language.expression import Value
from sunglaze.core.language.pictures import CAMERA, Picture, colour_here
from sunglaze.core.language.vector import Vec
from sunglaze.core.nodes.handles import Handle
from sunglaze.core.nodes.types import Symbol, Type, type_of

FAMILIES = (
    "values", "maths", "coordinates", "picture", "colour", "blend", "noise", "shape", "masks", "filter", "time", "face",
    "touch",
)  # fmt: skip


@dataclass(frozen=True)
class Table:
    """A lookup or curves as a program knows it: the table's name, its kind, and its domain where that is not 0 to 1."""

    name: str
    is_cube: bool = True
    domain: tuple[Vec, Vec] | None = None


@dataclass(frozen=True)
class Scene:
    """What surrounds a node while it is recorded. `path` names it among all nodes of the effect, for state and uniforms.

    `stages`: the pictures after the layers so far, by the layer's id. `cues`: whether each of the effect's cues holds, by its
    name; none where no effect is around. `dials`: by name how many choices each has, 0 for a number, -1 for a colour.
    """

    below: Vec
    camera: Picture = CAMERA
    path: str = ""
    stages: Mapping[str, Vec] = field(default_factory=dict)
    cues: Mapping[str, Value] | None = None
    dials: Mapping[str, int] = field(default_factory=dict)

    def at(self, path: str) -> Scene:
        """The same for a node of this path."""
        return replace(self, path=path)


_scene: ContextVar[Scene | None] = ContextVar("scene", default=None)


def scene() -> Scene:
    """The surroundings of the node that is being recorded; outside any effect, only the camera."""
    return _scene.get() or Scene(colour_here(CAMERA))


@contextmanager
def in_scene(given: Scene) -> Iterator[None]:
    """Within it, `scene()` gives this."""
    token = _scene.set(given)
    try:
        yield
    finally:
        _scene.reset(token)


@dataclass(frozen=True)
class Port:
    """An input or an output. `default` is plain data; none where a wire is wanted (the input then reads what is below)."""

    name: str
    kind: Type
    default: Any = None

    @property
    def title(self) -> str:
        """Its name in words."""
        return self.name.replace("_", " ").strip().capitalize()


@dataclass(frozen=True)
class Node:
    """A catalogue entry. Calling it calls the rule. `handles`: what it places on the picture."""

    kind: str
    title: str
    family: str
    help: str
    inputs: tuple[Port, ...]
    outputs: tuple[Port, ...]
    rule: Callable[..., Any]
    handles: tuple[Handle, ...] = ()

    def __call__(self, *arguments: Any, **named: Any) -> Any:
        """Call the rule."""
        return self.rule(*arguments, **named)

    def record(self, given: Mapping[str, Symbol]) -> dict[str, Symbol]:
        """The outputs by name, from inputs that have their types already."""
        result = self.rule(**given)
        if len(self.outputs) == 1:
            return {self.outputs[0].name: result}
        return dict(zip((o.name for o in self.outputs), result, strict=True))

    def input(self, name: str) -> Port | None:
        """The input of this name; none where there is none."""
        return next((p for p in self.inputs if p.name == name), None)

    def output(self, name: str) -> Port | None:
        """The output of this name; none where there is none."""
        return next((p for p in self.outputs if p.name == name), None)


def node(title: str, family: str, *handles: Handle) -> Callable[[Callable[..., Any]], Node]:
    """Make a rule a node. Its kind is the function's name; inputs, units, defaults and help come from its signature."""
    assert family in FAMILIES, family

    def made(rule: Callable[..., Any]) -> Node:
        hints = get_type_hints(rule, include_extras=True)
        signature = inspect.signature(rule)
        inputs = tuple(
            Port(name, type_of(hints[name]), None if p.default is inspect.Parameter.empty else p.default)
            for name, p in signature.parameters.items()
        )
        kind = rule.__name__.strip("_").replace("_", "-")
        assert rule.__doc__, f"{kind} has no help"
        assert all(one.controls() <= set(signature.parameters) for one in handles), f"{kind}: a handle moves what it has not"
        return Node(kind, title, family, inspect.cleandoc(rule.__doc__), inputs, _outputs(hints["return"]), rule, handles)

    return made


def _outputs(annotation: Any) -> tuple[Port, ...]:
    """One output `out`, or those that a NamedTuple names."""
    if hasattr(annotation, "__metadata__"):
        return (Port("out", type_of(annotation)),)
    return tuple(Port(name, type_of(hint)) for name, hint in get_type_hints(annotation, include_extras=True).items())
