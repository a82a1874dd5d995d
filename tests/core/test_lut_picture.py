"""Lookup pictures: geometry of the layouts, what is found, what is refused, and damage."""

from __future__ import annotations

import io
import itertools
from collections.abc import Iterator

import numpy as np
import pytest
from PIL import Image

from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import StandIn
from sunglaze.core.colour.cube_file import write_cube
from sunglaze.core.colour.inspection import inspect
from sunglaze.core.colour.layouts import Layout
from sunglaze.core.colour.lut import cube, neutral
from sunglaze.core.colour.lut_picture import read_lut_picture, write_lut_picture
from sunglaze.core.colour.open_lut import open_lut
from sunglaze.core.errors import BadFile
from sunglaze.core.material.files import cover, encode_png
from tests.core.test_lookup import hald_by_ffmpeg
from tests.grades import random_cube, smooth_grade, through_jpeg
from tests.often import often

LAYOUTS: list[tuple[Layout, int]] = [("strip", 16), ("strip", 33), ("grid", 16), ("grid", 64), ("hald", 25), ("hald", 64)]


@pytest.mark.parametrize(("layout", "size"), LAYOUTS)
@pytest.mark.parametrize("bits", [8, 16])
def test_round_trip(layout: Layout, size: int, bits: int) -> None:
    lut = smooth_grade(np.random.default_rng(size), size)
    reading = read_lut_picture(write_lut_picture(lut, layout, bits))
    assert (reading.layout, reading.bits, reading.lut.size) == (layout, bits, size)
    assert np.abs(reading.lut.table - lut.table).max() <= 0.5 / (2**bits - 1) + 1e-6


def test_geometry() -> None:
    """Red across, green down, blue by slice: where pure colours lie in each picture of 16 steps."""

    def pixel(layout: Layout, x: int, y: int) -> list[int]:
        return np.asarray(Image.open(io.BytesIO(write_lut_picture(neutral(16), layout, 8))))[y, x].tolist()

    assert pixel("strip", 15, 0) == pixel("grid", 15, 0) == pixel("hald", 15, 0) == [255, 0, 0]
    assert pixel("strip", 0, 15) == pixel("grid", 0, 15) == [0, 255, 0]
    assert pixel("strip", 240, 0) == pixel("grid", 48, 48) == [0, 0, 255]
    assert pixel("hald", 240 % 64, 240 // 64) == [0, 255, 0]
    assert pixel("hald", 3840 % 64, 3840 // 64) == [0, 0, 255]


def test_our_neutral_hald_is_neutral_to_ffmpeg() -> None:
    hald = read_lut_picture(write_lut_picture(neutral(25), "hald")).file.pixels
    picture = np.random.default_rng(0).integers(0, 65536, (40, 40, 3)).astype(np.uint16)
    assert np.abs(hald_by_ffmpeg(hald, picture, "trilinear").astype(int) - picture).max() <= 3


@pytest.mark.parametrize("layout", ["strip", "grid", "hald"])
def test_eight_bit_neutral_is_within_half_a_code(layout: Layout) -> None:
    for size in (16, 25, 36):
        found = inspect(read_lut_picture(write_lut_picture(neutral(size), layout, 8), layout).lut)
        assert found.largest_shift <= 0.5 / 255 + 1e-7
        assert found.monotonic
        assert not found.damaged


def test_contents_decide_between_grid_and_hald() -> None:
    rng = np.random.default_rng(8)
    for n in range(12):
        lut = smooth_grade(rng, (16, 25, 36, 49)[n % 4])
        for layout in ("grid", "hald"):
            reading = read_lut_picture(write_lut_picture(lut, layout, 8))
            assert (reading.layout, reading.sure) == (layout, True)


def test_where_they_cannot_it_is_a_grid_and_said_so() -> None:
    flat = write_lut_picture(cube(np.full((16, 16, 16, 3), 0.5)), "hald")
    reading = read_lut_picture(flat)
    assert (reading.layout, reading.sure) == ("grid", False)
    assert read_lut_picture(flat, "hald").layout == "hald"


@pytest.mark.parametrize(("width", "height"), [(512, 511), (100, 100), (1089, 32), (1, 1), (2, 4096)])
def test_a_wrong_size_is_named(width: int, height: int) -> None:
    with pytest.raises(BadFile, match=f"{width} by {height} pixels"):
        read_lut_picture(encode_png(np.zeros((height, width, 3), np.uint8)))


def test_the_nearest_sizes_that_do_are_named() -> None:
    """Rows of the usual sizes, and squares of 4 to 8 cubed a side: grids of a square number of steps, and Halds of that level
    (from memory). Each picture is a column too wide."""
    rows = {(n * n, n): f"a row of {n} slices" for n in (16, 25, 32, 33, 64)}
    squares = {(s**3, s**3): f"grid or Hald of {s * s} steps" for s in (4, 5, 6, 7, 8)}
    for (width, height), what in {**rows, **squares}.items():
        with pytest.raises(BadFile, match=rf"{width} by {height} \({what}\)"):
            read_lut_picture(encode_png(np.zeros((height, width + 1, 3), np.uint8)))


def test_a_layout_that_does_not_fit_is_refused() -> None:
    with pytest.raises(BadFile, match="does not fit the hald layout"):
        read_lut_picture(write_lut_picture(neutral(16), "strip"), "hald")


def pictures(layout: Layout, size: int, rng: np.random.Generator) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(write_lut_picture(smooth_grade(rng, size), layout, 8))).convert("RGB"))


