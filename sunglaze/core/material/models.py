"""Meshes from files: glTF 2.0 (.glb, .gltf) and OBJ by trimesh, as one mesh with one texture and its nodes' motions.

glTF counts in metres; OBJ has no unit, and is taken as centimetres.
"""

from __future__ import annotations

import io
import math
import re
import zipfile
import zlib
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import trimesh
from numpy.typing import NDArray
from PIL import Image
from trimesh.resolvers import ZipResolver
from trimesh.visual.color import ColorVisuals
from trimesh.visual.material import PBRMaterial
from trimesh.visual.texture import TextureVisuals

from sunglaze.core.errors import BadFile
from sunglaze.core.material.gltf import DAMAGE, Gltf, mesh_within, read_gltf
from sunglaze.core.material.mesh import Doubles, MeshData, Model
from sunglaze.core.material.motion import motions_of
from sunglaze.core.material.reels import BROKEN_ARCHIVE

MOST_TRIANGLES = 20_000
MOST_TEXTURE = 2048
"""Texels of the longer side."""
MOST_MATERIALS = 36
MOST_PARTS = 1000
"""Nodes of a glTF file, or primitives: each takes a millisecond to read, whatever is in it."""
MOST_UNPACKED = 96 * 1024 * 1024
_METRE = 100.0
_CELL = 256
"""Texels of a side of each material's square, where there are several."""
_GREY = 200
_MATERIALS = re.compile(rb"^\s*mtllib\s+(\S[^\r\n]*)", re.MULTILINE)


_UNSEEN = (OSError, SyntaxError, EOFError, zlib.error, Image.DecompressionBombError)
"""What Pillow raises of a texture that is no whole picture."""


def _unpacked(data: bytes) -> tuple[str, dict[str, io.BytesIO]]:
    """The mesh in an archive, and all its files by name. Raises BadFile."""
    inner = mesh_within(data)
    if inner is None:
        raise BadFile("this archive holds no mesh; a mesh is a .glb, .gltf or .obj file")
    archive = zipfile.ZipFile(io.BytesIO(data))
    if sum(one.file_size for one in archive.infolist()) > MOST_UNPACKED:
        raise BadFile(f"it unpacks to more than {MOST_UNPACKED // 1024**2} MB; take out what the mesh does not use")
    try:
        return inner, {one: io.BytesIO(archive.read(one)) for one in archive.namelist() if not one.endswith("/")}
    except BROKEN_ARCHIVE:
        raise BadFile("this archive is damaged; pack it anew, without a password") from None


def read_model(name: str, data: bytes) -> Model:
    """A mesh from a file, or from a zip with what belongs to it. Raises BadFile with what to do instead."""
    resolver = None
    if data.startswith(b"PK\x03\x04"):
        inner, files = _unpacked(data)
        resolver, name, data = ZipResolver(files, namespace=inner.rpartition("/")[0] or None), inner, files[inner].getvalue()
    gltf = None if name.lower().endswith(".obj") else read_gltf(data, resolver)
    try:
        if gltf is not None:
            _count_parts(gltf.plain)
            scene = trimesh.load_scene(io.BytesIO(gltf.renamed()), file_type="glb", process=False)
        else:
            scene = trimesh.load_scene(io.BytesIO(data), file_type="obj", process=False, resolver=resolver)
    except BadFile:
        raise
    except Exception:
        raise BadFile("this mesh cannot be read; is the file whole? Save it anew as .glb") from None
    try:
        model = _gathered(scene, gltf, _METRE if gltf is not None else 1.0)
    except (*DAMAGE, *_UNSEEN):
        raise BadFile("this mesh is damaged; save it anew as .glb") from None
    beside = _MATERIALS.search(data) if gltf is None else None
    if beside is not None and resolver is None:
        file = beside[1].decode(errors="replace")[:80].strip()
        return replace(model, notes=(*model.notes, f"its colours are in '{file}', which did not come; bring both in a zip"))
    return model


