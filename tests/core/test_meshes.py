"""Kinds of passes beside sweeps: meshes and uploads, by NumPy and by machine code; the GPU is in tests/browser/test_meshes.py.

Coverage against scikit-image's draw.polygon; depth and interpolation against rays cast at the triangles by trimesh.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
import trimesh
from skimage.draw import polygon

from sunglaze.core.camera.cast import StandIn
from sunglaze.core.errors import BadFile, Unfit
from sunglaze.core.face.held import hold
from sunglaze.core.face.model import face_mesh
from sunglaze.core.face.pose import angles, rotation, usual_focal
from sunglaze.core.language import functions as f
from sunglaze.core.language.expression import constant, leaf, record
from sunglaze.core.language.moments import moment
from sunglaze.core.language.pictures import (
    CAMERA,
    SOLID,
    Vertices,
    asset_picture,
    colour_here,
    drawn_mesh,
    near,
    sample,
    shown_sequence,
)
from sunglaze.core.language.vector import Vec, mix
from sunglaze.core.material.files import encode_png
from sunglaze.core.material.mesh import MeshData, read_obj
from sunglaze.core.material.sequence import Sequence
from sunglaze.core.material.still import Still
from sunglaze.core.moment.moment import Clock, Moment, Reads, Screen
from sunglaze.core.passes.program import Inputs, Program, State, uniform
from sunglaze.core.passes.triangles import SUBPIXELS, Triangles, triangles
from sunglaze.core.targets.raster import rasterise, rasterised
from sunglaze.parity.generating import posed
from tests.engines import drawn, readable

SHAPE = (70, 90)


def by_both(found: Triangles, shape: tuple[int, int] = SHAPE) -> np.ndarray:
    """(rows, columns, 4); asserts that NumPy and the compiled rasteriser give the same coverage, and nearly the same numbers."""
    out = np.zeros((4, *shape), np.float32)
    rasterise(found.corners, found.depths, found.w, found.attributes, out, shape[1])
    plain = rasterised(found.corners, found.depths, found.w, found.attributes, shape)
    seen = np.moveaxis(out, 0, 2)
    np.testing.assert_array_equal(seen[..., 3], plain[..., 3])
    np.testing.assert_allclose(seen, plain, atol=1e-6)
    return seen


def flat(corners: np.ndarray) -> Triangles:
    """Triangles (n, 3, 2), pixels, at one depth."""
    count = len(corners)
    snapped = np.floor(np.asarray(corners) * SUBPIXELS + 0.5).astype(np.int64)
    return Triangles(snapped, np.zeros((count, 3)), np.ones((count, 3)), np.ones((count, 3, 4)))


@pytest.mark.parametrize("seed", range(20))
def test_coverage_is_that_of_scikit_images_polygons(seed: int) -> None:
    """Corners off the pixels' middles, so that no middle lies on an edge, where the two have other rules."""
    rng = np.random.default_rng(seed)
    corners = rng.integers(-160, 16 * 110, (1, 3, 2)) * 2 / 32 + 1 / 32
    found = flat(corners)
    want = np.zeros(SHAPE, bool)
    # Its pixel (r, c) has its middle at (r, c); ours at + 0.5.
    places = found.corners[0] / SUBPIXELS - 0.5
    rows, columns = polygon(places[:, 1], places[:, 0], SHAPE)
    want[rows, columns] = True
    down, across = np.indices(SHAPE)
    edges = []
    for (x, y), (to_x, to_y) in zip(places, np.roll(places, -1, 0), strict=True):
        edges.append((to_x - x) * (down - y) - (to_y - y) * (across - x))
    clear = np.all([np.abs(edge) > 1e-9 for edge in edges], axis=0)
    np.testing.assert_array_equal((by_both(found)[..., 3] == 1)[clear], want[clear])


