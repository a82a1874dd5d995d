"""Meshes as they are kept and travel: a .glb of one mesh, one primitive, one texture (glTF 2.0), which any viewer shows at rest.

Places are metres, as the standard wants. What parts move by is `_PART`, and motions are accessors named in the mesh's `extras`,
which viewers pass over. web/src/engine/glb.ts reads the same.
"""

from __future__ import annotations

import io
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from sunglaze.core.errors import BadFile
from sunglaze.core.material.files import compact, with_alpha
from sunglaze.core.material.gltf import DAMAGE, pack_glb, read_gltf
from sunglaze.core.material.mesh import MeshData, Motion

CENTIMETRE = 0.01
_FLOAT, _WHOLE = 5126, 5125
_KINDS = {1: "SCALAR", 2: "VEC2", 3: "VEC3", 4: "VEC4"}


class _Writer:
    def __init__(self) -> None:
        self.binary = b""
        self.views: list[dict[str, Any]] = []
        self.accessors: list[dict[str, Any]] = []

    def view(self, data: bytes) -> int:
        """Append bytes to the binary part, at four bytes; the number of their buffer view."""
        self.binary += b"\0" * (-len(self.binary) % 4)
        self.views.append({"buffer": 0, "byteOffset": len(self.binary), "byteLength": len(data)})
        self.binary += data
        return len(self.views) - 1

    def accessor(self, numbers: NDArray[Any], bounds: bool = False) -> int:
        """Append numbers, (n,) or (n, parts) of uint32 or float32, and give the number of their accessor. `bounds`: with the
        least and largest of each part, as positions must have."""
        kind = _WHOLE if numbers.dtype == np.uint32 else _FLOAT
        wide = 1 if numbers.ndim == 1 else numbers.shape[1]
        one = {"bufferView": self.view(numbers.tobytes()), "componentType": kind, "count": len(numbers), "type": _KINDS[wide]}
        if bounds:
            one |= {"min": numbers.min(axis=0).tolist(), "max": numbers.max(axis=0).tolist()}
        self.accessors.append(one)
        return len(self.accessors) - 1


def single(numbers: NDArray[Any]) -> NDArray[np.float32]:
    """As glTF stores floats, in the same shape."""
    return np.ascontiguousarray(numbers, "<f4")


def write_glb(mesh: MeshData) -> bytes:
    """A mesh as it is kept: single precision, texture as PNG. Equal meshes give equal bytes."""
    writer = _Writer()
    attributes = {"POSITION": writer.accessor(single(mesh.vertices * CENTIMETRE), True)}
    attributes["TEXCOORD_0"] = writer.accessor(single(mesh.places))
    if mesh.normals is not None:
        attributes["NORMAL"] = writer.accessor(single(mesh.normals))
    if mesh.colours is not None:
        attributes["COLOR_0"] = writer.accessor(single(mesh.colours))
    if mesh.parts is not None:
        attributes["_PART"] = writer.accessor(single(mesh.parts))
    indices = writer.accessor(np.ascontiguousarray(mesh.triangles.ravel(), "<u4"))
    primitive: dict[str, Any] = {"attributes": attributes, "indices": indices}
    plain: dict[str, Any] = {
        "asset": {"version": "2.0", "generator": "Sun Glaze"}, "scene": 0, "scenes": [{"nodes": [0]}], "nodes": [{"mesh": 0}],
        "meshes": [{"primitives": [primitive]}],
    }  # fmt: skip
    if mesh.texture is not None:
        room = io.BytesIO()
        Image.fromarray(compact(mesh.texture)).save(room, "PNG", optimize=True)
        surface = {"baseColorTexture": {"index": 0}, "metallicFactor": 0, "roughnessFactor": 1}
        plain["images"] = [{"bufferView": writer.view(room.getvalue()), "mimeType": "image/png"}]
        plain |= {"textures": [{"source": 0}], "materials": [{"pbrMetallicRoughness": surface}]}
        if (mesh.texture[..., 3] < 255).any():
            plain["materials"][0]["alphaMode"] = "BLEND"
        primitive["material"] = 0
    if mesh.motions:
        # A row of a matrix is a VEC4; three rows a part, the parts of a frame in order.
        plain["meshes"][0]["extras"] = {"motions": [
            {"name": one.name, "rate": one.rate, "parts": one.matrices.shape[1],
             "accessor": writer.accessor(single(_in_metres(one.matrices).reshape(-1, 4)))}
            for one in mesh.motions
        ]}  # fmt: skip
    plain |= {"accessors": writer.accessors, "bufferViews": writer.views, "buffers": [{"byteLength": len(writer.binary)}]}
    return pack_glb(plain, writer.binary)


def _in_metres(matrices: NDArray[np.float64]) -> NDArray[np.float64]:
    return matrices * [1.0, 1.0, 1.0, CENTIMETRE]


def read_glb(data: bytes) -> MeshData:
    """A mesh as `write_glb` wrote it. Raises BadFile."""
    gltf = read_gltf(data)
    plain, held = gltf.plain, gltf.buffers[0] if gltf.buffers else b""

    def numbers(number: int) -> NDArray[Any]:
        one = plain["accessors"][number]
        view, wide = plain["bufferViews"][one["bufferView"]], next(n for n, kind in _KINDS.items() if kind == one["type"])
        found = np.frombuffer(held, "<u4" if one["componentType"] == _WHOLE else "<f4", one["count"] * wide, view["byteOffset"])
        return found.reshape(-1, wide) if wide > 1 else found

    try:
        mesh = plain["meshes"][0]
        primitive = mesh["primitives"][0]
        of = {name: numbers(at).astype(np.float64) for name, at in primitive["attributes"].items()}
        texture = None
        if plain.get("images"):
            view = plain["bufferViews"][plain["images"][0]["bufferView"]]
            picture = held[view["byteOffset"] : view["byteOffset"] + view["byteLength"]]
            with Image.open(io.BytesIO(picture), formats=["PNG"]) as image:
                texture = with_alpha(np.asarray(image.convert("RGBA" if "A" in image.mode else "RGB")))
        motions = tuple(
            Motion(str(one["name"]), float(one["rate"]),
                   numbers(one["accessor"]).astype(np.float64).reshape(-1, one["parts"], 3, 4) * [1.0, 1.0, 1.0, 1 / CENTIMETRE])
            for one in mesh.get("extras", {}).get("motions", [])
        )  # fmt: skip
        parts = of["_PART"].astype(np.int64) if "_PART" in of else None
        return MeshData(
            of["POSITION"] / CENTIMETRE, of["TEXCOORD_0"], numbers(primitive["indices"]).astype(np.int64).reshape(-1, 3),
            of.get("NORMAL"), of.get("COLOR_0"), parts, motions, texture,
        )  # fmt: skip
    except (*DAMAGE, OSError, StopIteration):
        raise BadFile("this mesh is damaged; save it anew as .glb") from None
