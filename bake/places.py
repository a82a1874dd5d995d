"""The places of the festival, painted by formula: `python -m bake.places [FOLDER]`.

Each is a square picture in even daylight, sRGB-encoded JPEG, and a PNG of which pixel is sky, ground, building or sea; their
coordinates run from 0 to 1, u right and v down. A tall screen shows the middle 9/16 of it.
"""

import sys
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.labels import BUILDING, GROUND, SEA, SKY
from sunglaze.core.camera.takes import ASSETS
from sunglaze.core.colour.spaces import encoded

SIZE = 1280
Plane = NDArray[np.float64]


def _smooth(a: Plane | float, b: Plane | float, x: Plane) -> Plane:
    t = np.clip((x - a) / (b - a), 0, 1)
    return t * t * (3 - 2 * t)


def _clouds(u: Plane, v: Plane, seed: int, fine: float) -> Plane:
    """Smooth noise of several octaves, 0 to 1, drawn out sideways."""
    total, weight = np.zeros_like(u), 0.0
    for octave in range(5):
        cells = int(fine * 2**octave)
        grid = np.random.default_rng(seed + octave).random((cells * 2 + 2, cells + 2)).astype(np.float32)
        x, y = (u * cells).astype(np.float32), (v * cells * 2).astype(np.float32)
        total += cv2.remap(grid, x, y, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT) / 2**octave
        weight += 0.5**octave
    return total / weight


def _bytes(light: NDArray[np.float32]) -> NDArray[np.uint8]:
    return np.asarray(np.rint(encoded(np.clip(light, 0, 1)) * 255), np.uint8)


class Canvas:
    """A picture in linear light with its labels, painted from the back to the front."""

    def __init__(self) -> None:
        axis = (np.arange(SIZE) + 0.5) / SIZE
        self.u, self.v = np.meshgrid(axis, axis)
        self.colour = np.zeros((SIZE, SIZE, 3))
        self.labels = np.full((SIZE, SIZE), SKY, np.uint8)

    def paint(self, where: Plane, colour: tuple[float, float, float], label: int = 0, shade: Plane | float = 1.0) -> None:
        """Lay a colour over the picture where a mask is 1; its label, if any, where the mask is over a half."""
        tone = np.multiply.outer(np.ones_like(self.u) * shade, np.array(colour))
        self.colour += (tone - self.colour) * where[..., None]
        if label:
            self.labels[where > 0.5] = label

    def sky(self, top: tuple[float, float, float], low: tuple[float, float, float], seed: int, cover: float) -> None:
        fall = _smooth(0.0, 0.62, self.v)[..., None]
        self.colour = np.array(top) * (1 - fall) + np.array(low) * fall
        cloud = _smooth(1 - cover, 1.15 - cover, _clouds(self.u, self.v, seed, 3.0)) * _smooth(0.66, 0.2, self.v)
        self.paint(cloud * 0.75, (0.92, 0.92, 0.93))

    def box(
        self, left: float, top: float, right: float, bottom: float, colour: tuple[float, float, float], shade: Plane | float = 1.0
    ) -> None:
        u, v, e = self.u, self.v, 0.0016
        inside = (
            _smooth(left - e, left + e, u)
            * _smooth(right + e, right - e, u)
            * _smooth(top - e, top + e, v)
            * _smooth(bottom + e, bottom - e, v)
        )
        self.paint(inside, colour, BUILDING, shade)

    def bunting(self, height: float, seed: int) -> None:
        """A line of flags across the picture, the festival's four colours."""
        u, v = self.u, self.v
        rope = height + 0.14 * (u - 0.5) ** 2
        cell = u * 13 + seed * 0.37
        index = np.floor(cell)
        across, drop = np.abs(cell - index - 0.5), v - rope
        inside = _smooth(0.03, -0.03, across - 0.42 * (1 - drop / 0.055)) * _smooth(-0.002, 0.002, drop)
        for n, colour in enumerate(((0.6, 0.08, 0.05), (0.76, 0.42, 0.04), (0.05, 0.27, 0.29), (0.74, 0.68, 0.56))):
            self.paint(inside * (index % 4 == n), colour, 0, 0.85 + 0.15 * np.sin(across * 8))
        self.paint(_smooth(0.0028, 0.001, np.abs(drop)), (0.2, 0.17, 0.14))