def test_triangles_that_share_edges_cover_every_pixel_once() -> None:
    """A fan about a pixel's middle, with corners on the middles of pixels: every tie there is."""
    rim = [(10, 10), (40, 10), (70, 10), (70, 40), (70, 60), (40, 60), (10, 60), (10, 40)]
    fan = [[(40, 40), a, b] for a, b in zip(rim, [*rim[1:], rim[0]], strict=True)]
    count = np.zeros(SHAPE)
    for three in fan:
        count += by_both(flat(np.array([three]) + 0.5))[..., 3]
    want = np.zeros(SHAPE)
    want[10:60, 10:70] = 1  # left and upper edges are in, right and lower ones are out
    np.testing.assert_array_equal(count, want)


def test_what_reaches_beyond_the_screen_on_all_sides_covers_all_of_it() -> None:
    """Cut at the four edges it has more than three corners; one triangle, and a rectangle of two."""
    columns, rows = 30, 20
    here = Moment(Clock(), Screen(columns, rows))
    square = np.array([[-60.0, -60, 0], [60, -60, 0], [60, 60, 0], [-60, 60, 0]])
    large = np.array([[-300.0, -200, 0], [300, -200, 0], [0, 500, 0]])
    for vertices, faces in ((square, [[0, 1, 2], [0, 2, 3]]), (large, [[0, 1, 2]])):
        mesh = MeshData(vertices, np.zeros((len(vertices), 2)), np.array(faces, np.int64))
        found = triangles(Vertices("mesh", "m"), posed(0.0, 0.0, -20.0, 0.0, 0.0, 0.0, 1.0), here, mesh)
        np.testing.assert_array_equal(by_both(found, (rows, columns))[..., 3], 1)


def a_ball() -> MeshData:
    made = trimesh.creation.icosphere(subdivisions=2, radius=9.0)
    rng = np.random.default_rng(3)
    return MeshData(np.array(made.vertices), rng.random((len(made.vertices), 2)), np.array(made.faces, np.int64))


def test_a_turned_mesh_is_what_rays_meet() -> None:
    """Which triangle, how far, and where in its texture: rays from the lens through the pixels' middles."""
    ball, pose = a_ball(), (2.0, -1.0, -40.0, 25.0, -15.0, 40.0, 1.2)
    columns, rows = 61, 83
    here = Moment(Clock(), Screen(columns, rows))
    seen = by_both(triangles(Vertices("mesh", "ball"), posed(*pose), here, ball), (rows, columns))
    placed = ball.vertices @ rotation(25.0, -15.0, 40.0).T * 1.2 + np.array(pose[:3])
    solid = trimesh.Trimesh(placed, ball.triangles, process=False)
    focal = usual_focal(columns, rows)
    down, across = np.mgrid[0:rows, 0:columns] + 0.5
    rays = np.stack([(across - columns / 2) / focal, -(down - rows / 2) / focal, -np.ones_like(down)], axis=-1).reshape(-1, 3)
    places, ray, triangle = solid.ray.intersects_location(np.zeros_like(rays), rays, multiple_hits=False)
    far = np.full(rows * columns, np.inf)
    for place, which in zip(places, ray, strict=True):
        far[which] = min(far[which], -place[2])
    far = far.reshape(rows, columns)
    covered = seen[..., 3] == 1
    # Edges are snapped to sixteenths of a pixel: what lies just there may be one or the other.
    assert (covered != np.isfinite(far)).sum() <= 6
    both = covered & np.isfinite(far)
    assert np.abs(seen[..., 2] - far)[both].max() < 0.2
    assert np.median(np.abs(seen[..., 2] - far)[both]) < 0.005
    shares = trimesh.triangles.points_to_barycentric(placed[ball.triangles[triangle]], places)
    texture = (shares[..., None] * ball.places[ball.triangles[triangle]]).sum(axis=1)
    found = seen[..., :2].reshape(-1, 2)[ray]
    assert np.median(np.abs(found - texture)) < 0.01


@pytest.mark.parametrize("seed", range(6))
def test_a_mesh_that_comes_through_the_near_plane_is_cut_there(seed: int) -> None:
    rng = np.random.default_rng(seed)
    mesh = MeshData(rng.normal(scale=6, size=(24, 3)), rng.random((24, 2)), rng.integers(0, 24, (16, 3)))
    here = Moment(Clock(), Screen(90, 70))
    found = triangles(Vertices("mesh", "m"), posed(0.0, 0.0, -4.0, 20.0, 10.0, 5.0, 1.0), here, mesh)
    assert (found.w >= 1.0 - 1e-9).all()
    assert (found.corners >= 0).all()
    assert (found.corners <= SUBPIXELS * np.array([90, 70])).all()
    seen = by_both(found)
    assert seen[..., 2][seen[..., 3] == 1].min() >= 1.0 - 1e-6


