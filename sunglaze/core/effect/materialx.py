"""Recipes as MaterialX (.mtlx), the open standard, for the nodes of ours that its standard library has.

MaterialX's colours are linear and its v runs up: set colours are converted, and so are places that are set. What has no
counterpart is left out and named; wires to it then end.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import MaterialX as mx
import numpy as np
from pydantic import ValidationError

from sunglaze.core.colour.spaces import encoded, linear
from sunglaze.core.effect.literals import Known
from sunglaze.core.effect.recipe import Plain, Recipe, RecipeNode, Wire, ends
from sunglaze.core.effect.recording import Recorder
from sunglaze.core.effect.references import colour_parts
from sunglaze.core.errors import BadFile, in_words
from sunglaze.core.language.pictures import CAMERA, colour_here
from sunglaze.core.nodes.catalogue import CATALOGUE
from sunglaze.core.nodes.node import Scene

GRAPH = "recipe"


@dataclass(frozen=True)
class Same:
    """A node's counterpart: its category, and its names of our inputs. `fixed`: inputs of theirs that ours stand for."""

    category: str
    inputs: dict[str, str] = field(default_factory=dict)
    outputs: dict[str, str] = field(default_factory=dict)
    fixed: dict[str, Plain] = field(default_factory=dict)


_TWO = {"a": "in1", "b": "in2"}
_ONE = {"a": "in"}
SAME: dict[str, Same] = {
    **{kind: Same(kind, _TWO) for kind in ("add", "subtract", "multiply", "divide", "modulo", "distance")},
    **{kind: Same(kind, _ONE) for kind in ("sign", "floor", "ceil", "round", "fract", "normalize")},
    "power": Same("power", {"a": "in1", "exponent": "in2"}),
    "absolute": Same("absval", _ONE),
    "minimum": Same("min", _TWO),
    "maximum": Same("max", _TWO),
    "clamp": Same("clamp", {"a": "in", "low": "low", "high": "high"}),
    "mix": Same("mix", {"a": "bg", "b": "fg", "amount": "mix"}),
    "smoothstep": Same("smoothstep", {"a": "in", "low": "low", "high": "high"}),
    "remap": Same("remap", {"a": "in", "from_low": "inlow", "from_high": "inhigh", "to_low": "outlow", "to_high": "outhigh"}),
    "square-root": Same("sqrt", _ONE),
    "exponential": Same("exp", _ONE),
    "logarithm": Same("ln", _ONE),
    "dot": Same("dotproduct", _TWO),
    "cross": Same("crossproduct", _TWO),
    "length": Same("magnitude", _ONE),
    "one-minus": Same("invert", _ONE, fixed={"amount": 1.0}),
    "contrast": Same("contrast", {"colour": "in", "amount": "amount", "pivot": "pivot"}),
    "saturate": Same("saturate", {"colour": "in", "amount": "amount"}),
    "rgb-to-hsv": Same("rgbtohsv", {"colour": "in"}),
    "hsv-to-rgb": Same("hsvtorgb", {"hsv": "in"}),
    "premultiply": Same("premult", {"colour": "in"}),
    "unpremultiply": Same("unpremult", {"colour": "in"}),
    "number": Same("constant", {"value": "value"}),
    "colour": Same("constant", {"value": "value"}),
    "vector2": Same("constant", {"value": "value"}),
    "vector3": Same("constant", {"value": "value"}),
    "vector4": Same("constant", {"value": "value"}),
    "combine2": Same("combine2", {"x": "in1", "y": "in2"}),
    "combine3": Same("combine3", {"x": "in1", "y": "in2", "z": "in3"}),
    "combine4": Same("combine4", {"x": "in1", "y": "in2", "z": "in3", "w": "in4"}),
    "separate2": Same("separate2", {"vector": "in"}, {"x": "outx", "y": "outy"}),
    "separate3": Same("separate3", {"vector": "in"}, {"x": "outx", "y": "outy", "z": "outz"}),
    "separate4": Same("separate4", {"vector": "in"}, {"x": "outx", "y": "outy", "z": "outz", "w": "outw"}),
    "screen-coordinates": Same("texcoord"),
    "place": Same("place2d", {"place": "texcoord", "shift": "offset", "turn": "rotate", "scale": "scale", "pivot": "pivot"}),
    "time": Same("time"),
    "frame": Same("frame"),
}
TYPES = {
    "number": "float", "mask": "float", "whole": "integer", "boolean": "boolean", "vec2": "vector2", "vec3": "vector3",
    "vec4": "vector4", "colour": "color4",
}  # fmt: skip
OURS = {theirs: ours for ours, theirs in TYPES.items() if ours != "mask"} | {"color3": "colour"}


