"""Applying lookups: both interpolations against OpenColorIO, colour-science, Pillow and FFmpeg."""

from __future__ import annotations

import warnings
from pathlib import Path

import av
import numpy as np
import PyOpenColorIO as ocio
import pytest
from PIL import Image, ImageFilter

from sunglaze.core.colour.cube_file import write_cube
from sunglaze.core.colour.lut import cube, neutral
from sunglaze.core.colour.lut_picture import read_lut_picture, write_lut_picture
from sunglaze.core.engine.grade import Interpolation, apply_lut, lookup_program, resampled
from sunglaze.core.passes.program import Inputs
from tests.engines import readable
from tests.grades import random_cube, sample_picture, smooth_grade

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour

PICTURE = np.random.default_rng(7).uniform(-0.3, 1.4, (48, 61, 3)).astype(np.float32)
WAYS: list[Interpolation] = ["tetrahedral", "trilinear"]


@pytest.mark.parametrize("size", [2, 16, 33, 65])
@pytest.mark.parametrize("way", WAYS)
def test_against_opencolorio(way: Interpolation, size: int, tmp_path: Path) -> None:
    lut = cube(random_cube(size, size).table, (-0.1, 0, 0.1), (1.2, 1, 1.5))
    (tmp_path / "a.cube").write_bytes(write_cube(lut))
    named = {"tetrahedral": ocio.INTERP_TETRAHEDRAL, "trilinear": ocio.INTERP_LINEAR}[way]
    transform = ocio.FileTransform(str(tmp_path / "a.cube"), interpolation=named)
    theirs = PICTURE.copy()
    ocio.Config.CreateRaw().getProcessor(transform).getDefaultCPUProcessor().applyRGB(theirs)
    assert np.abs(apply_lut(lut, PICTURE, 1.0, way) - theirs).max() < 1e-5


@pytest.mark.parametrize("way", WAYS)
def test_against_colour_science(way: Interpolation) -> None:
    lut = random_cube(3, 9)
    inside = np.clip(PICTURE, 0, 1).astype(np.float64)
    theirs = colour.LUT3D(lut.table.transpose(2, 1, 0, 3).astype(np.float64)).apply(
        inside, interpolator=getattr(colour.algebra, f"table_interpolation_{way}")
    )
    assert np.abs(apply_lut(lut, inside, 1.0, way) - theirs).max() < 1e-5


def test_curves_against_opencolorio(tmp_path: Path) -> None:
    lut = cube(np.random.default_rng(5).random((300, 3)), (-0.2, 0, 0), (1.1, 1, 2))
    (tmp_path / "a.cube").write_bytes(write_cube(lut))
    transform = ocio.FileTransform(str(tmp_path / "a.cube"), interpolation=ocio.INTERP_LINEAR)
    theirs = PICTURE.copy()
    processor = ocio.Config.CreateRaw().getProcessor(transform)
    processor.getOptimizedCPUProcessor(ocio.OPTIMIZATION_NONE).applyRGB(theirs)
    # The curve jumps by up to 1 between neighbours 0.003 apart, so single precision of the input counts 300-fold.
    assert np.abs(apply_lut(lut, PICTURE) - theirs).max() < 1e-4


def test_trilinear_against_pillow() -> None:
    lut = smooth_grade(np.random.default_rng(1), 17)
    picture = sample_picture(60, 80)
    theirs = np.asarray(Image.fromarray(picture).filter(ImageFilter.Color3DLUT(17, lut.table.ravel().tolist())))
    ours = np.rint(apply_lut(lut, picture / np.float32(255), 1.0, "trilinear") * 255)
    assert np.abs(ours - theirs).max() <= 1


def hald_by_ffmpeg(hald: np.ndarray, picture: np.ndarray, way: str) -> np.ndarray:
    """FFmpeg's haldclut filter on packed 16-bit pixels, through PyAV."""
    graph = av.filter.Graph()
    sources = []
    for pixels in (picture, hald):
        height, width = pixels.shape[:2]
        sources.append(graph.add_buffer(width=width, height=height, format="rgb48le", time_base="1/1"))
    filter_ = graph.add("haldclut", f"interp={way}")
    sink = graph.add("buffersink")
    for n, source in enumerate(sources):
        source.link_to(filter_, 0, n)
    filter_.link_to(sink)
    graph.configure()
    for source, pixels in zip(sources, (picture, hald), strict=True):
        frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(pixels), "rgb48le")
        frame.pts = 0
        source.push(frame)
        source.push(None)
    out = sink.pull()
    assert out.format.name == "rgb48le"
    return out.to_ndarray()


@pytest.mark.parametrize("way", WAYS)
def test_hald_picture_against_ffmpeg(way: Interpolation) -> None:
    reading = read_lut_picture(write_lut_picture(smooth_grade(np.random.default_rng(2), 25), "hald"))
    assert reading.layout == "hald"
    picture = sample_picture(50, 70).astype(np.uint16) * 257
    theirs = hald_by_ffmpeg(reading.file.pixels[:, :, :3], picture, way)
    ours = np.rint(apply_lut(reading.lut, picture / np.float32(65535), 1.0, way) * 65535)
    # FFmpeg's filter takes 16-bit steps on its way.
    assert np.abs(ours - theirs).max() <= 3


@pytest.mark.parametrize("way", WAYS)
def test_numpy_and_machine_code_agree(way: Interpolation) -> None:
    lut = random_cube(11, 19)
    inputs = Inputs({"strength": 0.7}, {"lut": lut.padded})
    wanted = readable(lookup_program(lut, way), PICTURE, inputs)[0]
    assert np.abs(wanted - apply_lut(lut, PICTURE, 0.7, way)).max() < 1e-5


def test_strength() -> None:
    lut = random_cube(4, 17)
    whole, none, half = (apply_lut(lut, PICTURE, s) for s in (1.0, 0.0, 0.5))
    assert np.array_equal(none, PICTURE)
    assert np.abs(half - (PICTURE + whole) / 2).max() < 1e-6


@pytest.mark.parametrize("way", WAYS)
def test_neutral_changes_nothing(way: Interpolation) -> None:
    inside = np.clip(PICTURE, 0, 1)
    assert np.abs(apply_lut(neutral(33), inside, 1.0, way) - inside).max() < 1e-6


def test_inputs_far_outside_and_no_numbers_take_the_ends_of_the_domain() -> None:
    lut = random_cube(5, 8)
    wild = np.array([np.nan, np.inf, -np.inf, 3e38, -3e38, 1000.0, -0.5, 0.25], np.float32)
    inside = np.array([0, 1, 0, 1, 0, 1, 0, 0.25], np.float32)
    pictures = [np.repeat(row[None, :, None], 3, axis=2) for row in (wild, inside)]
    for way in WAYS:
        graded, expected = (apply_lut(lut, picture, 1.0, way) for picture in pictures)
        assert np.array_equal(graded, expected)


def test_resampled_keeps_the_grade() -> None:
    lut = smooth_grade(np.random.default_rng(3), 33)
    again = resampled(resampled(lut, 65), 33)
    assert np.abs(again.table - lut.table).max() < 1e-5
