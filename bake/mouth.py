"""Teeth, gums and tongue."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bake.body import Body, Pose
from bake.human import base
from bake.noise import values
from bake.stage import CARRIED, COLOUR, EDGE, GLOSS, KEY, NORMAL, OPEN, PLAIN, RIM, ROUGH, SHOWN, SKY, Part, Stage
from bake.surface import normals, smooth, winding
from sunglaze.core.camera import labels

Floats = NDArray[np.float64]
UPPER = (0.085, 0.066, 0.076, 0.070, 0.068, 0.098, 0.094)
LOWER = (0.053, 0.058, 0.068, 0.070, 0.071, 0.105, 0.100)
"""Widths of seven teeth from the middle outwards, decimetres (usual sizes, from memory)."""
TALL = {"upper": (0.102, 0.09, 0.102, 0.085, 0.08, 0.075, 0.07), "lower": (0.088, 0.09, 0.1, 0.085, 0.08, 0.075, 0.07)}
EDGE_Y = {"upper": 6.558, "lower": 6.60}
FRONT = {"upper": 1.446, "lower": 1.42}
BOW = 5.0
"""How the row bends back: z falls by this times the square of the way from the middle."""


class Mouth:
    """What shows between the lips."""

    def __init__(self, body: Body) -> None:
        self.body = body
        plain = base()[0]
        self.tongue = smooth(len(plain), base()[1]["helper-tongue"], 1)
        self.rows = {}
        for row, widths in (("upper", UPPER), ("lower", LOWER)):
            strip = np.unique(base()[1][f"helper-{row}-teeth"])
            places, triangles, colour, label = _row(row, widths, body.performer.seed)
            self.rows[row] = (strip, plain[strip], places, triangles, colour, label)

    def parts(self, pose: Pose, cage: Floats) -> list[Part]:
        """Upper row, lower row, tongue. `cage`: with face units, before the head turns."""
        turn, shift = self.body.head_matrix(pose)
        made = []
        for strip, before, places, triangles, colour, label in self.rows.values():
            # As the data's own strip of teeth moves: the affine map that fits it best.
            matrix = np.linalg.lstsq(np.column_stack([before, np.ones(len(before))]), cage[strip], rcond=None)[0]
            moved = np.column_stack([places, np.ones(len(places))]) @ matrix @ turn.T + shift
            carries = np.zeros((len(moved), CARRIED), np.float32)
            carries[:, NORMAL : NORMAL + 3], carries[:, COLOUR : COLOUR + 3] = normals(moved, triangles), colour
            carries[:, GLOSS], carries[:, ROUGH] = 1.5, 0.24
            made.append(Part(moved, triangles, carries, label, PLAIN))
        tongue = self.tongue.at(cage) @ turn.T + shift
        triangles = self.tongue.triangles
        carries = np.zeros((len(tongue), CARRIED), np.float32)
        carries[:, NORMAL : NORMAL + 3] = normals(tongue, triangles)
        rest = self.tongue.at(base()[0])
        carries[:, COLOUR : COLOUR + 3] = np.array([0.33, 0.1, 0.09]) * (1 + 0.18 * values(rest, 0.03, 5))[:, None]
        carries[:, GLOSS], carries[:, ROUGH] = 1.2, 0.36
        return [*made, Part(tongue, triangles, carries, labels.TONGUE, PLAIN)]

    def light(self, stage: Stage, part: int) -> None:
        """Light on teeth and tongue: they lie in their own shade, and what comes in is thrown about."""
        at = stage.slices[part]
        own = stage.carries[at]
        front = np.flatnonzero(own[:, NORMAL + 2] > -0.3)
        if not len(front):
            return
        found = stage.light(front + at.start, own[front, NORMAL : NORMAL + 3], 0.01, 0.25, 4, 12)
        # Wet and pale, they pass light to one another.
        found[:, 0] += 0.05
        found[:, 1] += 0.12
        for channel in range(3):
            own[front, KEY + channel] = found[:, 0]
        own[front, SKY], own[front, RIM], own[front, SHOWN], own[front, OPEN], own[front, EDGE] = found[:, 1:].T


def _row(row: str, widths: tuple[float, ...], seed: int) -> tuple[Floats, NDArray[np.int64], Floats, NDArray[np.uint8]]:
    """Fourteen teeth and their gum in rest coordinates: places, triangles, colours, labels of the triangles."""
    chance = np.random.default_rng(seed)
    up = 1.0 if row == "upper" else -1.0
    places, triangles, colours, marks = [], [], [], []
    total = 0
    for side in (-1.0, 1.0):
        at = 0.0
        for n, width in enumerate(widths):
            at_middle = at + width / 2
            at += width
            x, z, angle = _along(at_middle, FRONT[row])
            tall = TALL[row][n]
            ball, faces = _tooth(width * 0.5, tall / 2, 0.032 if n < 3 else 0.05)
            lean = angle + chance.normal(0, 0.03)
            ball = ball @ np.array([[np.cos(lean), 0, -np.sin(lean)], [0, 1, 0], [np.sin(lean), 0, np.cos(lean)]])
            uneven = chance.normal(0, 0.003)
            lower = 0.012 if n == 1 and row == "upper" else 0.0
            ball = ball * [side, 1, 1] + [side * x, EDGE_Y[row] + up * (tall / 2 + lower) + uneven, z]
            if side < 0:
                faces = faces[:, ::-1]
            high = (ball[:, 1] - EDGE_Y[row]) * up / tall
            enamel = np.array([0.58, 0.52, 0.42]) * np.exp(chance.normal(0, 0.05))
            colour = enamel * (1 - 0.25 * np.clip(high, 0, 1)[:, None] * np.array([0.3, 0.6, 1.0])) * (1 - 0.03 * n)
            places.append(ball)
            triangles.append(faces + total)
            colours.append(colour)
            marks.append(np.full(len(faces), labels.TEETH, np.uint8))
            total += len(ball)
    gum, faces = _gum(row, up)
    places.append(gum)
    triangles.append(faces + total)
    colours.append(np.broadcast_to([0.32, 0.1, 0.09], gum.shape))
    marks.append(np.full(len(faces), labels.MOUTH, np.uint8))
    return np.concatenate(places), np.concatenate(triangles), np.concatenate(colours), np.concatenate(marks)


def _along(length: float, front: float) -> tuple[float, float, float]:
    """A place so far along the row from its middle: across, forward, and how it is turned about the upright, radians."""
    x = np.linspace(0, 0.5, 400)
    way = np.concatenate([[0], np.cumsum(np.hypot(np.diff(x), np.diff(-BOW * x**2)))])
    across = float(np.interp(length, way, x))
    return across, front - BOW * across**2, float(np.arctan(2 * BOW * across))


def _tooth(wide: float, tall: float, thick: float) -> tuple[Floats, NDArray[np.int64]]:
    """A rounded block, narrower towards its root."""
    around, down = 20, 14
    v, u = np.meshgrid(np.linspace(0.02, np.pi - 0.02, down), np.arange(around) * 2 * np.pi / around, indexing="ij")

    def power(of: Floats, e: float) -> Floats:
        return np.asarray(np.sign(of) * np.abs(of) ** e)

    x, y, z = (
        power(np.sin(v), 0.42) * power(np.cos(u), 0.5),
        power(np.cos(v), 0.55),
        power(np.sin(v), 0.42) * power(np.sin(u), 0.7),
    )
    made = np.stack([x * wide, y * tall, z * thick], axis=2).reshape(-1, 3)
    return made, winding(down, around)[:, ::-1]


def _gum(row: str, up: float) -> tuple[Floats, NDArray[np.int64]]:
    """A tube behind the roots, scalloped between the teeth."""
    around, along = 12, 61
    x = np.linspace(-0.42, 0.42, along)
    z = FRONT[row] - BOW * x**2 - 0.014
    widths = UPPER if row == "upper" else LOWER
    turn = np.arange(around) * 2 * np.pi / around
    way = np.concatenate([[0], np.cumsum(np.hypot(np.diff(x), np.diff(z)))])
    way = np.abs(way - way[-1] / 2)
    edges = np.cumsum(widths)
    near = np.abs(way[:, None] - np.concatenate([[0], edges])[None]).min(axis=1)
    dip = 0.018 * np.clip(1 - near / 0.03, 0, 1)
    y = EDGE_Y[row] + up * (0.125 - dip)
    made = np.stack(
        [np.broadcast_to(x[:, None], (along, around)), y[:, None] + 0.05 * np.cos(turn), z[:, None] + 0.052 * np.sin(turn)],
        axis=2,
    ).reshape(-1, 3)
    return made, winding(along, around)