@dataclass(frozen=True)
class Exported:
    """`left_out`: titles of nodes that MaterialX's library does not have."""

    text: str
    left_out: list[str]


@dataclass(frozen=True)
class Imported:
    """`left_out`: names and categories of elements that are no nodes of ours."""

    recipe: Recipe
    left_out: list[str]


def _upwards(kind: str, name: str, plain: Any) -> Any:
    """A place or turn that is set, with v running the other way. Its own opposite."""
    if kind != "place" or not isinstance(plain, list | int | float):
        return plain
    if name == "turn":
        return -plain if not isinstance(plain, list) else plain
    if isinstance(plain, list) and len(plain) == 2 and name in ("shift", "pivot"):
        return [plain[0], -plain[1] if name == "shift" else 1 - plain[1]]
    return plain


def write_materialx(recipe: Recipe) -> Exported:
    """The recipe's nodes as a MaterialX document with one node graph."""
    document = mx.createDocument()
    document.setColorSpace("lin_rec709")
    graph = document.addNodeGraph(GRAPH)
    kinds = _kinds(recipe)
    written = {n.id: n for n in recipe.nodes if n.kind in SAME}
    left_out = [_title(n) for n in recipe.nodes if n.id not in written]
    for node in written.values():
        same, entry = SAME[node.kind], CATALOGUE[node.kind]
        many = len(entry.outputs) > 1
        given = "multioutput" if many else TYPES[kinds.get((node.id, entry.outputs[0].name), "number")]
        element = graph.addNode(same.category, node.id, given)
        element.setAttribute("xpos", f"{node.at[0]:g}")
        element.setAttribute("ypos", f"{node.at[1]:g}")
        for port in entry.inputs:
            theirs = same.inputs.get(port.name)
            plain = node.set.get(port.name)
            if theirs is not None and plain is not None:
                kind = port.kind.name if port.kind.name != "any" else _kind_of(plain)
                _write(element, theirs, kind, _upwards(node.kind, port.name, plain))
        for theirs, plain in same.fixed.items():
            _write(element, theirs, _kind_of(plain), plain)
    for wire in recipe.wires:
        (source, output), (target, name) = ends(wire.source), ends(wire.target)
        if source in written and target in written and name in SAME[written[target].kind].inputs:
            theirs = SAME[written[target].kind].inputs[name]
            found = graph.getNode(target)
            found.removeInput(theirs)
            made = found.addInput(theirs, TYPES[kinds.get((source, output), "number")])
            made.setNodeName(source)
            if output in SAME[written[source].kind].outputs:
                made.setOutputString(SAME[written[source].kind].outputs[output])
    if recipe.result is not None and ends(recipe.result)[0] in written:
        source, output = ends(recipe.result)
        end = graph.addOutput("out", TYPES[kinds.get((source, output), "number")])
        end.setNodeName(source)
        if output in SAME[written[source].kind].outputs:
            end.setOutputString(SAME[written[source].kind].outputs[output])
    return Exported(mx.writeToXmlString(document), left_out)


def _title(node: RecipeNode) -> str:
    return node.name or (CATALOGUE[node.kind].title if node.kind in CATALOGUE else node.kind)


def _kinds(recipe: Recipe) -> dict[tuple[str, str], str]:
    """The type of every output that can be told."""
    recorder = Recorder(recipe, {}, Scene(colour_here(CAMERA)), "mtlx", Known(), True)
    found: dict[tuple[str, str], str] = {}
    for node in recipe.nodes:
        for name, given in (recorder.try_outputs(node.id) or {}).items():
            found[node.id, name] = given.kind if given.kind in TYPES else "colour"
    return found


def _kind_of(plain: Any) -> str:
    return f"vec{len(plain)}" if isinstance(plain, list) else "number"


def _write(element: Any, name: str, kind: str, plain: Any) -> None:
    if kind == "colour":
        r, g, b, a = colour_parts(plain)
        numbers: list[Any] = [*linear(np.array([r, g, b])).tolist(), a]
    elif kind == "boolean":
        numbers = ["true" if plain else "false"]
    else:
        numbers = plain if isinstance(plain, list) else [plain]
        if kind in ("vec2", "vec3", "vec4") and len(numbers) == 1:
            numbers = numbers * int(kind[3])
    made = element.addInput(name, TYPES[kind])
    made.setValueString(", ".join(f"{n:.7g}" if not isinstance(n, str) else n for n in numbers))


