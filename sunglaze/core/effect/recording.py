"""From a recipe to symbols: nodes are recorded in the order in which they need each other, conversions made, faults collected."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal

from sunglaze.core.effect.literals import Known, Setting, fits, parse, setting, symbol
from sunglaze.core.effect.recipe import Fault, Recipe, RecipeInput, RecipeNode, ends
from sunglaze.core.errors import BadEffect
from sunglaze.core.language import pictures as p
from sunglaze.core.language.expression import Value
from sunglaze.core.language.vector import Vec, rgba
from sunglaze.core.nodes.catalogue import CATALOGUE
from sunglaze.core.nodes.node import Port, Scene, in_scene
from sunglaze.core.nodes.types import SET_ON_NODE, WORDS, Symbol, Type, convert, converts, what_fits, widest

GROUP = "group:"
NAMED = ("lookup", "curves", "hues", "path", "painting", "mesh", "text")
"""Types whose tables and pictures a program knows by name, also where they are constant."""


@dataclass(frozen=True)
class Typed:
    """A symbol with the name of its type."""

    symbol: Symbol
    kind: str


class _Missing(Exception):
    """Nothing comes out of a node; its faults are in the list already."""


def port_of(recipe: Recipe, given: RecipeInput) -> Port | None:
    """What a recipe's input looks like: the first input it feeds, narrowed. None where that does not exist."""
    node_id, name = ends(given.to[0])
    node = recipe.node(node_id)
    port = node and port_on(recipe, node, name)
    if not port:
        return None
    kind = port.kind
    narrowed = replace(
        kind,
        unit=kind.unit if given.unit is None else given.unit,
        low=kind.low if given.low is None else given.low,
        high=kind.high if given.high is None else given.high,
        step=kind.step if given.step is None else given.step,
    )
    assert node
    standing = (plain for plain in (given.default, node.set.get(name)) if plain is not None and fits(kind, plain))
    return Port(given.id, narrowed, next(standing, port.default))


def ports(recipe: Recipe) -> list[Port]:
    """The recipe's inputs as ports: the controls of a layer, the inputs of a group."""
    return [port for port in (port_of(recipe, given) for given in recipe.inputs) if port is not None]


def inputs_on(recipe: Recipe, node: RecipeNode) -> tuple[Port, ...] | None:
    """The inputs of a node, be it of the catalogue or a group; none where its kind is not known."""
    if node.kind.startswith(GROUP):
        group = recipe.groups.get(node.kind.removeprefix(GROUP))
        return tuple(ports(group)) if group is not None else None
    entry = CATALOGUE.get(node.kind)
    return entry.inputs if entry is not None else None


def port_on(recipe: Recipe, node: RecipeNode, name: str) -> Port | None:
    """One input of a node; none where it has none of this name."""
    if node.kind.startswith(GROUP):
        # Of a group this one alone is looked for: looking for all at each level would take ever more steps inwards.
        group = recipe.groups.get(node.kind.removeprefix(GROUP))
        given = next((one for one in group.inputs if one.id == name), None) if group else None
        return port_of(group, given) if group and given else None
    entry = CATALOGUE.get(node.kind)
    return entry.input(name) if entry is not None else None


