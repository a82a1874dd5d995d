"""Ready-made layers that cut by regions, draw, or lay something on: each held to what it says of itself, and to NumPy."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from scipy import ndimage

from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.shipped import shipped
from sunglaze.core.material.files import with_alpha
from sunglaze.core.material.still import Still
from tests.engines import drawn
from tests.nodes import camera

HEIGHT, WIDTH = 160, 120
SHELF = "b" * 64
Y, X = np.mgrid[0:HEIGHT, 0:WIDTH] + 0.5
SMOOTH = ndimage.gaussian_filter(camera(HEIGHT, WIDTH), (2.0, 2.0, 0)).astype(np.float32)
PERSON = np.hypot(X - 60, Y - 90) < 40
SMOOTH[..., 3] = PERSON
INSIDE, OUTSIDE = ndimage.binary_erosion(PERSON, iterations=3), ~ndimage.binary_dilation(PERSON, iterations=3)


def rgb(code: str) -> np.ndarray:
    return np.array([int(code[n : n + 2], 16) / 255 for n in (1, 3, 5)])


def shown(kind: str, pixels: np.ndarray | None = None, frame: int = 0, of: np.ndarray = SMOOTH, **values: Any) -> np.ndarray:
    """A ready-made layer on the camera's picture `of`; `pixels`: what lies on the shelf."""
    start = shipped()[kind].start
    layer = Layer(id="l", name=kind, kind=kind, blend=start.blend, opacity=start.opacity, values=values)
    material = Material(pictures={} if pixels is None else {SHELF: Still.of(with_alpha(pixels))})
    compiled = compile_effect(Effect(name="t", layers=[layer]), material)
    return drawn(compiled.program.final, of, compiled.inputs, frame=frame)[0]


def plain(code: str, height: int = 20, width: int = 30) -> np.ndarray:
    return np.broadcast_to(np.rint(rgb(code) * 255).astype(np.uint8), (height, width, 3)).copy()


# ---- cut-out ----


def test_a_cut_out_keeps_the_person_and_replaces_the_rest() -> None:
    seen = shown("cut-out", colour="#c02040", second="#c02040")
    assert np.abs(seen - SMOOTH[..., :3])[INSIDE].max() < 1e-5
    assert np.abs(seen - rgb("#c02040"))[OUTSIDE].max() < 1e-5


def test_a_cut_outs_backdrop_is_a_ramp_or_a_picture_that_covers_the_screen() -> None:
    ramp = shown("cut-out", colour="#000000", second="#ffffff", ramp="linear", turn=90.0)
    column = ramp[:, 2, 0] if np.ptp(ramp[:, 2, 0]) > 0.5 else ramp[2, :, 0]
    assert (np.diff(column) >= -1e-6).all() or (np.diff(column) <= 1e-6).all()
    # A wide picture, red in its left third and green in its right one: covering a tall screen, neither is seen.
    wide = np.concatenate([plain("#ff0000", 30, 60), plain("#2040c0", 30, 60), plain("#00ff00", 30, 60)], axis=1)
    covered = shown("cut-out", wide, colour="#000000", second="#000000", picture=SHELF)
    assert np.abs(covered - rgb("#2040c0"))[OUTSIDE].max() < 1e-5


def test_growing_a_cut_out_takes_some_of_the_backdrop_back() -> None:
    flat = SMOOTH.copy()
    flat[..., :3] = 0.5
    green = {
        grow: shown("cut-out", of=flat, colour="#ff00ff", second="#ff00ff", grow=grow)[..., 1] for grow in (-18.0, 0.0, 18.0)
    }
    kept = {grow: float(seen.sum()) / 0.5 for grow, seen in green.items()}

    # Eighteen reference pixels are three here: rings of pi (43^2 - 40^2) and of pi (40^2 - 37^2) pixels.
    assert kept[18.0] - kept[0.0] == pytest.approx(np.pi * (43**2 - 40**2), rel=0.08)
    assert kept[0.0] - kept[-18.0] == pytest.approx(np.pi * (40**2 - 37**2), rel=0.08)