def read_materialx(data: bytes) -> Imported:
    """A recipe from a MaterialX document: the nodes of its first node graph, or of the document itself. Raises BadFile."""
    if b"<!DOCTYPE" in data or b"<!ENTITY" in data:
        raise BadFile("the document declares entities, which MaterialX has no use for; take its DOCTYPE out")
    try:
        return _read_document(data)
    except ValidationError as error:
        raise BadFile(f"the document does not make a recipe: {in_words(error)}") from None


def _read_document(data: bytes) -> Imported:
    document = mx.createDocument()
    options = mx.XmlReadOptions()
    options.readXIncludeFunction = None  # a document may not reach for other files
    try:
        mx.readFromXmlString(document, data.decode("utf-8"), readOptions=options)
    except (mx.Exception, mx.ExceptionParseError, mx.ExceptionFileMissing, ValueError, RuntimeError) as error:
        raise BadFile(f"this is no MaterialX document: {str(error).strip().splitlines()[0]}") from None
    graphs = document.getNodeGraphs()
    home = graphs[0] if graphs else document
    nodes: list[RecipeNode] = []
    wires: list[Wire] = []
    left_out: list[str] = []
    kinds: dict[str, str] = {}
    for element in home.getNodes():
        kind = _kind_for(element)
        if kind is None or len(element.getName()) > 40:
            left_out.append(f"{element.getName()} ({element.getCategory()})")
            continue
        kinds[element.getName()] = kind
        nodes.append(RecipeNode(id=element.getName(), kind=kind, at=_position(element, len(nodes))))
    for node in nodes:
        element = home.getNode(node.id)
        back = {theirs: ours for ours, theirs in SAME[node.kind].inputs.items()}
        for given in element.getInputs():
            ours = back.get(given.getName())
            if ours is None:
                continue
            source = given.getNodeName()
            if source in kinds:
                wires.append(
                    Wire(source=f"{source}.{_output(kinds[source], given.getOutputString())}", target=f"{node.id}.{ours}")
                )
            elif not source and (plain := _read(given)) is not None:
                node.set[ours] = _upwards(node.kind, ours, plain)
    result = None
    for end in home.getOutputs():
        if end.getNodeName() in kinds:
            result = f"{end.getNodeName()}.{_output(kinds[end.getNodeName()], end.getOutputString())}"
            break
    if not nodes and not left_out:
        raise BadFile("the MaterialX document has no nodes")
    name = (graphs[0].getName() if graphs else "") or "MaterialX"
    return Imported(Recipe(name=name[:80], nodes=nodes, wires=wires, result=result), left_out)


def _position(element: Any, place: int) -> tuple[float, float]:
    try:
        return float(element.getAttribute("xpos")), float(element.getAttribute("ypos"))
    except ValueError:
        return 40.0 + 220 * (place % 5), 40.0 + 140 * (place // 5)


def _kind_for(element: Any) -> str | None:
    """Our node for an element: constants by their type, the others by category."""
    category = element.getCategory()
    if category == "constant":
        by_type = {"float": "number", "color3": "colour", "color4": "colour"}
        by_type |= {f"vector{n}": f"vector{n}" for n in (2, 3, 4)}
        return by_type.get(element.getType())
    return next((kind for kind, same in SAME.items() if same.category == category), None)


def _output(kind: str, theirs: str) -> str:
    names = {their: our for our, their in SAME[kind].outputs.items()}
    return names.get(theirs) or CATALOGUE[kind].outputs[0].name


def _read(given: Any) -> Plain:
    kind, text = given.getType(), given.getValueString()
    try:
        numbers = [float(part) for part in text.split(",")] if kind not in ("boolean", "string", "filename") else []
    except ValueError:
        return None
    if kind == "boolean":
        return bool(text == "true")
    if kind == "integer" and numbers:
        return int(numbers[0])
    if kind in ("color3", "color4") and len(numbers) in (3, 4):
        return [*encoded(np.maximum(numbers[:3], 0.0)).tolist(), *numbers[3:]]
    if kind == "float" and numbers:
        return numbers[0]
    return list(numbers) if kind.startswith("vector") and len(numbers) in (2, 3, 4) else None
