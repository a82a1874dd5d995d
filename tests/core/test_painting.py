"""Paintings of closed lines: coverage against scikit-image's polygons and SciPy's distances, mirrored halves, order."""

from __future__ import annotations

import io
import json
import zipfile
from typing import Any

import cv2
import numpy as np
import pytest
from scipy.ndimage import binary_dilation, distance_transform_edt
from skimage.draw import polygon2mask

from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.errors import BadEffect
from sunglaze.core.face.model import RINGS, face_mesh
from sunglaze.core.material.painting import SIDE, TEMPLATE, Painting, Shape, covered, painted, read_painting
from sunglaze.core.material.path import Path, outline
from sunglaze.core.moment.moment import Reads
from sunglaze.core.package.archive import read_package, write_package
from tests import engines

CLAW: list[list[float]] = [[0.2, 0.2], [0.45, 0.25], [0.3, 0.4], [0.46, 0.6], [0.15, 0.55]]
FINER = 4


def inside(shape: Shape) -> np.ndarray:
    """What the shape's line encloses, by scikit-image, FINER times as fine."""
    line = outline(Path(shape.points, shape.smooth)) * SIDE * FINER - 0.5
    return np.asarray(polygon2mask((SIDE * FINER, SIDE * FINER), line[:, ::-1]), np.uint8)


def of(**values: Any) -> Shape:
    return read_painting({"shapes": [{"points": CLAW, "soft": 0, "mirrored": False, **values}]}).shapes[0]


@pytest.mark.parametrize("smooth", [True, False])
def test_a_shape_covers_what_scikit_image_fills(smooth: bool) -> None:
    shape = of(smooth=smooth)
    ours, theirs = covered(shape), cv2.resize(inside(shape) * 255, (SIDE, SIDE), interpolation=cv2.INTER_AREA) / 255
    assert abs(ours.sum() - theirs.sum()) < 0.002 * theirs.sum()
    edge = (theirs > 0) & (theirs < 1)
    away = ~binary_dilation(edge)
    assert np.array_equal(ours[away] > 0.5, theirs[away] > 0.5)
    assert np.abs(ours - theirs)[edge].mean() < 0.1


def test_grown_shapes_and_soft_edges_follow_the_distance_from_the_line() -> None:
    """SciPy's distances on a grid four times as fine, eased as the docstring says."""
    shape = of(soft=40.0, grown=24.0)
    fine = inside(shape)
    far = (distance_transform_edt(fine) - distance_transform_edt(1 - fine)) / FINER
    far = far.reshape(SIDE, FINER, SIDE, FINER).mean(axis=(1, 3))
    scale = SIDE / TEMPLATE
    share = np.clip((far + 24 * scale + 20 * scale) / (40 * scale), 0, 1)
    assert np.abs(covered(shape) - share * share * (3 - 2 * share)).max() < 0.06


