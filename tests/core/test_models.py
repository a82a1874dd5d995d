"""Meshes from files: places and textures against trimesh's own scene, animations against SciPy, faults in words."""

from __future__ import annotations

import io
import json
import struct
import zipfile

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from scipy.interpolate import CubicHermiteSpline
from scipy.spatial.transform import Rotation, Slerp

from sunglaze.core.errors import BadFile
from sunglaze.core.material.glb import read_glb, write_glb
from sunglaze.core.material.gltf import is_model, pack_glb
from sunglaze.core.material.models import read_model
from sunglaze.core.prints.meshes import mesh_print
from tests.solids import RISE, SPIN, TIMES, box_and_ball, moving, painted_obj, parts


def test_a_gltf_scene_is_one_mesh_in_centimetres() -> None:
    data = box_and_ball()
    model = read_model("bob.glb", data)
    scene = trimesh.load_scene(io.BytesIO(data), file_type="glb")
    np.testing.assert_allclose(model.mesh.bounds, scene.bounds * 100, atol=1e-4)
    assert len(model.mesh.triangles) == sum(len(one.faces) for one in scene.geometry.values())
    assert model.mesh.size == pytest.approx(15.5, abs=0.2)
    assert model.notes == ()
    # The box has vertex colours and a white place in the texture, the ball the other way round.
    assert model.mesh.colours is not None
    assert model.mesh.texture is not None
    rows, columns = model.mesh.texture.shape[:2]
    seen = (
        model.mesh.texture[(model.mesh.places[:, 1] * rows).astype(int), (model.mesh.places[:, 0] * columns).astype(int), :3]
        * model.mesh.colours
    )
    ball = model.mesh.vertices[:, 1] > 6
    np.testing.assert_allclose(seen[ball], np.tile((0, 200, 0), (ball.sum(), 1)), atol=1)
    np.testing.assert_allclose(seen[~ball], np.tile((255, 0, 0), ((~ball).sum(), 1)), atol=1)
    assert model.mesh.normals is not None
    np.testing.assert_allclose(np.linalg.norm(model.mesh.normals, axis=1), 1, atol=1e-6)


@pytest.mark.parametrize("how", ["LINEAR", "STEP", "CUBICSPLINE"])
def test_animations_move_nodes_as_scipy_has_them(how: str) -> None:
    """The ball hangs on the box: its place is the box's turn of its own way. glTF 2.0, appendix C."""
    mesh = read_model("bob.glb", moving(how)).mesh
    motion = mesh.motions[0]
    assert (motion.name, motion.seconds) == ("bob", 1.5)
    ball = mesh.vertices[:, 1] > 6
    middle = mesh.vertices[ball].mean(axis=0)
    for frame in (0, 6, 15, 22, 40):
        at = frame / 30
        if how == "LINEAR":
            turn = Slerp(TIMES, Rotation.from_quat(SPIN))(at)
            way = np.array([np.interp(at, TIMES, np.array(RISE)[:, k]) for k in range(3)])
        elif how == "STEP":
            now = int(np.searchsorted(TIMES, at, side="right")) - 1
            turn, way = Rotation.from_quat(SPIN[now]), np.array(RISE[now])
        else:
            spline = [CubicHermiteSpline(TIMES, np.array(rows), np.zeros_like(rows)) for rows in (SPIN, RISE)]
            turn, way = Rotation.from_quat(spline[0](at)), spline[1](at)
        moved, normals = mesh.posed(0, at)
        np.testing.assert_allclose(moved[ball].mean(axis=0), turn.apply(way) * 100, atol=0.02)
        assert normals is not None
        np.testing.assert_allclose(np.linalg.norm(normals, axis=1), 1, atol=1e-6)
    # At rest, and with a number that is none, it stands.
    assert np.array_equal(mesh.posed(-1, 0.3)[0], mesh.vertices)
    np.testing.assert_allclose(middle, (0, 10, 0), atol=0.01)


