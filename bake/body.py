"""A performer's body: its skin as a smooth surface that face units, lids, jaw, neck and arms move."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy import sparse
from scipy.spatial import cKDTree
from scipy.spatial.transform import Rotation

from bake.human import base, joint, shaped, target, weights
from bake.paint import lips, paint, within_mouth
from bake.people import Performer
from bake.stage import CARRIED, COLOUR, EDGE, GLOSS, KEY, NORMAL, OPEN, RELIEF, REST, RIM, ROUGH, SHOWN, SKIN, SKY, Part, Stage
from bake.surface import Smooth, averaging, normals, smooth
from sunglaze.core.camera import labels

Floats = NDArray[np.float64]
DOWN = 36.0
"""Degrees by which the upper arms hang lower than in the data."""
JAW = np.array(
    [[-0.6, 6.5], [0.3, 6.6], [0.55, 6.75], [0.7, 6.55], [0.85, 6.38], [1.0, 6.25], [1.2, 6.18], [1.4, 6.14], [1.7, 6.0]]
)
"""Below which height (second) skin is the neck's, by how far forward it lies."""
PIVOT = np.array([0, 0.35, 0.1])
"""From the neck's joint to where the head turns."""
BEHIND = 0.62
"""Decimetres from the eyes' middles back to the head's origin."""
SCATTER = (0.019, 0.0075)
"""Decimetres that red and green light spread under the skin; blue spreads less than vertices lie apart."""


@dataclass
class Pose:
    """Everything that moves. `units`: face units of the data with their amounts; degrees; decimetres; `gaze` degrees to the
    person's left and up."""

    units: dict[str, float] = field(default_factory=dict)
    yaw: float = 0.0
    pitch: float = 0.0
    roll: float = 0.0
    shift: tuple[float, float, float] = (0.0, 0.0, 0.0)
    gaze: tuple[float, float] = (0.0, 0.0)
    hands: float = 0.0
    """How far the hands are up, 0 (out of sight) to 1."""

    @property
    def turn(self) -> Floats:
        """The head's, 3 by 3: about y, then x, then z."""
        return np.asarray(Rotation.from_euler("yxz", [self.yaw, self.pitch, self.roll], degrees=True).as_matrix())


