"""Coordinates, sampling and noise against SciPy, scikit-image, the W3C's formula, and statistics."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import ndimage, stats
from skimage import transform

from sunglaze.core.language import functions as f
from sunglaze.core.language import pictures as p
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import constant, leaf
from sunglaze.core.language.vector import Vec
from sunglaze.core.nodes.coordinates import FITS
from tests.nodes import camera, channel, render, values

PICTURE = camera(60, 44, seed=7)
HEIGHT, WIDTH = PICTURE.shape[:2]
Y, X = (np.mgrid[0:HEIGHT, 0:WIDTH] + 0.5) / np.array([HEIGHT, WIDTH])[:, None, None]


def sampled(u: np.ndarray, w: np.ndarray, mode: str = "nearest") -> np.ndarray:
    places = [w * HEIGHT - 0.5, u * WIDTH - 0.5]
    return np.stack([ndimage.map_coordinates(PICTURE[..., c].astype(float), places, order=1, mode=mode) for c in range(3)], -1)


@pytest.mark.parametrize(("outside", "mode"), [("clamp", "nearest"), ("repeat", "grid-wrap"), ("mirror", "reflect")])
def test_sampling_against_scipy(outside: str, mode: str) -> None:
    place = Vec(channel(0) * 2.6 - 0.8, channel(1) * 2.6 - 0.8)
    seen = render("sample", PICTURE, picture=p.CAMERA, place=place, outside=outside)[..., :3]
    u, w = PICTURE[..., 0] * 2.6 - 0.8, PICTURE[..., 1] * 2.6 - 0.8
    wrong = np.abs(seen - sampled(u.astype(float), w.astype(float), mode)).max(-1) > 2e-3
    # At its seams a mirrored or repeated picture is sampled from one side only.
    assert wrong.mean() < (0.001 if outside == "clamp" else 0.06)


def test_sampling_at_pixel_centres_is_the_picture() -> None:
    for smooth in ("smooth", "hard pixels"):
        seen = render("sample", PICTURE, picture=p.CAMERA, smooth=smooth)[..., :3]
        assert np.abs(seen - PICTURE[..., :3]).max() < 1e-4
    beyond = render("sample", PICTURE, picture=p.CAMERA, place=Vec(2.0, 0.5), outside="clear")
    assert (beyond[..., 3] == 0).all()


def test_place_against_scikit_image() -> None:
    """A turn by 30 degrees clockwise, twice as large, shifted; about the middle."""
    seen = render("sample", PICTURE, picture=p.CAMERA, place=_placed(), outside="clear")
    shape = transform.AffineTransform
    to_middle = shape(translation=(-WIDTH / 2 + 0.5, -HEIGHT / 2 + 0.5))
    back = shape(translation=(WIDTH / 2 - 0.5 + 0.1 * WIDTH, HEIGHT / 2 - 0.5))
    # v runs down, as scikit-image's rows do: a positive rotation is clockwise on the screen.
    moved = to_middle + shape(scale=2.0) + shape(rotation=np.radians(30)) + back
    want = transform.warp(PICTURE[..., :3].astype(float), moved.inverse, order=1, mode="constant")
    inside = transform.warp(np.ones((HEIGHT, WIDTH)), moved.inverse, order=1, mode="constant") > 0.999
    assert inside.mean() > 0.5
    assert np.abs(seen[..., :3] - want)[inside].max() < 2e-3


def _placed():  # type: ignore[no-untyped-def]
    from sunglaze.core.nodes.coordinates import place

    return place(p.here(), Vec(0.1, 0.0), v.value(30.0), Vec(2.0, 2.0), Vec(0.5, 0.5))


def test_displacement_as_the_w3c_has_it() -> None:
    """Filter Effects 1, feDisplacementMap: P'(x, y) = P(x + scale * (XC(x, y) - 0.5), y + scale * (YC(x, y) - 0.5))."""
    seen = render("displace", PICTURE, by=p.CAMERA, across=90.0, down=45.0, across_from="blue", down_from="red")
    short = min(HEIGHT, WIDTH)
    assert np.abs(seen[..., 0] - (X + (PICTURE[..., 2] - 0.5) * 90 / 720 * short / WIDTH)).max() < 1e-4
    assert np.abs(seen[..., 1] - (Y + (PICTURE[..., 0] - 0.5) * 45 / 720 * short / HEIGHT)).max() < 1e-4