class Recorder:
    """Records one recipe; groups inside it are recorded by recorders of their own.

    `prefix` names its uniforms and tables. Where `turnable`, what is set on nodes becomes uniforms, for an artist may turn it;
    in recipes that ship it is constant.
    """

    def __init__(
        self,
        recipe: Recipe,
        given: Mapping[str, Typed],
        scene: Scene,
        prefix: str,
        known: Known,
        turnable: bool,
        path: tuple[str, ...] = (),
    ) -> None:
        self.recipe, self.given, self.scene, self.prefix = recipe, given, scene, prefix
        self.known, self.turnable, self.path = known, turnable, path
        self.faults: list[Fault] = []
        self.done: dict[str, dict[str, Typed] | None] = {}
        self._below: p.Picture | None = None
        self.wired: dict[str, str] = {}
        self.fed: dict[str, RecipeInput] = {}
        self.inner: dict[str, Recorder] = {}
        self._wires()

    def fault(self, message: str, node: str | None = None, name: str | None = None, stops: bool = True) -> None:
        """Note a fault of the recipe, of a node, or of one of its inputs."""
        self.faults.append(Fault(path=list(self.path), node=node, input=name, message=message, stops=stops))

    def _wires(self) -> None:
        known = {n.id: n for n in self.recipe.nodes}
        for wire in self.recipe.wires:
            (source, _), (target, name) = ends(wire.source), ends(wire.target)
            for end in (source, target):
                if end not in known:
                    self.fault(f"a wire leads to '{end}', which is not in the recipe; take the wire away", None)
            if source not in known or target not in known:
                continue
            if wire.target in self.wired:
                self.fault(f"two wires lead to '{name}'; keep one of them", target, name)
            self.wired[wire.target] = wire.source
        for given in self.recipe.inputs:
            for end in given.to:
                node, name = ends(end)
                if node not in known:
                    self.fault(f"the input '{given.shown}' feeds '{node}', which is not in the recipe")
                elif end not in self.wired:
                    self.fed[end] = given
            port = port_of(self.recipe, given)
            if port is not None and given.default is not None and not fits(port.kind, given.default):
                message = f"the default of '{given.shown}' does not fit it, so it is not used"
                self.fault(message, *ends(given.to[0]), stops=False)

    def needs(self, identity: str) -> list[str]:
        """The nodes that wires lead from to this one."""
        return [ends(source)[0] for target, source in self.wired.items() if ends(target)[0] == identity]

    def outputs(self, identity: str) -> dict[str, Typed]:
        """What a node gives, by output. Raises _Missing where it gives nothing."""
        stack: list[str] = [identity]
        on_the_way: list[str] = []
        while stack:
            top = stack[-1]
            if top in self.done:
                stack.pop()
                continue
            if on_the_way and on_the_way[-1] == top:
                stack.pop()
                on_the_way.pop()
                self.done[top] = self._record(top)
                continue
            on_the_way.append(top)
            for need in self.needs(top):
                if need in on_the_way:
                    ring = [*on_the_way[on_the_way.index(need) :], need]
                    titles = " > ".join(self._title(n) for n in ring)
                    self.fault(f"these nodes wait for each other: {titles}; take one of their wires away", top)
                    for waiting in on_the_way:
                        self.done[waiting] = None
                    stack = stack[: stack.index(on_the_way[0])]
                    on_the_way = []
                    break
                if need not in self.done:
                    stack.append(need)
        found = self.done[identity]
        if found is None:
            raise _Missing(identity)
        return found

    def word(self, node: RecipeNode, name: str) -> Any:
        """What an input of a node that is set, never wired, stands at; none where it has no such input."""
        port = port_on(self.recipe, node, name)
        found = self._input(node, port) if port else None
        return found.symbol if found else None

    def try_outputs(self, identity: str) -> dict[str, Typed] | None:
        """What a node gives, or none; why is among the faults."""
        try:
            return self.outputs(identity)
        except _Missing:
            return None

    def _title(self, identity: str) -> str:
        node = self.recipe.node(identity)
        entry = CATALOGUE.get(node.kind) if node else None
        return (node.name if node and node.name else entry.title if entry else identity) or identity

    def _record(self, identity: str) -> dict[str, Typed] | None:
        node = self.recipe.node(identity)
        assert node is not None
        known = inputs_on(self.recipe, node)
        if known is None:
            what = "group that is not in the recipe" if node.kind.startswith(GROUP) else "node of a newer version"
            self.fault(f"'{self._title(identity)}' is a {what} ('{node.kind}'); it is kept, and gives nothing here", identity)
            return None
        before = len(self.faults)
        for name in node.set:
            if not any(port.name == name for port in known):
                self.fault(f"'{name}' is set, which '{self._title(identity)}' does not have", identity, name, stops=False)
        for target in [t for t in self.wired if ends(t)[0] == identity]:
            if not any(port.name == ends(target)[1] for port in known):
                message = f"a wire leads to '{ends(target)[1]}', which '{self._title(identity)}' does not have"
                self.fault(message, identity, ends(target)[1], stops=False)
        given = {port.name: self._input(node, port) for port in known}
        if any(f.stops for f in self.faults[before:]) or any(g is None for g in given.values()):
            return None
        ready: dict[str, Typed] = {name: g for name, g in given.items() if g is not None}
        try:
            return self._group(node, ready) if node.kind.startswith(GROUP) else self._entry(node, ready)
        except BadEffect as error:
            self.fault(f"'{self._title(identity)}': {error}", identity)
            return None

    def _input(self, node: RecipeNode, port: Port) -> Typed | None:
        """What an input is given: by a wire, from outside, as it is set, or by default. None where nothing comes."""
        address = f"{node.id}.{port.name}"
        found: Typed | None = None
        if address in self.wired:
            source, output = ends(self.wired[address])
            outputs = self.done.get(source)
            if outputs is None:
                return None  # said where it stopped
            if output not in outputs:
                self.fault(f"'{self._title(source)}' has no output '{output}'", node.id, port.name)
                return None
            found = outputs[output]
        elif address in self.fed and self.fed[address].id in self.given:
            found = self.given[self.fed[address].id]
        if found is not None:
            if port.kind.name in SET_ON_NODE:
                if found.kind == port.kind.name:
                    return found
                self.fault(f"'{port.title}' is set on the node and takes no wire", node.id, port.name)
                return None
            if not converts(found.kind, port.kind.name):
                accepted = what_fits(port.kind.name)
                self.fault(f"'{port.title}' takes {accepted}; this wire brings {WORDS[found.kind]}", node.id, port.name)
                return None
            return found
        plain, name = port.default, None
        if node.set.get(port.name) is not None:
            plain, name = node.set[port.name], f"{self.prefix}.{node.id}.{port.name}" if self.turnable else None
        return self._plain(node, port, plain, name)

    def _plain(self, node: RecipeNode, port: Port, plain: Any, name: str | None) -> Typed | None:
        kind = port.kind
        if plain is None:
            return self.nothing(kind)
        try:
            if kind.name in NAMED:
                name = f"{self.prefix}.{node.id}.{port.name}"
            # What is set may answer to a cue.
            with in_scene(self.scene):
                made = symbol(kind, parse(kind, plain), name, self.known)
        except BadEffect as error:
            self.fault(f"'{port.title}': {error}", node.id, port.name)
            return None
        return Typed(made, kind_set(kind, made))

    def nothing(self, kind: Type) -> Typed:
        """What an input is given where nothing is wired or set: what is below, or the drawn pixel's place."""
        if kind.name == "colour":
            return Typed(self.scene.below, "colour")
        if kind.name == "picture":
            return Typed(self.below_picture(), "picture")
        if kind.name == "vec2":
            return Typed(p.here(), "vec2")
        if kind.name in ("asset", "text"):
            return Typed(p.asset_picture("none"), kind.name)
        return Typed(None, kind.name)

    def below_picture(self) -> p.Picture:
        """What lies below as a picture. It is computed in any case: the layers above read it in place of what it holds."""
        if self._below is None:
            self._below = p.picture_of(self.scene.below, always=True)
        return self._below

    def _entry(self, node: RecipeNode, given: dict[str, Typed]) -> dict[str, Typed] | None:
        entry = CATALOGUE[node.kind]
        loose = [g.kind for port in entry.inputs if port.kind.name == "any" for g in [given[port.name]]]
        wide = widest(["colour" if k == "picture" else k for k in loose])
        if wide is None:
            sizes = " and ".join(dict.fromkeys(WORDS[k] for k in loose))
            self.fault(f"'{entry.title}' is given {sizes}, which do not go together", node.id)
            return None
        arguments = {}
        opacity: Value | None = None
        for port in entry.inputs:
            one = given[port.name]
            if one.symbol is None or port.kind.name in SET_ON_NODE:
                arguments[port.name] = one.symbol
                continue
            if one.symbol is self.scene.below and port.kind.name == "picture":
                arguments[port.name] = self.below_picture()
                continue
            arguments[port.name] = convert(one.symbol, one.kind, port.kind.name)
            if wide == "colour" and port.kind.name == "any" and isinstance(arguments[port.name], Vec):
                # Maths on colours leaves their opacity: that of the first stays.
                if opacity is None and len(arguments[port.name]) == 4:
                    opacity = arguments[port.name].a
                arguments[port.name] = arguments[port.name].rgb
        with in_scene(self.scene.at(f"{self.prefix}.{node.id}")):
            made = entry.record(arguments)
        if opacity is not None:
            made |= {o.name: rgba(made[o.name], opacity) for o in entry.outputs if o.kind.name == "any"}
        return {o.name: Typed(made[o.name], wide if o.kind.name == "any" else o.kind.name) for o in entry.outputs}

    def _group(self, node: RecipeNode, given: dict[str, Typed]) -> dict[str, Typed] | None:
        group = self.recipe.groups[node.kind.removeprefix(GROUP)]
        inner = Recorder(group, given, self.scene, f"{self.prefix}.{node.id}", self.known, self.turnable, (*self.path, node.id))
        self.inner[node.id] = inner
        found: dict[str, Typed] = {}
        complete = True
        for output in group.outputs:
            try:
                found[output.id] = inner.output(output.source)
            except _Missing:
                complete = False
        self.faults += inner.faults
        return found if complete else None

    def output(self, end: str) -> Typed:
        """What comes out at NODE.OUTPUT. Raises _Missing."""
        node, name = ends(end)
        if self.recipe.node(node) is None:
            self.fault(f"'{node}' is not in the recipe")
            raise _Missing(end)
        outputs = self.outputs(node)
        if name not in outputs:
            self.fault(f"'{self._title(node)}' has no output '{name}'", node)
            raise _Missing(end)
        return outputs[name]


