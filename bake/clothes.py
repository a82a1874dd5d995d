"""Clothes: the data's close-fitting surface, let out, kept off the body, folded and given a weave."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy import sparse
from scipy.spatial import cKDTree

from bake.body import Body, Pose
from bake.human import base
from bake.noise import layered, values
from bake.stage import CARRIED, CLOTH, COLOUR, EDGE, GLOSS, KEY, NORMAL, OPEN, RELIEF, REST, RIM, ROUGH, SHOWN, SKY, Part, Stage
from bake.surface import averaging, normals, outward, smooth, winding
from sunglaze.core.camera import labels

Floats = NDArray[np.float64]


NECK = (0.0, 0.1)
"""Where the neck's middle lies, across and forward, in rest coordinates."""


def _opening(angle: Floats) -> Floats:
    """The line round the neck at which a garment ends (n, 3), rest coordinates, by angle from straight ahead."""
    front = np.cos(angle)
    return np.stack([0.74 * np.sin(angle), 5.58 - 0.15 * front - 0.04 * front**2, NECK[1] + 0.72 * front], axis=1)


class Garment:
    """A jersey or shirt with a collar."""

    def __init__(self, body: Body) -> None:
        self.body = body
        plain, groups = base()
        quads = groups["helper-tights"]
        quads = quads[(plain[quads].mean(axis=1)[:, 1] < 6.1) & (body.cage[quads].mean(axis=1)[:, 1] > -14.0)]
        whole = smooth(len(plain), quads, 2)
        middle = whole.at(plain)[whole.quads].mean(axis=1)
        angle = np.arctan2(middle[:, 0], middle[:, 2] - NECK[1])
        inside = np.hypot(middle[:, 0], middle[:, 2] - NECK[1]) < np.hypot(*_opening(angle).T[[0, 2]] - [[0], [NECK[1]]]) - 0.05
        self.surface = whole.within(~(inside & (middle[:, 1] > 5.0)))
        self.triangles = self.surface.triangles
        self.rest = self.surface.at(plain)
        count = len(self.rest)
        soft = averaging(count, self.triangles)
        shape = self.surface.at(body.cage)
        facing = normals(shape, self.triangles)
        out = 0.075 + 0.05 * layered(self.rest, 0.9, body.performer.seed)
        # Folds run from the armpits and across the chest.
        fold = values(self.rest * [1.0, 2.6, 1.0] + 0.25 * values(self.rest, 0.7, 5)[:, None], 0.55, body.performer.seed + 2)
        out = out + 0.1 * (1 - np.abs(fold)) ** 2
        shape = shape + facing * out[:, None]
        for _ in range(4):
            shape = soft @ shape
        shape = self._outside(shape)
        self.offset = shape - self.surface.at(body.cage)
        self.share = self.surface.at(body.follows[:, None])[:, 0] * 0.6
        carries = np.zeros((count, CARRIED), np.float32)
        carries[:, COLOUR : COLOUR + 3] = body.performer.cloth
        # How far below the hem; sleeves end elsewhere.
        carries[:, RELIEF] = np.minimum(1.2 - self.rest[:, 1], 2.7 - np.abs(self.rest[:, 0]))
        angle = np.arctan2(self.rest[:, 0], self.rest[:, 2] + 0.4)
        around = np.where(np.abs(self.rest[:, 0]) > 1.75, self.rest[:, 2], angle * 1.6)
        carries[:, REST], carries[:, REST + 1], carries[:, REST + 2] = around, self.rest[:, 1], self.rest[:, 2]
        carries[:, GLOSS], carries[:, ROUGH] = 0.25, 0.62
        self.carries = carries
        self.soft = soft
        self.collar = Collar(body, np.array(body.performer.cloth) * 0.92)

    def _outside(self, shape: Floats) -> Floats:
        body = self.body
        skin = body.surface.at(body.cage)
        facing = normals(skin, body.triangles)
        tree = cKDTree(skin)
        far, near = tree.query(shape)
        above = ((shape - skin[near]) * facing[near]).sum(axis=1)
        return np.asarray(shape + facing[near] * (np.maximum(0, 0.05 - above) * (far < 0.35))[:, None])

    def parts(self, pose: Pose) -> list[Part]:
        """The garment and its collar."""
        places = self.body.moved(self.surface.at(self.body.cage) + self.offset, self.share, pose)
        self.carries[:, NORMAL : NORMAL + 3] = normals(places, self.triangles)
        return [Part(places, self.triangles, self.carries, labels.CLOTH, CLOTH), self.collar.part(pose)]


