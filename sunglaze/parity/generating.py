"""What is compared: every node on random inputs, and random graphs of nodes. All from a seed."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import product
from typing import Any

import cv2
import numpy as np

from sunglaze.core.colour.curves import curve_table
from sunglaze.core.colour.hues import HueCurves, hue_table, over_table
from sunglaze.core.effect.literals import Material, inputs_of
from sunglaze.core.effect.recipe import Recipe, RecipeNode, Wire
from sunglaze.core.effect.recording import Recorder, check_recipe, result_of, settings
from sunglaze.core.errors import Unfit
from sunglaze.core.face.pose import rotation
from sunglaze.core.language import pictures as p
from sunglaze.core.language.expression import Value, constant, ordered, record
from sunglaze.core.language.pictures import Vertices
from sunglaze.core.language.vector import Vec, absolute, to_float, to_int
from sunglaze.core.material.mesh import MeshData
from sunglaze.core.material.path import Path, path_table
from sunglaze.core.material.still import Still
from sunglaze.core.nodes.catalogue import CATALOGUE
from sunglaze.core.nodes.colour import OVER
from sunglaze.core.nodes.node import Node, Port, Scene, Table, in_scene
from sunglaze.core.nodes.types import Symbol, Type, converts
from sunglaze.core.passes.program import Inputs, Program, uniform

ASSET = "a" * 64


@dataclass(frozen=True)
class Case:
    """Something to compare. `exact`: its outputs as they are, for targets with floats; `program`: held to 0 to 1."""

    name: str
    exact: Program
    program: Program
    inputs: Inputs


def squeezed(number: Value) -> Value:
    """Any number as one between 0 and 1, so that bytes can hold it."""
    return number / (absolute(number) + 1.0) * 0.5 + 0.5


def _shown(name: str, numbers: list[Value], inputs: Inputs) -> Case:
    numbers = (numbers * 3)[: max(3, -(-len(numbers) // 3) * 3)]
    threes = [Vec(*numbers[n : n + 3]) for n in range(0, len(numbers) - len(numbers) % 3, 3)]
    squeezed_threes = tuple(three.map(squeezed) for three in threes)
    return Case(name, Program(tuple(threes)), Program(squeezed_threes), inputs)


def _asset(rng: np.random.Generator) -> dict[str, Still]:
    return {ASSET: Still.of(rng.integers(0, 256, (37, 23, 4), dtype=np.uint8))}


class _Random:
    """Random inputs for one node: from the camera's channels where they may differ from pixel to pixel."""

    def __init__(self, rng: np.random.Generator) -> None:
        self.rng = rng
        self.uniforms: dict[str, float] = {}
        self.channels = [p.near(p.CAMERA, c) for c in range(4)]

    def number(self, port: Port, pixel: bool) -> Value:
        low, high = port.kind.low, port.kind.high
        low, high = (-2.0, 2.0) if low is None or high is None else (low, high)
        # The lower part of wide ranges: at hundreds of cells a place's last bit is seen in the result.
        high = low + 12.0 if high >= 100 and port.kind.unit == "" and port.kind.name != "whole" else high
        if not pixel:
            name = f"u{len(self.uniforms)}"
            self.uniforms[name] = float(self.rng.uniform(low, high))
            return uniform(name)
        source = self.channels[int(self.rng.integers(0, 4))]
        # Off the round numbers at which steps lie.
        return (source * 0.973 + 0.0137) * (high - low) + low

    def symbol(self, port: Port, pixel: bool) -> Symbol:
        name = port.kind.name
        if name == "boolean":
            return self.number(port, pixel) > 0.3
        if name == "whole":
            return to_int(self.number(port, False) + 0.5)
        if name in ("number", "mask", "any"):
            return self.number(port, pixel)
        if name in ("vec2", "vec3", "vec4"):
            return Vec(*(self.number(port, pixel) for _ in range(int(name[3]))))
        if name == "colour":
            opaque = self.rng.random() < 0.7
            rgb = (c * 0.973 + 0.0137 for c in self.channels[:3])
            return Vec(*rgb, 1.0 if opaque else self.channels[3])
        if name == "picture":
            return p.CAMERA if self.rng.random() < 0.6 else p.asset_picture(ASSET)
        return {
            "asset": p.asset_picture(ASSET),
            "painting": (p.asset_picture(ASSET), True),
            "text": p.asset_picture(ASSET),
            "stage": "camera",
            "lookup": Table("lut"),
            "curves": Table("curves", False),
            "path": Table("path", False),
            "mesh": None,
        }.get(name, Table("hues", False))