def textured(mesh: Vertices) -> Program:
    """The camera, and over it what a mesh shows of a picture."""
    attributes = drawn_mesh(mesh)
    u, v, _, inside = (near(attributes, channel) for channel in range(4))
    paint = sample(asset_picture("paint"), Vec(u, v))
    below = colour_here(CAMERA)
    return Program((Vec(*(mix(b, p, inside * paint.a) for b, p in zip(below.parts()[:3], paint.parts()[:3], strict=True))),))


def paint() -> np.ndarray:
    """Squares of four colours."""
    colours = np.array([[200, 30, 30], [30, 180, 60], [40, 60, 210], [230, 210, 40]], np.uint8)
    where = np.indices((32, 32)) // 4
    return np.dstack([colours[(where[0] + 3 * where[1]) % 4], np.full((32, 32), 255, np.uint8)])


def test_a_textured_mesh_is_drawn_by_both_engines_alike() -> None:
    pose = [constant(n) for n in posed(0.0, 0.0, -35.0, 0.0, 0.0, 0.0, 1.0)]
    sin, cos = (of(moment("time") * (math.pi / 2)) * uniform("size") for of in (f.sin, f.cos))
    pose[SOLID], pose[SOLID + 2], pose[SOLID + 8], pose[SOLID + 10] = cos, sin, sin * -1.0, cos
    program = textured(Vertices("mesh", "ball", tuple(pose)))
    assert program.meshes == ("ball",)
    inputs = Inputs({"size": 1.0}, pictures={"paint": Still.of(paint())}, meshes={"ball": a_ball()})
    picture = np.full((*SHAPE, 3), 0.5, np.float32)
    ours, plain = (way(program, picture, inputs, State(), 7)[0] for way in (drawn, readable))
    assert np.abs(ours - plain).max() < 1e-4
    assert 0.1 < (ours != 0.5).any(axis=2).mean() < 0.6
    later = drawn(program, picture, inputs, State(), 20)[0]
    assert np.abs(later - ours).max() > 0.3, "the signal turns it"
    assert np.array_equal(drawn(program, picture, Inputs({"size": 1.0}), State(), 7)[0], picture), (
        "one that is not given shows nothing"
    )


def test_a_faces_skin_lies_on_the_face() -> None:
    """The mesh's own points fall on the points that the moment has, by number."""
    camera = StandIn(180, 320)
    skin = Vertices("face", "first", tuple(map(constant, (0.0, 1.0, 1.0, 0.0))))
    program = textured(skin)
    assert program.reads == Reads(True, (), True)
    seen = camera.moment(12, program.reads)
    found = triangles(skin, [0.0, 1.0, 1.0, 0.0], seen, None, hold(None, seen, 0.0))
    out = by_both(found, (320, 180))
    model, points = face_mesh(), seen.faces[0].points
    column, row = (points[:468, :2] * (180, 320)).T
    inside = (out[row.astype(int), column.astype(int), 3] > 0.9) & ~seen.faces[0].hidden[:468]
    assert inside.sum() > 250
    off = out[row.astype(int), column.astype(int), :2][inside] - model.places[inside]
    assert np.median(np.abs(off)) < 0.01


def test_a_grid_that_is_not_moved_is_the_screen_and_warps_where_it_is() -> None:
    still = [constant(0.0)] * 24
    pushed = [*still[:10], constant(0.1), *still[11:]]
    here = Moment(Clock(), Screen(SHAPE[1], SHAPE[0]))
    v, u = (np.indices(SHAPE) + 0.5) / np.array(SHAPE)[:, None, None]
    seen = by_both(triangles(Vertices("grid", "3x2"), [0.0] * 24, here, None))
    np.testing.assert_allclose(seen[..., 0], u, atol=1e-6)
    np.testing.assert_allclose(seen[..., 1], v, atol=1e-6)
    moved = by_both(triangles(Vertices("grid", "3x2"), [0.1 if k == 10 else 0.0 for k in range(24)], here, None))
    assert np.abs(moved - seen).max() > 0.05
    assert drawn_mesh(Vertices("grid", "3x2", tuple(pushed))).name != drawn_mesh(Vertices("grid", "3x2", tuple(still))).name


