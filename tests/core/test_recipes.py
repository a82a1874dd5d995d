"""Recipes: types and faults in words, groups, rings, nodes of newer versions, MaterialX, hostile documents, random graphs."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path
from typing import Any

import MaterialX as mx
import numpy as np
import pytest

from sunglaze.core.effect.address import address
from sunglaze.core.effect.compiling import compile_effect, has_same_form
from sunglaze.core.effect.document import Effect, Layer, moved, parse_effect, set_control
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.materialx import SAME, read_materialx, write_materialx
from sunglaze.core.effect.recipe import BadRecipe, Recipe, read_recipe, schema, write_recipe
from sunglaze.core.effect.recording import check_recipe
from sunglaze.core.effect.references import LookupRef
from sunglaze.core.effect.shipped import shipped
from sunglaze.core.errors import BadEffect, BadFile, GlazeError
from sunglaze.core.nodes.catalogue import CATALOGUE
from tests.engines import drawn
from tests.layers import fill, grade
from tests.nodes import camera
from tests.often import often

PICTURE = camera(48, 40)


def recipe(nodes: dict[str, Any], wires: list[str], result: str | None = None, **more: Any) -> Recipe:
    """`nodes`: id to kind, or to (kind, what is set); `wires`: "a.out > b.in"."""
    listed = [
        {"id": i, "kind": k if isinstance(k, str) else k[0], "set": {} if isinstance(k, str) else k[1]} for i, k in nodes.items()
    ]
    ends = [dict(zip(("from", "to"), wire.split(" > "), strict=True)) for wire in wires]
    return read_recipe({"format": "sun-glaze/recipe", "version": 1, "nodes": listed, "wires": ends, "result": result, **more})


def effect(own: Recipe, **values: Any) -> Effect:
    return Effect(name="t", layers=[Layer(id="l", name="Own", kind="own", recipe=own, values=values)])


def shown(own: Recipe, **values: Any) -> np.ndarray:
    compiled = compile_effect(effect(own, **values), Material())
    return drawn(compiled.program.final, PICTURE, compiled.inputs)[0]


def test_a_recipe_is_what_its_nodes_say() -> None:
    half = recipe({"b": "below", "m": ("multiply", {"b": 0.5})}, ["b.out > m.a"], "m.out")
    assert np.abs(shown(half) - PICTURE[..., :3] * 0.5).max() < 1e-6


def test_a_wire_that_does_not_fit_says_so_and_what_would() -> None:
    wrong = recipe({"t": "below", "c": "circle", "v": ("blend", {})}, ["t.out > c.radius", "c.out > v.mask"], "v.out")
    faults = check_recipe(wrong)
    assert [(f.node, f.input) for f in faults] == [("c", "radius")]
    assert "takes yes or no, whole number, number, mask; this wire brings colour" in faults[0].message
    with pytest.raises(BadRecipe, match="layer 'Own'") as caught:
        compile_effect(effect(wrong), Material())
    assert caught.value.layer == "l"
    assert caught.value.faults == faults


def test_a_fault_takes_nothing_down_that_does_not_need_it() -> None:
    nodes = {"b": "below", "m": ("multiply", {"b": 0.5}), "c": "circle"}
    side = recipe(nodes, ["b.out > m.a", "b.out > c.radius"], "m.out")
    assert len(check_recipe(side)) == 1
    assert np.abs(shown(side) - PICTURE[..., :3] * 0.5).max() < 1e-6


def test_a_ring_is_named_with_its_nodes() -> None:
    ring = recipe({"a": "add", "b": "multiply", "c": "sine"}, ["a.out > b.a", "b.out > c.a", "c.out > a.a"], "c.out")
    faults = check_recipe(ring)
    assert len(faults) == 1
    assert "wait for each other" in faults[0].message
    assert all(word in faults[0].message for word in ("Add", "Multiply", "Sine"))


@pytest.mark.parametrize(
    ("nodes", "wires", "result", "words"),
    [
        ({"a": "add"}, ["a.out > gone.a"], "a.out", "not in the recipe"),
        ({"a": "add"}, ["gone.out > a.a"], "a.out", "not in the recipe"),
        ({"a": "add", "b": "add"}, ["a.out > b.a", "a.out > b.a"], "b.out", "two wires"),
        ({"a": "add", "b": "add"}, ["a.sideways > b.a"], "b.out", "no output 'sideways'"),
        ({"a": "add", "b": "add"}, ["a.out > b.c"], "b.out", "does not have"),
        ({"a": ("add", {"z": 1})}, [], "a.out", "does not have"),
        ({"a": ("add", {"a": "red"})}, [], "a.out", "'A'"),
        ({"a": ("contrast", {"amount": [1, 2]})}, [], "a.out", "takes a number"),
        ({"a": ("blend", {"mode": "sparkle"})}, [], "a.out", "no choice here"),
        ({"a": ("colour", {"value": "red"})}, [], "a.out", "hexadecimal"),
        ({"a": ("whole-number", {"value": 0.5})}, [], "a.out", "whole number"),
        ({"a": "vector2", "b": "vector3", "c": "add"}, ["a.out > c.a", "b.out > c.b"], "c.out", "do not go together"),
        ({"a": "number", "b": "blend"}, ["a.out > b.mode"], "b.out", "takes no wire"),
        ({"c": "below", "l": "luminance", "f": "follow"}, ["c.out > l.colour", "l.out > f.target"], "f.out", "pixel to pixel"),
        ({"a": "add"}, [], None, "no result"),
        ({"a": "add"}, [], "b.out", "not in the recipe"),
        ({"a": "add"}, [], "a.more", "no output 'more'"),
        ({"a": "combine2"}, [], "a.out", "takes a colour"),
        ({"a": "switch"}, [], "a.out", "takes a colour"),
        ({"a": ("lookup-table", {"lookup": {"asset": "0" * 64}})}, [], "a.out", "is not there"),
        ({"a": ("asset-picture", {"asset": "0" * 64})}, [], "a.out", "is not there"),
        ({"a": ("curves", {"curves": {"all": [[0, 0]]}})}, [], "a.out", "2 to 16 points"),
        ({"a": "group:none"}, [], "a.out", "not in the recipe"),
    ],
)
def test_faults_are_in_words_and_at_their_place(nodes: Any, wires: list[str], result: str | None, words: str) -> None:
    faults = check_recipe(recipe(nodes, wires, result))
    assert any(words in fault.message for fault in faults), [f.message for f in faults]


def test_nodes_of_newer_versions_are_kept_and_named() -> None:
    own = recipe({"n": ("sunbeam-2", {"rays": [1, {"x": 2}]}), "m": "add"}, ["n.light > m.a"], "m.out")
    faults = check_recipe(own)
    assert faults[0].node == "n"
    assert "newer version" in faults[0].message
    assert read_recipe(write_recipe(own)) == own


def test_conversions_that_are_written_down() -> None:
    """A number is grey, a mask is white, a picture is its colour here, a colour becomes a picture by a pass."""
    grey = shown(recipe({"n": ("number", {"value": 0.25})}, [], "n.out"))
    assert (grey == 0.25).all()
    person = shown(recipe({"p": "region"}, [], "p.out"))
    assert np.abs(person - PICTURE[..., 3:]).max() < 1e-6
    bare = shown(recipe({"c": "camera", "m": ("multiply", {"b": 1.0})}, ["c.out > m.a"], "m.out"))
    assert np.array_equal(bare, PICTURE[..., :3])
    own = recipe({"b": "below", "i": "invert", "s": "blur"}, ["b.out > i.colour", "i.out > s.picture"], "s.out")
    assert len(compile_effect(effect(own), Material()).program.final.plan.passes) > 2


GROUP = {
    "nodes": [{"id": "m", "kind": "multiply", "set": {"b": 0.5}}, {"id": "a", "kind": "add", "set": {"b": 0.1}}],
    "wires": [{"from": "m.out", "to": "a.a"}],
    "inputs": [{"id": "picture", "to": ["m.a"]}, {"id": "much", "title": "How much", "to": ["m.b"], "low": 0, "high": 1}],
    "outputs": [{"id": "out", "from": "a.out"}],
}


def test_groups_have_inputs_and_outputs_and_lie_in_each_other() -> None:
    one = recipe({"b": "below", "g": "group:dim"}, ["b.out > g.picture"], "g.out", groups={"dim": GROUP})
    assert np.abs(shown(one) - np.clip(PICTURE[..., :3] * 0.5 + 0.1, 0, 1)).max() < 1e-6
    quarter = one.model_copy(deep=True)
    quarter.nodes[1].set["much"] = 0.25
    assert np.abs(shown(quarter) - np.clip(PICTURE[..., :3] * 0.25 + 0.1, 0, 1)).max() < 1e-6
    outer = {
        "nodes": [{"id": "one", "kind": "group:dim"}, {"id": "two", "kind": "group:dim", "set": {"much": 0.8}}],
        "wires": [{"from": "one.out", "to": "two.picture"}],
        "inputs": [{"id": "picture", "to": ["one.picture"]}],
        "outputs": [{"id": "out", "from": "two.out"}],
        "groups": {"dim": GROUP},
    }
    nested = recipe({"b": "below", "g": "group:twice"}, ["b.out > g.picture"], "g.out", groups={"twice": outer})
    assert np.abs(shown(nested) - np.clip((PICTURE[..., :3] * 0.5 + 0.1) * 0.8 + 0.1, 0, 1)).max() < 1e-6


def test_a_fault_in_a_group_says_the_way_there() -> None:
    broken = json.loads(json.dumps(GROUP))
    broken["nodes"][1]["set"]["b"] = "loud"
    own = recipe({"b": "below", "g": "group:dim"}, ["b.out > g.picture"], "g.out", groups={"dim": broken})
    fault = check_recipe(own)[0]
    assert (fault.path, fault.node, fault.input) == (["g"], "a", "b")


def test_groups_that_hold_themselves_cannot_be() -> None:
    """A group's inside sees only the groups that it carries."""
    own = recipe(
        {"g": "group:a"},
        [],
        "g.out",
        groups={"a": {"nodes": [{"id": "g", "kind": "group:a"}], "outputs": [{"id": "out", "from": "g.out"}]}},
    )
    assert any("not in the recipe" in fault.message for fault in check_recipe(own))
    deep: dict[str, Any] = {"format": "sun-glaze/recipe", "version": 1}
    inner = deep
    for _ in range(40):
        inner["groups"] = {"g": {}}
        inner = inner["groups"]["g"]
    with pytest.raises(BadEffect, match="deep"):
        read_recipe(deep)


