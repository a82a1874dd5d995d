"""A frame of a performer alone: what the lens sees of a stage, as planes."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from bake.shade import FOUND, shade
from bake.stage import HAIR, Stage
from sunglaze.core.camera import labels
from sunglaze.core.camera.takes import FOCAL, HEIGHT, LENS_Z, MIDDLE_ROW, WIDTH

Floats = NDArray[np.float32]
LENS = np.array([0, 0, LENS_Z])
"""Where the lens stands, in the scene."""
EDGES = np.array([[0.0625, 0.4375], [0.1875, 0.9375], [0.3125, 0.1875], [0.4375, 0.6875],
                  [0.5625, 0.0625], [0.6875, 0.5625], [0.8125, 0.3125], [0.9375, 0.8125]])  # fmt: skip
"""Places in a pixel of its further rays, where one does not tell enough."""


Shader = Callable[[Stage, NDArray[np.int64], Floats, Floats, Floats, Floats], None]
"""Colours hits of a kind of surface: stage, hit triangles, places in them (u, v), ways, what is found (written)."""


@dataclass(eq=False)
class Picture:
    """Planes of a frame. `found` (HEIGHT, WIDTH, FOUND) as shade.py has it, means over what covers a pixel; `coverage` 0 to 1;
    `label` of what lies nearest in most of it."""

    found: Floats
    coverage: Floats
    label: NDArray[np.uint8]


def seen_vertices(stage: Stage, part: int, margin: float = 0.3) -> NDArray[np.bool_]:
    """Which vertices of a part may be seen: they face the lens, or nearly, and lie within the picture."""
    at = stage.slices[part]
    places, facing = stage.vertices[at], stage.carries[at, 0:3]
    way = LENS - places
    way /= np.linalg.norm(way, axis=1, keepdims=True)
    depth = LENS_Z - places[:, 2]
    column, row = WIDTH / 2 + FOCAL * places[:, 0] / depth, MIDDLE_ROW - FOCAL * places[:, 1] / depth
    # Half a picture on every side: who walks comes in between the frames in which light is cast.
    inside = (np.abs(column - WIDTH / 2) < WIDTH) & (np.abs(row - HEIGHT / 2) < HEIGHT) & (depth > 0.5)
    return np.asarray(((way * facing).sum(axis=1) > -margin) & inside)


def look(stage: Stage, told: dict[str, float], eyes: Shader) -> Picture:
    """Cast the lens's rays at a lit stage. `told`: what shade.py wants to know of the performer; `eyes`: colours theirs."""
    rows, columns = np.mgrid[0:HEIGHT, 0:WIDTH]
    first = _cast(stage, columns.ravel() + 0.5, rows.ravel() + 0.5, told, eyes)
    found, label, hair = (part.reshape(HEIGHT, WIDTH, *part.shape[1:]) for part in first)
    same = (cv2.erode(label, np.ones((3, 3))) == label) & (cv2.dilate(label, np.ones((3, 3))) == label)
    near = found[..., 9]
    rough = cv2.dilate(near, np.ones((3, 3))) - cv2.erode(near, np.ones((3, 3))) > 0.06
    wanted = ~same | rough | (cv2.dilate(hair, np.ones((3, 3))) > 0)
    y, x = np.nonzero(wanted)
    coverage = (label > 0).astype(np.float32)
    total, hits = np.zeros((len(y), FOUND), np.float32), np.zeros(len(y), np.float32)
    votes = np.zeros((len(y), 20), np.uint8)
    for dx, dy in EDGES:
        more, kinds, _ = _cast(stage, x + dx, y + dy, told, eyes)
        total += more
        hits += kinds > 0
        votes[np.arange(len(y)), kinds] += 1
    votes[:, 0] = 0
    found[y, x] = total / np.maximum(hits, 1)[:, None]
    coverage[y, x] = hits / len(EDGES)
    label[y, x] = np.where(hits > 0, votes.argmax(axis=1), 0)
    return Picture(found, coverage, label)


def _cast(
    stage: Stage, columns: Floats, rows: Floats, told: dict[str, float], eyes: Shader
) -> tuple[Floats, NDArray[np.uint8], NDArray[np.uint8]]:
    count = len(columns)
    ways = np.empty((count, 3), np.float32)
    ways[:, 0], ways[:, 1], ways[:, 2] = (columns - WIDTH / 2) / FOCAL, -(rows - MIDDLE_ROW) / FOCAL, -1
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    places = np.zeros((count, 3), np.float32)
    places[:] = LENS
    met = stage.scene.run(places, ways, output=1)
    hit, far = met["primID"], met["tfar"]
    out = np.zeros((count, FOUND), np.float32)
    shade(stage.triangles, stage.kinds, stage.carries, hit, met["u"], met["v"], ways, far, told["age"], 1 / FOCAL, int(told["seed"]),
          told["freckles"], int(told["weave"]), out)  # fmt: skip
    label = np.where(hit >= 0, stage.labels[hit], labels.NOTHING).astype(np.uint8)
    eyes(stage, hit, met["u"], met["v"], ways, out)
    return out, label, np.asarray((hit >= 0) & (stage.kinds[hit] == HAIR), np.uint8)
