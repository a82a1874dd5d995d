"""Nodes that read pictures and places, put values together and count time, against NumPy, SciPy, Pillow and colorsys."""

from __future__ import annotations

import colorsys

import numpy as np
import pytest
from PIL import Image, ImageOps
from scipy import ndimage, stats

from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.recipe import Recipe
from sunglaze.core.errors import BadEffect
from sunglaze.core.language import pictures as p
from sunglaze.core.language.vector import Vec
from sunglaze.core.material.files import with_alpha
from sunglaze.core.material.still import Still
from sunglaze.core.nodes.coordinates import FITS
from sunglaze.core.passes.program import State
from tests.core.test_recipes import recipe
from tests.engines import drawn
from tests.layers import fill
from tests.nodes import camera, channel, in_reference, render

PICTURE = camera(60, 44, seed=3)
HEIGHT, WIDTH = PICTURE.shape[:2]
V, U = (np.mgrid[0:HEIGHT, 0:WIDTH] + 0.5) / np.array([HEIGHT, WIDTH])[:, None, None]
LONG = HEIGHT / WIDTH
SHELF = "a" * 64


def own(made: Recipe) -> Layer:
    return Layer(id="own", name="Own", kind="own", recipe=made)


def shown(made: Recipe, pixels: np.ndarray, frame: int = 0, seed: int = 0, picture: np.ndarray = PICTURE) -> np.ndarray:
    """What a recipe gives with this picture on the shelf."""
    effect = Effect(name="t", layers=[own(made)], seed=seed)
    compiled = compile_effect(effect, Material(pictures={SHELF: Still.of(with_alpha(pixels))}))
    return drawn(compiled.program.final, picture, compiled.inputs, frame=frame)[0]


# ---- values ----


def test_parts_are_put_together_and_taken_apart_again() -> None:
    parts = [channel(0), channel(1), channel(2), channel(3)]
    both = render("combine4", PICTURE, x=parts[0], y=parts[1], z=parts[2], w=parts[3])
    assert np.array_equal(both, PICTURE)
    straight = render("combine-colour", PICTURE, red=parts[0], green=parts[1], blue=parts[2], alpha=parts[3])
    assert np.array_equal(straight, PICTURE)
    for n, name in enumerate(("red", "green", "blue", "alpha")):
        seen = render("separate-colour", PICTURE, name, colour=Vec(*parts))
        assert np.array_equal(seen[..., 0], PICTURE[..., n])
        assert np.array_equal(render("channel", PICTURE, colour=Vec(*parts), which=name)[..., 0], PICTURE[..., n])
    for n, name in enumerate(("x", "y")):
        assert np.array_equal(render("separate2", PICTURE, name, vector=Vec(parts[2], parts[1]))[..., 0], PICTURE[..., (2, 1)[n]])
    assert np.allclose(render("vector4", PICTURE, value=(0.25, -1.0, 3.0, 0.5)), [0.25, -1.0, 3.0, 0.5])


def test_luma_is_bt709s_and_opacity_is_set_and_taken_away() -> None:
    seen = render("channel", PICTURE, which="luma")[..., 0]
    assert np.abs(seen - PICTURE[..., :3] @ [0.2126, 0.7152, 0.0722]).max() < 1e-6
    clear = render("with-opacity", PICTURE, opacity=channel(3))
    assert np.array_equal(clear, PICTURE)
    straight = Vec(*(channel(n) for n in range(4)))
    assert (render("opaque", PICTURE, colour=straight)[..., 3] == 1).all()
    assert np.array_equal(render("opaque", PICTURE, colour=straight, when=False), PICTURE)


@pytest.mark.parametrize("turn", [-400.0, -30.0, 0.0, 47.0, 120.0, 301.0, 725.0])
def test_the_colour_of_a_hue_against_colorsys(turn: float) -> None:
    seen = render("hue-to-colour", PICTURE, turn=turn, saturation=0.8, brightness=0.9)[0, 0]
    assert np.abs(seen[:3] - colorsys.hsv_to_rgb(turn / 360 % 1.0, 0.8, 0.9)).max() < 1e-5
    assert seen[3] == 1.0


