"""Where the face tracker's points lie on the base mesh: fixed once as triangle and shares, so they follow everybody's face.

Lids, lips, brows, nose and outline are anchored where they are on the base mesh; between them the tracker's middle face is bent
(thin plates) to go through those anchors, and let down onto the skin.
"""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import trimesh
from numpy.typing import NDArray
from scipy.interpolate import RBFInterpolator

from bake.body import Body
from bake.human import base
from bake.paint import BROW, LOWER, UPPER
from bake.stage import CARRIED, SKIN, Part, Stage
from bake.surface import smooth
from sunglaze.core.face.model import IRISES, POINTS, RINGS, SKIN_POINTS, middle_face

Floats = NDArray[np.float64]
NOSE = {168: 7.36, 6: 7.29, 197: 7.17, 195: 7.07, 5: 6.985, 4: 6.915, 1: 6.865, 2: 6.805}
"""Heights of the points along the nose's ridge."""
MIDLINE = {10: 7.98, 151: 7.72, 9: 7.52, 8: 7.44, 164: 6.745, 199: 6.27, 200: 6.36, 175: 6.21}
SIDES = {
    (98, 327): (0.135, 6.845), (61, 291): (0.268, 6.612), (127, 356): (0.70, 7.25), (234, 454): (0.71, 7.0), (21, 251): (0.66, 7.62),
    (172, 397): (0.545, 6.46), (136, 365): (0.46, 6.33), (50, 280): (0.47, 7.0), (205, 425): (0.4, 6.87), (149, 378): (0.27, 6.2),
    (103, 332): (0.42, 7.86), (132, 361): (0.62, 6.72),
}  # fmt: skip
"""Points at the picture's left and right with how far from the middle and how high they are."""


PLACES = Path(__file__).parent / "landmarks.json"
"""Where the points of the skin lie on the base mesh (468, 3), rest coordinates; set by fit.py."""


class Landmarks:
    """The tracker's points on a body. `places`: where they lie on the base mesh (468, 3), by default as set."""

    def __init__(self, body: Body, places: Floats | None = None) -> None:
        self.body = body
        _, self.triangles, self.shares = let_down(body, np.array(json.loads(PLACES.read_text())) if places is None else places)

    def at(self, skin: Floats, eyes: list[Part]) -> Floats:
        """All points (478, 3) of a pose: `skin` its vertices, `eyes` its balls, the person's left first."""
        made = np.empty((POINTS, 3))
        made[:SKIN_POINTS] = (skin[self.body.triangles[self.triangles]] * self.shares[:, :, None]).sum(axis=1)
        # The left eye of the picture is the person's right: pictures are not mirrored here.
        for name, ball in (("left eye", eyes[1]), ("right eye", eyes[0])):
            made[list(IRISES[name])] = ball.vertices[_iris_vertices()]
        return made


def _iris_vertices() -> list[int]:
    """Of a ball's vertices (eyes.py: rings of 72 about the axis of sight): the middle, then right, top, left, bottom of the iris."""
    ring = 10
    return [0, ring * 72, ring * 72 + 18, ring * 72 + 36, ring * 72 + 54]


def let_down(body: Body, places: Floats) -> tuple[Floats, NDArray[np.int64], Floats]:
    """Places (468, 3) in rest coordinates on the nearest outer skin: where they come to lie, triangles and shares of corners."""
    rest, triangles = body.rest, body.triangles
    middle = rest[triangles].mean(axis=1)
    outer = np.flatnonzero(~body.inner[triangles].any(axis=1) & (middle[:, 2] > 0.2) & (middle[:, 1] > 6.0))
    on, _, number = trimesh.proximity.closest_point(trimesh.Trimesh(rest, triangles[outer], process=False), places)
    shares = trimesh.triangles.points_to_barycentric(rest[triangles[outer[number]]], on)
    return np.asarray(on), outer[number], np.clip(shares, 0, 1)


def lips_apart(body: Body, places: Floats) -> Floats:
    """The inner rims of the lips each on its own lip, though they touch at rest: else they would not part with the mouth."""
    places, front = places.copy(), _Front(body.rest, body.triangles)
    heights = middle_face()[:, 1]
    for point in RINGS["mouth"]:
        if point not in (78, 308):
            upper = heights[point] > heights[78]
            places[point] = front.at(places[point, 0], max(places[point, 1], 6.622) if upper else min(places[point, 1], 6.602))
    return places