def test_controls_move_without_a_new_program() -> None:
    own = recipe(
        {"b": "below", "m": ("multiply", {"b": 0.5})}, ["b.out > m.a"], "m.out",
        inputs=[{"id": "gain", "to": ["m.b"], "low": 0, "high": 2}],
    )  # fmt: skip
    one = effect(own)
    other = moved(one, address("l", "gain"), 0.25)
    assert has_same_form(one, other)
    programs = [compile_effect(e, Material()).program for e in (one, other)]
    assert programs[0].key == programs[1].key
    assert np.abs(shown(own, gain=0.25) - PICTURE[..., :3] * 0.25).max() < 1e-6
    turned = recipe({"b": "below", "m": ("multiply", {"b": 0.5})}, ["b.out > m.a"], "m.out")
    inside = moved(effect(turned), address("l", "m.b"), 0.75)
    assert has_same_form(effect(turned), inside)
    assert inside.layers[0].recipe is not None
    assert inside.layers[0].recipe.nodes[1].set["b"] == 0.75
    assert not has_same_form(one, moved(one, address("l", "layer:blend"), "screen"))
    graded = Effect(name="t", layers=[grade("g", LookupRef("0" * 64)), fill("f", "#102030")])
    assert has_same_form(graded, moved(graded, address("g", "strength"), 0.1))
    assert has_same_form(graded, moved(graded, address("f", "colour"), "#405060"))
    assert not has_same_form(graded, moved(graded, address("f", "colour"), "#40506080"))
    assert not has_same_form(graded, moved(graded, address("g", "lookup"), {"asset": "1" * 64}))
    assert not has_same_form(graded, moved(graded, address("g", "interpolation"), "trilinear"))
    assert set_control(effect(turned), "Own.m.b=0.1").layers[0].recipe.nodes[1].set["b"] == 0.1  # type: ignore[union-attr]
    with pytest.raises(BadEffect, match="outside"):
        moved(one, address("l", "gain"), 9.0)


