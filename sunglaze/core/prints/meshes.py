"""A mesh of the shelf, small: turned a little, in light from one side, on paper."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.face.pose import rotation
from sunglaze.core.language.pictures import LIT, Vertices
from sunglaze.core.material.mesh import MeshData
from sunglaze.core.moment.moment import Clock, Moment, Screen
from sunglaze.core.passes.triangles import Triangles, triangles

_PAPER = (239, 236, 228)
_FINER = 2
_TURN = (-32.0, 14.0, 0.0)
_LIGHT = (-0.44, 0.64, 0.63, 0.55, 0.0)
_FAR = 60.0


def mesh_print(mesh: MeshData, side: int) -> NDArray[np.uint8]:
    """(side, side, 3) of bytes."""
    fine = side * _FINER
    turn = rotation(*_TURN)
    reach = max(float(np.linalg.norm(mesh.vertices - mesh.middle, axis=1).max()), 1e-6)
    scale = 26.0 / reach
    placed = np.column_stack([turn * scale, np.array([0.0, 0.0, -_FAR]) - turn * scale @ mesh.middle])
    numbers = [-1.0, 0.0, *_LIGHT, *placed.ravel().tolist(), *[0.0] * 12, 1.0]
    here = Moment(Clock(), Screen(fine, fine))
    seen, lit = (_drawn(triangles(Vertices("mesh", end), numbers, here, mesh), fine) for end in ("", LIT))
    texture = np.full((1, 1, 4), 255, np.uint8) if mesh.texture is None else mesh.texture
    rows, columns = texture.shape[:2]
    row = np.clip((seen[..., 1] * rows).astype(int), 0, rows - 1)
    column = np.clip((seen[..., 0] * columns).astype(int), 0, columns - 1)
    colours = texture[row, column].astype(np.float64)
    much = (seen[..., 3] * colours[..., 3] / 255)[..., None]
    shown = np.clip(colours[..., :3] * np.maximum(lit[..., :3], 0) ** 0.5, 0, 255) * much + np.array(_PAPER) * (1 - much)
    small = shown.reshape(side, _FINER, side, _FINER, 3).mean(axis=(1, 3))
    return np.asarray(np.rint(small), np.uint8)


def _drawn(found: Triangles, side: int) -> NDArray[np.float32]:
    """(side, side, 4)."""
    from sunglaze.core.targets.raster import rasterise

    out = np.zeros((4, side, side), np.float32)
    rasterise(found.corners, found.depths, found.w, found.attributes, out, side)
    return np.moveaxis(out, 0, 2)