def first_guess(body: Body) -> Floats:
    """Where the points lie about (468, 3), rest coordinates: anchors, and between them the bent middle face."""
    anchors = _anchors(_Front(body.rest, body.triangles))
    numbers = sorted(anchors)
    bend = RBFInterpolator(middle_face()[numbers], np.array([anchors[n] for n in numbers]), kernel="thin_plate_spline")
    places = bend(middle_face())
    places[numbers] = [anchors[n] for n in numbers]
    return np.asarray(places)


class _Front:
    """The base mesh seen from straight ahead."""

    def __init__(self, rest: Floats, triangles: NDArray[np.int64]) -> None:
        self.stage = Stage([Part(rest, triangles, np.zeros((len(rest), CARRIED), np.float32), 0, SKIN)])
        plain, groups = base()
        ball = smooth(len(plain), groups["helper-l-eye"], 1)
        self.eye = ball.at(plain)
        both = Part(self.eye, ball.triangles, np.zeros((len(self.eye), CARRIED), np.float32), 1, SKIN)
        self.lids = Stage([Part(rest, triangles, np.zeros((len(rest), CARRIED), np.float32), 0, SKIN), both])

    def at(self, x: float, y: float) -> Floats:
        """The foremost skin there (3), or the nearest towards the middle where the face does not reach so far."""
        while True:
            met = self.stage.scene.run(np.float32([[x, y, 9]]), np.float32([[0, 0, -1]]), output=1)
            if met["primID"][0] >= 0:
                return np.array([x, y, 9 - float(met["tfar"][0])])
            x *= 0.97

    def opening(self, across: Floats) -> tuple[Floats, Floats]:
        """Lower and upper edges of the lids (n) of the eye at positive x, at shares of its opening's width from the inner corner."""
        rows, columns = np.meshgrid(np.linspace(7.12, 7.46, 341), np.linspace(0.14, 0.5, 361), indexing="ij")
        from_ = np.stack([columns, rows, np.full_like(rows, 9)], axis=2).reshape(-1, 3).astype(np.float32)
        met = self.lids.scene.run(from_, np.tile(np.float32([0, 0, -1]), (len(from_), 1)), output=1)
        ball = (self.lids.labels[met["primID"]] == 1).reshape(rows.shape)
        seen = np.flatnonzero(ball.any(axis=0))
        at = np.clip(np.rint(seen[0] + across * (seen[-1] - seen[0])).astype(int), seen[0], seen[-1])
        low, high = ball.argmax(axis=0), ball.shape[0] - 1 - ball[::-1].argmax(axis=0)
        x = columns[0][at]
        return np.stack([x, rows[low[at], 0]], axis=1), np.stack([x, rows[high[at], 0]], axis=1)


def _anchors(front: _Front) -> dict[int, Floats]:
    found = {n: front.at(0.0, y) for n, y in (NOSE | MIDLINE).items()}
    found[152] = np.array([0.0, 6.165, 1.36])
    for (left, right), (x, y) in SIDES.items():
        found[left], found[right] = front.at(-x, y), front.at(x, y)
    for name, side in (("left eye", -1.0), ("right eye", 1.0)):
        ring = list(RINGS[name])
        across = middle_face()[ring, 0] * side
        share = (across - across.min()) / (across.max() - across.min())
        low, high = front.opening(share)
        # Rings go along the lower lid first, from the outer corner to the inner.
        for place, point in enumerate(ring):
            x, y = low[place] if place < 8 else high[place]
            found[point] = front.at(side * x, y - 0.004 if 0 < place < 8 else y + (0.004 if place not in (0, 8) else 0))
    for name, side in (("left brow", -1.0), ("right brow", 1.0)):
        for place, point in enumerate(RINGS[name]):
            x = float(np.interp(abs(middle_face()[point, 0]), [1.6, 7.6], [0.13, 0.62]))
            y = float(np.interp(x, BROW[:, 0], BROW[:, 1])) + (0.022 if place < 5 else -0.022)
            found[point] = front.at(side * x, y)
    widest = abs(middle_face()[291, 0])
    for ring, inner in (("lips", False), ("mouth", True)):
        for point in RINGS[ring]:
            x, height = middle_face()[point, 0] / widest * 0.268, middle_face()[point, 1]
            upper = height > middle_face()[61, 1] if not inner else height > middle_face()[78, 1]
            line = UPPER if upper else LOWER
            y = float(np.interp(abs(x), line[:, 0], line[:, 1]))
            if inner:
                y = 6.622 if upper else 6.602
            found[point] = front.at(0.97 * x if inner else x, y)
    for corner, side in ((78, -1.0), (308, 1.0)):
        found[corner] = front.at(side * 0.255, 6.613)
    return found