def _count_parts(plain: dict[str, Any]) -> None:
    """Raises BadFile where a file is of more parts than are read in a while, before any of them is."""
    primitives = sum(len(mesh.get("primitives", ())) for mesh in plain.get("meshes", ()))
    count = max(primitives, len(plain.get("nodes", ())))
    if count > MOST_PARTS:
        raise BadFile(f"it is made of {count:,} parts; {MOST_PARTS:,} are the most. Join them first")


def _gathered(scene: Any, gltf: Gltf | None, scale: float) -> Model:
    """All geometry of a scene as one mesh."""
    found: list[tuple[Any, Doubles, int]] = []
    for node in scene.graph.nodes_geometry:
        matrix, which = scene.graph[node]
        geometry = scene.geometry[which]
        if isinstance(geometry, trimesh.Trimesh) and len(geometry.faces):
            found.append((geometry, np.asarray(matrix, np.float64), gltf.node_of(node) if gltf is not None else -1))
    count = sum(len(geometry.faces) for geometry, _, _ in found)
    if not count:
        raise BadFile("this holds no triangles; points and lines are not shown")
    if count > MOST_TRIANGLES:
        raise BadFile(f"it has {count:,} triangles; {MOST_TRIANGLES:,} are the most. Simplify it first (decimate)")
    materials, notes = _materials([geometry for geometry, _, _ in found])
    parts = [_part(*one, scale) for one in found]
    starts = np.cumsum([0, *(len(one[0]) for one in parts)])
    vertices, normals = (np.concatenate([one[n] for one in parts]) for n in (0, 1))
    if not (np.isfinite(vertices).all() and np.abs(vertices).max() < 1e7):
        raise BadFile("it has places that are no numbers, or farther than 100 km")
    triangles = np.concatenate([one[2] + start for one, start in zip(parts, starts, strict=False)])
    coloured = any(one[3] is not None for one in parts)
    colours = np.concatenate([one[3] if one[3] is not None else np.ones_like(one[0]) for one in parts]) if coloured else None
    mesh = MeshData(vertices, materials.places, triangles, normals, colours, texture=materials.texture)
    if gltf is not None:
        owners = np.concatenate([np.full(len(one[0]), node, np.int64) for one, (_, _, node) in zip(parts, found, strict=True)])
        motions, numbers = motions_of(gltf, owners, scale)
        mesh = replace(mesh, motions=motions, parts=numbers if motions else None)
        notes += gltf.notes
    return Model(mesh, tuple(notes))


def _part(geometry: Any, matrix: Doubles, _: int, scale: float) -> tuple[Doubles, Doubles, NDArray[np.int64], Doubles | None]:
    """Vertices in centimetres, normals, triangles, and linear colours where vertices have some."""
    vertices = np.asarray(geometry.vertices, np.float64) @ matrix[:3, :3].T + matrix[:3, 3]
    with np.errstate(all="ignore"):
        turned = np.asarray(geometry.vertex_normals, np.float64) @ np.linalg.pinv(matrix[:3, :3])
    normals = np.nan_to_num(turned / np.maximum(np.linalg.norm(turned, axis=1, keepdims=True), 1e-12))
    colours = None
    visual = geometry.visual
    attributes = getattr(visual, "vertex_attributes", {})
    if isinstance(visual, ColorVisuals) and visual.kind == "vertex":
        colours = np.asarray(visual.vertex_colors, np.float64)[:, :3] / 255
    elif "color" in attributes:
        given = np.asarray(attributes["color"], np.float64)[:, :3]
        colours = given / 255 if given.max() > 1.0 else given
    return vertices * scale, normals, np.asarray(geometry.faces, np.int64), colours


@dataclass(frozen=True)
class _Materials:
    texture: NDArray[np.uint8] | None
    places: Doubles


