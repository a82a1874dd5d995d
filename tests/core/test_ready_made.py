"""Ready-made layers against outside references and against what they say of themselves; masks spare what is outside."""

from __future__ import annotations

import json
from typing import Any

import cv2
import numpy as np
import pytest
from scipy import ndimage

from sunglaze.core.effect.address import DRIVE, MASK, address
from sunglaze.core.effect.compiling import compile_effect, has_same_form, inputs_of_effect
from sunglaze.core.effect.document import Effect, Layer, LayerMask, moved, parse_effect
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.motions import Drive
from sunglaze.core.effect.shipped import mask_recipes, shipped
from sunglaze.core.errors import BadEffect
from sunglaze.core.material.files import with_alpha
from sunglaze.core.material.still import Still
from sunglaze.core.material.text import PIXELS, Text, lines_of, read_text, text_picture
from sunglaze.core.package.archive import open_archive, read_package, write_package
from tests.engines import drawn
from tests.nodes import camera

HEIGHT, WIDTH = 160, 120
PICTURE = camera(HEIGHT, WIDTH)
SMOOTH = ndimage.gaussian_filter(PICTURE, (2.0, 2.0, 0)).astype(np.float32)
SMOOTH[..., 3] = PICTURE[..., 3]
REFERENCE_PIXEL = WIDTH / 720


def layer(kind: str, identity: str = "l", mask: LayerMask | None = None, **values: Any) -> Layer:
    start = shipped()[kind].start
    blend, opacity = (start.blend, start.opacity) if kind != "fill" else ("normal", 1.0)
    return Layer(id=identity, name=kind, kind=kind, blend=blend, opacity=opacity, values=values, mask=mask)


def shown(*layers: Layer, picture: np.ndarray = SMOOTH, pictures: dict[str, np.ndarray] | None = None) -> np.ndarray:
    compiled = compile_effect(
        Effect(name="t", layers=list(layers)),
        Material(pictures={key: Still.of(with_alpha(pixels)) for key, pixels in (pictures or {}).items()}),
    )
    return drawn(compiled.program.final, picture, compiled.inputs)[0]


def overlay(below: np.ndarray, layer: np.ndarray) -> np.ndarray:
    """W3C Compositing and Blending Level 1, section 10.1.7: hard light with the two exchanged."""
    return np.where(below <= 0.5, 2 * below * layer, 1 - 2 * (1 - below) * (1 - layer))


def test_sharpen_is_high_pass_overlaid() -> None:
    """By SciPy's Gaussian; the picture is large against the blur, and borders are left out, which each handles its own way."""
    large = np.kron(SMOOTH, np.ones((6, 6, 1), np.float32))
    got = shown(layer("sharpen", radius=3.0, strength=0.6), picture=large)
    rgb = large[..., :3].astype(np.float64)
    soft = ndimage.gaussian_filter(rgb, (3.0, 3.0, 0), mode="nearest", truncate=6)
    laid = np.clip(rgb - soft + 0.5, 0, 1)
    expected = rgb + (overlay(rgb, laid) - rgb) * 0.6
    assert np.abs(got - expected)[24:-24, 24:-24].max() < 1 / 255


def test_sharpen_by_a_kernel_is_a_convolution() -> None:
    got = shown(layer("sharpen-kernel", strength=0.5))
    kernel = np.array([[0, -0.5, 0], [-0.5, 3, -0.5], [0, -0.5, 0]])
    expected = ndimage.convolve(SMOOTH[..., :3].astype(np.float64), kernel[..., None], mode="nearest")
    assert np.abs(got - np.clip(expected, 0, 1)).max() < 1e-5


def test_displace_reads_where_svgs_map_says() -> None:
    """W3C Filter Effects 1, feDisplacementMap: P'(x, y) = P(x + scale * (XC - 0.5), y + scale * (YC - 0.5)); by SciPy."""
    rows, columns = np.mgrid[0:HEIGHT, 0:WIDTH]
    chart = np.zeros((HEIGHT, WIDTH, 4), np.uint8)
    chart[..., 0] = np.rint(127.5 + 100 * np.sin(columns / 17))
    chart[..., 1] = np.rint(127.5 + 100 * np.cos(rows / 13))
    chart[..., 3] = 255
    key = "a" * 64
    wanted = {"across": 60.0, "down": 36.0, "use": True, "picture": key}
    got = shown(layer("displace", **wanted), pictures={key: chart})
    move_x = (chart[..., 0] / 255 - 0.5) * 60 * REFERENCE_PIXEL
    move_y = (chart[..., 1] / 255 - 0.5) * 36 * REFERENCE_PIXEL
    places = np.stack([rows + move_y, columns + move_x])
    expected = np.stack(
        [ndimage.map_coordinates(SMOOTH[..., c].astype(np.float64), places, order=1, mode="grid-mirror") for c in range(3)],
        axis=-1,
    )
    assert np.abs(got - expected).max() < 2e-3