@pytest.mark.parametrize("kind", shipped())
def test_ready_made_layers_are_sound_and_change_the_picture(kind: str) -> None:
    own = shipped()[kind]
    assert check_recipe(own) == []
    assert read_recipe(write_recipe(own)) == own
    layer = Layer(id="l", name="x", kind=kind, blend=own.start.blend, opacity=own.start.opacity)
    compiled = compile_effect(Effect(name="t", layers=[layer]), Material())
    large = camera(320, 240)
    seen = drawn(compiled.program.final, large, compiled.inputs)[0]
    # These need a lookup, a picture, earlier frames, a face or a cue.
    alone = ("lookup-grade", "picture", "pinned-picture", "overlay", "trails", "drift", "face-follow", "freeze")
    if kind not in alone and own.family != "Face" and kind != "ring-in-depth":
        assert np.abs(seen - large[..., :3]).max() > 0.01
    off = compile_effect(Effect(name="t", layers=[layer.model_copy(update={"on": False})]), Material())
    assert np.array_equal(drawn(off.program.final, PICTURE, off.inputs)[0], PICTURE[..., :3])


def test_the_schema_is_published_and_documents_keep_it() -> None:
    plain = schema()
    # Renewed by: python -c "import json; from sunglaze.core.effect.recipe import schema; print(json.dumps(schema(), indent=2))"
    assert json.loads(Path("docs/recipe.schema.json").read_text()) == plain
    assert plain["$defs"]["Recipe"]["properties"]["nodes"]["type"] == "array"
    assert set(plain["$defs"]["Wire"]["required"]) == {"from", "to"}


