"""Maths, values and shapes against NumPy and plain geometry."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
import pytest
from skimage import draw

from sunglaze.core.language.expression import constant
from sunglaze.core.language.vector import Vec
from sunglaze.core.nodes.catalogue import CATALOGUE
from tests.nodes import channel, render

RNG = np.random.default_rng(3)
ROUND = np.array([-2.0, -1.5, -1.0, -0.5, 0.0, 0.5, 1.0, 1.5, 2.0])
NUMBERS = np.zeros((6, 40, 4), np.float32)
NUMBERS[..., :3] = RNG.uniform(-3, 3, (6, 40, 3))
NUMBERS[0, :9, 0], NUMBERS[0, :9, 1], NUMBERS[0, :9, 2] = ROUND, ROUND[::-1], ROUND
A, B, C = (NUMBERS[..., n].astype(np.float64) for n in range(3))
Safe = np.where(B == 0, 1, B)

WANTED: dict[str, tuple[dict[str, int], Callable[[], np.ndarray]]] = {
    "add": ({"a": 0, "b": 1}, lambda: A + B),
    "subtract": ({"a": 0, "b": 1}, lambda: A - B),
    "multiply": ({"a": 0, "b": 1}, lambda: A * B),
    "divide": ({"a": 0, "b": 1}, lambda: np.where(B == 0, 0, A / Safe)),
    "power": ({"a": 0, "exponent": 1}, lambda: np.where(B == 0, 1, np.where(A > 0, np.abs(np.where(A > 0, A, 1)) ** B, 0))),
    "modulo": ({"a": 0, "b": 1}, lambda: np.where(B == 0, 0, A - B * np.floor(A / Safe))),
    "absolute": ({"a": 0}, lambda: np.abs(A)),
    "sign": ({"a": 0}, lambda: np.sign(A)),
    "floor": ({"a": 0}, lambda: np.floor(A)),
    "ceil": ({"a": 0}, lambda: np.ceil(A)),
    "round": ({"a": 0}, lambda: np.floor(A + 0.5)),
    "fract": ({"a": 0}, lambda: A - np.floor(A)),
    "minimum": ({"a": 0, "b": 1}, lambda: np.minimum(A, B)),
    "maximum": ({"a": 0, "b": 1}, lambda: np.maximum(A, B)),
    "clamp": ({"a": 0, "low": 1, "high": 2}, lambda: np.clip(A, B, C)),
    "mix": ({"a": 0, "b": 1, "amount": 2}, lambda: A + (B - A) * C),
    "step": ({"a": 0, "edge": 1}, lambda: (A >= B).astype(float)),
    "sine": ({"a": 0}, lambda: np.sin(np.radians(A))),
    "cosine": ({"a": 0}, lambda: np.cos(np.radians(A))),
    "tangent": ({"a": 0}, lambda: np.tan(np.radians(A))),
    "atan2": ({"y": 0, "x": 1}, lambda: np.degrees(np.arctan2(A, B))),
    "square-root": ({"a": 0}, lambda: np.sqrt(np.maximum(A, 0))),
    "exponential": ({"a": 0}, lambda: np.exp(A)),
    "one-minus": ({"a": 0}, lambda: 1 - A),
}


@pytest.mark.parametrize("kind", WANTED)
def test_maths_against_numpy(kind: str) -> None:
    inputs, want = WANTED[kind]
    seen = render(kind, NUMBERS, **{name: channel(n) for name, n in inputs.items()})[..., 0]
    with np.errstate(all="ignore"):
        wanted = want()
    assert (np.abs(seen - wanted) / np.maximum(1, np.abs(wanted))).max() < 2e-5


def test_logarithm_smoothstep_and_remap() -> None:
    positive = np.abs(NUMBERS) + np.float32(0.01)
    assert np.abs(render("logarithm", positive, a=channel(0))[..., 0] - np.log(positive[..., 0].astype(np.float64))).max() < 1e-5
    t = np.clip((A + 1) / 2.5, 0, 1)
    assert np.abs(render("smoothstep", NUMBERS, a=channel(0), low=-1.0, high=1.5)[..., 0] - t * t * (3 - 2 * t)).max() < 1e-5
    assert set(np.unique(render("smoothstep", NUMBERS, a=channel(0), low=0.5, high=0.5))) == {0.0, 1.0}
    given = {"a": channel(0), "from_low": -1.0, "from_high": 1.0, "to_low": 10.0, "to_high": 20.0}
    assert np.abs(render("remap", NUMBERS, **given)[..., 0] - (15 + 5 * A)).max() < 1e-4
    assert np.abs(render("remap", NUMBERS, clamped=True, **given)[..., 0] - np.clip(15 + 5 * A, 10, 20)).max() < 1e-4
    assert (render("remap", NUMBERS, **{**given, "from_high": -1.0})[..., 0] == 10).all()


def test_vectors() -> None:
    three, other = Vec(channel(0), channel(1), channel(2)), Vec(channel(2), channel(0), channel(1))
    x, y = NUMBERS[..., :3].astype(np.float64), NUMBERS[..., [2, 0, 1]].astype(np.float64)
    assert np.abs(render("dot", NUMBERS, a=three, b=other)[..., 0] - (x * y).sum(-1)).max() < 1e-5
    assert np.abs(render("length", NUMBERS, a=three)[..., 0] - np.linalg.norm(x, axis=-1)).max() < 1e-5
    assert np.abs(render("distance", NUMBERS, a=three, b=other)[..., 0] - np.linalg.norm(x - y, axis=-1)).max() < 1e-5
    assert np.abs(render("cross", NUMBERS, a=three, b=other)[..., :3] - np.cross(x, y)).max() < 1e-4
    size = np.linalg.norm(x, axis=-1, keepdims=True)
    assert np.abs(render("normalize", NUMBERS, a=three)[..., :3] - x / np.where(size == 0, 1, size)).max() < 1e-5
    moved = render(
        "reorder", NUMBERS, vector=Vec(channel(0), channel(1), channel(2), 5.0), first="z", second="1", third="x", fourth="0"
    )
    assert np.array_equal(
        moved[0, :5], np.stack([NUMBERS[0, :5, 2], np.ones(5), NUMBERS[0, :5, 0], np.zeros(5)], -1).astype(np.float32)
    )
    for n, name in enumerate(("x", "y", "z")):
        assert np.array_equal(render("separate3", NUMBERS, name, vector=three)[..., 0], NUMBERS[..., n])


def test_conditions_and_choices() -> None:
    want = {"less": A < B, "at most": A <= B, "equal": A == B, "different": A != B, "at least": A >= B, "more": A > B}
    for how, expected in want.items():
        seen = render("compare", NUMBERS, a=channel(0), b=channel(1), how=how)[..., 0]
        assert np.array_equal(seen > 0.5, expected), how
    p, q = channel(0) > 0.0, channel(1) > 0.0
    assert np.array_equal(render("and", NUMBERS, a=p, b=q)[..., 0] > 0.5, (A > 0) & (B > 0))
    assert np.array_equal(render("or", NUMBERS, a=p, b=q)[..., 0] > 0.5, (A > 0) | (B > 0))
    assert np.array_equal(render("not", NUMBERS, a=p)[..., 0] > 0.5, A <= 0)
    assert np.array_equal(
        render("choose", NUMBERS, condition=p, yes=channel(1), no=channel(2))[..., 0], np.where(A > 0, B, C).astype(np.float32)
    )
    names = ("first", "second", "third", "fourth", "fifth", "sixth")
    for index in (-2, 0, 1, 3, 5, 99):
        seen = render("choose-among", NUMBERS, index=index, **{name: float(n) for n, name in enumerate(names)})
        assert (seen == min(max(index, 0), 5)).all()


def test_what_a_frame_brings() -> None:
    picture = np.zeros((96, 64, 4), np.float32)
    assert render("aspect", picture)[0, 0, 0] == pytest.approx(64 / 96)
    assert render("resolution", picture)[0, 0].tolist() == [64, 96]
    assert render("pixel-size", picture)[0, 0].tolist() == pytest.approx([1 / 64, 1 / 96])
    assert render("reference-pixel", picture)[0, 0].tolist() == pytest.approx([1 / 720, 64 / 720 / 96])
    u = render("screen-coordinates", picture)
    assert u[0, 0].tolist() == pytest.approx([0.5 / 64, 0.5 / 96])
    assert u[95, 63].tolist() == pytest.approx([63.5 / 64, 95.5 / 96])


SIDE = 400
BLANK = np.zeros((SIDE, SIDE, 4), np.float32)


def area(kind: str, **given: object) -> float:
    return float(render(kind, BLANK, **given)[..., 0].mean())


def test_shapes_have_their_areas() -> None:
    assert area("circle", radius=0.3) == pytest.approx(math.pi * 0.09, rel=2e-3)
    assert area("box", width=0.6, height=0.4, turn=33.0) == pytest.approx(0.24, rel=2e-3)
    want = 0.6 * 0.4 - (4 - math.pi) * 0.1**2
    assert area("rounded-box", width=0.6, height=0.4, rounding=0.1) == pytest.approx(want, rel=2e-3)
    assert area("ring", radius=0.3, thickness=0.1) == pytest.approx(2 * math.pi * 0.3 * 0.1, rel=3e-3)
    assert area("dashed-ring", radius=0.3, thickness=0.1, dashes=8, filled=0.5) == pytest.approx(math.pi * 0.3 * 0.1, rel=2e-2)
    assert area("line", thickness=0.1) == pytest.approx(0.6 * 0.1 + math.pi * 0.05**2, rel=3e-3)
    for sides in (3, 5, 6):
        corner = 0.5 * sides * 0.3**2 * math.sin(2 * math.pi / sides)
        assert area("polygon", radius=0.3, sides=sides, turn=11.0) == pytest.approx(corner, rel=3e-3)
    assert area("half-plane", turn=25.0) == pytest.approx(0.5, abs=1e-3)
    assert area("checker") == pytest.approx(0.5, abs=1e-3)
    assert area("stripes", filled=0.3) == pytest.approx(0.3, abs=6e-3)
    assert area("grid", count=8.0, thickness=0.2) == pytest.approx(1 - 0.8**2, abs=6e-3)


def test_shapes_stand_where_scikit_image_draws_them() -> None:
    disc = np.zeros((SIDE, SIDE))
    disc[draw.disk((0.3 * SIDE - 0.5, 0.7 * SIDE - 0.5), 0.2 * SIDE)] = 1
    assert np.abs(render("circle", BLANK, centre=(0.7, 0.3), radius=0.2)[..., 0] - disc).mean() < 2e-3
    points = np.array([(0.5 + 0.3 * math.sin(a), 0.5 - 0.3 * math.cos(a)) for a in np.arange(5) * 2 * math.pi / 5]) * SIDE - 0.5
    five = np.zeros((SIDE, SIDE))
    five[draw.polygon(points[:, 1], points[:, 0])] = 1
    assert np.abs(render("polygon", BLANK, radius=0.3, sides=5)[..., 0] - five).mean() < 3e-3
    upper = render("half-plane", BLANK)[..., 0]
    assert upper[10].min() == 1
    assert upper[-10].max() == 0


def test_round_things_are_round_on_every_screen() -> None:
    for height, width in ((300, 200), (200, 300)):
        inside = render("circle", np.zeros((height, width, 4), np.float32), radius=0.25)[..., 0] > 0.5
        rows, columns = np.flatnonzero(inside.any(1)), np.flatnonzero(inside.any(0))
        assert abs(np.ptp(rows) - np.ptp(columns)) <= 1
        assert abs(np.ptp(rows) + 1 - 100) <= 1


def test_ramps() -> None:
    down = render("ramp", BLANK)[..., 0]
    assert np.abs(down - (np.arange(SIDE) + 0.5)[:, None] / SIDE).max() < 1e-5
    assert len(np.unique(render("ramp", BLANK, steps=4))) == 4
    y, x = (np.mgrid[0:SIDE, 0:SIDE] + 0.5) / SIDE - 0.5
    assert np.abs(render("ramp", BLANK, how="radial")[..., 0] - np.hypot(x, y)).max() < 1e-5
    clockwise = (np.degrees(np.arctan2(x, -y)) % 360) / 360
    assert np.abs(render("ramp", BLANK, how="angular")[..., 0] - clockwise).max() < 1e-5


def test_every_node_has_help_a_title_and_sound_defaults() -> None:
    assert len(CATALOGUE) > 150
    titles = [n.title for n in CATALOGUE.values()]
    assert len(set(titles)) == len(titles)
    for entry in CATALOGUE.values():
        assert len(entry.help) > 4, entry.kind
        for port in entry.inputs:
            low, high = port.kind.low, port.kind.high
            if (
                low is not None
                and high is not None
                and isinstance(port.default, int | float)
                and not isinstance(port.default, bool)
            ):
                assert low <= port.default <= high, f"{entry.kind}.{port.name}"
            if port.kind.name == "choice":
                assert port.default in port.kind.choices


def test_no_two_nodes_have_one_kind() -> None:
    from sunglaze.core.nodes import catalogue
    from sunglaze.core.nodes.node import Node

    kinds: dict[str, int] = {}
    for module in catalogue._MODULES:
        for name, found in vars(module).items():
            if isinstance(found, Node):
                kinds.setdefault(found.kind, id(found))
                assert kinds[found.kind] == id(found), name
    assert constant(1.0).kind == "float"