def test_cells_are_square_and_tell_their_middles() -> None:
    inside, middle = (render("cells", PICTURE, name, count=4.0) for name in ("inside", "middle"))
    column, row = (render("cells", PICTURE, name, count=4.0)[..., 0] for name in ("column", "row"))
    assert np.array_equal(column, np.floor(X * 4))
    assert np.array_equal(row, np.floor(Y * 4 * HEIGHT / WIDTH))
    assert (inside >= 0).all()
    assert (inside <= 1).all()
    assert np.abs(middle[..., 0] - (column + 0.5) / 4).max() < 1e-5


@pytest.mark.parametrize("how", FITS)
@pytest.mark.parametrize("screen", [(90, 160), (160, 90), (100, 100)])
def test_a_picture_fits_every_screen(how: str, screen: tuple[int, int]) -> None:
    """A wide picture of 40 by 20: by its corners' places."""
    from sunglaze.core.nodes.coordinates import fitted

    width, height = screen
    blank = np.zeros((height, width, 4), np.float32)
    size = constant(40, "int"), constant(20, "int")
    seen = values(fitted(p.here(), size, how, 1.0, Vec(0.5, 0.5)), "vec2", blank)
    # How many of the picture's widths and heights the screen spans.
    across = (seen[0, -1, 0] - seen[0, 0, 0]) * width / (width - 1)
    down = (seen[-1, 0, 1] - seen[0, 0, 1]) * height / (height - 1)
    if how != "stretch":
        assert across * 40 / (down * 20) == pytest.approx(width / height, rel=1e-3)  # never stretched
    if how == "cover":
        assert max(across, down) == pytest.approx(1, abs=1e-3)
    if how == "contain":
        assert min(across, down) == pytest.approx(1, abs=1e-3)
    if how == "stretch":
        assert (across, down) == pytest.approx((1, 1), abs=1e-3)
    if how == "tile":
        assert across == pytest.approx(720 * width / min(screen) / 40, rel=1e-3)


