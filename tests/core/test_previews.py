"""Live views of a recipe's nodes: each shows what the node alone gives."""

from __future__ import annotations

import numpy as np

from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.recipe import Recipe, RecipeNode
from sunglaze.core.effect.shipped import shipped
from sunglaze.core.moment.moment import Moment
from sunglaze.core.prints.previews import Previews, numbers_of
from tests.core.test_recipes import GROUP, recipe
from tests.engines import drawn
from tests.nodes import camera

PICTURE = camera(48, 40)
BYTES = np.rint(PICTURE * 255).astype(np.uint8)


def own(made: Recipe, **values: object) -> Effect:
    return Effect(name="t", layers=[Layer(id="l", name="Own", kind="own", recipe=made, values=values)])


def test_every_node_shows_what_it_gives() -> None:
    nodes = {"b": "below", "m": ("multiply", {"b": 0.5}), "n": ("number", {"value": 0.25}), "c": "circle", "s": ("switch", {})}
    effect = own(recipe(nodes, ["b.out > m.a"], "m.out"))
    views = Previews(effect, Material(), "l").at(Moment.of(BYTES, 12), effect)
    assert set(views) == set(nodes)
    assert np.abs(views["m"].picture / 255.0 - PICTURE[..., :3] * 0.5).max() < 0.003
    assert numbers_of(views["n"]) == "0.25"
    assert numbers_of(views["s"]) == "yes"
    assert views["c"].kind == "mask"
    assert set(np.unique(views["c"].picture)) >= {0, 255}


def test_values_move_without_looking_anew() -> None:
    effect = own(recipe({"n": ("number", {"value": 0.25}), "t": "time"}, [], "n.out"))
    views = Previews(effect, Material(), "l")
    other = effect.model_copy(deep=True)
    other.layers[0].recipe.nodes[0].set["value"] = 0.75
    assert views.fits(other, "l", ())
    assert numbers_of(views.at(Moment.of(BYTES, 30), other)["n"]) == "0.75"
    assert numbers_of(views.at(Moment.of(BYTES, 45), other)["t"]) == "1.5"
    rewired = own(recipe({"n": ("number", {"value": 0.25})}, [], "n.out"))
    assert not views.fits(rewired, "l", ())


def test_faults_stand_beside_what_still_works() -> None:
    nodes = {"b": "below", "m": ("multiply", {"b": 0.5}), "c": "circle"}
    effect = own(recipe(nodes, ["b.out > m.a", "b.out > c.radius"], "m.out"))
    views = Previews(effect, Material(), "l")
    assert [(f.node, f.input) for f in views.faults] == [("c", "radius")]
    assert set(views.at(Moment.of(BYTES, 0), effect)) == {"b", "m"}


def test_inside_a_group_one_sees_what_it_was_given() -> None:
    effect = own(recipe({"b": "below", "g": "group:dim"}, ["b.out > g.picture"], "g.out", groups={"dim": GROUP}))
    views = Previews(effect, Material(), "l", ("g",)).at(Moment.of(BYTES, 0), effect)
    assert np.abs(views["m"].picture / 255.0 - PICTURE[..., :3] * 0.5).max() < 0.003
    assert Previews(effect, Material(), "l", ("gone",)).at(Moment.of(BYTES, 0), effect) == {}


def test_what_lies_below_is_in_the_view_and_a_broken_layer_below_does_not_stop_it() -> None:
    red = Layer(id="r", name="Red", kind="fill", values={"colour": "#ff0000"})
    made = recipe({"b": "below"}, [], "b.out")
    effect = Effect(name="t", layers=[red, *own(made).layers])
    assert (Previews(effect, Material(), "l").at(Moment.of(BYTES, 0), effect)["b"].picture == [255, 0, 0]).all()
    broken = Layer(id="x", name="Broken", kind="own", recipe=Recipe(nodes=[RecipeNode(id="a", kind="add")]))
    effect = Effect(name="t", layers=[broken, *own(made).layers])
    seen = Previews(effect, Material(), "l").at(Moment.of(BYTES, 0), effect)["b"].picture
    assert np.abs(seen / 255.0 - PICTURE[..., :3]).max() < 0.003


def test_the_last_nodes_view_is_the_layers_picture() -> None:
    for kind in ("sharpen", "posterize", "two-colour-map"):
        made = shipped()[kind]
        effect = Effect(name="t", layers=[Layer(id="l", name="x", kind=kind)])
        compiled = compile_effect(effect, Material())
        expected = drawn(compiled.program.final, (BYTES / 255).astype(np.float32), compiled.inputs)[0]
        last = (made.result or "").split(".")[0]
        seen = Previews(effect, Material(), "l").at(Moment.of(BYTES, 0), effect)[last].picture
        assert np.abs(seen / 255.0 - expected).max() < 0.004, kind
