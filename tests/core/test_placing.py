"""What is placed on the picture: handles of recipes and nodes, drawn paths against OpenCV and SciPy, driven places."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from pydantic import ValidationError
from scipy.interpolate import CubicHermiteSpline

from sunglaze.core.effect.compiling import compile_effect, driven_numbers
from sunglaze.core.effect.document import Effect, Layer, LayerMask
from sunglaze.core.effect.literals import Known, Material
from sunglaze.core.effect.motions import Drive
from sunglaze.core.effect.recording import port_of
from sunglaze.core.effect.shipped import mask_recipes, shipped
from sunglaze.core.errors import BadEffect
from sunglaze.core.material.path import Path, outline, path_table, read_path
from sunglaze.core.material.still import Still
from sunglaze.core.moment.moment import Clock, Moment
from sunglaze.core.nodes.catalogue import CATALOGUE
from sunglaze.core.nodes.handles import Handle
from sunglaze.core.passes.signals import run_once
from tests.engines import drawn

PLACES = {"at", "start", "end", "first", "second", "third", "fourth"}
STAR = [[0.0, -0.4], [0.1, -0.1], [0.35, -0.1], [0.15, 0.08], [0.24, 0.36], [0.0, 0.2], [-0.24, 0.36], [-0.15, 0.08],
        [-0.35, -0.1], [-0.1, -0.1]]  # fmt: skip


def test_every_handle_moves_controls_that_are_there_and_fit() -> None:
    recipes = {**shipped(), **mask_recipes()}
    bearers = [(kind, one, recipes[kind]) for kind in recipes for one in recipes[kind].handles]
    wanted = "text picture frosted-panel blur-in-shape vignette mirror circle half rounded-box drawn colour-ramp cut-out ripple"
    assert {*wanted.split(), "displace", "cells"} <= {kind for kind, *_ in bearers}
    for kind, handle, recipe in bearers:
        ports = {given.id: port_of(recipe, given) for given in recipe.inputs}
        assert handle.controls() <= set(ports), kind
        for part, name in handle.moves.items():
            port = ports[name]
            assert port is not None
            wanted = {"vec2"} if part in PLACES else {"path"} if part == "path" else {"number", "any"}
            assert port.kind.name in wanted, (kind, part)
    for node in CATALOGUE.values():
        for handle in node.handles:
            for part, name in handle.moves.items():
                found = node.input(name)
                assert found is not None
                assert (found.kind.name == "vec2") == (part in PLACES), (node.kind, part)


def test_a_handle_that_moves_what_its_kind_has_not_is_refused() -> None:
    with pytest.raises(ValidationError, match="a handle of the kind 'point' has no 'turn'; it has at"):
        Handle(kind="point", title="x", moves={"turn": "turn"})


def covered(path: Path, width: int, height: int) -> np.ndarray:
    """What OpenCV fills of the polygon, eight times as large, brought down to size by area."""
    short = min(width, height)
    places = (outline(path) * short + [width / 2, height / 2]) * 8
    large = np.zeros((height * 8, width * 8), np.uint8)
    cv2.fillPoly(large, [np.round(places * 16).astype(np.int32)], (255,), shift=4)
    return cv2.resize(large, (width, height), interpolation=cv2.INTER_AREA) / 255


@pytest.mark.parametrize("smooth", [True, False])
@pytest.mark.parametrize(("width", "height"), [(180, 320), (320, 180)])
def test_a_drawn_mask_covers_what_its_line_encloses(smooth: bool, width: int, height: int) -> None:
    path = {"points": STAR, "smooth": smooth}
    mask = LayerMask(kind="drawn", values={"path": path, "soft": 0.0})
    white = Layer(id="l", name="l", kind="fill", values={"colour": "#ffffff"}, mask=mask)
    compiled = compile_effect(Effect(name="t", layers=[white]), Material())
    shown = drawn(compiled.program.final, np.zeros((height, width, 4), np.float32), compiled.inputs)[0][..., 0]
    wanted = covered(read_path(path), width, height)
    off = np.abs(shown - wanted)
    # Of edge pixels coverage and distance differ by up to a third, and at the ten tips and notches by more; all others agree, and
    # so does the area.
    assert (off > 0.34).sum() <= 20
    assert (off[(wanted == 0) | (wanted == 1)] > 0.3).sum() <= 20
    assert abs(shown.sum() / wanted.sum() - 1) < 0.02


def test_a_smooth_line_is_the_closed_catmull_rom_spline() -> None:
    """By SciPy's cubic Hermite spline with slopes from the neighbours on either side."""
    points = np.array(STAR)
    count = len(points)
    around = np.concatenate([points, points[:1]])
    slopes = np.array([(points[(n + 1) % count] - points[(n - 1) % count]) / 2 for n in range(count + 1)])
    spline = CubicHermiteSpline(np.arange(count + 1), around, slopes)
    places = outline(read_path({"points": STAR}))
    assert np.abs(places - spline(np.arange(len(places)) * count / len(places))).max() < 1e-12


