"""Hue curves: against SciPy's monotone cubic, on pictures, and eight hues of older documents as they were."""

from __future__ import annotations

import colorsys
import json
from typing import Any

import numpy as np
import pytest
from scipy.interpolate import PchipInterpolator

from sunglaze.core.colour.hues import Point, across, around, hue_table, of_eight, over_table, read_hues
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer, parse_effect
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.recipe import read_recipe
from sunglaze.core.errors import BadEffect
from sunglaze.core.passes.program import Inputs
from tests.engines import drawn
from tests.nodes import camera

RNG = np.random.default_rng(11)
EIGHT = 0.0, 30.0, 60.0, 120.0, 180.0, 240.0, 275.0, 315.0
"""Degrees of the hues in documents of version 6, as they were saved: said here once more."""


def some(count: int, high: float = 1.0) -> list[Point]:
    places = np.sort(RNG.choice(np.arange(1, 359), count, replace=False))
    return [(float(x), float(y), None) for x, y in zip(places, RNG.uniform(-high, high, count), strict=True)]


@pytest.mark.parametrize("count", [2, 3, 5, 16])
def test_the_way_round_the_circle_is_scipys_monotone_cubic(count: int) -> None:
    """On three turns of the circle, of which the middle one is looked at."""
    points = some(count)
    places, heights = np.array([p[0] for p in points]), np.array([p[1] for p in points])
    wanted = PchipInterpolator(np.concatenate([places - 360, places, places + 360]), np.tile(heights, 3))
    x = np.linspace(0, 360, 1441)
    assert np.abs(around(points, x) - wanted(x)).max() < 1e-12


def test_over_lightness_it_goes_on_level() -> None:
    points = [(0.2, -0.4, None), (0.5, 0.3, None), (0.8, 0.1, None)]
    wanted = PchipInterpolator([-0.1, 0.2, 0.5, 0.8, 1.1], [-0.4, -0.4, 0.3, 0.1, 0.1])
    x = np.linspace(0, 1, 401)
    inside = (x >= 0.2) & (x <= 0.8)
    assert np.abs(across(points, x)[inside] - wanted(x)[inside]).max() < 1e-12
    assert across(points, np.array([0.0, 1.0])).tolist() == [-0.4, 0.1]


@pytest.mark.parametrize("seed", range(6))
def test_no_curve_breaks_nor_has_a_kink(seed: int) -> None:
    """Value and slope from the left and from the right of every point, and where the circle closes."""
    points = some(2 + seed * 2)
    points[0] = (*points[0][:2], 0.02)
    for place in [*(p[0] for p in points), 0.0]:
        near = around(points, np.array([place - 2e-4, place - 1e-4, place, place + 1e-4, place + 2e-4]))
        left, right = (near[1] - near[0]) / 1e-4, (near[4] - near[3]) / 1e-4
        assert abs(near[3] - near[1]) < 1e-3
        assert abs(left - right) < 1e-3, place
    x = np.array([0.0, 360.0])
    assert around(points, x)[0] == around(points, x)[1]


def by_eight(rows: np.ndarray) -> np.ndarray:
    """How documents of before version 7 had it: a way from hue to hue that starts and ends level (3 t^2 - 2 t^3)."""
    at = np.array([*EIGHT, 360.0])
    held = np.concatenate([rows, rows[:1]])
    x = np.linspace(0.0, 360.0, 721)
    n = np.clip(np.searchsorted(at, x, side="right") - 1, 0, 7)
    t = ((x - at[n]) / np.diff(at)[n])[:, None]
    t = t * t * (3 - 2 * t)
    return held[n] * (1 - t) + held[n + 1] * t


def old_rows() -> np.ndarray:
    return np.round(np.stack([RNG.uniform(-45, 45, 8), RNG.uniform(-1, 1, 8), RNG.uniform(-1, 1, 8)], axis=1), 3)


def test_eight_hues_become_the_same_curve() -> None:
    for _ in range(20):
        rows = old_rows()
        table = hue_table(read_hues(of_eight(rows.tolist())))
        assert np.abs(table[:, :3] - by_eight(rows) * [1 / 360, 1, 1]).max() < 1e-6


def shown(effect: Effect, picture: np.ndarray, tables: dict[str, np.ndarray] | None = None) -> np.ndarray:
    compiled = compile_effect(effect, Material())
    inputs = Inputs(compiled.inputs.uniforms, {**compiled.inputs.tables, **(tables or {})})
    return drawn(compiled.program.final, picture, inputs)[0]


@pytest.mark.parametrize("own", [False, True])
def test_pictures_of_older_documents_stay(own: bool) -> None:
    """Within 1 of 255 on random settings; a recipe of one's own, too."""
    picture = camera(60, 80)
    for _ in range(5):
        rows = old_rows()
        recipe = {
            "nodes": [{"id": "n", "kind": "hue-by-hue", "set": {"strength": 0.8}}],
            "inputs": [{"id": "hues", "to": ["n.hues"], "default": old_rows().tolist()}],
            "result": "n.out",
        }
        layer: dict[str, Any] = {"id": "l", "name": "l", "kind": "hue-by-hue", "values": {"hues": rows.tolist(), "strength": 0.8}}
        if own:
            layer = {"id": "l", "name": "l", "kind": "own", "recipe": recipe, "values": {"hues": rows.tolist()}}
        read = parse_effect(json.dumps({"format": "sun-glaze/effect", "version": 6, "name": "t", "layers": [layer]}))
        assert read.layers[0].kind == ("own" if own else "hue-curves")
        table = np.concatenate([by_eight(rows) * [1 / 360, 1, 1], np.zeros((721, 1))], axis=1).astype(np.float32)
        wanted = shown(read, picture, {"l.hues": table})
        assert np.abs(shown(read, picture) - wanted).max() <= 1 / 255
        bare = Effect(name="t", layers=[])
        assert np.abs(wanted - shown(bare, picture)).max() > 0.05