def test_a_masks_edge_is_where_it_is_asked_for() -> None:
    """Hermite's smooth step, as GLSL ES 3.00, section 8.3, has it."""
    seen = render("threshold-mask", PICTURE, mask=channel(3), edge=0.4, softness=0.5)[..., 0]
    t = np.clip((PICTURE[..., 3] - 0.15) / 0.5, 0, 1)
    assert np.abs(seen - t * t * (3 - 2 * t)).max() < 1e-6
    hard = render("threshold-mask", PICTURE, mask=channel(3), edge=0.4)[..., 0]
    assert np.array_equal(hard[PICTURE[..., 3] != 0.4], (PICTURE[..., 3] > 0.4)[PICTURE[..., 3] != 0.4])


def test_a_number_a_frame_is_even_between_its_ends_and_holds_for_so_many_frames() -> None:
    """Kolmogorov and Smirnov's test against the even distribution; channels hang together no more than chance does."""
    made = {
        name: recipe({"r": ("random-per-frame", {"channel": n, "every": 3})}, [], "r.out")
        for n, name in enumerate(("one", "other"))
    }
    drawn = {
        name: np.array([shown(one, np.zeros((1, 1, 3), np.uint8), frame, 9, PICTURE[:2, :2])[0, 0, 0] for frame in range(0, 900)])
        for name, one in made.items()
    }
    for numbers in drawn.values():
        assert np.array_equal(numbers[0::3], numbers[2::3])
        assert stats.kstest(numbers[0::3], "uniform").pvalue > 0.001
    assert abs(np.corrcoef(drawn["one"][::3], drawn["other"][::3])[0, 1]) < 0.2
    again = shown(made["one"], np.zeros((1, 1, 3), np.uint8), 30, 9, PICTURE[:2, :2])[0, 0, 0]
    assert again == drawn["one"][30]
    assert shown(made["one"], np.zeros((1, 1, 3), np.uint8), 30, 10, PICTURE[:2, :2])[0, 0, 0] != again


@pytest.mark.parametrize(("frame", "rate", "count"), [(0, 8.0, 0), (29, 8.0, 7), (30, 8.0, 8), (31, 1.0, 1), (44, 2.0, 2)])
def test_ticks_count_whole_turns_of_the_clock(frame: int, rate: float, count: int) -> None:
    made = recipe({"t": ("ticks", {"rate": rate}), "part": ("multiply", {"b": 0.01})}, ["t.out > part.a"], "part.out")
    assert shown(made, np.zeros((1, 1, 3), np.uint8), frame)[0, 0, 0] == pytest.approx(count / 100, abs=1e-6)


# ---- places ----


def test_centred_coordinates_are_in_short_sides_and_lead_back() -> None:
    seen = render("centred-coordinates", PICTURE)
    assert np.abs(seen[..., 0] - (U - 0.5)).max() < 1e-6
    assert np.abs(seen[..., 1] - (V - 0.5) * LONG).max() < 1e-6
    back = render("from-centred", PICTURE, place=Vec(channel(0) - 0.5, (channel(1) - 0.5) * LONG))
    assert np.abs(back - PICTURE[..., :2]).max() < 1e-6