def test_mirror_tile_and_polar() -> None:
    folded = render("mirror", PICTURE)[..., 0]
    assert np.abs(folded - folded[:, ::-1]).max() < 1e-5
    assert np.abs(folded[:, : WIDTH // 2] - X[:, : WIDTH // 2]).max() < 1e-5
    tiled = render("tile", PICTURE, across=2.0, down=3.0)
    assert np.abs(tiled[..., 0] - (X * 2) % 1).max() < 1e-4
    assert np.abs(tiled[..., 1] - (Y * 3) % 1).max() < 1e-4
    radius, angle = (render("polar", PICTURE, name)[..., 0] for name in ("radius", "angle"))
    dx, dy = (X - 0.5) * WIDTH / 44, (Y - 0.5) * HEIGHT / 44
    assert np.abs(radius - np.hypot(dx, dy)).max() < 1e-5
    assert np.abs(angle - np.degrees(np.arctan2(dy, dx))).max() < 1e-3


def test_a_lens_and_a_ripple_leave_what_lies_outside() -> None:
    bent = render("lens", PICTURE, radius=0.3, amount=0.5)
    away = np.hypot((X - 0.5) * WIDTH / 44, (Y - 0.5) * HEIGHT / 44)
    assert np.abs(bent - np.stack([X, Y], -1))[away > 0.31].max() < 1e-5
    inside = (away > 0.02) & (away < 0.2)
    assert (np.hypot((bent[..., 0] - 0.5) * WIDTH / 44, (bent[..., 1] - 0.5) * HEIGHT / 44)[inside] < away[inside]).all()
    assert np.abs(render("ripple", PICTURE, height=0.0) - np.stack([X, Y], -1)).max() < 1e-5


def pcg_of_the_paper(number: int) -> int:
    """Jarzynski and Olano, JCGT 9(3), 2020, the function pcg; written out from memory of the paper."""
    mask = 0xFFFFFFFF
    state = (number * 747796405 + 2891336453) & mask
    word = (((state >> ((state >> 28) + 4)) ^ state) * 277803737) & mask
    return (word >> 22) ^ word


def test_the_hash_is_the_papers() -> None:
    column = f.pcg(leaf("pixel", 0))
    halves = Vec(v.to_float(f.record("iand", column, 0xFFFF)), v.to_float(f.shift_right(column, 16)))
    seen = values(halves, "vec2", np.zeros((1, 64, 4), np.float32))[0].astype(np.int64)
    want = [pcg_of_the_paper(n) for n in range(64)]
    assert (seen[:, 0] + (seen[:, 1] << 16)).tolist() == want


@pytest.mark.parametrize("kind", ["hash-noise"])
def test_chance_is_even_and_unrelated(kind: str) -> None:
    """Chi-square over 64 classes and the correlation of neighbours, on 200 by 200 cells."""
    seen = render(kind, np.zeros((200, 200, 4), np.float32), scale=200.0)[..., 0]
    counts = np.histogram(seen, 64, (0, 1))[0]
    assert stats.chisquare(counts).pvalue > 0.001
    for a, b in ((seen[:, 1:], seen[:, :-1]), (seen[1:], seen[:-1]), (seen[1:, 1:], seen[:-1, :-1])):
        assert abs(np.corrcoef(a.ravel(), b.ravel())[0, 1]) < 0.02
    other = render(kind, np.zeros((200, 200, 4), np.float32), scale=200.0, seed=1)
    assert other.shape == (200, 200, 1)


def test_noises_are_smooth_and_of_their_range() -> None:
    blank = np.zeros((240, 240, 4), np.float32)
    low = {"noise-value": 0.0, "noise-gradient": -1.0}
    for kind, least in low.items():
        seen = render(kind, blank, scale=8.0)[..., 0]
        assert seen.min() >= least
        assert seen.max() <= 1
        assert np.ptp(seen) > 0.7
        assert np.abs(np.diff(seen, axis=1)).max() < 0.12
    # Gradient noise is 0 at the corners of its cells.
    grid = render(
        "noise-gradient", np.zeros((8, 8, 4), np.float32), scale=8.0, place=Vec(*(x + 0.5 / 8 for x in p.here().parts()))
    )
    assert np.abs(grid).max() < 1e-5


def test_fractal_noise_is_a_sum_of_octaves() -> None:
    """After Musgrave's fractional Brownian motion (from memory): each octave twice as fine, and weaker by the roughness."""
    blank = np.zeros((120, 120, 4), np.float32)
    octaves = [render("noise-gradient", blank, scale=4.0 * 2**n, seed=1013 * n)[..., 0] for n in range(4)]
    for roughness in (0.5, 0.8):
        weights = roughness ** np.arange(4.0)
        seen = render("fractal-noise", blank, octaves=4, scale=4.0, roughness=roughness)[..., 0]
        assert np.abs(seen - np.average(octaves, axis=0, weights=weights)).max() < 1e-5


def test_cellular_noise_is_the_distance_to_its_points() -> None:
    """Against a search over all points, which are where the noise itself is 0."""
    blank = np.zeros((200, 200, 4), np.float32)
    seen = render("noise-cellular", blank, "nearest", scale=5.0)[..., 0]
    second = render("noise-cellular", blank, "second", scale=5.0)[..., 0]
    assert (second >= seen).all()
    points = np.argwhere((seen == ndimage.minimum_filter(seen, 9)) & (seen < 0.03))
    assert 15 <= len(points) <= 40
    middle = slice(60, 140)
    rows, columns = np.mgrid[0:200, 0:200]
    away = np.sort([np.hypot(rows - r, columns - c) / 40 for r, c in points], axis=0)
    assert np.abs(seen - away[0])[middle, middle].max() < 0.03


def test_grain_keeps_the_mean_and_obeys_its_amount() -> None:
    grey = np.full((300, 300, 4), 0.5, np.float32)
    seen = render("film-grain", grey, amount=0.5)[..., :3]
    assert abs(seen.mean() - 0.5) < 0.004
    assert 0.02 < seen.std() < 0.15
    assert np.array_equal(render("film-grain", grey, amount=0.0)[..., :3], grey[..., :3])
    dark, light = (render("film-grain", grey * x, amount=0.5, shadows=0.5, highlights=0.2)[..., 0].std() for x in (0.02, 1.96))
    assert light < dark < seen.std()
    assert np.abs(render("film-grain", grey, frame_seed=1) - render("film-grain", grey, frame_seed=2)).max() > 0.05
