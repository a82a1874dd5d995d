"""Mesh files as artists' programs write them: a box with a ball that moves, in glTF; OBJ with its material in a zip."""

from __future__ import annotations

import io
import json
import struct
import zipfile
from typing import Any

import numpy as np
import trimesh
from PIL import Image

from sunglaze.core.material.gltf import pack_glb

SPIN = [[0.0, 0.0, 0.0, 1.0], [0.0, 0.7071068, 0.0, 0.7071068], [0.0, 1.0, 0.0, 0.0]]
RISE = [[0.0, 0.1, 0.0], [0.05, 0.2, 0.0], [0.0, 0.1, 0.3]]
TIMES = [0.0, 0.5, 1.5]


def parts(data: bytes) -> tuple[dict[str, Any], bytes]:
    """JSON and buffer of a .glb."""
    length = struct.unpack_from("<I", data, 12)[0]
    return json.loads(data[20 : 20 + length]), data[28 + length :]


def box_and_ball() -> bytes:
    """By trimesh: a red box of 10 by 5 by 2 centimetres, and on it a ball with a green texture, 10 centimetres above."""
    scene = trimesh.Scene()
    box = trimesh.creation.box((0.1, 0.05, 0.02))
    box.visual.vertex_colors = [255, 0, 0, 255]
    ball = trimesh.creation.uv_sphere(radius=0.03, count=[12, 12])
    material = trimesh.visual.material.PBRMaterial(baseColorTexture=Image.new("RGB", (8, 8), (0, 200, 0)))
    ball.visual = trimesh.visual.TextureVisuals(uv=np.full((len(ball.vertices), 2), 0.5), material=material)
    scene.add_geometry(box, node_name="box", geom_name="box")
    up = trimesh.transformations.translation_matrix([0, 0.1, 0])
    scene.add_geometry(ball, node_name="ball", geom_name="ball", parent_node_name="box", transform=up)
    return bytes(scene.export(file_type="glb"))


def moving(how: str = "LINEAR") -> bytes:
    """The same with an animation `bob`: the box spins, and the ball, which hangs on it, rises and moves."""
    plain, binary = parts(box_and_ball())
    numbers = {node.get("name"): n for n, node in enumerate(plain["nodes"])}
    del plain["nodes"][numbers["ball"]]["matrix"]
    plain["nodes"][numbers["ball"]]["translation"] = [0.0, 0.1, 0.0]
    channels, samplers = [], []

    def accessor(rows: Any, kind: str) -> int:
        nonlocal binary
        held = np.asarray(rows, "<f4")
        binary += b"\0" * (-len(binary) % 4)
        plain["bufferViews"].append({"buffer": 0, "byteOffset": len(binary), "byteLength": held.nbytes})
        binary += held.tobytes()
        count = held.size // {"SCALAR": 1, "VEC3": 3, "VEC4": 4}[kind]
        plain["accessors"].append(
            {"bufferView": len(plain["bufferViews"]) - 1, "componentType": 5126, "count": count, "type": kind}
        )
        return len(plain["accessors"]) - 1

    times = accessor(TIMES, "SCALAR")
    for node, path, rows, kind in (("box", "rotation", SPIN, "VEC4"), ("ball", "translation", RISE, "VEC3")):
        points = [[[0.0] * len(row), row, [0.0] * len(row)] for row in rows] if how == "CUBICSPLINE" else rows
        samplers.append({"input": times, "output": accessor(points, kind), "interpolation": how})
        channels.append({"sampler": len(samplers) - 1, "target": {"node": numbers[node], "path": path}})
    plain["animations"] = [{"name": "bob", "channels": channels, "samplers": samplers}]
    plain["buffers"] = [{"byteLength": len(binary)}]
    return pack_glb(plain, binary)


def painted_obj() -> bytes:
    """A zip: a square of two triangles in OBJ, its material, and the picture on it, whose upper half is blue."""
    picture = Image.new("RGB", (16, 16), (10, 20, 220))
    picture.paste((230, 200, 20), (0, 8, 16, 16))
    room, file = io.BytesIO(), io.BytesIO()
    picture.save(file, "PNG")
    corners = [(-4, -2), (4, -2), (4, 2), (-4, 2)]
    places = [(0, 0), (1, 0), (1, 1), (0, 1)]
    lines = ["mtllib sign.mtl", "usemtl wood", *(f"v {x} {y} 0" for x, y in corners), *(f"vt {u} {v}" for u, v in places)]
    obj = "\n".join([*lines, "f 1/1 2/2 3/3", "f 1/1 3/3 4/4", ""])
    with zipfile.ZipFile(room, "w") as archive:
        archive.writestr("sign/sign.obj", obj)
        archive.writestr("sign/sign.mtl", "newmtl wood\nKd 1 1 1\nmap_Kd sign.png\n")
        archive.writestr("sign/sign.png", file.getvalue())
    return room.getvalue()
