"""Colour nodes against colorsys, scikit-image, colour-science, OpenColorIO and SciPy (shared/check-values.md)."""

from __future__ import annotations

import colorsys

import numpy as np
import PyOpenColorIO as ocio
import pytest
from scipy.interpolate import PchipInterpolator, interp1d
from skimage import color

from sunglaze.core.colour.curves import curve_at, curve_table, read_curves
from sunglaze.core.errors import BadEffect
from sunglaze.core.language.pictures import CAMERA, colour_here
from sunglaze.core.language.vector import Vec, value
from sunglaze.core.nodes.node import Table
from sunglaze.core.passes.program import Inputs, Program
from tests.engines import drawn
from tests.nodes import CATALOGUE, camera, channel, render

PICTURE = camera(40, 36, seed=2)
RGB = PICTURE[..., :3].astype(np.float64)
LUMA = RGB @ [0.2126, 0.7152, 0.0722]  # ITU-R BT.709


def pixelwise(rule) -> np.ndarray:  # type: ignore[no-untyped-def]
    return np.array([[rule(*pixel) for pixel in row] for row in RGB])


def apart(seen: np.ndarray, want: np.ndarray) -> float:
    return float(np.abs(seen[..., :3] - want).max())


def test_hsv_and_hsl_against_colorsys() -> None:
    assert apart(render("rgb-to-hsv", PICTURE), pixelwise(colorsys.rgb_to_hsv)) < 1e-5
    hls = pixelwise(colorsys.rgb_to_hls)
    assert apart(render("rgb-to-hsl", PICTURE), hls[..., [0, 2, 1]]) < 1e-5
    three = Vec(channel(0), channel(1), channel(2))
    assert apart(render("hsv-to-rgb", PICTURE, hsv=three), pixelwise(colorsys.hsv_to_rgb)) < 1e-5
    want = pixelwise(lambda h, s, lightness: colorsys.hls_to_rgb(h, lightness, s))
    assert apart(render("hsl-to-rgb", PICTURE, hsl=three), want) < 1e-5


def test_a_hue_turn_goes_round() -> None:
    want = pixelwise(lambda *rgb: (lambda h, s, x: colorsys.hsv_to_rgb((h + 0.3) % 1, s, x))(*colorsys.rgb_to_hsv(*rgb)))
    assert apart(render("hue-turn", PICTURE, turn=108.0), want) < 1e-5
    assert apart(render("hue-turn", PICTURE, turn=360.0), RGB) < 1e-5


def test_lab_against_scikit_image() -> None:
    seen = render("rgb-to-lab", PICTURE)
    assert apart(seen, color.rgb2lab(RGB)) < 0.05  # its white has fewer digits
    back = render("lab-to-rgb", seen / np.float32(100), lab=_scaled(100.0))
    assert apart(back, RGB) < 1e-4


def _scaled(by: float):  # type: ignore[no-untyped-def]
    return Vec(*(channel(c) * by for c in range(3)))


def test_linear_light_against_the_standard() -> None:
    """IEC 61966-2-1, written out here in double precision."""
    want = np.where(RGB <= 0.04045, RGB / 12.92, ((RGB + 0.055) / 1.055) ** 2.4)
    assert apart(render("to-linear", PICTURE), want) < 1e-5
    encoded = np.where(RGB <= 0.0031308, RGB * 12.92, 1.055 * RGB ** (1 / 2.4) - 0.055)
    assert apart(render("from-linear", PICTURE), encoded) < 1e-5
    stop = render("exposure", PICTURE, stops=1.0)[..., :3].astype(np.float64)
    light = np.where(stop <= 0.04045, stop / 12.92, ((stop + 0.055) / 1.055) ** 2.4)
    assert np.abs(light - 2 * want).max() < 1e-4


@pytest.mark.parametrize("seed", range(4))
def test_the_decision_list_against_opencolorio(seed: int) -> None:
    """ASC CDL 1.2, clamped, by OpenColorIO's CDLTransform."""
    rng = np.random.default_rng(seed)
    slope, offset, power = rng.uniform(0.5, 1.8, 3), rng.uniform(-0.2, 0.2, 3), rng.uniform(0.5, 2.0, 3)
    transform = ocio.CDLTransform()
    transform.setSlope(slope.tolist())
    transform.setOffset(offset.tolist())
    transform.setPower(power.tolist())
    transform.setSat(1.4)
    transform.setStyle(ocio.CDL_ASC)
    want = PICTURE[..., :3].copy()
    ocio.Config.CreateRaw().getProcessor(transform).getDefaultCPUProcessor().applyRGB(want)
    given = {"slope": tuple(slope), "offset": tuple(offset), "power": tuple(power), "saturation": 1.4}
    assert apart(render("decision-list", PICTURE, **given), want) < 1e-3  # OpenColorIO's fast power


def test_greys_are_exact() -> None:
    for seen in (render("saturate", PICTURE, amount=0.0), render("black-and-white", PICTURE)):
        assert apart(seen, LUMA[..., None]) < 1e-6
        assert (np.ptp(seen[..., :3], axis=2) < 1e-6).all()
    mixed = render("black-and-white", PICTURE, red=0.1, green=0.3, blue=0.6, strength=1.0)
    assert (np.ptp(mixed[..., :3], axis=2) == 0).all()
    assert apart(mixed, (RGB @ [0.1, 0.3, 0.6])[..., None]) < 1e-6
    assert np.abs(render("luminance", PICTURE)[..., 0] - LUMA).max() < 1e-6