# ---- two-picture exposure, reveal ----


def test_a_photo_fills_the_person_and_is_never_stretched() -> None:
    """A white disc on black in a picture twice as wide as high stays a disc, and only the person shows it."""
    rows, columns = np.mgrid[0:200, 0:400]
    disc = np.where(np.hypot(columns - 200, rows - 100)[..., None] < 40, 255, 0).astype(np.uint8).repeat(3, axis=2)
    everybody = SMOOTH.copy()
    everybody[..., 3] = 1
    seen = shown("two-picture-exposure", disc, of=everybody, photo=SHELF, face=0.0, contrast=1.0)[..., 0] > 0.5
    assert seen.any(axis=0).sum() == pytest.approx(seen.any(axis=1).sum(), abs=1)
    assert seen.any(axis=1).sum() == pytest.approx(80 * HEIGHT / 200, abs=1.5)
    two = {"upper": "#e0d0c0", "lower": "#e0d0c0"}
    filled = shown("two-picture-exposure", plain("#808080"), photo=SHELF, face=0.0, contrast=1.0, **two)
    assert np.abs(filled - 128 / 255)[INSIDE].max() < 1e-3
    assert np.ptp(filled[OUTSIDE], axis=0).max() < 0.2
    assert np.abs(filled[OUTSIDE] - 128 / 255).max() > 0.2


def test_a_picture_reveals_the_person_where_it_is_bright() -> None:
    half = np.concatenate([plain("#ffffff", 40, 15), plain("#000000", 40, 15)], axis=1)
    given = {"picture": SHELF, "use": True, "tint": 0.0, "soft": 0.0, "paper": "#ffffff"}
    seen = shown("reveal", half, **given)
    left, right = X < 55, X > 65
    assert np.abs(seen - SMOOTH[..., :3])[INSIDE & left].max() < 1e-5
    assert (seen[(INSIDE & right) | OUTSIDE] == 1).all()
    over = shown("reveal", half, **given, over=True)
    assert np.abs(over - SMOOTH[..., :3])[INSIDE & right].max() < 1e-5
    assert (over[(INSIDE & left) | OUTSIDE] == 1).all()
    everything = shown("reveal", half, **given, person=False)
    assert np.abs(everything - SMOOTH[..., :3])[left].max() < 1e-5
    coloured = shown("reveal", plain("#400000"), **{**given, "tint": 1.0, "paper": "#000000"})
    assert np.abs(coloured[OUTSIDE] - rgb("#400000")).max() < 1e-5


# ---- drawing, paper, tape ----


def test_ink_draws_with_two_colours_only_and_what_is_between_them() -> None:
    seen = shown("ink", ink="#102030", paper="#f0e0d0")
    way = rgb("#102030") - rgb("#f0e0d0")
    along = ((seen - rgb("#f0e0d0")) @ way) / (way @ way)
    assert np.abs(seen - (rgb("#f0e0d0") + along[..., None] * way)).max() < 1e-5
    assert along.min() >= -1e-6
    assert along.max() <= 1 + 1e-6
    bright, dark = (np.full((40, 30, 4), level, np.float32) for level in (0.8, 0.05))
    assert np.abs(shown("ink", of=bright, paper="#f0e0d0") - rgb("#f0e0d0")).max() < 1e-5
    assert np.abs(shown("ink", of=dark, ink="#102030") - rgb("#102030")).max() < 1e-5
    step = bright.copy()
    step[:, 15:, :3] = 0.4
    edge = shown("ink", of=step, ink="#000000", paper="#ffffff")
    assert edge[20, 14:16].max() < 0.1
    assert (edge[:, 3:11] == 1).all()