def test_scattered_cells_are_cells_and_stay_within_their_spread() -> None:
    plain = {name: render("cells", PICTURE, name, count=6) for name in ("inside", "middle", "column", "row")}
    still = {"spread": 0.0, "turn": 0.0, "smallest": 1.0}
    for name, expected in plain.items():
        assert np.abs(render("scatter", PICTURE, name, count=6, **still) - expected).max() < 1e-5
    shifted = render("scatter", PICTURE, "inside", count=6, spread=0.5, turn=0.0, smallest=1.0) - plain["inside"]
    assert 0.15 < np.abs(shifted).max() <= 0.25 + 1e-6
    # All of a cell moves together, and cells move each their own way.
    column, row = plain["column"][..., 0].astype(int), plain["row"][..., 0].astype(int)
    ways = {tuple(np.round(shifted[(column == c) & (row == r)].mean(axis=0), 4)) for c in range(6) for r in range(8)}
    assert len(ways) == 48
    spread = [np.ptp(shifted[(column == c) & (row == r)], axis=0).max() for c in range(6) for r in range(8)]
    assert max(spread) < 1e-5
    assert not np.allclose(render("scatter", PICTURE, "inside", count=6, seed=1), render("scatter", PICTURE, "inside", count=6))


@pytest.mark.parametrize("how", FITS)
def test_fitting_a_picture_against_pillow(how: str) -> None:
    """A wide picture on a tall screen: where its middle columns and rows come to lie, by Pillow's own fitting."""
    pixels = np.zeros((30, 90, 3), np.uint8)
    pixels[..., 0] = np.linspace(0, 255, 90)[None, :]
    pixels[..., 1] = np.linspace(0, 255, 30)[:, None]
    pixels[..., 2] = 255
    nodes = {"mine": ("asset-picture", {"asset": SHELF}), "fit": ("fit", {"how": how}), "seen": ("sample", {"outside": "clear"})}
    made = recipe(nodes, ["mine.out > fit.picture", "mine.out > seen.picture", "fit.out > seen.place"], "seen.out")
    seen = shown(made, pixels, picture=np.zeros_like(PICTURE))
    image = Image.fromarray(pixels)
    size = (WIDTH, HEIGHT)
    if how == "cover":
        expected = ImageOps.fit(image, size, Image.Resampling.BILINEAR)
    elif how == "contain":
        expected = ImageOps.pad(image, size, Image.Resampling.BILINEAR, color=(0, 0, 0))
    elif how == "stretch":
        expected = image.resize(size, Image.Resampling.BILINEAR)
    else:
        # A picture's pixel to a reference pixel: this screen is 44 / 720 as large, so it tiles by that; seen here at its middle.
        assert (seen[..., 2] > 0).mean() < 0.1
        return
    wanted = np.asarray(expected) / 255.0
    inner = ndimage.binary_erosion(wanted[..., 2] > 0.99, iterations=2)
    assert inner.mean() > 0.1
    # Pillow averages where it makes smaller; on ramps that is where straight lines between pixels lead, too.
    # It rounds the height of what stands whole to 15 of 14.7 pixels, a fortieth.
    assert np.abs(seen - wanted)[inner].max() < (0.05 if how == "contain" else 0.03)
    assert (seen[~ndimage.binary_dilation(wanted[..., 2] > 0.01, iterations=2)] == 0).all()


def test_a_soft_shape_covers_what_geometry_says() -> None:
    """An ellipse's area is pi a b, a box's its sides less the corners' (1 - pi / 4) of a square; outside is the rest."""
    frame = camera(240, 180)
    circle = render("soft-shape", frame, how="circle", width=0.5, height=0.8, softness=0.0)[..., 0]
    short = 180.0
    assert circle.sum() == pytest.approx(np.pi * 0.25 * 0.4 * short**2, rel=0.01)
    box = render("soft-shape", frame, how="rounded box", width=0.5, height=0.8, softness=0.0)[..., 0]
    corner = 0.25 * 0.35
    assert box.sum() == pytest.approx((0.5 * 0.8 - (4 - np.pi) * corner**2) * short**2, rel=0.01)
    half = render("soft-shape", frame, how="half", softness=0.0)[..., 0]
    assert (half[:119] == 1).all()
    assert (half[121:] == 0).all()
    for how in ("circle", "rounded box", "half"):
        inside, outside = (render("soft-shape", frame, how=how, outside=one)[..., 0] for one in (False, True))
        assert np.abs(inside + outside - 1).max() < 1e-6