def test_what_changes_from_pixel_to_pixel_moves_no_mesh() -> None:
    with pytest.raises(Unfit, match="once a frame"):
        drawn_mesh(Vertices("mesh", "m", (near(CAMERA, 0), *[constant(0.0)] * 31)))
    with pytest.raises(TypeError, match="32 numbers"):
        drawn_mesh(Vertices("mesh", "m", (constant(0.0),)))
    with pytest.raises(Unfit, match="whole number"):
        shown_sequence("s", uniform("u"))


def three_frames() -> Sequence:
    codes = ((255, 0, 0), (0, 255, 0), (0, 0, 255))
    return Sequence("three", tuple(encode_png(np.full((5, 4, 3), code, np.uint8)) for code in codes), 10.0)


def test_a_sequence_shows_this_frames_picture() -> None:
    """Ten pictures a second of thirty frames: each stays for three; the last one stays."""
    shows = record("idiv", moment("frame"), 3)
    program = Program((colour_here(shown_sequence("three", shows)).rgb,))
    assert program.sequences == ("three",)
    inputs = Inputs(sequences={"three": three_frames()})
    picture = np.zeros((6, 8, 3), np.float32)
    for frame, want in ((0, [1, 0, 0]), (2, [1, 0, 0]), (3, [0, 1, 0]), (8, [0, 0, 1]), (40, [0, 0, 1])):
        for way in (drawn, readable):
            assert (way(program, picture, inputs, State(), frame)[0] == want).all()
    assert (drawn(program, picture, Inputs())[0] == 0).all()


def test_two_pictures_of_one_sequence_at_once() -> None:
    first, second = (shown_sequence("three", constant(n, "int")) for n in (0, 2))
    both = Program((colour_here(first).rgb + colour_here(second).rgb * leaf("uniform", "share"),))
    inputs = Inputs({"share": 0.5}, sequences={"three": three_frames()})
    assert (drawn(both, np.zeros((4, 4, 3), np.float32), inputs)[0] == [1, 0, 0.5]).all()


def test_rotation_has_the_angles_that_it_was_made_of() -> None:
    rng = np.random.default_rng(8)
    for turn, nod, tilt in rng.uniform((-170, -85, -170), (170, 85, 170), (40, 3)):
        assert angles(rotation(turn, nod, tilt)) == pytest.approx((turn, nod, tilt))


def test_obj_is_read_as_trimesh_reads_it() -> None:
    points = ("v 0 0 0", "v 1 0 0", "v 1 1 0", "v 0 1 0.5")
    text = "\n".join([*points, "vt 0 0", "vt 1 0", "vt 1 0.75", "f 1/1 2/2 3/3 4/1", "f -1 -2 -3"])
    ours = read_obj(text)
    theirs = trimesh.load(trimesh.util.wrap_as_stream(text), file_type="obj", process=False)
    assert len(ours.triangles) == len(theirs.faces) == 3
    # Theirs come in another order, and begin at other corners.
    both = ours.vertices[ours.triangles], theirs.vertices[theirs.faces]
    mine, other = (sorted(sorted(one.tolist()) for one in part) for part in both)
    np.testing.assert_allclose(mine, other)
    assert ours.places[ours.triangles[0, 2]].tolist() == [1.0, 0.25]


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("v 1 2", "line 1"),
        ("v 0 0 0\nf 1 2 3", "line 2"),
        ("v 0 0 nan", "finite"),
        ("# nothing", "no triangles"),
        ("f 1 1", "line 1"),
    ],
)
def test_a_damaged_obj_is_refused_with_its_line(text: str, words: str) -> None:
    with pytest.raises(BadFile, match=words):
        read_obj(text)