def harbour() -> Canvas:
    c = Canvas()
    u, v = c.u, c.v
    c.sky((0.2, 0.42, 0.8), (0.62, 0.74, 0.86), 11, 0.5)
    ridge = 0.565 - 0.05 * _smooth(0.5, 1.0, u) - 0.01 * np.sin(u * 17) - 0.025 * _smooth(0.3, 0.0, u)
    c.paint(_smooth(ridge - 0.003, ridge + 0.003, v), (0.13, 0.22, 0.24), GROUND, 0.8 + 0.4 * _clouds(u, v, 3, 14.0))
    for n, (left, tall) in enumerate(((0.05, 0.06), (0.13, 0.045), (0.2, 0.055), (0.9, 0.05))):
        wall = ((0.8, 0.76, 0.68), (0.62, 0.3, 0.2), (0.82, 0.7, 0.45), (0.7, 0.74, 0.76))[n]
        c.box(left, 0.59 - tall, left + 0.06, 0.6, wall)
        c.box(left - 0.004, 0.582 - tall, left + 0.064, 0.592 - tall, (0.25, 0.12, 0.1))
        c.box(left + 0.015, 0.6 - tall, left + 0.028, 0.622 - tall, (0.1, 0.13, 0.17))
    tower = 0.0175 + 0.02 * (v - 0.4)
    lit = _smooth(tower + 0.001, tower - 0.001, np.abs(u - 0.7)) * _smooth(0.385, 0.387, v) * _smooth(0.6, 0.598, v)
    band = np.where(np.floor((v - 0.385) * 28) % 2 == 0, 1.0, 0.0)[..., None]
    shade = 1.1 - 0.5 * _smooth(0.69, 0.72, u)
    c.colour += (
        (np.array((0.85, 0.84, 0.8)) * band + np.array((0.62, 0.08, 0.06)) * (1 - band)) * shade[..., None] - c.colour
    ) * lit[..., None]
    c.labels[lit > 0.5] = BUILDING
    c.box(0.686, 0.362, 0.714, 0.387, (0.2, 0.2, 0.2))
    c.box(0.691, 0.366, 0.709, 0.383, (1.0, 0.9, 0.6))
    deep = np.clip((v - 0.6) / 0.4, 0, 1)
    swell = np.sin(v * 260 / (0.6 + deep) + 3 * np.sin(u * 9)) * 0.5 + 0.5
    glitter = swell**3 * _clouds(u, v, 21, 40.0)
    c.paint(_smooth(0.598, 0.602, v), (0.09, 0.24, 0.31), SEA, 0.75 + 0.5 * swell * (1 - deep))
    c.paint(_smooth(0.6, 0.61, v) * glitter * 0.5, (0.75, 0.85, 0.9))
    quay = _smooth(0.8, 0.804, v + 0.03 * u)
    c.paint(
        quay,
        (0.26, 0.21, 0.16),
        GROUND,
        0.7 + 0.35 * _clouds(u, v, 5, 60.0) + 0.2 * (np.floor((v + 0.03 * u) * 26 / (1.2 - 0.4 * v)) % 2),
    )
    c.bunting(0.06, 0)
    return c


def meadow() -> Canvas:
    c = Canvas()
    u, v = c.u, c.v
    c.sky((0.16, 0.38, 0.76), (0.72, 0.78, 0.8), 40, 0.42)
    far = 0.52 + 0.03 * np.sin(u * 5 + 1) + 0.012 * np.sin(u * 13)
    c.paint(_smooth(far - 0.002, far + 0.002, v), (0.16, 0.27, 0.22), GROUND, 0.8 + 0.4 * _clouds(u, v, 8, 18.0))
    c.box(0.755, 0.44, 0.835, 0.56, (0.78, 0.77, 0.73), 1.1 - 0.4 * _smooth(0.76, 0.84, u))
    roof = (
        _smooth(0.002, -0.002, np.abs(u - 0.795) - 0.052 * (v - 0.385) / 0.058)
        * _smooth(0.443, 0.44, v)
        * _smooth(0.385, 0.388, v)
    )
    c.paint(roof, (0.3, 0.12, 0.08), BUILDING)
    c.box(0.786, 0.49, 0.804, 0.56, (0.16, 0.1, 0.07))
    near = 0.6 + 0.03 * np.sin(u * 4 + 2.5) - 0.02 * u
    blades = _clouds(u, v * 0.35, 15, 110.0)
    c.paint(
        _smooth(near - 0.003, near + 0.003, v),
        (0.24, 0.36, 0.08),
        GROUND,
        0.55 + 0.8 * blades * _smooth(0.5, 0.9, v) + 0.25 * _clouds(u, v, 17, 9.0),
    )
    flowers = _smooth(0.82, 0.86, _clouds(u, v * 0.5, 60, 90.0)) * _smooth(0.66, 0.8, v)
    c.paint(flowers, (0.85, 0.78, 0.5))
    for n, left in enumerate((0.1, 0.17, 0.24)):
        for row in range(3):
            tint = ((0.72, 0.6, 0.25), (0.3, 0.5, 0.55), (0.75, 0.72, 0.64))[(n + row) % 3]
            c.box(left, 0.6 + 0.032 * row, left + 0.05, 0.63 + 0.032 * row, tint, 0.85 + 0.3 * (1 - (u - left) / 0.05))
        c.box(left - 0.004, 0.592, left + 0.054, 0.601, (0.35, 0.3, 0.25))
    c.bunting(0.045, 2)
    return c