def test_materialx_there_and_back() -> None:
    nodes = {
        "b": ("colour", {"value": "#a8420d"}), "m": ("multiply", {"b": 0.5}), "s": ("separate3", {}), "c": ("combine3", {}),
        "p": ("place", {"turn": 30.0, "shift": [0.1, 0.2], "pivot": [0.5, 0.25]}), "g": "film-grain",
    }  # fmt: skip
    own = recipe(nodes, ["b.out > m.a", "m.out > s.vector", "s.z > c.x", "s.x > c.z", "c.out > g.colour"], "m.out")
    exported = write_materialx(own)
    assert exported.left_out == ["Film grain"]
    document = mx.createDocument()
    mx.readFromXmlString(document, exported.text)
    graph = document.getNodeGraph("recipe")
    linear = [float(x) for x in graph.getNode("b").getInput("value").getValueString().split(",")]
    assert linear[0] == pytest.approx(((0xA8 / 255 + 0.055) / 1.055) ** 2.4, abs=1e-5)
    assert graph.getNode("p").getInput("rotate").getValueString() == "-30"
    assert [float(x) for x in graph.getNode("p").getInput("offset").getValueString().split(",")] == [0.1, -0.2]
    assert graph.getNode("c").getInput("in1").getOutputString() == "outz"
    back = read_materialx(exported.text.encode())
    assert back.left_out == []
    assert {n.id: n.kind for n in back.recipe.nodes} == {
        i: (k if isinstance(k, str) else k[0]) for i, k in nodes.items() if i != "g"
    }
    assert {(w.source, w.target) for w in back.recipe.wires} == {
        (w.source, w.target) for w in own.wires if w.target != "g.colour"
    }
    assert back.recipe.result == "m.out"
    place = next(n for n in back.recipe.nodes if n.id == "p")
    assert (place.set["turn"], place.set["shift"], place.set["pivot"]) == (30.0, [0.1, 0.2], [0.5, 0.25])
    assert np.abs(shown(back.recipe) - shown(own)).max() < 1e-4


def test_materialx_documents_are_valid_by_its_own_library() -> None:
    library = mx.createDocument()
    mx.loadLibraries(mx.getDefaultDataLibraryFolders(), mx.getDefaultDataSearchPath(), library)
    known = {node.getNodeString() for node in library.getNodeDefs()}
    assert {same.category for same in SAME.values()} <= known
    for kind in ("add", "contrast", "separate4", "hsv-to-rgb", "place", "remap"):
        document = mx.createDocument()
        mx.readFromXmlString(document, write_materialx(recipe({"x": kind}, [])).text)
        document.importLibrary(library)
        node = document.getNodeGraph("recipe").getNodes()[0]
        allowed = {i.getName() for d in library.getMatchingNodeDefs(node.getCategory()) for i in d.getActiveInputs()}
        assert set(SAME[kind].inputs.values()) <= allowed, kind


@pytest.mark.parametrize(
    "data", [b"", b"<", b"<materialx>", b"\xff\xfe", b"{}", b'<?xml version="1.0"?><materialx version="1.39"/>']
)
def test_what_is_no_materialx_is_refused(data: bytes) -> None:
    with pytest.raises(BadFile):
        read_materialx(data)