class Body:
    """A performer's body at rest, and in poses."""

    def __init__(self, performer: Performer) -> None:
        self.performer = performer
        plain, groups = base()
        self.cage, self.neck = standing(performer)
        self.follows = _head_share()
        quads = groups["body"]
        # What clothes cover is left out.
        quads = quads[plain[quads].mean(axis=1)[:, 1] > 5.05]
        quads = quads[np.abs(plain[quads].mean(axis=1)[:, 0]) < 1.3]
        self.surface: Smooth = smooth(len(plain), quads, 2)
        self.triangles = self.surface.triangles
        self.rest = self.surface.at(plain)
        shape = self.surface.at(self.cage)
        self.inner = self._lining()
        self.lips = lips(self.rest) * ~self.inner
        colour, gloss, rough, relief = paint(self.rest, performer, self.inner)
        self.carries = np.zeros((len(self.rest), CARRIED), np.float32)
        self.carries[:, COLOUR : COLOUR + 3], self.carries[:, REST : REST + 3] = colour, self.rest
        self.carries[:, GLOSS], self.carries[:, ROUGH], self.carries[:, RELIEF] = gloss, rough, relief
        self.labels = self._labels()
        self.spread = [_spreading(shape, normals(shape, self.triangles), far) for far in SCATTER]
        self.soft = averaging(len(self.rest), self.triangles)
        self.eyes = [self._eye(side) for side in "lr"]

    @cached_property
    def hull(self) -> tuple[cKDTree, Floats, Floats]:
        """Some of the outer skin at rest, by which hair is kept off it: a tree of its places, the places, where they face."""
        shape = self.surface.at(self.cage)
        keep = ~self.inner & (np.arange(len(shape)) % 3 == 0)
        return cKDTree(shape[keep]), shape[keep], normals(shape, self.triangles)[keep]

    def _lining(self) -> NDArray[np.bool_]:
        """What of the skin's vertices lines mouth and nose: skin is near on all sides."""
        chosen = np.flatnonzero(within_mouth(self.rest))
        stage = Stage([Part(self.rest, self.triangles, np.zeros((len(self.rest), CARRIED), np.float32), 0, SKIN)])
        facing = normals(self.rest, self.triangles)[chosen]
        places = (self.rest[chosen] + 0.003 * facing).astype(np.float32)
        closed = np.ones(len(chosen), np.bool_)
        for way in ((1, 0, 0), (-1, 0, 0), (0, 1, 0), (0, -1, 0), (0, 0, 1)):
            closed &= ~stage.free(places, np.tile(np.float32(way), (len(chosen), 1)), 0.9)
        hidden = np.zeros(len(self.rest), np.bool_)
        hidden[chosen] = closed
        return hidden

    def _labels(self) -> NDArray[np.uint8]:
        """Of each triangle, by labels.py."""
        middle = self.rest[self.triangles].mean(axis=1)
        found = np.where(middle[:, 1] < np.interp(middle[:, 2], *JAW.T), labels.NECK, labels.SKIN)
        ear = (np.abs(middle[:, 0]) > 0.70) & (middle[:, 1] > 6.84) & (middle[:, 1] < 7.48) & (np.abs(middle[:, 2] - 0.25) < 0.4)
        found[ear] = labels.EAR
        red = self.lips[self.triangles].mean(axis=1)
        found[red > 0.5] = labels.LIPS
        found[self.inner[self.triangles].mean(axis=1) > 0.5] = labels.MOUTH
        return np.asarray(found, np.uint8)

    def _eye(self, side: str) -> tuple[Floats, float]:
        """Middle and radius of an eye's ball, fitted to the data's."""
        points = self.cage[np.unique(base()[1][f"helper-{side}-eye"])]
        matrix = np.column_stack([2 * points, np.ones(len(points))])
        found = np.linalg.lstsq(matrix, (points**2).sum(axis=1), rcond=None)[0]
        return found[:3], float(np.sqrt(found[3] + (found[:3] ** 2).sum()))

    def posed_cage(self, pose: Pose) -> Floats:
        """The cage with face units, before head and neck turn (19158, 3)."""
        made = self.cage.copy()
        for name, amount in pose.units.items():
            if amount:
                at, moves = target(name)
                made[at] += amount * moves
        return made

    def moved(self, places: Floats, share: Floats, pose: Pose) -> Floats:
        """Places (n, 3) that follow the head by `share` (n), turned about the neck and shifted; what does not follow shifts too,
        a little less to the sides."""
        turn = Rotation.from_matrix(pose.turn).as_rotvec()
        steps = np.linspace(0, 1, 33)
        matrices = Rotation.from_rotvec(steps[:, None] * turn).as_matrix()
        at = np.clip(share, 0, 1) * 32
        low = np.minimum(at.astype(int), 31)
        part = (at - low)[:, None, None]
        each = matrices[low] * (1 - part) + matrices[low + 1] * part
        pivot = self.neck + PIVOT
        return np.asarray(np.einsum("nij,nj->ni", each, places - pivot) + pivot + self.moving(share, pose))

    def moving(self, share: Floats, pose: Pose) -> Floats:
        """How far places are shifted (n, 3)."""
        # Who leans in leaves the body behind a little; who walks off takes it along.
        leans = 0.5 + 0.5 * share if pose.shift[2] > 0 else np.ones_like(share)
        sway = np.stack([0.6 + 0.4 * share, 0.5 + 0.5 * share, leans], axis=1)
        return np.asarray(sway * np.asarray(pose.shift))

    def head_matrix(self, pose: Pose) -> tuple[Floats, Floats]:
        """Turn (3, 3) and shift (3) of what follows the head wholly: about a place in the neck."""
        pivot = self.neck + PIVOT
        return pose.turn, pivot - pose.turn @ pivot + np.asarray(pose.shift)

    def skin(self, pose: Pose) -> Floats:
        """Vertices of the skin (n, 3) in a pose: lids lie on the balls of the eyes."""
        made = self.surface.at(self.posed_cage(pose))
        for middle, radius in self.eyes:
            away = made - middle
            far = np.linalg.norm(away, axis=1)
            near = (far < radius * 1.22) & (away[:, 2] > 0.15 * radius)
            least = radius * 1.035
            inside = near & (far < least)
            made[inside] = middle + away[inside] / far[inside, None] * least
        return self.moved(made, self.surface.at(self.follows[:, None])[:, 0], pose)

    def part(self, pose: Pose) -> Part:
        """The skin as it stands before the lens."""
        places = self.skin(pose)
        self.carries[:, NORMAL : NORMAL + 3] = normals(places, self.triangles)
        return Part(places, self.triangles, self.carries, self.labels, SKIN)

    def light(self, stage: Stage, part: int, seen: NDArray[np.bool_]) -> None:
        """Light the skin's vertices that are `seen` (n): rays, softened along the surface, then spread under it by colour."""
        at = stage.slices[part]
        own = stage.carries[at]
        chosen = np.flatnonzero(seen)
        found = np.zeros((len(own), 6), np.float32)
        found[chosen] = stage.light(chosen + at.start, own[chosen, NORMAL : NORMAL + 3], 0.008, 0.12)
        weight = seen.astype(np.float32)
        blurred = self.soft @ np.column_stack([found * weight[:, None], weight])
        found[chosen] = blurred[chosen, :6] / blurred[chosen, 6:]
        key = found[:, 0].astype(np.float64)
        far, near = (_within(spread, key, weight) for spread in self.spread)
        wide = far
        for _ in range(5):
            wide = _within(self.spread[0], wide, weight)
        own[:, KEY] = 0.86 * (0.62 * far + 0.38 * key) + 0.14 * wide
        own[:, KEY + 1] = 0.62 * near + 0.38 * key
        own[:, KEY + 2] = 0.35 * near + 0.65 * key
        own[:, SKY], own[:, RIM], own[:, SHOWN], own[:, OPEN], own[:, EDGE] = found[:, 1:].T


