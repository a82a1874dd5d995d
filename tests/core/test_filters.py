"""Filters and masks against scipy.ndimage and formulas of their papers (shared/check-values.md)."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import ndimage

from sunglaze.core.language import pictures as p
from sunglaze.core.language import vector as v
from sunglaze.core.nodes import filters, masks
from tests.nodes import camera, channel, in_reference, render, values

PICTURE = camera(150, 120)


def each(rule, picture: np.ndarray = PICTURE) -> np.ndarray:  # type: ignore[no-untyped-def]
    return np.stack([rule(picture[..., c].astype(np.float64)) for c in range(3)], axis=-1)


@pytest.mark.parametrize("sigma", [0.6, 1.0, 2.5, 7.0])
def test_gaussian_blur_against_scipy(sigma: float) -> None:
    seen = render("blur", PICTURE, amount=in_reference(sigma, PICTURE), quality="exact")[..., :3]
    want = each(lambda x: ndimage.gaussian_filter(x, sigma, mode="nearest", truncate=6))
    assert np.abs(seen - want).max() < 1.5e-3
    assert np.abs(seen - want).mean() < 2e-4


def test_no_blur_leaves_every_pixel() -> None:
    assert np.array_equal(render("blur", PICTURE, amount=0.0)[..., :3], PICTURE[..., :3])
    assert np.array_equal(render("soften", PICTURE, mask=channel(3), amount=0.0)[..., 0], PICTURE[..., 3])


def test_wide_blur_is_near_the_exact_one() -> None:
    picture = camera(320, 240)
    for sigma in (8.0, 20.0):
        wide = render("blur", picture, amount=in_reference(sigma, picture), quality="wide")[..., :3]
        want = each(lambda x, s=sigma: ndimage.gaussian_filter(x, s, mode="nearest"), picture)
        # Borders differ: what goes on outwards there is the mean of four pixels, not the last one.
        inside = slice(int(2.5 * sigma), -int(2.5 * sigma))
        assert np.abs(wide - want)[inside, inside].max() < 0.012
        assert np.abs(wide - want).mean() < 3e-3


def test_auto_blur_between_exact_and_wide_is_near_the_exact_one() -> None:
    """Borders differ as those of a wide one do, by half as much of the picture."""
    picture = camera(320, 240)
    for sigma in (4.0, 7.9):
        seen = render("blur", picture, amount=in_reference(sigma, picture))[..., :3]
        want = each(lambda x, s=sigma: ndimage.gaussian_filter(x, s, mode="nearest"), picture)
        inside = slice(int(2.5 * sigma), -int(2.5 * sigma))
        assert 1e-5 < np.abs(seen - want)[inside, inside].max() < 0.012
        assert np.abs(seen - want).mean() < 2e-3


def test_auto_blur_is_exact_below_and_wide_above() -> None:
    picture = camera(160, 120)
    for sigma, quality in ((3.0, "exact"), (9.0, "wide")):
        auto, chosen = (render("blur", picture, amount=in_reference(sigma, picture), quality=q) for q in ("auto", quality))
        assert np.abs(auto - chosen).max() < 1e-6


def test_blur_of_a_colour_with_opacity_does_not_bleed() -> None:
    """Premultiplied inside: where nothing is opaque, its colour does not count."""
    clear = v.rgba(v.Vec(1.0, 0.0, 0.0), channel(3))
    seen = values(filters.blurred(p.picture_of(clear), v.value(2.0), "exact"), "colour", PICTURE)
    inside = seen[..., 3] > 1e-3
    assert np.abs(seen[inside][:, 0] - 1).max() < 1e-4
    want = ndimage.gaussian_filter(PICTURE[..., 3].astype(np.float64), 2.0, mode="nearest")
    assert np.abs(seen[..., 3] - want).max() < 1.5e-3


@pytest.mark.parametrize("radius", [1, 3, 6])
def test_box_blur_against_scipy(radius: int) -> None:
    seen = render("box-blur", PICTURE, radius=in_reference(radius, PICTURE))[..., :3]
    want = each(lambda x: ndimage.uniform_filter(x, 2 * radius + 1, mode="nearest"))
    assert np.abs(seen - want).max() < 1e-5


@pytest.mark.parametrize(("size", "side"), [("3 by 3", 3), ("5 by 5", 5)])
def test_median_against_scipy(size: str, side: int) -> None:
    seen = render("median", PICTURE, size=size)[..., :3]
    want = each(lambda x: ndimage.median_filter(x, side, mode="nearest"))
    assert np.array_equal(seen, want.astype(np.float32))


def test_convolutions_against_scipy() -> None:
    rng = np.random.default_rng(1)
    kernel = rng.normal(size=(3, 3))
    rows = dict(zip(("upper", "middle", "lower"), (tuple(map(float, row)) for row in kernel), strict=True))
    seen = render("convolve3", PICTURE, divisor=2.0, bias=0.25, **rows)[..., :3]
    want = each(lambda x: ndimage.correlate(x, kernel, mode="nearest") / 2 + 0.25)
    assert np.abs(seen - want).max() < 1e-5
    five = np.array([[1, 4, 6, 4, 1]]) * np.array([[1], [4], [6], [4], [1]]) / 256  # the node's default, Pascal's triangle
    seen = render("convolve5", PICTURE)[..., :3]
    assert np.abs(seen - each(lambda x: ndimage.correlate(x, five, mode="nearest"))).max() < 1e-5


def test_sobel_against_scipy() -> None:
    luma = PICTURE[..., :3].astype(np.float64) @ [0.2126, 0.7152, 0.0722]  # ITU-R BT.709
    across, down = (ndimage.sobel(luma, axis, mode="nearest") for axis in (1, 0))
    strength = render("sobel", PICTURE, "strength", thickness=in_reference(1, PICTURE))[..., 0]
    assert np.abs(strength - np.hypot(across, down) / 4).max() < 1e-5
    angle = render("sobel", PICTURE, "angle", thickness=in_reference(1, PICTURE))[..., 0]
    strong = np.hypot(across, down) > 0.05
    apart = np.abs((angle - np.degrees(np.arctan2(down, across)) + 180) % 360 - 180)
    assert apart[strong].max() < 0.01


def test_the_angle_of_an_edge_comes_in_with_it() -> None:
    """Of a flat area an angle would be that of rounding, an artist's flicker: 0 below half a code of 8 bits, whole above two."""
    rng = np.random.default_rng(4)
    flat = np.full((16, 12, 4), 0.6, np.float32) + rng.normal(0, 1e-7, (16, 12, 4)).astype(np.float32)
    assert (render("sobel", flat, "angle", thickness=in_reference(1, flat)) == 0).all()
    for step, share in ((0.25 / 255, 0.0), (4 / 255, 1.0)):
        ramp = np.repeat((0.3 + np.arange(12, dtype=np.float32) * step / 2)[None, :, None], 16, axis=0).repeat(4, axis=2)
        seen = render("sobel", np.ascontiguousarray(ramp.swapaxes(0, 1)), "angle", thickness=in_reference(1, ramp))[4:8, 4:8, 0]
        assert np.abs(seen - 90 * share).max() < 0.1