def _materials(geometries: list[Any]) -> tuple[_Materials, list[str]]:
    """One texture of all that the geometries have, and where each vertex is in it. Several lie side by side in squares."""
    notes: list[str] = []
    pictures: list[Image.Image] = []
    which, places = [], []
    keys: dict[object, int] = {}
    for geometry in geometries:
        picture, key, uv = _surface(geometry)
        if key not in keys:
            keys[key] = len(pictures)
            pictures.append(picture)
        which.append(keys[key])
        span = uv - np.floor(uv.min(axis=0)) if len(uv) and (uv.min() < -1e-3 or uv.max() > 1.001) else uv
        if len(span) and span.max() > 1.001:
            notes.append("a texture that repeats is held at its edge instead; bake it to one that does not")
        places.append(np.clip(span, 0.0, 1.0))
    if len(pictures) > MOST_MATERIALS:
        raise BadFile(f"it has {len(pictures)} materials; {MOST_MATERIALS} are the most. Join some, or bake them to one texture")
    if len(pictures) == 1:
        whole = pictures[0]
        if max(whole.size) > MOST_TEXTURE:
            notes.append(f"its texture was made smaller, from {whole.width} by {whole.height}")
            whole.thumbnail((MOST_TEXTURE, MOST_TEXTURE))
        return _Materials(np.asarray(whole), np.concatenate(places)), notes
    side = math.ceil(math.sqrt(len(pictures)))
    cell = min(MOST_TEXTURE // side, max(_CELL, *(max(one.size) for one in pictures)))
    if any(max(one.size) > cell for one in pictures):
        notes.append(f"its textures were made smaller, to {cell} each")
    room = Image.new("RGBA", (side * cell, side * cell))
    for number, one in enumerate(pictures):
        room.paste(one.resize((cell, cell)), (number % side * cell, number // side * cell))
    # Half a texel off each square's edge, so that no neighbour shows.
    inset = [0.5 / cell + one * (1 - 1 / cell) for one in places]
    corners = [np.array([number % side, number // side], np.float64) for number in which]
    moved = [(one + corner) / side for one, corner in zip(inset, corners, strict=True)]
    return _Materials(np.asarray(room), np.concatenate(moved)), notes


def _surface(geometry: Any) -> tuple[Image.Image, object, Doubles]:
    """A geometry's picture as RGBA, what tells it from others, and each vertex's place in it, v down."""
    visual, count = geometry.visual, len(geometry.vertices)
    if not isinstance(visual, TextureVisuals) or visual.material is None:
        white = isinstance(visual, ColorVisuals) and visual.kind == "vertex"
        level = 255 if white else _GREY
        return Image.new("RGBA", (4, 4), (level, level, level, 255)), level, np.full((count, 2), 0.5)
    material: Any = visual.material
    picture = getattr(material, "baseColorTexture", None) or getattr(material, "image", None)
    of_gltf = isinstance(material, PBRMaterial)
    factor = material.baseColorFactor if of_gltf else getattr(material, "diffuse", None)
    numbers = np.ones(4) if factor is None else np.asarray(factor, np.float64)[:4] / (255 if np.max(factor) > 1 else 1)
    if len(numbers) == 3:
        numbers = np.append(numbers, 1.0)
    how = (material.alphaMode or "OPAQUE") if of_gltf else "BLEND"
    if how == "OPAQUE":
        numbers[3] = 1.0
    # A factor of glTF is linear light; pictures, and colours of OBJ, are sRGB-encoded.
    tint = np.array([*(_encoded(part) if of_gltf else part for part in numbers[:3]), numbers[3]])
    cut = 255 * (0.5 if material.alphaCutoff is None else material.alphaCutoff) if how == "MASK" else 0.0
    key = (id(picture) if picture is not None else None, tuple(numbers.round(4)), how, cut)
    if picture is None or visual.uv is None:
        return Image.new("RGBA", (4, 4), tuple(round(255 * part) for part in tint)), key, np.full((count, 2), 0.5)
    pixels = np.rint(np.asarray(picture.convert("RGBA")) * tint)
    if how == "OPAQUE":
        pixels[..., 3] = 255
    elif how == "MASK":
        pixels[..., 3] = np.where(pixels[..., 3] >= cut, 255, 0)
    uv = np.asarray(visual.uv, np.float64)
    return Image.fromarray(pixels.astype(np.uint8)), key, np.stack([uv[:, 0], 1.0 - uv[:, 1]], axis=1)


def _encoded(linear: float) -> float:
    """sRGB's curve (IEC 61966-2-1)."""
    held = min(1.0, max(0.0, float(linear)))
    return 12.92 * held if held <= 0.0031308 else 1.055 * held ** (1 / 2.4) - 0.055