def standing(performer: Performer) -> tuple[Floats, Floats]:
    """The cage of a performer (19158, 3), upright, eyes at the height 0, and where its neck's joint is (3)."""
    made = shaped(performer.amounts())
    eyes = (joint(made, "l-eye") + joint(made, "r-eye")) / 2
    made -= [eyes[0], eyes[1], eyes[2] - BEHIND]
    return _arms_down(made), joint(made, "neck")


def _within(spread: sparse.csr_matrix, light: Floats, weight: Floats) -> Floats:
    """Light (n) spread over what is seen alone."""
    total = spread @ weight
    return np.asarray((spread @ (light * weight)) / np.maximum(total, 1e-6))


def _arms_down(vertices: Floats) -> Floats:
    made = vertices.copy()
    for side, sign in (("l", -1.0), ("r", 1.0)):
        bones = ("upperarm", "lowerarm", "wrist", "finger", "metacarpal")
        share = sum(s for bone, s in weights().items() if bone.startswith(bones) and bone.endswith(f".{side.upper()}"))
        pivot = joint(vertices, f"{side}-shoulder")
        turned = Rotation.from_rotvec(np.outer(sign * np.radians(DOWN) * np.asarray(share), [0, 0, 1]))
        made = pivot + turned.apply(made - pivot)
    return np.asarray(made)


def _head_share() -> Floats:
    """How far each vertex of the cage follows the head (19158), 0 to 1: through the neck in steps."""
    steps = {"neck01": 0.25, "neck02": 0.5, "neck03": 0.75}
    still = ("spine", "clavicle", "shoulder", "upperarm", "lowerarm", "wrist", "finger", "metacarpal", "breast", "root", "pelvis")
    still += ("upperleg", "lowerleg", "foot", "toe")
    total = np.zeros(len(base()[0]))
    for bone, share in weights().items():
        if not bone.startswith(still):
            total += share * steps.get(bone, 1.0)
    helpers = np.unique(np.concatenate([quads for name, quads in base()[1].items() if _of_head(name)]))
    total[helpers] = 1.0
    return np.clip(total, 0, 1)


def _of_head(name: str) -> bool:
    return name.startswith("helper") and any(part in name for part in ("eye", "teeth", "tongue"))


def _spreading(places: Floats, facing: Floats, sigma: float) -> sparse.csr_matrix:
    """Rows that blur along a surface by `sigma` decimetres, to neighbours that face alike (sparse, n by n)."""
    tree = cKDTree(places)
    pairs = tree.query_pairs(2.2 * sigma, output_type="ndarray")
    pairs = pairs[(facing[pairs[:, 0]] * facing[pairs[:, 1]]).sum(axis=1) > 0.2]
    far = np.linalg.norm(places[pairs[:, 0]] - places[pairs[:, 1]], axis=1)
    share = np.exp(-(far**2) / (2 * sigma**2)).astype(np.float32)
    count = len(places)
    half = sparse.csr_matrix((share, (pairs[:, 0], pairs[:, 1])), (count, count))
    both = half + half.T + sparse.identity(count, dtype=np.float32)
    return sparse.diags(1 / np.asarray(both.sum(axis=1)).ravel().astype(np.float32)) @ both