def square() -> Canvas:
    c = Canvas()
    u, v = c.u, c.v
    c.sky((0.3, 0.5, 0.8), (0.78, 0.8, 0.78), 70, 0.36)
    for n, (left, right, top) in enumerate(((-0.1, 0.22, 0.2), (0.22, 0.36, 0.3), (0.64, 0.82, 0.26), (0.82, 1.1, 0.16))):
        wall = ((0.74, 0.52, 0.36), (0.68, 0.66, 0.58), (0.5, 0.56, 0.58), (0.72, 0.6, 0.44))[n]
        c.box(left, top, right, 0.7, wall, 0.85 + 0.2 * _clouds(u, v, 31 + n, 30.0))
        c.box(left - 0.006, top - 0.022, right + 0.006, top, (0.3, 0.14, 0.1))
        for x in np.arange(left + 0.035, right - 0.04, 0.075):
            for y in np.arange(top + 0.05, 0.56, 0.11):
                c.box(x - 0.004, y - 0.004, x + 0.036, y + 0.062, (0.86, 0.84, 0.78))
                c.box(x, y, x + 0.032, y + 0.058, (0.12, 0.16, 0.2), 0.7 + 0.8 * _smooth(0.0, 0.06, y + 0.05 - v))
    c.box(0.36, 0.47, 0.64, 0.7, (0.24, 0.1, 0.12), 0.8 + 0.25 * np.sin(u * 190))
    c.box(0.35, 0.43, 0.65, 0.475, (0.62, 0.45, 0.12))
    c.box(0.34, 0.66, 0.66, 0.71, (0.3, 0.2, 0.12), 0.8 + 0.2 * (np.floor(u * 70) % 2))
    deep = np.clip((v - 0.7) / 0.3, 0, 1)
    stones = np.floor((u - 0.5) / (0.02 + 0.06 * deep) + 0.5 * np.floor(14 * np.sqrt(deep))) + 7 * np.floor(14 * np.sqrt(deep))
    c.paint(
        _smooth(0.699, 0.701, v),
        (0.42, 0.38, 0.33),
        GROUND,
        0.75 + 0.3 * (np.abs(np.sin(stones * 12.9)) % 1) + 0.12 * _clouds(u, v, 44, 80.0),
    )
    c.bunting(0.05, 1)
    c.bunting(0.13, 3)
    return c


def paint_all(out: Path) -> None:
    """Write every place, a little out of focus, as a phone's lens leaves what is far."""
    out.mkdir(parents=True, exist_ok=True)
    for name, make in (("harbour", harbour), ("meadow", meadow), ("square", square)):
        canvas = make()
        soft = cv2.GaussianBlur(np.asarray(canvas.colour, np.float32), (0, 0), 2.2)
        cv2.imwrite(str(out / f"{name}.jpg"), _bytes(soft)[:, :, ::-1], [cv2.IMWRITE_JPEG_QUALITY, 88])
        cv2.imwrite(str(out / f"{name}.png"), canvas.labels, [cv2.IMWRITE_PNG_COMPRESSION, 9])


if __name__ == "__main__":
    paint_all(Path(sys.argv[1]) if len(sys.argv) > 1 else ASSETS / "places")