def test_foreign_materialx_keeps_what_it_can() -> None:
    text = """<?xml version="1.0"?><materialx version="1.39"><nodegraph name="g">
      <noise2d name="n" type="float"/><add name="a" type="float"><input name="in1" type="float" nodename="n"/>
      <input name="in2" type="float" value="0.5"/></add><output name="out" type="float" nodename="a"/></nodegraph></materialx>"""
    found = read_materialx(text.encode())
    assert found.left_out == ["n (noise2d)"]
    assert found.recipe.nodes[0].set == {"b": 0.5}
    assert found.recipe.result == "a.out"


def test_hostile_documents_end_in_words() -> None:
    """Random damage to a shipped recipe as JSON: a fault, a refusal, or a recipe; never another error."""
    rng = np.random.default_rng(5)
    text = write_recipe(shipped()["colour-fringes"])
    outcomes = {"refused": 0, "read": 0}
    values = [None, -1, 1e308, "", [], {}, True, "a.b", [1, 2, 3, 4, 5], {"asset": 3}]
    for _ in range(300):
        plain = json.loads(text)
        for _ in range(int(rng.integers(1, 4))):
            place: Any = plain
            for _ in range(int(rng.integers(1, 5))):
                keys = list(place) if isinstance(place, dict) else range(len(place)) if isinstance(place, list) else []
                if not len(keys):
                    break
                key = keys[int(rng.integers(0, len(keys)))]
                if rng.random() < 0.4 or not isinstance(place[key], dict | list):
                    place[key] = values[int(rng.integers(0, len(values)))]
                    break
                place = place[key]
        try:
            own = read_recipe(plain)
            check_recipe(own)
            parse_effect(effect(own).model_dump(by_alias=True))
            outcomes["read"] += 1
        except GlazeError:
            outcomes["refused"] += 1
    assert min(outcomes.values()) > 20


@pytest.mark.parametrize("count", often(8, 30))
def test_random_graphs_on_hostile_pictures_in_a_child_process(count: int) -> None:
    """NaN, infinities, huge numbers, pictures of one pixel: a crash or a read outside would end the child; no NaN leaves."""
    code = (
        "import numpy as np\n"
        "from sunglaze.parity.generating import graph_case\n"
        "from sunglaze.core.targets.memory import padded\n"
        "from sunglaze.core.engine.running import draw, run\n"
        "from sunglaze.core.moment.moment import Moment, Screen\n"
        "rng = np.random.default_rng(0)\n"
        "hostile = np.array([np.nan, np.inf, -np.inf, 0, -0.0, 3e38, -3e38, 1e-40, 1, 0.5], np.float32)\n"
        f"for seed in range(500, {500 + count}):\n"
        "    case = graph_case(seed)\n"
        "    for shape in ((1, 1), (3, 9), (17, 2)):\n"
        "        run(case.exact, Moment.of(rng.choice(hostile, (*shape, 4))), case.inputs)\n"
        "        words = rng.integers(0, 2**32, (shape[0], padded(shape[1])), dtype=np.uint32)\n"
        "        draw(case.program.final, Moment(screen=Screen(shape[1], shape[0]), picture=words), case.inputs)\n"
        "        finite = run(case.exact, Moment.of(rng.random((*shape, 4)).astype(np.float32)), case.inputs)\n"
        "        assert all(np.isfinite(f).all() for f in finite), seed\n"
        "print('alive')\n"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=250)
    assert done.stdout.strip() == "alive", done.stderr[-2000:]


def test_every_node_says_what_it_cannot_take() -> None:
    """Each input of each node, given what does not fit: a fault at that input, and nothing else breaks."""
    for entry in CATALOGUE.values():
        for port in entry.inputs:
            own = recipe({"x": (entry.kind, {port.name: {"no": "sense"}})}, [], None)
            assert any(f.node == "x" and f.input == port.name for f in check_recipe(own)), f"{entry.kind}.{port.name}"


def test_every_ready_made_layer_says_what_else_it_is_called() -> None:
    """The palette finds by these words; none repeats the layer's own name."""
    for kind, recipe in shipped().items():
        assert recipe.also, kind
        assert recipe.name.lower() not in [word.lower() for word in recipe.also]
        assert len(set(recipe.also)) == len(recipe.also)