def _tables(rng: np.random.Generator) -> dict[str, Any]:
    cube = np.zeros((9, 9, 9, 4), np.float32)
    cube[..., :3] = rng.random((9, 9, 9, 3))
    points = {"all": [(0.0, 0.1), (0.4, 0.6), (1.0, 0.9)], "red": [(0.0, 0.0), (1.0, 0.8)]}
    around = np.linspace(0.0, 2 * math.pi, int(rng.integers(3, 9)), endpoint=False)
    far = rng.uniform(0.1, 0.6, len(around))
    drawn = Path(tuple(zip(far * np.cos(around), far * np.sin(around), strict=True)), bool(rng.random() < 0.5))
    hues: HueCurves = {
        name: [(float(x), float(y), None) for x, y in zip(np.arange(6) * 60, rng.uniform(-0.5, 0.5, 6), strict=True)]
        for name in ("turn", "saturation", "lightness")
    }
    hues["turn"] = [(x, y * 90, None) for x, y, _ in hues["turn"]]
    hues["over"] = [(x, float(rng.uniform(-0.5, 0.5)), None) for x in (0.1, 0.4, 0.8)]
    found = {"lut": cube, "curves": curve_table(points), "path": path_table(drawn)}
    return {**found, "hues": hue_table(hues), f"hues{OVER}": over_table(hues)}