def test_a_glint_is_bright_in_its_middle_and_dark_at_its_square() -> None:
    frame = camera(101, 101)
    seen = render("glint", frame, thickness=0.05)[..., 0]
    assert seen[50, 50] > 0.9
    assert max(seen[0].max(), seen[-1].max(), seen[:, 0].max(), seen[:, -1].max()) < 0.02
    assert np.abs(seen - seen.T).max() < 1e-5
    assert np.abs(seen - seen[::-1]).max() < 1e-5
    assert seen[50, 70] > 3 * seen[30, 70]
    turned = render("glint", frame, thickness=0.05, turn=45.0)[..., 0]
    assert turned[36, 36] > 3 * turned[50, 30]


# ---- pictures ----


@pytest.mark.parametrize(("right", "down"), [(0.0, 0.0), (3.0, -2.0), (-5.5, 4.25)])
def test_an_offset_sample_against_scipy(right: float, down: float) -> None:
    seen = render(
        "sample-offset", PICTURE, picture=p.CAMERA, right=in_reference(right, PICTURE), down=in_reference(down, PICTURE)
    )[..., :3]
    rows, columns = np.mgrid[0:HEIGHT, 0:WIDTH].astype(float)
    places = [rows + down, columns + right]
    want = [ndimage.map_coordinates(PICTURE[..., c].astype(float), places, order=1, mode="nearest") for c in range(3)]
    assert np.abs(seen - np.stack(want, -1)).max() < 2e-3


def test_the_size_of_a_picture() -> None:
    assert (render("picture-size", PICTURE, picture=p.CAMERA) == [WIDTH, HEIGHT]).all()
    nodes = {"mine": ("asset-picture", {"asset": SHELF}), "size": "picture-size", "part": ("multiply", {"b": 0.001})}
    made = recipe(
        {**nodes, "two": "separate2"}, ["mine.out > size.picture", "size.out > two.vector", "two.x > part.a"], "part.out"
    )
    assert shown(made, np.zeros((30, 90, 3), np.uint8))[0, 0, 0] == pytest.approx(0.09, abs=1e-6)


def sheet_of_greys() -> np.ndarray:
    """Six frames of eight by eight, three a row, each of one grey."""
    return np.repeat(np.kron(np.arange(6).reshape(2, 3) * 40 + 20, np.ones((8, 8)))[..., None], 3, axis=2).astype(np.uint8)


@pytest.mark.parametrize(
    ("order", "frames"),
    [("loop", [0, 1, 2, 3, 4, 5, 0, 1, 2, 3, 4, 5]), ("back and forth", [0, 1, 2, 3, 4, 5, 4, 3, 2, 1, 0, 1])],
)
def test_a_sequence_plays_its_frames_in_order(order: str, frames: list[int]) -> None:
    """At 10 a second each frame of the sheet stands for three of the clock's; neighbours on the sheet do not bleed in."""
    values = {"sheet": SHELF, "columns": 3, "rows": 2, "rate": 10.0, "order": order}
    made = recipe({"s": ("asset-sequence", values)}, [], "s.out")
    for turn, which in enumerate(frames):
        seen = shown(made, sheet_of_greys(), turn * 3 + 1)
        assert np.abs(seen * 255 - (which * 40 + 20)).max() < 0.01, (turn, which)


@pytest.mark.parametrize(("column", "row", "which"), [(0, 0, 0), (2, 1, 5), (3, 0, 0), (-1, 0, 2), (7, 3, 4), (-4, -1, 5)])
def test_a_cell_of_a_sheet_goes_round(column: int, row: int, which: int) -> None:
    values = {"sheet": SHELF, "columns": 3, "rows": 2, "column": column, "row": row}
    made = recipe({"s": ("sheet-cell", values)}, [], "s.out")
    assert np.abs(shown(made, sheet_of_greys(), 0) * 255 - (which * 40 + 20)).max() < 0.01


