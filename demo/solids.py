"""Meshes of the demo, made by code: a lighthouse to wear, and a gull that circles the head."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise

import numpy as np
import trimesh
from numpy.typing import NDArray

from sunglaze.core.material.mesh import Doubles, MeshData, Motion

RATE = 30.0
Colour = tuple[float, float, float]
RED, WHITE, IRON, LAMP = (0.42, 0.035, 0.02), (0.86, 0.84, 0.78), (0.03, 0.035, 0.04), (1.0, 0.72, 0.2)
ROCK, GREY, BEAK = (0.16, 0.15, 0.14), (0.33, 0.36, 0.4), (0.9, 0.45, 0.05)
"""Linear light."""


def lathe(outline: Sequence[tuple[float, float]], colours: Sequence[Colour], around: int = 40) -> MeshData:
    """A body turned about the upright axis: a ring at each (radius, height), a colour between two."""
    turn = np.linspace(0, 2 * np.pi, around, endpoint=False)
    vertices, triangles, shades, normals = [], [], [], []
    for ((low, bottom), (high, top)), colour in zip(pairwise(outline), colours, strict=True):
        start = sum(len(one) for one in vertices)
        rings = [(low, bottom), (high, top)]
        rows = [np.stack([r * np.sin(turn), np.full(around, y), r * np.cos(turn)], axis=1) for r, y in rings]
        vertices.append(np.concatenate(rows))
        # The outline's own slope; a body that narrows looks up.
        away, rise = top - bottom, low - high
        long = max(math.hypot(away, rise), 1e-9)
        side = np.stack([np.sin(turn) * away / long, np.full(around, rise / long), np.cos(turn) * away / long], axis=1)
        normals.append(np.concatenate([side, side]))
        first = np.arange(around)
        after = (first + 1) % around
        triangles += [
            np.stack([first, after, first + around], axis=1) + start,
            np.stack([after, after + around, first + around], axis=1) + start,
        ]
        shades.append(np.tile(colour, (2 * around, 1)))
    return _made(np.concatenate(vertices), np.concatenate(triangles), np.concatenate(shades), np.concatenate(normals))


def _made(vertices: Doubles, triangles: NDArray[np.int64], colours: Doubles, normals: Doubles) -> MeshData:
    return MeshData(vertices, np.full((len(vertices), 2), 0.5), triangles, normals, colours)


def joined(parts: Sequence[MeshData], motions: Sequence[Motion] = ()) -> MeshData:
    """Several meshes as one; each is a part that motions move."""
    starts = np.cumsum([0, *(len(one.vertices) for one in parts)])
    kept = {name: np.concatenate([getattr(one, name) for one in parts]) for name in ("vertices", "places", "normals", "colours")}
    triangles = np.concatenate([one.triangles + start for one, start in zip(parts, starts, strict=False)])
    numbers = np.repeat(np.arange(len(parts)), [len(one.vertices) for one in parts])
    return MeshData(triangles=triangles, parts=numbers if motions else None, motions=tuple(motions), **kept)


def lighthouse() -> MeshData:
    """A tower of 15 centimetres on a rock that sits on the head."""
    tower = [(5.6, -1.4), (4.6, 0.4), (3.4, 1.0)]
    colours: list[Colour] = [ROCK, ROCK]
    for step in range(6):
        tower.append((3.0 - 0.2 * step, 1.0 + 1.5 * (step + 1)))
        colours.append(RED if step % 2 == 0 else WHITE)
    tower += [(2.9, 10.1), (2.9, 10.5), (1.3, 10.5), (1.3, 12.4), (2.0, 12.4), (0.9, 13.6), (0.25, 14.0), (0.0, 14.8)]
    colours += [IRON, IRON, IRON, LAMP, IRON, RED, RED, IRON]
    return lathe(tower, colours)


def gull() -> MeshData:
    """A gull that flies about the head once in four seconds, 15 centimetres from its middle, and beats its wings."""
    body = trimesh.creation.icosphere(subdivisions=3, radius=1.0)
    at = np.array(body.vertices) * (0.62, 0.6, 2.1)
    shade = np.where((at[:, 1:2] > 0.22) & (at[:, 2:3] < 1.2), GREY, WHITE).astype(float)
    shade = np.where(at[:, 2:3] > 1.85, BEAK, shade)
    out = np.array(body.vertices) / (0.62, 0.6, 2.1)
    trunk = _made(at, np.array(body.faces, np.int64), shade, out / np.linalg.norm(out, axis=1, keepdims=True))
    wings = [_wing(side) for side in (-1.0, 1.0)]
    frames = int(4 * RATE)
    matrices = np.zeros((frames, 3, 3, 4))
    for frame in range(frames):
        share = frame / frames
        flight = _flight(2 * math.pi * share)
        beat = math.radians(26 * math.sin(2 * math.pi * 9 * share) + 8)
        for part, roll in enumerate((0.0, beat, -beat)):
            turn = np.eye(4)
            turn[:2, :2] = [[math.cos(roll), math.sin(roll)], [-math.sin(roll), math.cos(roll)]]
            matrices[frame, part] = (flight @ turn)[:3]
    return joined([trunk, *wings], [Motion("circles", RATE, matrices)])


def _flight(angle: float) -> Doubles:
    """Where the gull is: along a ring about the head, its head forwards, leaning in."""
    matrix = np.eye(4)
    ahead = np.array([math.cos(angle), 0.12 * math.cos(2 * angle), -math.sin(angle)])
    ahead /= np.linalg.norm(ahead)
    lean = np.array([-0.35 * math.sin(angle), 1.0, -0.35 * math.cos(angle)])
    across = np.cross(lean, ahead)
    across /= np.linalg.norm(across)
    matrix[:3, :3] = np.stack([across, np.cross(ahead, across), ahead], axis=1)
    matrix[:3, 3] = 15.0 * math.sin(angle), 1.2 * math.sin(2 * angle), 15.0 * math.cos(angle)
    return matrix


def _wing(side: float) -> MeshData:
    """From the shoulder outwards, black at the tip, both of its faces."""
    outline = np.array([[0.3, 0.25, 0.9], [2.6, 0.6, 1.3], [5.8, 0.4, 0.1], [2.8, 0.55, -0.3], [0.3, 0.2, -0.8]]) * (side, 1, 1)
    upper = np.array([[0, 1, 3], [0, 3, 4], [1, 2, 3]])
    shade = np.array([GREY, GREY, IRON, GREY, GREY])
    vertices = np.concatenate([outline, outline - (0, 0.06, 0)])
    normals = np.concatenate([np.tile((0.0, 1.0, 0.0), (5, 1)), np.tile((0.0, -1.0, 0.0), (5, 1))])
    colours = np.concatenate([shade, np.tile(WHITE, (5, 1))])
    return _made(vertices, np.concatenate([upper, upper + 5]).astype(np.int64), colours, normals)