@pytest.mark.parametrize("radius", [2, 5])
def test_smoothing_is_the_guided_filter_of_its_paper(radius: int) -> None:
    """He, Sun and Tang, "Guided image filtering" (2013), equations 5, 6 and 8, the picture its own guide."""
    edges = 0.06

    def guided(x: np.ndarray) -> np.ndarray:
        def mean(y: np.ndarray) -> np.ndarray:
            return ndimage.uniform_filter(y, 2 * radius + 1, mode="nearest")

        spread = mean(x * x) - mean(x) ** 2
        a = spread / (spread + edges**2)
        return mean(a) * x + mean(mean(x) - a * mean(x))

    seen = render("smooth", PICTURE, radius=in_reference(radius, PICTURE), amount=1.0, edges=edges)[..., :3]
    assert np.abs(seen - each(guided)).max() < 1e-4
    assert np.array_equal(render("smooth", PICTURE, amount=0.0)[..., :3], PICTURE[..., :3])


def test_quick_smoothing_is_the_fast_guided_filter() -> None:
    """He and Sun, "Fast guided filter" (2015): means and coefficients of the picture at half its size, laid on the whole one."""
    edges, radius = 0.06, 2

    def halved(x: np.ndarray) -> np.ndarray:
        return x.reshape(x.shape[0] // 2, 2, x.shape[1] // 2, 2).mean(axis=(1, 3))

    def mean(y: np.ndarray) -> np.ndarray:
        return ndimage.uniform_filter(y, 2 * radius + 1, mode="nearest")

    def whole(y: np.ndarray) -> np.ndarray:
        return ndimage.zoom(y, 2, order=1, mode="nearest", grid_mode=True)

    def fast(x: np.ndarray) -> np.ndarray:
        small = halved(x)
        spread = mean(small * small) - mean(small) ** 2
        a = spread / (spread + edges**2)
        return whole(mean(a)) * x + whole(mean(mean(small) - a * mean(small)))

    seen = render("smooth", PICTURE, radius=in_reference(2 * radius, PICTURE), amount=1.0, edges=edges, quality="quick")[..., :3]
    assert np.abs(seen - each(fast)).max() < 1e-4


def test_smaller_pictures_are_means() -> None:
    seen = render("smaller", camera(64, 64), times="4")[..., :3]
    blocks = camera(64, 64)[..., :3].reshape(16, 4, 16, 4, 3).mean(axis=(1, 3))
    assert (
        np.abs(seen[2::4, 2::4] - ndimage.zoom(blocks, (4, 4, 1), order=1, mode="nearest", grid_mode=True)[2::4, 2::4]).max()
        < 1e-5
    )


def test_distance_against_scipy() -> None:
    mask = PICTURE[..., 3] > 0.5
    reach = 10.0
    want = np.minimum(ndimage.distance_transform_edt(~mask), reach)
    seen = render("mask-distance", PICTURE, mask=channel(3), reach=in_reference(reach, PICTURE), outwards=True)[..., 0]
    assert np.abs(seen * 120 / 720 - want).max() < 1e-4
    inwards = render("mask-distance", PICTURE, mask=channel(3), reach=in_reference(reach, PICTURE), outwards=False)[..., 0]
    assert np.abs(inwards * 120 / 720 - np.minimum(ndimage.distance_transform_edt(mask), reach)).max() < 1e-4


@pytest.mark.parametrize("amount", [0.2, 0.5, 3.0, 6.0, -0.2, -3.0])
def test_growing_against_scipy(amount: float) -> None:
    """What scipy says is within the amount is grown over, what is a pixel farther is not; and between, by parts."""
    mask = PICTURE[..., 3] > 0.5
    seen = render("grow", PICTURE, mask=channel(3), amount=in_reference(amount, PICTURE))[..., 0]
    outwards, inwards = ndimage.distance_transform_edt(~mask), ndimage.distance_transform_edt(mask)
    covered = 1 + amount - outwards if amount > 0 else inwards + amount
    assert np.abs(seen - np.clip(covered, 0, 1)).max() < 1e-3
    assert np.array_equal(render("grow", PICTURE, mask=channel(3), amount=0.0)[..., 0], PICTURE[..., 3])


def test_softening_widely_comes_near_the_exact_one() -> None:
    """On a mask that is large against it; borders are left out, which the wide one handles its own way."""
    mask = np.kron(PICTURE[..., 3], np.ones((6, 6)))
    large = np.repeat(mask[..., None], 4, axis=2).astype(np.float32)
    seen = render("soften", large, mask=channel(3), amount=in_reference(12.0, large), quality="wide")[..., 0]
    exact = ndimage.gaussian_filter(mask, 12.0, mode="nearest")
    assert np.abs(seen - exact)[40:-40, 40:-40].max() < 0.02


def test_softening_a_mask_against_scipy() -> None:
    seen = render("soften", PICTURE, mask=channel(3), amount=in_reference(2.0, PICTURE))[..., 0]
    assert np.abs(seen - ndimage.gaussian_filter(PICTURE[..., 3].astype(np.float64), 2.0, mode="nearest")).max() < 1.5e-3


def test_masks_combine() -> None:
    a, b = PICTURE[..., 0].astype(np.float64), PICTURE[..., 3].astype(np.float64)
    want = {
        "both": a * b, "either": 1 - (1 - a) * (1 - b), "first only": a * (1 - b), "one of them": a + b - 2 * a * b,
        "average": (a + b) / 2,
    }  # fmt: skip
    assert set(want) == set(masks.COMBINATIONS)
    for how, expected in want.items():
        assert (
            np.abs(render("combine-masks", PICTURE, first=channel(0), second=channel(3), how=how)[..., 0] - expected).max() < 1e-6
        )
    assert np.abs(render("turn-over", PICTURE, mask=channel(3))[..., 0] - (1 - b)).max() < 1e-6
    assert np.array_equal(render("region", PICTURE)[..., 0], PICTURE[..., 3])
    assert (render("region", PICTURE, region="hair") == 0).all()  # which this camera does not know


def test_blocks_are_of_one_colour() -> None:
    seen = render("blocks", PICTURE, size=in_reference(4, PICTURE))[..., :3]
    blocks = seen[:148].reshape(37, 4, 30, 4, 3)
    assert np.abs(blocks - blocks[:, :1, :, :1]).max() < 1e-5
    assert len(np.unique(blocks[:, 0, :, 0, 0].round(4))) > 60