NEUTRAL: dict[str, dict[str, Any]] = {
    "tone-and-colour": {"exposure": 0.0, "contrast": 1.0, "saturation": 1.0, "warmth": 0.0, "tint": 0.0},
    "hue-curves": {"hues": {}},
    "black-and-white": {"strength": 0.0},
    "decision-list": {"slope": [1.0] * 3, "offset": [0.0] * 3, "power": [1.0] * 3, "saturation": 1.0},
    "blur": {"amount": 0.0, "quality": "exact"},
    "blur-in-shape": {"amount": 0.0, "quality": "exact"},
    "sharpen": {"strength": 0.0},
    "sharpen-kernel": {"strength": 0.0},
    "smooth": {"amount": 0.0},
    "vignette": {"amount": 0.0},
    "glow": {"amount": 0.0},
    "film-grain": {"amount": 0.0},
    "dust": {"amount": 0.0},
    "displace": {"across": 0.0, "down": 0.0},
    "colour-fringes": {"red_shift": [0.0, 0.0], "blue_shift": [0.0, 0.0]},
    "ripple": {"height": 0.0},
    "glitch": {"quiet": 1.0},
    "mirror": {"across": False, "down": False},
    "sparkle": {"amount": 0.0},
    "region-tint": {"amount": 0.0},
    "text": {"text": {"text": ""}},
}


@pytest.mark.parametrize("kind", NEUTRAL)
def test_the_neutral_setting_leaves_every_pixel(kind: str) -> None:
    assert np.abs(shown(layer(kind, **NEUTRAL[kind])) - SMOOTH[..., :3]).max() < 3e-6


@pytest.mark.parametrize("kind", shipped())
def test_every_setting_fits_and_shows(kind: str) -> None:
    settings = shipped()[kind].settings
    assert kind in ("lookup-grade",) or 2 <= len(settings) <= 7
    for setting in settings:
        drives = {control: Drive(kind=one.kind, values=one.values) for control, one in setting.drives.items()}
        picture = shown(Layer.model_validate(layer(kind, **setting.values).model_dump() | {"drives": drives}))
        assert np.isfinite(picture).all()
        assert 0 <= picture.min() <= picture.max() <= 1


def masked(kind: str, **values: Any) -> np.ndarray:
    """How much of a red fill shows at each pixel of a black picture under a mask."""
    black = PICTURE.copy()
    black[..., :3] = 0
    fill = layer("fill", mask=LayerMask(kind=kind, values=values), colour="#ff0000")
    return shown(fill, picture=black)[..., 0]


def test_a_mask_spares_every_pixel_outside() -> None:
    """A circle's area and edge by its formula; a pixel that it covers wholly or not at all is exactly so."""
    got = masked("circle", width=0.5, height=0.5, centre=[0.5, 0.5], soft=0.0)
    rows, columns = np.mgrid[0:HEIGHT, 0:WIDTH] + 0.5
    far = np.hypot(columns - WIDTH / 2, rows - HEIGHT / 2) - WIDTH * 0.25
    assert (got[far > 1] == 0).all()
    assert (got[far < -1] == 1).all()
    assert abs(got.sum() - np.pi * (WIDTH * 0.25) ** 2) < 12
    over = masked("circle", width=0.5, height=0.5, centre=[0.5, 0.5], soft=0.0, over=True)
    assert np.abs(over + got - 1).max() < 1e-6


def test_the_region_mask_is_the_cameras_and_grows() -> None:
    assert np.abs(masked("region", soft=0.0) - PICTURE[..., 3]).max() < 1e-6
    hard = PICTURE.copy()
    hard[..., :3] = 0
    hard[..., 3] = 0
    hard[60:100, 40:80, 3] = 1
    grown = LayerMask(kind="region", values={"soft": 0.0, "grow": 24.0})
    got = shown(layer("fill", mask=grown, colour="#ffffff"), picture=hard)[..., 0]
    expected = ndimage.distance_transform_edt(hard[..., 3] == 0) <= 24 * REFERENCE_PIXEL
    assert (np.abs(got - expected) > 0.5).mean() < 0.01