def test_what_is_kept_is_a_glb_that_any_reader_shows() -> None:
    mesh = read_model("bob.glb", moving()).mesh
    kept = write_glb(mesh)
    assert kept == write_glb(read_glb(kept)), "equal meshes give equal bytes"
    again = read_glb(kept)
    np.testing.assert_allclose(again.vertices, mesh.vertices, atol=1e-5)
    np.testing.assert_allclose(again.motions[0].matrices, mesh.motions[0].matrices, atol=1e-5)
    assert again.texture is not None
    assert np.array_equal(again.texture, mesh.texture)
    theirs = trimesh.load_scene(io.BytesIO(kept), file_type="glb", process=False)
    np.testing.assert_allclose(theirs.bounds * 100, mesh.bounds, atol=1e-4)


def test_an_obj_comes_with_its_material_in_a_zip() -> None:
    data = painted_obj()
    assert is_model("sign.zip", data)
    mesh = read_model("sign.zip", data).mesh
    assert mesh.size == 8.0
    assert mesh.texture is not None
    top = mesh.places[mesh.vertices[:, 1] > 0]
    row = np.clip((top[:, 1] * 16).astype(int), 0, 15)
    assert (mesh.texture[row, 4, :3] == (10, 20, 220)).all()
    small = mesh_print(mesh, 64)
    assert (np.abs(small.astype(int) - (10, 20, 220)).sum(axis=2) < 160).any()
    assert not is_model("frames.zip", zipped({"a1.png": b"x"}))


def zipped(files: dict[str, bytes]) -> bytes:
    room = io.BytesIO()
    with zipfile.ZipFile(room, "w") as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return room.getvalue()


def changed(**values: object) -> bytes:
    plain, binary = parts(box_and_ball())
    return pack_glb(plain | values, binary)


def many() -> bytes:
    ball = trimesh.creation.icosphere(subdivisions=5)
    return bytes(trimesh.Scene([ball, ball.copy().apply_translation([3, 0, 0])]).export(file_type="glb"))


@pytest.mark.parametrize(("name", "data", "words"), [
    ("many.glb", many(), "it has 40,960 triangles; 20,000 are the most"),
    ("parts.glb", changed(nodes=[{"mesh": 0}] * 30_000), "it is made of 30,000 parts; 1,000 are the most"),
    ("pieces.glb", changed(meshes=[{"primitives": [{"attributes": {}}] * 1001}]), "it is made of 1,001 parts"),
    ("old.glb", changed(asset={"version": "1.0"}), "this is no glTF 2.0"),
    ("small.glb", changed(extensionsRequired=["KHR_draco_mesh_compression"]), "compressed (KHR_draco_mesh_compression)"),
    ("beside.gltf", json.dumps(parts(box_and_ball())[0] | {"buffers": [{"uri": "bob.bin", "byteLength": 9}]}).encode(),
     "refers to 'bob.bin' beside it"),
    ("cut.glb", box_and_ball()[:300], "damaged"),
    ("points.obj", b"v 0 0 0\nv 1 0 0\n", "this holds no triangles"),
    ("words.obj", b"a poem about the sea", "no triangles"),
    ("far.obj", b"v 1e30 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n", "farther than 100 km"),
    ("climbs.zip", zipped({"../../a.txt": b"x"}), "holds no mesh"),
])  # fmt: skip
def test_what_is_no_mesh_is_refused_in_words(name: str, data: bytes, words: str) -> None:
    with pytest.raises(BadFile) as refused:
        read_model(name, data)
    assert words in str(refused.value)


def test_bones_and_shape_keys_are_named_as_not_shown() -> None:
    plain, binary = parts(box_and_ball())
    plain["skins"] = [{"joints": [0]}]
    plain["meshes"][0]["primitives"][0]["targets"] = [{"POSITION": 1}]
    notes = read_model("a.glb", pack_glb(plain, binary)).notes
    assert [words for words in notes if "bones" in words]
    assert [words for words in notes if "shape keys" in words]


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 2**32 - 1), st.integers(1, 40), st.booleans())
def test_damaged_files_are_refused_and_nothing_else_happens(seed: int, count: int, in_json: bool) -> None:
    data = bytearray(moving())
    rng = np.random.default_rng(seed)
    end = 20 + struct.unpack_from("<I", data, 12)[0]
    for at in rng.integers(20 if in_json else 0, end if in_json else len(data), count):
        data[at] = rng.integers(0, 256)
    try:
        mesh = read_model("bob.glb", bytes(data)).mesh
    except BadFile:
        return
    assert np.isfinite(mesh.vertices).all()
    assert len(mesh.triangles) <= 20_000