def node_cases(node: Node, seed: int) -> Iterator[Case]:
    """A node with each of its choices: once with inputs that differ from pixel to pixel where it takes them, once without."""
    choices = [[(port, c) for c in port.kind.choices] for port in node.inputs if port.kind.name == "choice"]
    combined = list(product(*choices))
    if len(combined) > 24:
        combined = combined[:: len(combined) // 24]
    for n, chosen in enumerate(combined):
        rng = np.random.default_rng([seed, n, *node.kind.encode()])
        case = None
        for pixel in (True, False):
            random = _Random(rng)
            given = {port.name: random.symbol(port, pixel) for port in node.inputs if port.kind.name != "choice"}
            given |= {port.name: choice for port, choice in chosen}
            colour = Vec(*random.channels[:3], 1.0)
            try:
                with in_scene(Scene(colour, path="parity")):
                    made = node.record(given)
            except Unfit:
                continue  # it takes only what changes once a frame
            numbers = [v for o in node.outputs for v in _numbers(made[o.name])]
            inputs = Inputs(random.uniforms, _tables(rng), _asset(rng), SEED)
            words = ", ".join(choice for _, choice in chosen)
            case = _shown(f"{node.kind} {words}".strip() + ("" if pixel else " (frame)"), numbers, inputs)
            yield case
        assert case is not None, f"{node.kind} takes nothing"


def _numbers(symbol: Symbol) -> list[Value]:
    if isinstance(symbol, Vec):
        return list(symbol.parts())
    if isinstance(symbol, p.Picture):
        return list(p.colour_here(symbol).parts())
    if symbol.kind == "bool":
        return [to_float(record("bool_to_int", symbol))]
    return [to_float(symbol) if symbol.kind == "int" else symbol]


SLOW = frozenset(("smooth", "median", "grow", "mask-distance", "soften", "box-blur"))
"""Filters that random graphs hold few of: NumPy takes seconds for them."""


def _literal(port: Port, rng: np.random.Generator) -> Any:
    kind: Type = port.kind
    low, high = (-1.0, 2.0) if kind.low is None or kind.high is None else (kind.low, kind.high)
    if kind.name == "boolean":
        return bool(rng.random() < 0.5)
    if kind.name == "whole":
        return int(rng.integers(int(low), int(high) + 1))
    if kind.name == "choice":
        return str(rng.choice(kind.choices))
    if kind.name in ("number", "mask", "any"):
        return round(float(rng.uniform(low, high)), 3)
    if kind.name in ("vec2", "vec3", "vec4"):
        return [round(float(rng.uniform(low, high)), 3) for _ in range(int(kind.name[3]))]
    if kind.name == "colour":
        return "#" + rng.bytes(3).hex()
    return None


def random_recipe(rng: np.random.Generator, count: int) -> Recipe:
    """A recipe of so many nodes that has nothing wrong with it. Its result is the colour that hangs on most of them."""
    kinds = [k for k in CATALOGUE if k not in SLOW]
    nodes: list[RecipeNode] = []
    wires: list[Wire] = []
    behind: dict[str, set[str]] = {}
    while len(nodes) < count or not any(_gives_colour(node) for node in nodes):
        kind = str(rng.choice(sorted(SLOW) if rng.random() < 0.03 else kinds))
        entry = CATALOGUE[kind]
        node = RecipeNode(id=f"n{len(nodes)}", kind=kind)
        fresh: list[Wire] = []
        for port in entry.inputs:
            sources = [
                f"{n.id}.{o.name}" for n in nodes for o in CATALOGUE[n.kind].outputs if converts(_out(o, n), port.kind.name)
            ]
            if sources and rng.random() < 0.8:
                fresh.append(Wire(source=str(rng.choice(sources[-5:])), target=f"{node.id}.{port.name}"))
            elif rng.random() < 0.5 and (plain := _literal(port, rng)) is not None:
                node.set[port.name] = plain
        trial = Recipe(nodes=[*nodes, node], wires=[*wires, *fresh], result=None)
        if any(fault.node == node.id for fault in check_recipe(trial, MATERIAL.known)):
            continue
        nodes, wires = trial.nodes, trial.wires
        behind[node.id] = {node.id}.union(*(behind[wire.source.split(".")[0]] for wire in fresh))
    last = max((node for node in nodes if _gives_colour(node)), key=lambda node: len(behind[node.id]))
    return Recipe(nodes=nodes, wires=wires, result=f"{last.id}.{CATALOGUE[last.kind].outputs[0].name}")


def _gives_colour(node: RecipeNode) -> bool:
    output = CATALOGUE[node.kind].outputs[0]
    # `any` may turn out as two numbers, which are no colour.
    return output.kind.name != "any" and converts(_out(output, node), "colour")


def _out(port: Port, node: RecipeNode) -> str:
    """An output's type before anything is wired; `any` may turn out wider, which the check then refuses."""
    return "number" if port.kind.name == "any" else port.kind.name


MATERIAL = Material()
SEED = 7
LEAST_OPERATIONS = 40


def graph_case(seed: int) -> Case:
    """A random graph as a case."""
    rng = np.random.default_rng([977, seed])
    while True:
        recipe = random_recipe(rng, int(rng.integers(4, 14)))
        scene = Scene(p.colour_here(p.CAMERA), path="graph")
        colour = result_of(Recorder(recipe, {}, scene, "graph", MATERIAL.known, True))
        # Not those whose result hangs on a corner of the graph only.
        if colour is None or len(ordered(colour.parts())[0]) < LEAST_OPERATIONS:
            continue
        uniforms: dict[str, float] = {}
        tables: dict[str, Any] = {}
        for one in settings(recipe, "graph", True):
            given = inputs_of(one, MATERIAL)
            uniforms |= given.uniforms
            tables |= given.tables
        return _shown(f"graph {seed}", list(colour.parts()[:3]), Inputs(uniforms, tables, seed=SEED))


def posed(
    x: float, y: float, z: float, turn: float, nod: float, tilt: float, scale: float, head: Sequence[float] = (0.0,) * 12
) -> tuple[float, ...]:
    """The numbers of a mesh (language/pictures.Vertices) that is drawn once, at rest: centimetres from the lens, degrees, a
    factor. `head`: three rows of four of a head that hides it."""
    placed = np.column_stack([rotation(turn, nod, tilt) * scale, (x, y, z)])
    return (-1.0, 0.0, 0.0, 0.6, 0.8, 0.4, 0.1, *placed.ravel().tolist(), *head, 1.0)


def mesh_case(seed: int) -> Case:
    """A random mesh, near enough that planes cut it at times, or a grid that is moved, over a smooth picture."""
    rng = np.random.default_rng([978, seed])
    meshes = {}
    if rng.random() < 0.7:
        count = int(rng.integers(8, 60))
        vertices, places = rng.normal(scale=6, size=(count, 3)), rng.random((count, 2))
        meshes["m"] = MeshData(vertices, places, rng.integers(0, count, (int(rng.integers(4, 50)), 3)))
        pose = [*rng.uniform((-8, -8, -45), (8, 8, -3)), *rng.uniform(-180, 180, 3), rng.uniform(0.3, 2.0)]
        drawn = Vertices("mesh", "m", tuple(constant(n) for n in posed(*pose)))
    else:
        across, down = (int(n) for n in rng.integers(1, 6, 2))
        moved = rng.normal(scale=0.08, size=2 * (across + 1) * (down + 1))
        drawn = Vertices("grid", f"{across}x{down}", tuple(constant(float(n)) for n in moved))
    attributes = p.drawn_mesh(drawn)
    u, v, depth, inside = (p.near(attributes, channel) for channel in range(4))
    painted = p.sample(p.asset_picture(ASSET), Vec(u, v))
    numbers = [inside * part + (1.0 - inside) * 0.5 for part in painted.parts()[:2]]
    # A place in the texture has a few units in its last place of error; noise of every pixel would show it.
    paint = np.asarray(cv2.resize(rng.integers(0, 256, (12, 12, 4), dtype=np.uint8), (64, 64)), np.uint8)
    inputs = Inputs({}, pictures={ASSET: Still.of(paint)}, seed=SEED, meshes=meshes)
    return _shown(f"mesh {seed}", [*numbers, depth * 0.01], inputs)