def light_cloth(stage: Stage, part: int, seen: NDArray[np.bool_], soft: sparse.csr_matrix) -> None:
    """Light a part's vertices that are `seen` (n) by rays, softened along it; creases that no ray reaches are as what lies beside."""
    at = stage.slices[part]
    own = stage.carries[at]
    chosen = np.flatnonzero(seen)
    found = np.zeros((len(own), 6), np.float32)
    found[chosen] = stage.light(chosen + at.start, own[chosen, NORMAL : NORMAL + 3], 0.02, 0.05, 6, 16)
    weight = seen.astype(np.float32)
    for turn in range(5):
        blurred = soft @ np.column_stack([found * weight[:, None], weight])
        renewed = ~seen if turn else seen
        found[renewed] = (blurred[:, :6] / np.maximum(blurred[:, 6:], 1e-6))[renewed]
        if turn:
            weight = np.maximum(weight, blurred[:, 6] > 0).astype(np.float32)
    own[:, KEY] = own[:, KEY + 1] = own[:, KEY + 2] = found[:, 0]
    own[:, SKY], own[:, RIM], own[:, SHOWN], own[:, OPEN], own[:, EDGE] = found[:, 1:].T


class Collar:
    """A ribbed tube about the neck where the garment ends; a wider one that stands higher is a scarf's wrap."""

    def __init__(
        self, body: Body, colour: Floats, rise: float = 0.0, thick: float = 0.095, tall: float = 0.17, label: int = labels.CLOTH
    ) -> None:
        self.body, self.label = body, label
        turns = np.linspace(-np.pi, np.pi, 360, endpoint=False)
        opening = _opening(turns)
        _, near = cKDTree(body.rest).query(opening, k=80)
        skin = body.surface.at(body.cage)
        ring = skin[near].mean(axis=1) + 0.09 * normals(skin, body.triangles)[near].mean(axis=1)
        middle = ring.mean(axis=0)
        kernel = np.hanning(91) / np.hanning(91).sum()
        ring = np.stack([np.convolve(np.r_[ring[-45:, n], ring[:, n], ring[:45, n]], kernel, "valid") for n in range(3)], axis=1)
        away = ring - middle
        away[:, 1] = 0
        away /= np.linalg.norm(away, axis=1, keepdims=True)
        along, about = len(ring), 18
        tube = np.arange(about) * 2 * np.pi / about
        rib = 1 + 0.09 * np.cos(np.arange(along) * 2 * np.pi / 4)[:, None]
        rib = rib if label == labels.CLOTH else 1 + 0.2 * values(ring * 2.5, 1.0, 3)[:, None]
        # Upper part leans to the neck.
        lean = np.array([0, 1.0, 0]) - 0.15 * away
        self.places = (
            ring[:, None]
            + away[:, None] * (thick * rib * np.cos(tube))[..., None]
            + lean[:, None] * (tall * np.sin(tube) + 0.06 + rise)[..., None]
        ).reshape(-1, 3)
        middles = self.places.reshape(along, about, 3).mean(axis=1).repeat(about, axis=0)
        self.triangles = outward(winding(along, about, ring=True), self.places, middles)
        self.soft = averaging(len(self.places), self.triangles)
        self.carries = np.zeros((len(self.places), CARRIED), np.float32)
        self.carries[:, COLOUR : COLOUR + 3] = colour
        self.carries[:, GLOSS], self.carries[:, ROUGH] = 0.2, 0.65
        self.carries[:, REST], self.carries[:, REST + 1] = np.repeat(np.arange(along) * 0.012, about), 0.0

    def part(self, pose: Pose) -> Part:
        """As it stands before the lens."""
        places = self.body.moved(self.places, np.full(len(self.places), 0.12), pose)
        self.carries[:, NORMAL : NORMAL + 3] = normals(places, self.triangles)
        return Part(places, self.triangles, self.carries, self.label, CLOTH)