@pytest.mark.parametrize("count", often(40, 200))
def test_no_clean_grade_is_named_as_damaged_and_jpegs_are(count: int) -> None:
    """Smooth grades at 8 bits: none may be named. The same through JPEG, saved as PNG afterwards: nearly all are."""
    rng = np.random.default_rng(2026)
    qualities = (60, 70, 80, 90, 95)
    clean = named = 0
    kinds: list[tuple[Layout, int]] = [("strip", 16), ("strip", 33), ("grid", 16), ("hald", 25), ("grid", 36), ("hald", 16)]
    for n in range(count):
        layout, size = ("grid", 64) if n % 40 == 0 else kinds[n % len(kinds)]
        pixels = pictures(layout, size, rng)
        clean += open_lut(encode_png(pixels)).inspection.damaged
        lossy = through_jpeg(pixels, qualities[n % 5], full_chroma=n % 2 == 0)
        found = open_lut(encode_png(lossy), layout).inspection
        assert found.stored_as == ""
        named += found.damaged
    print(f"named as damaged: {clean} of {count} clean, {named} of {count} after JPEG")
    assert clean == 0
    assert named >= count * 0.98


def test_a_picture_is_a_lookup_by_what_it_holds() -> None:
    """Grades of a neutral lookup are; noise, faces and flat colours are not, though they fit a layout; between it is asked."""
    flat = neutral(16)
    grades = [flat.table, 1 - flat.table, flat.table**2.2, np.repeat(flat.table.mean(axis=-1, keepdims=True), 3, axis=-1)]
    for table in grades:
        for layout in ("strip", "grid", "hald"):
            assert open_lut(write_lut_picture(cube(table), layout)).like == "lookup"
    hard = np.repeat((flat.table.mean(axis=-1, keepdims=True) > 0.5).astype(float), 3, axis=-1)
    assert open_lut(write_lut_picture(cube(hard), "strip")).like == "unsure"
    face = cover(colours(StandIn(540, 960).frame(0), 540)[200:740], 64, 64)
    noise = np.random.default_rng(0).integers(0, 256, (64, 64, 3), np.uint8)
    for picture in (face, noise, np.full((64, 64, 3), 90, np.uint8)):
        assert open_lut(encode_png(np.ascontiguousarray(picture))).like == "picture"
    assert open_lut(write_cube(random_cube(1, 5))).like == "lookup"


def stripes_and_ramps(width: int, height: int) -> Iterator[np.ndarray]:
    """Plain pictures, as backdrops are: across, down and aslant; sharp, soft, and from one side to the other; rings; fields."""
    down, across = np.indices((height, width)).astype(float)
    for at in (across, down, across + down, np.hypot(across - width / 2, down - height / 2)):
        for period in (8, 64, 100, 512):
            yield (at // (period / 2) % 2) * 200 + 20
            yield np.sin(at * 2 * np.pi / period) * 100 + 120
        yield at / at.max() * 255
    for field in (8, 64, 128):
        yield ((across // field + down // field) % 2) * 180 + 40


@pytest.mark.parametrize(("width", "height"), [(512, 512), (64, 64), (256, 16), (125, 125)])
def test_stripes_ramps_rings_and_fields_are_no_lookups(width: int, height: int) -> None:
    """512 by 512 is the size of a lookup of 64 steps: stripes of that size had been taken for one, and could be nothing else."""
    found = []
    tints = itertools.cycle([(1.0, 1.0, 1.0), (1.0, 0.6, 0.2)])
    for plain, tint in zip(stripes_and_ramps(width, height), tints, strict=False):
        picture = (plain[..., None] * tint).clip(0, 255).astype(np.uint8)
        found.append(open_lut(encode_png(np.ascontiguousarray(picture))).like)
    assert "lookup" not in found, found


def test_files_that_are_lossy_are_named_whatever_they_measure() -> None:
    pixels = pictures("strip", 16, np.random.default_rng(1))
    for kind, options, name in (
        ("JPEG", {"quality": 100}, "JPEG"),
        ("GIF", {}, "a palette"),
        ("WEBP", {"quality": 95}, "lossy WebP"),
    ):
        room = io.BytesIO()
        Image.fromarray(pixels).save(room, kind, **options)
        found = open_lut(room.getvalue()).inspection
        assert (found.damaged, found.stored_as) == (True, name)


def test_a_palette_is_measured_even_where_it_was_saved_again() -> None:
    pixels = pictures("grid", 16, np.random.default_rng(4))
    reduced = np.asarray(Image.fromarray(pixels).quantize(256).convert("RGB"))
    assert open_lut(encode_png(reduced), "grid").inspection.damaged


def test_inspection_figures() -> None:
    table = neutral(5).table.copy()
    table[2, 2, 2] = [1.5, 0.5, 0.0]
    found = inspect(cube(table))
    assert found.highest == 1.5
    assert found.largest_shift == pytest.approx(1.0)
    assert found.mean_shift == pytest.approx(1.5 / (125 * 3))
    assert not found.monotonic
    assert inspect(neutral(4)).noise is None


def test_noise_is_measured_in_units_of_full_scale() -> None:
    """White noise of a known deviation on a smooth grade: the estimate is right within a tenth."""
    rng = np.random.default_rng(0)
    table = smooth_grade(rng, 33).table * 0.8 + 0.1 + rng.normal(0, 0.01, (33, 33, 33, 3))
    assert inspect(cube(table)).noise == pytest.approx(0.01, rel=0.1)


def test_sixteen_bits_survive() -> None:
    lut = random_cube(6, 16)
    assert np.abs(read_lut_picture(write_lut_picture(lut, "strip")).lut.table - lut.table).max() < 1e-5