def test_paper_without_fibres_and_blotches_is_one_multiplied_tone() -> None:
    bare = shown("paper", rough=0.0, cloud=0.0, paper="#ffffff")
    share = bare[SMOOTH[..., :3] > 0.1] / SMOOTH[..., :3][SMOOTH[..., :3] > 0.1]
    assert np.ptp(share) < 1e-5
    seen = shown("paper")
    white = np.ones_like(SMOOTH)
    sheet = shown("paper", of=white)
    assert np.abs(seen - SMOOTH[..., :3] * sheet).max() < 1e-5
    assert sheet.std(axis=(0, 1)).min() > 0.01
    assert np.array_equal(shown("paper", frame=40), seen)


STILL_TAPE = {"wobble": 0.0, "pull": 0.0, "bleed": 0.0, "saturation": 1.0, "lines": 0.0, "noise": 0.0}


def test_tape_with_nothing_turned_up_is_the_picture() -> None:
    assert np.abs(shown("tape", **STILL_TAPE) - SMOOTH[..., :3]).max() < 1e-4


def test_each_control_of_tape_does_what_it_is_called() -> None:
    flat = np.full((960, 540, 4), 0.5, np.float32)
    lined = shown("tape", of=flat, **{**STILL_TAPE, "lines": 0.4, "count": 60.0})
    assert np.ptp(lined, axis=1).max() < 0.02
    assert np.ptp(lined[:, 0, 0]) > 0.15
    noisy = [shown("tape", of=flat, frame=n, **{**STILL_TAPE, "noise": 0.3})[..., 0] - 0.5 for n in (3, 4)]
    assert abs(noisy[0].mean()) < 0.01
    assert 0.05 < noisy[0].std() < 0.12
    assert abs(np.corrcoef(noisy[0].ravel(), noisy[1].ravel())[0, 1]) < 0.05
    grey = shown("tape", **{**STILL_TAPE, "saturation": 0.0})
    assert np.ptp(grey, axis=2).max() < 1e-4
    # Rows are thrown sideways, each as a whole: a picture without columns' differences does not show it.
    rows_only = np.repeat(SMOOTH[:, :1], WIDTH, axis=1)
    assert np.abs(shown("tape", of=rows_only, **{**STILL_TAPE, "wobble": 30.0}) - rows_only[..., :3]).max() < 1e-4
    assert np.abs(shown("tape", **{**STILL_TAPE, "wobble": 30.0}) - SMOOTH[..., :3]).max() > 0.05


# ---- panel ----


def test_a_frosted_panel_leaves_what_is_around_it_and_softens_what_is_behind() -> None:
    noisy = camera(HEIGHT, WIDTH, seed=8)
    noisy[..., :3] = np.random.default_rng(2).random((HEIGHT, WIDTH, 3))
    given = {"middle": [0.5, 0.5], "width": 0.6, "height": 0.5, "rounding": 0.0, "tinted": 0.0, "text": {"text": " "}}
    seen = shown("frosted-panel", of=noisy, **given)
    inside = (np.abs(X - 60) < 33) & (np.abs(Y - 80) < 27)
    outside = (np.abs(X - 60) > 39) | (np.abs(Y - 80) > 33)
    assert np.abs(seen - noisy[..., :3])[outside].max() < 1e-6
    assert seen[inside].std() < 0.4 * noisy[..., :3][inside].std()
    tinted = shown("frosted-panel", of=noisy, **{**given, "tinted": 1.0, "tint": "#204060"})
    assert np.abs(tinted - rgb("#204060"))[inside].max() < 1e-5
    words = shown(
        "frosted-panel", of=noisy, **{**given, "tinted": 1.0, "tint": "#ffffff", "ink": "#000000", "text": {"text": "Ebb"}}
    )
    assert words[inside].min() < 0.2
    assert 0.02 < (words[inside][:, 0] < 0.5).mean() < 0.6
    assert np.abs(words - noisy[..., :3])[outside].max() < 1e-6