def kind_set(kind: Type, made: Symbol) -> str:
    """The type of what is set on an `any` input: as many numbers as there are."""
    if kind.name != "any":
        return kind.name
    return f"vec{len(made)}" if isinstance(made, Vec) else "number"


def result_of(recorder: Recorder, wanted: Literal["colour", "mask", "number", "boolean"] = "colour") -> Symbol:
    """The colour (or mask) that a recipe gives, none where it gives nothing; why is among the recorder's faults."""
    result = recorder.recipe.result
    if result is None:
        recorder.fault("the recipe has no result; wire the last node to the layer")
        return None
    try:
        found = recorder.output(result)
    except _Missing:
        return None
    if not converts(found.kind, wanted):
        recorder.fault(f"the layer takes a {wanted}; the result is {WORDS[found.kind]}", ends(result)[0])
        return None
    return convert(found.symbol, found.kind, wanted)


def check_recipe(recipe: Recipe, known: Known | None = None) -> list[Fault]:
    """Everything that is wrong with a recipe, also in nodes that the result does not need."""
    recorder = Recorder(recipe, {}, Scene(p.colour_here(p.CAMERA)), "check", known or Known(), True)
    for node in recipe.nodes:
        recorder.try_outputs(node.id)
    result_of(recorder)
    return recorder.faults


def settings(recipe: Recipe, prefix: str, turnable: bool) -> Iterator[Setting]:
    """What is set on nodes, groups included, that uniforms and tables are made of."""
    for node in recipe.nodes:
        for port in inputs_on(recipe, node) or ():
            plain = node.set.get(port.name)
            if plain is not None and (turnable or port.kind.name in NAMED):
                yield setting(f"{prefix}.{node.id}.{port.name}", port, plain)
            elif plain is None and port.default is not None and port.kind.name in NAMED:
                yield setting(f"{prefix}.{node.id}.{port.name}", port, port.default)
        if node.kind.startswith(GROUP) and (group := recipe.groups.get(node.kind.removeprefix(GROUP))):
            yield from settings(group, f"{prefix}.{node.id}", turnable)