def test_a_mask_by_another_layers_brightness() -> None:
    """The grey of the layer below decides; a layer above cannot, and says so."""
    dark, light = layer("fill", "a", colour="#202020"), layer("fill", "b", colour="#e0e0e0")
    light = light.model_copy(update={"mask": LayerMask(kind="half", values={"soft": 0.0})})
    red = layer(
        "fill", "c", mask=LayerMask(kind="brightness", values={"after": "b", "soft": 0.0, "range": 0.02}), colour="#ff0000"
    )
    got = shown(dark, light, red)
    assert (got[: HEIGHT // 2 - 2] == [1, 0, 0]).all()
    assert np.abs(got[HEIGHT // 2 + 2 :] - 32 / 255).max() < 1e-6
    with pytest.raises(BadEffect, match=r"mask of 'fill'.*not below this one"):
        shown(red, dark, light)


def test_a_driven_control_moves_by_itself_and_stays_in_its_range() -> None:
    """A pulse from 0.2 to 0.6 in 2 s, back and forth: a triangle wave, from its formula; the ends turn without a new program."""
    drive = {"kind": "pulse", "values": {"low": 0.2, "high": 0.6, "seconds": 2.0, "how": "back and forth"}}
    plain = layer("black-and-white").model_dump(by_alias=True) | {"drives": {"strength": drive}}
    one = Effect(name="t", layers=[Layer.model_validate(plain)])
    grey = SMOOTH[..., :3] @ np.array([0.2126, 0.7152, 0.0722], np.float32)
    compiled = compile_effect(one, Material())
    for seconds in (0.0, 0.5, 1.0, 1.6):
        got = drawn(compiled.program.final, SMOOTH, compiled.inputs, frame=round(seconds * 30))[0]
        strength = 0.2 + 0.4 * (1 - abs(seconds - 1))
        expected = SMOOTH[..., :3] + (grey[..., None] - SMOOTH[..., :3]) * strength
        assert np.abs(got - expected).max() < 1e-5
    higher = moved(one, address("l", f"{DRIVE}strength:high"), 3.0)
    assert has_same_form(one, higher)
    got = drawn(compiled.program.final, SMOOTH, inputs_of_effect(higher, Material()), frame=30)[0]
    assert np.abs(got - grey[..., None]).max() < 1e-5  # held to 1, the control's end


def test_what_cannot_be_driven_is_refused() -> None:
    for kind, control, words in (
        ("fill", "colour", "cannot be driven"),
        ("blur", "quality", "these can: amount"),
        ("blur", "gone", "these can"),
    ):
        plain = layer(kind).model_dump(by_alias=True) | {"drives": {control: {"kind": "pulse"}}}
        with pytest.raises(BadEffect, match=words):
            parse_effect({"format": "sun-glaze/effect", "version": 4, "name": "t", "layers": [plain]})
    plain = layer("blur").model_dump(by_alias=True) | {"drives": {"amount": {"kind": "pulse", "values": {"loud": 1}}}}
    with pytest.raises(BadEffect, match="a pulse has no control 'loud'"):
        parse_effect({"format": "sun-glaze/effect", "version": 4, "name": "t", "layers": [plain]})


def test_masks_are_checked_and_moved_like_controls() -> None:
    one = Effect(name="t", layers=[layer("fill", mask=LayerMask(kind="circle"))])
    assert moved(one, address("l", f"{MASK}width"), 0.3).layers[0].mask == LayerMask(kind="circle", values={"width": 0.3})
    with pytest.raises(BadEffect, match=r"outside 0\.05 to 2"):
        moved(one, address("l", f"{MASK}width"), 9.0)
    plain = one.model_dump(by_alias=True)
    plain["layers"][0]["mask"]["kind"] = "sunbeam"
    assert parse_effect(plain).layers[0].mask is not None  # kept, from a newer version


@pytest.mark.parametrize("kind", mask_recipes())
def test_every_mask_turned_over_is_the_rest(kind: str) -> None:
    assert np.abs(masked(kind, over=True) + masked(kind, over=False) - 1).max() < 1e-5


def test_text_wraps_and_stays_on_every_screen() -> None:
    long = read_text({"text": "Lanterns are lit when the tide turns, mind the causeway", "width": 8})
    lines = lines_of(long)
    assert " ".join(lines) == long.text
    assert len(lines) > 3
    picture = text_picture(long)
    assert picture.shape[1] <= 8 * PIXELS + PIXELS
    assert (picture[..., :3] == 255).all()
    for height, width in ((160, 90), (90, 160), (90, 90)):
        ground = np.zeros((height, width, 4), np.float32)
        white = {"text": {"text": long.text, "width": 8}, "size": 1.0, "shade": 0.0, "at": [0.5, 0.5], "colour": "#ffffff"}
        seen = shown(layer("text", **white), picture=ground)[..., 0]
        assert seen.max() > 0.5
        assert seen[0].max() < 0.02
        assert seen[:, 0].max() < 0.02


def test_text_goes_into_packages_as_a_picture() -> None:
    effect = Effect(name="t", layers=[layer("text", text={"text": "Low water"})])
    archive = open_archive(write_package(effect, Material()))
    program = json.loads(archive.read("program.json"))
    files = {one["name"]: one["file"] for one in program["pictures"]}
    assert files["asset:l.text"] == "pictures/drawn-0.png"
    held = cv2.imdecode(np.frombuffer(archive.read("pictures/drawn-0.png"), np.uint8), cv2.IMREAD_UNCHANGED)
    assert np.array_equal(held, text_picture(read_text({"text": "Low water"})))
    again, _ = read_package(write_package(effect, Material()))
    assert again == effect


def test_text_is_refused_in_words() -> None:
    for plain, words in (
        ({"text": "x" * 500}, "500 signs"),
        ({"text": "☃"}, "no sign for ☃"),
        ({"text": "a", "font": "brush"}, "fonts are words, figures"),
        ({"text": "a", "weight": 5000}, "between 100 and 1000"),
        ("a", "text is set as"),
    ):
        with pytest.raises(BadEffect, match=words):
            read_text(plain)
    assert text_picture(Text("")).shape == (1, 1, 4)
