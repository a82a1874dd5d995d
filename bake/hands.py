"""Hands that are held before the face: the body's own, with their forearms in sleeves."""

from __future__ import annotations

import math
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from bake.body import Body, Pose
from bake.human import base, joint, weights
from bake.noise import layered
from bake.paint import skin_colour
from bake.stage import CARRIED, CLOTH, COLOUR, GLOSS, NORMAL, RELIEF, REST, ROUGH, SKIN, Part
from bake.surface import Smooth, averaging, normals, smooth
from sunglaze.core.camera import labels

Floats = NDArray[np.float64]
UP = {"l": (0.42, -0.62, 1.42, -0.22), "r": (-0.46, -0.30, 1.30, 0.2)}
"""Where the middle of each hand is when it is up (x, y, z) and how it leans, radians."""
BELOW = 4.0


class Hands:
    """Both hands of a body."""

    def __init__(self, body: Body) -> None:
        self.body = body
        plain, groups = base()
        quads = groups["body"]
        self.sides = []
        for side in "lr":
            end = f".{side.upper()}"
            hand = np.asarray(
                sum(s for b, s in weights().items() if b.startswith(("wrist", "finger", "metacarpal")) and b.endswith(end))
            )
            arm = np.asarray(sum(s for b, s in weights().items() if b.startswith("lowerarm") and b.endswith(end)))
            own = quads[(hand + arm)[quads].mean(axis=1) > 0.5]
            surface = smooth(len(plain), own, 2)
            upright = self._upright(side)
            places = (surface.at(body.cage) - upright[1]) @ upright[0].T
            triangles = surface.triangles
            share = surface.at(hand[:, None])[:, 0]
            rest = surface.at(plain)
            carries = np.zeros((len(places), CARRIED), np.float32)
            facing = normals(places, triangles)
            # The palm, which the lens sees, is lighter on deep skin.
            palm = np.clip(facing[:, 2], 0, 1)[:, None] * (0.5 if body.performer.tone >= 6 else 0.12)
            colour = np.log(skin_colour(body.performer.tone)) * (1 - palm) + palm * np.log([0.42, 0.24, 0.17])
            colour = colour - (0.06 + 0.06 * layered(rest, 0.2, body.performer.seed))[:, None] * np.array([0.12, 0.95, 0.8])
            carries[:, COLOUR : COLOUR + 3], carries[:, REST : REST + 3] = np.exp(colour), rest + np.array([0, 8, 0])
            carries[:, GLOSS], carries[:, ROUGH], carries[:, RELIEF] = 0.6, 0.46, 0.8
            label = labels.HAND if side == "r" else labels.OTHER_HAND
            sleeve = self._sleeve(places, triangles, share, rest)
            bare = triangles[share[triangles].mean(axis=1) > 0.05]
            self.sides.append((side, places, bare, carries, label, sleeve, averaging(len(places), triangles)))

    def _upright(self, side: str) -> tuple[Floats, Floats]:
        """Turn (3, 3) and origin that stand a hand upright, its palm to the lens, its middle at 0."""
        cage = self.body.cage
        wrist, finger = joint(cage, f"{side}-hand"), joint(cage, f"{side}-finger-3-1")
        first, last = joint(cage, f"{side}-finger-2-1"), joint(cage, f"{side}-finger-5-1")
        up = finger - wrist
        up /= np.linalg.norm(up)
        across = first - last
        across -= up * (across @ up)
        across /= np.linalg.norm(across)
        # The left hand's thumb side then points to the person's right, as when it covers the face.
        x = -across if side == "l" else across
        z = np.cross(x, up)
        return np.stack([x, up, z]), (wrist + finger) / 2

    def _sleeve(
        self, places: Floats, triangles: NDArray[np.int64], share: Floats, rest: Floats
    ) -> tuple[Floats, NDArray[np.int64], Floats]:
        out = 0.09 + 0.05 * np.clip(1 - share * 20, 0, 1)
        made = places + normals(places, triangles) * out[:, None]
        carries = np.zeros((len(made), CARRIED), np.float32)
        carries[:, COLOUR : COLOUR + 3] = self.body.performer.cloth
        carries[:, REST], carries[:, REST + 1] = np.arctan2(places[:, 0], places[:, 2]) * 0.4, places[:, 1]
        carries[:, GLOSS], carries[:, ROUGH] = 0.25, 0.62
        return made, triangles[share[triangles].mean(axis=1) < 0.12], carries

    @cached_property
    def low(self) -> Smooth:
        """Both hands as part of the body, coarser."""
        hand = sum(s for b, s in weights().items() if b.startswith(("wrist", "finger", "metacarpal")))
        quads = base()[1]["body"]
        return smooth(len(base()[0]), quads[np.asarray(hand)[quads].mean(axis=1) > 0.4], 1)

    @cached_property
    def low_soft(self) -> sparse.csr_matrix:
        """What softens light on them."""
        return averaging(self.low.matrix.shape[0], self.low.triangles)

    def hanging(self, pose: Pose) -> list[Part]:
        """Both hands as they hang at the sides; none where the lens is too near to see them."""
        if pose.shift[2] > -1:
            return []
        places = self.body.moved(self.low.at(self.body.cage), np.zeros(self.low.matrix.shape[0]), pose)
        carries = np.zeros((len(places), CARRIED), np.float32)
        carries[:, NORMAL : NORMAL + 3] = normals(places, self.low.triangles)
        carries[:, COLOUR : COLOUR + 3] = skin_colour(self.body.performer.tone)
        carries[:, GLOSS], carries[:, ROUGH] = 0.6, 0.46
        left = places[self.low.triangles].mean(axis=1)[:, 0] > 0
        return [Part(places, self.low.triangles, carries, np.where(left, labels.OTHER_HAND, labels.HAND).astype(np.uint8), SKIN)]

    def parts(self, pose: Pose) -> list[tuple[Part, sparse.csr_matrix]]:
        """Skin and sleeves of both, each with what softens its light; none while they are down."""
        if pose.hands <= 0:
            return []
        made = []
        for side, places, bare, carries, label, (sleeve, cloth, worn), soft in self.sides:
            x, y, z, lean = UP[side]
            away = 1 - pose.hands
            c, s = math.cos(lean), math.sin(lean)
            turn = np.array([[c, -s, 0], [s, c, 0], [0, 0, 1.0]])
            to = np.array([x * (1 + 0.4 * away), y - BELOW * away, z])
            stood, dressed = places @ turn.T + to, sleeve @ turn.T + to
            carries[:, NORMAL : NORMAL + 3] = normals(stood, bare)
            worn[:, NORMAL : NORMAL + 3] = normals(dressed, cloth)
            made.append((Part(stood, bare, carries, label, SKIN), soft))
            made.append((Part(dressed, cloth, worn, labels.CLOTH, CLOTH), soft))
        return made