@pytest.mark.parametrize(
    ("kind", "given"),
    [
        ("exposure", {"stops": 0.0}), ("contrast", {"amount": 1.0}), ("saturate", {"amount": 1.0}), ("temperature", {}),
        ("decision-list", {}), ("hue-turn", {}), ("black-and-white", {"strength": 0.0}), ("curves", {}), ("hue-curves", {}),
        ("lookup-table", {}),
    ],
)  # fmt: skip
def test_a_neutral_setting_leaves_the_picture(kind: str, given: dict[str, float]) -> None:
    assert apart(render(kind, PICTURE, **given), RGB) < 2e-5


def test_temperature_keeps_the_luma_of_white() -> None:
    white = np.ones((2, 8, 4), np.float32)
    for warmth, tint in ((1.0, 0.0), (-0.6, 0.4)):
        seen = render("temperature", white * 0.5, warmth=warmth, tint=tint, given="linear")[0, 0, :3]
        assert seen @ [0.2126, 0.7152, 0.0722] == pytest.approx(0.5, abs=1e-5)
        assert (seen[0] > seen[2]) == (warmth > 0)


def test_steps_and_edges() -> None:
    seen = render("posterize", PICTURE, steps=4)[..., :3]
    assert np.abs(np.unique(seen) - np.array([0, 1, 2, 3]) / 3).max() < 1e-6
    assert np.abs(seen - np.minimum(np.floor(RGB * 4), 3) / 3).max() < 1e-6
    hard = render("threshold", PICTURE, edge=0.5)[..., 0]
    assert np.array_equal(hard > 0.5, LUMA.astype(np.float32) >= 0.5)
    assert apart(render("invert", PICTURE), 1 - RGB) < 1e-6


def test_the_gradient_map_passes_its_three_colours() -> None:
    ramp = np.repeat(np.array([[0.0, 0.5, 1.0, 0.25]], np.float32)[..., None], 4, axis=2)
    seen = render("gradient-map", ramp, dark="#000000", middle="#ff0000", light="#ffffff")[0, :, :3]
    assert np.abs(seen - [[0, 0, 0], [1, 0, 0], [1, 1, 1], [0.5, 0, 0]]).max() < 1e-5
    hard = render("gradient-map", PICTURE, steps=3)
    assert len(np.unique(hard[..., :3].reshape(-1, 3).round(5), axis=0)) == 3


def test_curves_against_scipys_pchip() -> None:
    rng = np.random.default_rng(5)
    x = np.linspace(0, 1, 401)
    for count in (2, 3, 5, 9):
        px = np.sort(rng.choice(np.arange(1, 100), count, replace=False)) / 100
        points = list(zip(px.tolist(), rng.random(count).tolist(), strict=True))
        inside = (x >= px[0]) & (x <= px[-1])
        drawn = PchipInterpolator if count > 2 else interp1d
        want = drawn(*zip(*points, strict=True))(x[inside])
        assert np.abs(curve_at(points, x)[inside] - want).max() < 1e-12


def test_curves_on_pictures() -> None:
    points = read_curves({"all": [[0, 0], [0.5, 0.7], [1, 1]], "blue": [[0, 0.2], [1, 0.9]]})
    node = CATALOGUE["curves"]
    made = node(colour_here(CAMERA), Table("drawn", False), value(1.0))
    seen = drawn(Program((made.rgb,)), PICTURE, Inputs({}, {"drawn": curve_table(points)}))[0]
    bent = PchipInterpolator([0, 0.5, 1], [0, 0.7, 1])(RGB)
    want = np.concatenate([bent[..., :2], 0.2 + 0.7 * bent[..., 2:]], axis=2)
    assert np.abs(seen - want).max() < 1e-4


@pytest.mark.parametrize(
    "plain",
    [
        5, {"green": [[0, 0]]}, {"all": [[0, 0], [0, 1]]}, {"all": [[0, 0], [1, 2]]}, {"hue": [[0, 0], [1, 1]]},
        {"all": [[0, 0], ["1", 1]]}, {"all": [[0, float("nan")], [1, 1]]},
    ],
)  # fmt: skip
def test_bad_curves_are_refused_in_words(plain: object) -> None:
    with pytest.raises(BadEffect):
        read_curves(plain)


def test_premultiplying_both_ways() -> None:
    clear = Vec(channel(0), channel(1), channel(2), channel(3))
    seen = render("premultiply", PICTURE, colour=clear)
    assert apart(seen, RGB * PICTURE[..., 3:]) < 1e-6
    whole = PICTURE[..., 3] > 0
    back = render("unpremultiply", np.concatenate([seen[..., :3], PICTURE[..., 3:]], axis=2), colour=clear)
    assert np.abs(back[whole][:, :3] - RGB[whole]).max() < 1e-5
    assert (back[~whole][:, :3] == 0).all()
