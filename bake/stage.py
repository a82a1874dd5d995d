"""What stands before the lens in one frame: triangles of all parts with what their vertices carry, and the rays cast at them."""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float32]
Numbers = NDArray[np.int64]
SKIN, HAIR, EYE, CLOTH, PLAIN = range(5)
"""Kinds of surface, by which they are shaded."""
NORMAL, COLOUR, KEY, SKY, RIM, SHOWN, OPEN, REST, GLOSS, ROUGH, RELIEF, EDGE = 0, 3, 6, 9, 10, 11, 12, 13, 16, 17, 18, 19
CARRIED = 20
"""What a vertex carries, by place: normal (of hair the way it runs) 3, colour 3, key light 3, sky, rim, share of the key and of the
sky that it sees, rest coordinates 3, gloss, roughness, strength of its relief, share of the rims it sees."""
TOWARDS_KEY = np.array([-0.5, 0.52, 0.69]) / math.sqrt(0.5**2 + 0.52**2 + 0.69**2)
RIMS = np.array([[-0.82, 0.25, -0.48], [0.82, 0.25, -0.48]])
KEY_RAYS, SKY_RAYS = 8, 18
KEY_WIDE = 0.2
"""Radius of the key light, seen from what it lights: as a window's."""


@dataclass(eq=False)
class Part:
    """Some of what stands there. `vertices` (n, 3), `triangles` (m, 3), `carries` (n, CARRIED) but for the lights, `label` one
    for all or (m), `kind` how it is shaded."""

    vertices: NDArray[np.float64]
    triangles: Numbers
    carries: Floats
    label: NDArray[np.uint8] | int
    kind: int


class Stage:
    """Parts with a tree for rays."""

    def __init__(self, parts: list[Part]) -> None:
        first = np.cumsum([0, *(len(part.vertices) for part in parts)])
        self.parts = parts
        self.slices = [slice(a, b) for a, b in pairwise(first)]
        self.vertices = np.concatenate([part.vertices for part in parts]).astype(np.float32)
        self.triangles = np.concatenate([part.triangles + a for part, a in zip(parts, first[:-1], strict=True)]).astype(np.int32)
        self.carries = np.concatenate([part.carries for part in parts]).astype(np.float32)
        counts = [len(part.triangles) for part in parts]
        self.labels = np.concatenate(
            [np.broadcast_to(np.asarray(p.label, np.uint8), n) for p, n in zip(parts, counts, strict=True)]
        )
        self.kinds = np.repeat([part.kind for part in parts], counts).astype(np.uint8)
        self.scene = _scene(self.vertices, self.triangles)

    def free(self, places: Floats, ways: Floats, far: float = 30.0) -> NDArray[np.bool_]:
        """Which ways (n, 3) from places (n, 3) meet nothing within so far."""
        dists = np.full(len(places), far, np.float32)
        assert np.isfinite(places).all(), "a place is no number"
        assert np.isfinite(ways).all(), "a way is no number"
        return np.asarray(self.scene.run(places, ways, dists, query="OCCLUDED") < 0)

    def light(
        self, at: Numbers, normals: Floats, lift: float, wrap: float, key_rays: int = KEY_RAYS, sky_rays: int = SKY_RAYS
    ) -> Floats:
        """Light that arrives at vertices `at` with `normals`: key, sky, rim, share of the key seen, of the sky, of the rims (n, 6).

        Rays are strewn by the vertex's number, so that what is left of noise moves with the surface. `lift` decimetres off it;
        `wrap`: how far light reaches round its edge.
        """
        # Rays without a way never end.
        normals = np.where(np.abs(normals).sum(axis=1, keepdims=True) > 0.5, normals, np.float32([[0, 0, 1]]))
        places = self.vertices[at] + lift * normals
        turn = _chance(at) * 2 * math.pi
        key, seen = np.zeros(len(at)), np.zeros(len(at))
        side = np.cross(TOWARDS_KEY, [0, 1, 0])
        side /= np.linalg.norm(side)
        up = np.cross(side, TOWARDS_KEY)
        facing = normals @ TOWARDS_KEY
        close = facing > -wrap - 0.1
        for n in range(key_rays):
            radius, angle = KEY_WIDE * math.sqrt((n + 0.5) / key_rays), n * 2.399963 + turn[close]
            ways = TOWARDS_KEY + radius * (np.cos(angle)[:, None] * side + np.sin(angle)[:, None] * up)
            seen[close] += self.free(places[close], ways.astype(np.float32)) / key_rays
        key = np.maximum(0, (facing + wrap) / (1 + wrap)) * seen
        sky, open_ = np.zeros(len(at)), np.zeros(len(at))
        across, along = _beside(normals)
        total = 0.0
        for n in range(sky_rays):
            share = (n + 0.5) / sky_rays
            radius, angle = math.sqrt(share), n * 2.399963 + turn
            flat = radius * (np.cos(angle)[:, None] * across + np.sin(angle)[:, None] * along)
            ways = (flat + math.sqrt(1 - share) * normals).astype(np.float32)
            free = self.free(places, ways, 8.0)
            sky += free * np.clip(0.62 + 0.42 * ways[:, 1] + 0.2 * ways[:, 2], 0.12, None)
            # What hides the sky sends some of its light on.
            sky += ~free * 0.1
            open_ += free
            total += 1
        rim, edges = np.zeros(len(at)), np.zeros(len(at))
        for way in RIMS:
            lit = np.maximum(0, normals @ way)
            some = lit > 0
            free = np.zeros(len(at))
            free[some] = self.free(places[some], np.broadcast_to(way.astype(np.float32), (int(some.sum()), 3)).copy())
            rim += lit**1.5 * free
            edges = np.maximum(edges, free)
        return np.stack([key, sky / total, rim, seen, open_ / total, edges], axis=1).astype(np.float32)


def _scene(vertices: Floats, triangles: NDArray[np.int32]) -> Any:
    # Here, so that all but casting rays works where it is not installed.
    from embreex.mesh_construction import TriangleMesh
    from embreex.rtcore_scene import EmbreeScene

    scene = EmbreeScene()
    TriangleMesh(scene, vertices, np.ascontiguousarray(triangles))
    return scene


def _chance(numbers: Numbers) -> NDArray[np.float64]:
    """A number from 0 to 1 of each number, always the same."""
    mixed = (numbers.astype(np.uint64) * np.uint64(0x9E3779B97F4A7C15)) >> np.uint64(40)
    return np.asarray(mixed / 2**24)


def _beside(normals: Floats) -> tuple[Floats, Floats]:
    """Two directions across each normal (n, 3)."""
    pole = np.where(np.abs(normals[:, :1]) < 0.7, [[1.0, 0, 0]], [[0, 1.0, 0]])
    across = np.cross(normals, pole)
    across /= np.linalg.norm(across, axis=1, keepdims=True)
    return across.astype(np.float32), np.cross(normals, across).astype(np.float32)
