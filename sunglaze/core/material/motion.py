"""What of a glTF file trimesh leaves: its nodes' animations, sampled to matrices."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.errors import BadFile
from sunglaze.core.material.gltf import DAMAGE, Gltf
from sunglaze.core.material.mesh import Doubles, Motion

RATE = 30.0
"""Frames a second that animations are sampled at."""
LONGEST = 20.0
"""Seconds of an animation that are kept."""
MOST_MOVING = 64
"""Nodes with triangles that move by themselves."""
MOST_MOTIONS = 12
_WIDTHS = {"SCALAR": 1, "VEC3": 3, "VEC4": 4}


def motions_of(gltf: Gltf, owners: NDArray[np.int64], scale: float) -> tuple[tuple[Motion, ...], NDArray[np.int64]]:
    """The animations of a file by name, and which of their matrices moves each vertex. `owners` (v,): the vertices' nodes;
    `scale`: centimetres of its unit. Raises BadFile."""
    moving = sorted({int(one) for one in owners if one >= 0})
    parts = np.searchsorted(np.array(moving or [0]), np.maximum(owners, 0))
    animations = [one for one in gltf.plain.get("animations", []) if isinstance(one, dict)]
    if not animations or not moving:
        return (), parts.astype(np.int64)
    if len(moving) > MOST_MOVING:
        raise BadFile(f"it moves {len(moving)} parts; {MOST_MOVING} are the most. Join those that move together")
    try:
        above = {child: n for n, node in enumerate(gltf.nodes) for child in node.get("children", [])}
        rest = [np.linalg.pinv(_world(gltf, n, above, {}, 0.0)) for n in moving]
        found = []
        for number, animation in enumerate(animations[:MOST_MOTIONS], 1):
            tracks = _tracks(gltf, animation)
            if not tracks:
                continue
            seconds = min(LONGEST, max(float(times[-1]) for times, _, _ in tracks.values()))
            frames = max(1, round(seconds * RATE))
            matrices = np.empty((frames, len(moving), 3, 4))
            for frame in range(frames):
                for place, node in enumerate(moving):
                    now = _world(gltf, node, above, tracks, frame / RATE) @ rest[place]
                    matrices[frame, place] = now[:3]
            matrices[..., 3] *= scale
            if not np.isfinite(matrices).all():
                raise BadFile("an animation has places that are no numbers")
            found.append(Motion(str(animation.get("name") or f"motion {number}")[:80], RATE, matrices))
    except DAMAGE:
        raise BadFile("its animations are damaged; export it anew, or without them") from None
    return tuple(found), parts.astype(np.int64)


Track = tuple[Doubles, Doubles, str]
"""Seconds, what stands there, and how it goes on between."""


def _tracks(gltf: Gltf, animation: dict[str, Any]) -> dict[tuple[int, str], Track]:
    found = {}
    for channel in animation["channels"]:
        target, sampler = channel["target"], animation["samplers"][channel["sampler"]]
        if "node" in target and target["path"] in ("translation", "rotation", "scale"):
            times, values = _accessor(gltf, sampler["input"]).ravel(), _accessor(gltf, sampler["output"])
            found[target["node"], target["path"]] = times, values, sampler.get("interpolation", "LINEAR")
    return found


def _accessor(gltf: Gltf, number: int) -> Doubles:
    one = gltf.plain["accessors"][number]
    if one["componentType"] != 5126:
        raise BadFile("an animation is not of floats; export it without compression")
    view, width, count = gltf.plain["bufferViews"][one["bufferView"]], _WIDTHS[one["type"]], one["count"]
    start = view.get("byteOffset", 0) + one.get("byteOffset", 0)
    flat = np.frombuffer(gltf.buffers[view["buffer"]], "<f4", count * width, start)
    return np.asarray(flat.reshape(count, width), np.float64)


def _world(gltf: Gltf, node: int, above: dict[int, int], tracks: dict[tuple[int, str], Track], seconds: float) -> Doubles:
    """From a node to the scene, (4, 4), at a time of its animation."""
    matrix, steps = np.eye(4), 0
    current: int | None = node
    while current is not None:
        matrix = _local(gltf.nodes[current], current, tracks, seconds) @ matrix
        current, steps = above.get(current), steps + 1
        if steps > len(gltf.nodes):
            raise ValueError("its nodes hang in a ring")
    return matrix


def _local(node: dict[str, Any], number: int, tracks: dict[tuple[int, str], Track], seconds: float) -> Doubles:
    if "matrix" in node and not any(of == number for of, _ in tracks):
        return np.array(node["matrix"], np.float64).reshape(4, 4).T
    parts = {"translation": [0.0] * 3, "rotation": [0.0, 0.0, 0.0, 1.0], "scale": [1.0] * 3} | {
        name: node[name] for name in ("translation", "rotation", "scale") if name in node
    }
    held = {
        name: _at(*tracks[number, name], seconds, name == "rotation") if (number, name) in tracks else np.array(plain, np.float64)
        for name, plain in parts.items()
    }
    x, y, z, w = held["rotation"] / max(float(np.linalg.norm(held["rotation"])), 1e-12)
    turn = np.array([
        [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
        [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
        [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
    ])  # fmt: skip
    matrix = np.eye(4)
    matrix[:3, :3], matrix[:3, 3] = turn * held["scale"], held["translation"]
    return matrix


def _at(times: Doubles, values: Doubles, how: str, seconds: float, turns: bool) -> Doubles:
    """What an animation's track holds at a time (glTF 2.0, appendix C)."""
    cubic = how == "CUBICSPLINE"
    points = values.reshape(len(times), 3, -1) if cubic else values[:, None]
    middle = points[:, 1] if cubic else points[:, 0]
    after = int(np.searchsorted(times, seconds, side="right"))
    if after == 0 or after == len(times) or how == "STEP":
        return np.asarray(middle[min(max(after - 1, 0), len(times) - 1)])
    span = times[after] - times[after - 1]
    t = (seconds - times[after - 1]) / span
    one, two = middle[after - 1], middle[after]
    if cubic:
        out, into = points[after - 1, 2] * span, points[after, 0] * span
        made = (2 * t**3 - 3 * t**2 + 1) * one + (t**3 - 2 * t**2 + t) * out
        return np.asarray(made + (3 * t**2 - 2 * t**3) * two + (t**3 - t**2) * into)
    if not turns:
        return np.asarray(one + (two - one) * t)
    near = float(np.dot(one, two))
    two, near = (-two, -near) if near < 0 else (two, near)
    if near > 0.9995:
        return np.asarray(one + (two - one) * t)
    angle = float(np.arccos(near))
    return np.asarray((np.sin((1 - t) * angle) * one + np.sin(t * angle) * two) / np.sin(angle))