def test_a_recipe_by_itself_is_read_in_todays_words() -> None:
    read = read_recipe({
        "format": "sun-glaze/recipe", "version": 1,
        "nodes": [{"id": "n", "kind": "hue-by-hue", "set": {"hues": [[0, 0, 0]] * 7 + [[5, 0, 0]]}}], "result": "n.out",
    })  # fmt: skip
    assert read.nodes[0].kind == "hue-curves"
    assert read.nodes[0].set["hues"]["turn"][7] == [315.0, 5, 0.0]  # type: ignore[index, call-overload]


def test_what_said_how_few_says_how_many() -> None:
    drive = {"kind": "pulse", "values": {"low": 0.2, "seconds": 2}}
    layers = [
        {"id": "d", "name": "d", "kind": "dust", "values": {"few": 0.7, "rare": 0.98}},
        {"id": "g", "name": "g", "kind": "glitch", "values": {}, "drives": {"drops": drive}},
    ]
    read = parse_effect(json.dumps({"format": "sun-glaze/effect", "version": 6, "name": "t", "layers": layers}))
    assert read.layers[0].values == {"specks": 0.3, "scratches": 0.02}
    assert read.layers[1].drives["dropouts"].values == {"low": 0.8, "high": 0.0, "seconds": 2}


def test_a_hue_is_changed_and_others_and_greys_stay() -> None:
    """Blues lose their colour; hues by the standard library's colorsys."""
    curves = {"saturation": [[190, 0], [220, -1], [260, -1], [290, 0]]}
    pure = np.zeros((1, 9, 4), np.float32)
    for n in range(8):
        pure[0, n, :3] = colorsys.hsv_to_rgb(n * 45 / 360 + (15 / 360 if n == 5 else 0), 0.8, 0.9)
    pure[0, 8, :3] = 0.5
    layer = Layer(id="l", name="l", kind="hue-curves", values={"hues": curves})
    seen = shown(Effect(name="t", layers=[layer]), pure)[0]
    assert np.ptp(seen[5]) < 1e-3
    others = [0, 1, 2, 3, 7, 8]
    assert np.abs(seen[others] - pure[0][others][:, :3]).max() < 2e-3


def test_saturation_over_lightness_by_colorsys() -> None:
    """HSL of the standard library: dark colours lose half of their saturation, light ones stay."""
    curves = {"over": [[0.3, -0.5], [0.6, 0.0]]}
    picture = np.zeros((1, 2, 4), np.float32)
    picture[0, 0, :3] = colorsys.hls_to_rgb(0.1, 0.25, 0.8)
    picture[0, 1, :3] = colorsys.hls_to_rgb(0.1, 0.7, 0.8)
    layer = Layer(id="l", name="l", kind="hue-curves", values={"hues": curves})
    seen = shown(Effect(name="t", layers=[layer]), picture)[0]
    assert colorsys.rgb_to_hls(*map(float, seen[0]))[2] == pytest.approx(0.4, abs=2e-3)
    assert np.abs(seen[1] - picture[0, 1, :3]).max() < 1e-3
    assert over_table({}).any() == np.False_


@pytest.mark.parametrize(
    ("plain", "words"),
    [
        (3, "set as points for any of turn"),
        ({"red": []}, "set as points for any of turn"),
        ({"turn": [[0, 200]]}, "within 0 to 360 across and -180 to 180 up"),
        ({"saturation": [[360, 0]]}, "within 0 to 360 across"),
        ({"saturation": [[30, 0], [30, 1]]}, "from left to right"),
        ({"over": [[0.5, float("inf")]]}, "a place, a height"),
        ({"turn": [[n, 0] for n in range(17)]}, "up to 16 points"),
    ],
)
def test_bad_hue_curves_are_refused_in_words(plain: object, words: str) -> None:
    with pytest.raises(BadEffect, match=words):
        read_hues(plain)


def test_what_stood_at_another_default_before_stays_there() -> None:
    layers = [
        {"id": "s", "name": "s", "kind": "sparkle", "values": {"thick": 0.1}},
        {"id": "h", "name": "h", "kind": "hue-by-hue"},
    ]
    read = parse_effect(json.dumps({"format": "sun-glaze/effect", "version": 6, "name": "t", "layers": layers}))
    assert read.layers[0].values == {"amount": 6.0, "bright": 0.35, "thick": 0.1}
    # The eight rows that were the default then.
    assert read.layers[1].values["hues"]["turn"][5] == [240.0, -5, 0.0]  # type: ignore[index, call-overload]
    again = parse_effect(read.model_dump_json(by_alias=True))
    assert again.layers[0].values == read.layers[0].values
    today = Effect(name="t", layers=[Layer(id="s", name="s", kind="sparkle")])
    assert parse_effect(today.model_dump_json(by_alias=True)).layers[0].values == {}