def test_a_straight_line_is_its_points_closed() -> None:
    table = path_table(read_path({"points": STAR, "smooth": False}))
    assert np.abs(table[:, :2] - [*STAR, STAR[0]]).max() < 1e-6


@pytest.mark.parametrize(
    ("plain", "words"),
    [
        ({"points": [[0, 0], [1, 1]]}, "3 to 24 points"),
        ({"points": [[0, 0], [1, 1], [9, 0]]}, "two numbers from -4 to 4"),
        ({"points": [[0, 0], [1, 1], [float("nan"), 0]]}, "two numbers from -4 to 4"),
        ([[0, 0], [1, 1], [0, 1]], "is set as"),
        ({"points": [[0, 0], [1, 1], [0, 1]], "smooth": 1}, "is set as"),
    ],
)
def test_a_bad_path_is_refused_in_words(plain: object, words: str) -> None:
    with pytest.raises(BadEffect, match=words):
        read_path(plain)


@pytest.mark.parametrize(
    "corners", [[[0.1, 0.2], [0.7, 0.1], [0.9, 0.8], [0.2, 0.6]], [[0.3, 0.7], [0.6, 0.7], [0.95, 0.98], [0.05, 0.98]]]
)
def test_a_pinned_picture_lies_where_opencv_warps_it(corners: list[list[float]]) -> None:
    """By getPerspectiveTransform: where pixels of the screen are sampled from, inside; outside nothing shows."""
    width, height, key = 120, 160, "a" * 64
    ramp = np.zeros((64, 64, 4), np.uint8)
    ramp[..., 0], ramp[..., 1] = np.meshgrid(np.arange(64) * 4, np.arange(64) * 4)
    ramp[..., 2], ramp[..., 3] = 128, 255
    names = ("first", "second", "third", "fourth")
    values = {"picture": key, **dict(zip(names, corners, strict=True))}
    layer = Layer(id="l", name="l", kind="pinned-picture", values=values)
    compiled = compile_effect(Effect(name="t", layers=[layer]), Material(pictures={key: Still.of(ramp)}))
    shown = drawn(compiled.program.final, np.zeros((height, width, 4), np.float32), compiled.inputs)[0]
    square = np.array([[0, 0], [1, 0], [1, 1], [0, 1]], np.float32)
    map_ = cv2.getPerspectiveTransform(np.array(corners, np.float32), square)
    rows, columns = np.meshgrid((np.arange(height) + 0.5) / height, (np.arange(width) + 0.5) / width, indexing="ij")
    across, along, much = np.tensordot(map_, np.stack([columns, rows, np.ones_like(rows)]), 1)
    u, v = across / much, along / much
    ahead = map_[2] @ [*np.mean(corners, axis=0), 1]
    inside = (u > 0.03) & (u < 0.97) & (v > 0.03) & (v < 0.97)
    far = (u < -0.03) | (u > 1.03) | (v < -0.03) | (v > 1.03) | (much * ahead < 0)
    assert inside.sum() > 500
    for channel, part in ((0, u), (1, v)):
        wanted = (part * 64 - 0.5) * 4 / 255
        assert np.abs(shown[..., channel] - wanted)[inside].max() < 0.01
    assert not shown[far].any()


def driven(drives: dict[str, Drive]) -> Layer:
    mask = LayerMask(kind="circle", values={"centre": [0.5, 0.25], "width": 0.2, "height": 0.2, "soft": 0.0})
    return Layer(id="l", name="l", kind="fill", values={"colour": "#ffffff"}, mask=mask, drives=drives)


def centre(layer: Layer, frame: int) -> tuple[float, float]:
    compiled = compile_effect(Effect(name="t", layers=[layer]), Material())
    shown = drawn(compiled.program.final, np.zeros((160, 90, 4), np.float32), compiled.inputs, frame=frame)[0][..., 0]
    rows, columns = np.nonzero(shown > 0.5)
    return float(columns.mean() + 0.5) / 90, float(rows.mean() + 0.5) / 160


def test_each_part_of_a_place_can_be_driven_by_itself() -> None:
    ramp = Drive(kind="time-ramp", values={"start": 0.2, "end": 0.8, "seconds": 2.0, "easing": "linear"})
    layer = driven({"mask:centre.0": ramp})
    for frame, wanted in ((0, 0.2), (30, 0.5), (60, 0.8)):
        x, y = centre(layer, frame)
        assert abs(x - wanted) < 0.02
        assert abs(y - 0.25) < 0.01
    numbers = driven_numbers(layer, Known())
    assert list(numbers) == ["mask:centre.0"]
    compiled = compile_effect(Effect(name="t", layers=[layer]), Material())
    at_half = run_once(numbers["mask:centre.0"], compiled.inputs.uniforms, Moment(clock=Clock.at(30)))
    assert abs(float(at_half) - 0.5) < 1e-6


def test_what_is_no_part_of_a_place_cannot_be_driven() -> None:
    with pytest.raises(ValidationError, match=r"'mask:centre.2' of 'l' cannot be driven; these can: .*mask:centre\.0"):
        driven({"mask:centre.2": Drive(kind="pulse")})