def test_glints_of_a_sheet_are_whole_whatever_its_cells_and_the_pictures() -> None:
    """A disc in each of the sheet's cells, its rim 2 pixels from the cell's border: no glint touches a border of the picture's
    cells, though these are not as many as the sheet has."""
    across, side = 12, 16
    y, x = np.mgrid[0:side, 0:side] - (side - 1) / 2
    disc = (np.hypot(x, y) < side / 2 - 2).astype(np.uint8) * 255
    sheet = np.repeat(np.tile(disc, (across, across))[..., None], 3, axis=2)
    cells = {"c": ("cells", {"count": 5.0}), "s": ("sheet-cell", {"sheet": SHELF, "columns": across, "rows": across})}
    wires = ["c.inside > s.place", "c.column > s.column", "c.row > s.row"]
    seen = shown(recipe(cells, wires, "s.out"), sheet, 0, 0, np.zeros((100, 100, 4), np.float32))[..., 0]
    assert seen.max() > 0.99
    assert np.abs(seen[::20]).max() < 0.01
    assert np.abs(seen[:, ::20]).max() < 0.01


def test_a_shuffled_sequence_shows_every_frame_and_keeps_to_its_seed() -> None:
    values = {"sheet": SHELF, "columns": 3, "rows": 2, "rate": 30.0, "order": "shuffled"}
    made = recipe({"s": ("asset-sequence", values)}, [], "s.out")

    def played(seed: int) -> list[int]:
        small = PICTURE[:2, :2]
        return [round((float(shown(made, sheet_of_greys(), n, seed, small)[0, 0, 0]) * 255 - 20) / 40) for n in range(60)]

    one = played(4)
    assert set(one) == set(range(6))
    assert one == played(4)
    assert one != played(5)
    assert one != sorted(one)


def test_the_picture_after_a_layer_and_what_is_said_where_it_is_gone() -> None:
    looks = recipe({"s": ("stage", {"layer": "red"})}, [], "s.out")
    layers = [fill("red", "#ff0000"), fill("blue", "#0000ff"), own(looks)]
    compiled = compile_effect(Effect(name="t", layers=layers), Material())
    assert (drawn(compiled.program.final, PICTURE, compiled.inputs)[0] == [1, 0, 0]).all()
    bare = recipe({"s": "stage"}, [], "s.out")
    compiled = compile_effect(Effect(name="t", layers=[*layers[:2], own(bare)]), Material())
    assert np.abs(drawn(compiled.program.final, PICTURE, compiled.inputs)[0] - PICTURE[..., :3]).max() < 1e-6
    with pytest.raises(BadEffect, match="is not below this one"):
        compile_effect(Effect(name="t", layers=[own(looks), *layers[:2]]), Material())


def test_a_held_picture_stays_while_it_is_held_and_goes_on_after() -> None:
    """Held in each second half of two seconds; the state goes from frame to frame as in a playback."""
    nodes = {
        "phase": ("pulse", {"how": "loop", "seconds": 2.0}), "late": ("compare", {"how": "more", "b": 0.5}), "below": "below",
        "held": "hold-picture",
    }  # fmt: skip
    wires = ["phase.out > late.a", "late.out > held.when", "below.out > held.picture"]
    compiled = compile_effect(Effect(name="t", layers=[own(recipe(nodes, wires, "held.out"))]), Material())
    state = State()
    seen = []
    for frame in range(75):
        picture = np.full((4, 4, 4), frame / 100, np.float32)
        seen.append(float(drawn(compiled.program.final, picture, compiled.inputs, state, frame=frame)[0][0, 0, 0]))
    expected = [n if n <= 31 or n >= 60 else 31 for n in range(75)]
    assert np.abs(np.array(seen) * 100 - expected).max() < 0.01