def test_mirrored_halves_meet_without_a_seam_however_soft() -> None:
    half = [[0.5, 0.2], [0.3, 0.3], [0.3, 0.6], [0.5, 0.7]]
    shape = read_painting({"shapes": [{"points": half, "smooth": False, "soft": 120.0, "mirrored": True}]}).shapes[0]
    seen = covered(shape)
    assert np.array_equal(seen, seen[:, ::-1])
    middle = seen[round(0.45 * SIDE)]
    assert middle[SIDE // 2 - 60 : SIDE // 2 + 60].min() == 1.0
    assert middle[round(0.31 * SIDE)] < 0.9


def test_shapes_lie_over_each_other_and_show_or_leave_the_picture() -> None:
    square = [[0.2, 0.2], [0.8, 0.2], [0.8, 0.8], [0.2, 0.8]]
    small = [[0.4, 0.4], [0.6, 0.4], [0.6, 0.6], [0.4, 0.6]]
    plain = {"smooth": False, "soft": 0.0, "mirrored": False}
    colours = painted(read_painting({"shapes": [
        {**plain, "points": square, "fill": "#ff0000"}, {**plain, "points": small, "fill": "#0000ff", "opacity": 0.5},
    ]}))  # fmt: skip
    at = lambda made, u, v: made[round(v * SIDE), round(u * SIDE)].tolist()  # noqa: E731
    assert at(colours, 0.3, 0.3) == [255, 0, 0, 255]
    assert at(colours, 0.5, 0.5) == [128, 0, 128, 255]
    assert at(colours, 0.1, 0.1)[3] == 0
    # The picture is seen beside the shapes and through them as far as they are clear.
    assert at(colours, 0.1, 1.1) == [255] * 4
    assert at(colours, 0.3, 1.3)[0] == 0
    shows = painted(read_painting({"shapes": [
        {**plain, "points": square, "fill": "picture"}, {**plain, "points": small, "fill": "#0000ff"},
    ]}))  # fmt: skip
    assert at(shows, 0.1, 1.1)[0] == 0
    assert at(shows, 0.3, 1.3)[0] == 255
    assert at(shows, 0.5, 1.5)[0] == 0
    assert at(shows, 0.5, 0.5) == [0, 0, 255, 255]
    assert at(shows, 0.3, 0.3)[3] == 0


@pytest.mark.parametrize(("plain", "words"), [
    ({"shape": []}, "a painting is set as"),
    ({"shapes": [{"points": CLAW}, {"points": CLAW[:2]}]}, "shape 2 of the painting: it has 3 to 24 points"),
    ({"shapes": [{"points": [[0, 0], [1, 1], [9, 0]]}]}, "shape 1 of the painting: a point is two numbers"),
    ({"shapes": [{"points": [[0, 0], [1, 1], [float("nan"), 0]]}]}, "a point is two numbers"),
    ({"shapes": [{"points": CLAW, "fill": "teal"}]}, "a colour like #a8420d"),
    ({"shapes": [{"points": CLAW, "soft": -1}]}, "'soft' is a number from 0 to 400"),
    ({"shapes": [{"points": CLAW, "mirrored": 1}]}, "'mirrored' is true or false"),
    ({"shapes": [{"points": CLAW, "hole": True}]}, "a shape has points, smooth, fill"),
    ({"shapes": [{"points": CLAW}] * 25}, "up to 24 shapes; these are 25"),
])  # fmt: skip
def test_what_is_no_painting_is_refused_with_its_shape(plain: Any, words: str) -> None:
    with pytest.raises(BadEffect, match=words.replace("(", r"\(")):
        read_painting(plain)


def test_a_painting_is_on_the_face_and_travels_as_its_lines() -> None:
    cheek = face_mesh().places[[50, 101, 36, 205]].mean(axis=0)
    spot = [[float(cheek[0] + x), float(cheek[1] + y)] for x, y in ((-0.05, -0.05), (0.05, -0.05), (0.05, 0.05), (-0.05, 0.05))]
    painting = {"shapes": [{"points": spot, "fill": "#00ff00", "soft": 2.0, "grown": 0.0, "mirrored": False, "smooth": True}]}
    effect = Effect(name="Spot", layers=[Layer(id="l", name="l", kind="face-paint", values={"painting": painting, "light": 0.0})])
    camera = StandIn(540, 960, Sitting(who="lamp-tender"))
    seen = engines.shown(compile_effect(effect, Material()), camera, 30)
    plain = engines.shown(compile_effect(Effect(name="t"), Material()), camera, 30)
    green = (seen[..., 1].astype(int) > 250) & (seen[..., 0] < 5)
    face = camera.moment(30, Reads(faces=True)).faces[0]
    assert face is not None
    at = face.points[[50, 101, 36, 205], :2].mean(axis=0) * (540, 960)
    rows, columns = np.nonzero(green)
    eyes = np.hypot(*((face.points[33] - face.points[263])[:2] * (540, 960)))
    assert np.hypot(columns.mean() - at[0], rows.mean() - at[1]) < 0.1 * eyes
    assert 0.02 * eyes**2 < green.sum() < 0.2 * eyes**2
    lips = face.points[list(RINGS["lips"]), :2].mean(axis=0) * (540, 960)
    assert np.array_equal(seen[round(lips[1]), round(lips[0])], plain[round(lips[1]), round(lips[0])])

    data = write_package(effect, Material())
    program = json.loads(zipfile.ZipFile(io.BytesIO(data)).read("program.json"))
    kept = [one["painting"] for one in program["pictures"] if "painting" in one]
    assert len(kept) == 1
    assert len(json.dumps(kept)) < 600
    assert not [one.filename for one in zipfile.ZipFile(io.BytesIO(data)).infolist() if one.filename.startswith("pictures/")]
    opened, _ = read_package(data)
    assert opened.layers[0].values["painting"] == painting
    assert isinstance(next(iter(opened.paintings().values())), Painting)