def sign(kd: str, alpha: int) -> bytes:
    """A square in OBJ with a picture of one colour, so clear, or none."""
    room, file = io.BytesIO(), io.BytesIO()
    Image.new("RGBA", (8, 8), (255, 255, 255, alpha)).save(file, "PNG")
    corners = "".join(f"v {x} {y} 0\nvt {x} {y}\n" for x, y in ((0, 0), (1, 0), (1, 1), (0, 1)))
    with zipfile.ZipFile(room, "w") as archive:
        archive.writestr("a.obj", f"mtllib a.mtl\nusemtl m\n{corners}f 1/1 2/2 3/3 4/4\n")
        archive.writestr("a.mtl", f"newmtl m\nKd {kd}\n" + ("map_Kd a.png\n" if alpha else ""))
        archive.writestr("a.png", file.getvalue())
    return room.getvalue()


def test_objs_colours_and_clearness_are_as_their_material_says() -> None:
    plain = read_model("a.zip", sign("0.8 0.4 0.2", 0)).mesh.texture
    assert plain is not None
    np.testing.assert_allclose(plain[0, 0], (204, 102, 51, 255), atol=1)
    clear = read_model("a.zip", sign("1 1 1", 90)).mesh.texture
    assert clear is not None
    assert clear[0, 0].tolist() == [255, 255, 255, 90]
    alone = read_model("a.obj", b"mtllib a.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n")
    assert alone.notes == ("its colours are in 'a.mtl', which did not come; bring both in a zip",)


def test_masked_textures_are_cut_and_moved_ones_are_named() -> None:
    plain, binary = parts(box_and_ball())
    plain["materials"][0] |= {"alphaMode": "MASK", "alphaCutoff": 0.5}
    for clear, want in ((0.3, 0), (0.7, 255)):
        plain["materials"][0]["pbrMetallicRoughness"]["baseColorFactor"] = [1.0, 1.0, 1.0, clear]
        mesh = read_model("a.glb", pack_glb(plain, binary)).mesh
        assert mesh.texture is not None
        ball = mesh.places[mesh.vertices[:, 1] > 6][0]
        rows, columns = mesh.texture.shape[:2]
        assert mesh.texture[int(ball[1] * rows), int(ball[0] * columns), 3] == want
    plain["extensionsUsed"] = ["KHR_texture_transform"]
    assert [words for words in read_model("a.glb", pack_glb(plain, binary)).notes if "bake them as they lie" in words]


def test_quads_of_an_obj_keep_their_places_at_seams() -> None:
    """A box whose six quads each fill the whole texture: every corner has three places, by faces of four corners."""
    corners = [(x, y, z) for x in (0, 1) for y in (0, 1) for z in (0, 1)]
    sides = [(1, 2, 4, 3), (5, 7, 8, 6), (1, 5, 6, 2), (3, 4, 8, 7), (1, 3, 7, 5), (2, 6, 8, 4)]
    places = [(0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0)]
    lines = [*("v {} {} {}".format(*one) for one in corners), *("vt {} {}".format(*one) for one in places)]
    lines += ["f " + " ".join(f"{corner}/{n}" for n, corner in enumerate(side, 1)) for side in sides]
    mesh = read_model("box.obj", "\n".join(lines).encode()).mesh
    assert len(mesh.triangles) == 12
    wanted = {(*corners[corner - 1], *places[n]) for side in sides for n, corner in enumerate(side)}
    found = {(*mesh.vertices[n].round(6), mesh.places[n, 0], 1 - mesh.places[n, 1]) for n in mesh.triangles.ravel()}
    assert {tuple(float(part) for part in one) for one in found} == {tuple(float(part) for part in one) for one in wanted}
