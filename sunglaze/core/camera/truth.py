"""What is true of the heads before the stand-in camera: pose, and the face tracker's points on the performers' own skin.

Performers are flat cut-outs that scripts move and scale; a head that is shown half as large counts as twice as far away.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from typing import TYPE_CHECKING

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.takes import DEPTH_PART, FOCAL, HEIGHT, LENS_Z, MIDDLE_ROW, WIDTH, take
from sunglaze.core.face.model import RINGS, middle_face, turned_over
from sunglaze.core.face.pose import STEADY

if TYPE_CHECKING:
    from sunglaze.core.camera.cast import Figure, StandIn

CENTIMETRES = 10.0
HIDING = 0.15
"""Decimetres by which something nearer hides a point: depth is known at a quarter of the size and in steps of some 5 mm."""


@dataclass(frozen=True, eq=False)
class Head:
    """A head as it is seen on the screen.

    `turn`: 3 by 3 from the head to the camera (x to the picture's right, y up, z towards the lens), mirrored as the picture is.
    `place`: centimetres from the lens in the same axes, so that its last number is minus the distance. `points`: (478, 2)
    pixels of the screen; `farther`: how much farther than the head's middle each is (478), pixels of the screen as it is there;
    `visible`: which of them nothing hides (478). `mouth`: 0 shut to 1 wide open; `blink`: 0 open to 1 shut.
    """

    who: str
    turn: NDArray[np.float64]
    place: NDArray[np.float64]
    points: NDArray[np.float64]
    farther: NDArray[np.float64]
    visible: NDArray[np.bool_]
    mouth: float
    blink: float

    @property
    def eyes(self) -> NDArray[np.float64]:
        """The middles of both eyes' openings, the left one first, pixels (2, 2)."""
        return np.array([self.points[list(RINGS[name])].mean(axis=0) for name in ("left eye", "right eye")])


def projected(scene: NDArray[np.float64]) -> NDArray[np.float64]:
    """Columns and rows in a take (n, 2) of places in its scene (n, 3), decimetres."""
    scale = FOCAL / (LENS_Z - scene[:, 2])
    return np.stack([WIDTH / 2 + scene[:, 0] * scale, MIDDLE_ROW - scene[:, 1] * scale], axis=1)


@cache
def axes(who: str) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The middle face laid onto a performer's points at rest (Kabsch 1976, with size): its axes as columns (3 by 3) and its
    origin in head space, decimetres. A head's pose is told by these, as that of every head is."""
    film = take(who, "talk")
    turn, shift = np.array(film.truth[0]["turn"]).reshape(3, 3), np.array(film.truth[0]["shift"])
    at_rest = (film.points(0) - shift) @ turn
    model, own = middle_face()[list(STEADY)], at_rest[list(STEADY)]
    left, right = model - model.mean(axis=0), own - own.mean(axis=0)
    u, spread, vt = np.linalg.svd(left.T @ right)
    turn = (u @ np.diag([1, 1, np.linalg.det(u @ vt)]) @ vt).T
    size = spread.sum() / (left**2).sum()
    return turn, own.mean(axis=0) - size * turn @ model.mean(axis=0)


def heads(camera: StandIn, number: int) -> list[Head]:
    """The heads of a frame, those behind first."""
    standing = camera.standing(number)
    found = [_head(camera, figure, to_screen) for figure, to_screen in standing]
    for n, head in enumerate(found):
        for figure, to_screen in standing[n + 1 :]:
            head.visible[:] &= ~_covered(figure, to_screen, head.points)
    return found


def depth(camera: StandIn, number: int) -> NDArray[np.float32]:
    """Centimetres from the lens along its axis of what is seen at each pixel (height, width); infinite where nobody is."""
    found = np.full((camera.height, camera.width), np.inf, np.float32)
    for figure, to_screen in camera.standing(number):
        film = take(figure.who, figure.take)
        here = camera.warped(cv2.resize(film.depth(figure.number), (WIDTH, HEIGHT)), to_screen)
        seen = camera.warped(film.outline(figure.number).coverage, to_screen) > 127
        # Shown smaller is farther away.
        found[seen] = here[seen] * (focal(camera) / (FOCAL * abs(to_screen[1, 1])) * CENTIMETRES)
    return found


def _head(camera: StandIn, figure: Figure, to_screen: NDArray[np.float64]) -> Head:
    film = take(figure.who, figure.take)
    known = film.truth[figure.number]
    turn, shift = np.array(known["turn"]).reshape(3, 3), np.array(known["shift"])
    scene = film.points(figure.number)
    in_take = projected(scene)
    visible = _unhidden(film.depth(figure.number), in_take, LENS_Z - scene[:, 2])
    on_screen = in_take @ to_screen[:, :2].T + to_screen[:, 2]
    own_turn, origin = axes(figure.who)
    turn, middle = turn @ own_turn, shift + turn @ origin
    farther = (middle[2] - scene[:, 2]) * FOCAL / (LENS_Z - middle[2]) * abs(to_screen[1, 1])
    sight, place = middle - (0, 0, LENS_Z), _place(camera, middle, to_screen)
    if to_screen[0, 0] < 0:
        over = np.diag([-1.0, 1.0, 1.0])
        turn, on_screen, visible = over @ turn @ over, on_screen[turned_over()], visible[turned_over()]
        farther = farther[turned_over()]
        sight = sight * (-1, 1, 1)
    visible &= ((on_screen >= 0) & (on_screen < (camera.width, camera.height))).all(axis=1)
    turn = _between(sight, place) @ turn
    return Head(figure.who, turn, place, on_screen, farther, visible, known["mouth"], known["blink"])


def _between(a: NDArray[np.float64], b: NDArray[np.float64]) -> NDArray[np.float64]:
    """The shortest turn (3 by 3) that takes direction `a` to `b`: a cut-out that is moved across the screen turns with the line
    of sight, for the lens still sees the same of it."""
    a, b = a / np.linalg.norm(a), b / np.linalg.norm(b)
    axis = np.cross(a, b)
    angle = np.arctan2(np.linalg.norm(axis), a @ b)
    along = axis / max(float(np.linalg.norm(axis)), 1e-12) * angle
    return np.asarray(cv2.Rodrigues(along)[0])


def focal(camera: StandIn) -> float:
    """The focal length of the stand-in camera in pixels of its screen."""
    top, bottom = camera.rows()
    return FOCAL * camera.height / (bottom - top)


def _place(camera: StandIn, middle: NDArray[np.float64], to_screen: NDArray[np.float64]) -> NDArray[np.float64]:
    """Centimetres from the lens: where a line through the head's middle on the screen is as far away as its size says."""
    column, row = projected(middle[None])[0] @ to_screen[:, :2].T + to_screen[:, 2]
    distance = (LENS_Z - middle[2]) * focal(camera) / (FOCAL * abs(to_screen[1, 1])) * CENTIMETRES
    across, up = (column - camera.width / 2) / focal(camera), (camera.height / 2 - row) / focal(camera)
    return np.array([across * distance, up * distance, -distance])


def _unhidden(depth: NDArray[np.float32], in_take: NDArray[np.float64], distance: NDArray[np.float64]) -> NDArray[np.bool_]:
    columns = np.clip(in_take[:, 0] / DEPTH_PART, 0, WIDTH // DEPTH_PART - 1).astype(int)
    rows = np.clip(in_take[:, 1] / DEPTH_PART, 0, HEIGHT // DEPTH_PART - 1).astype(int)
    return np.asarray(distance < depth[rows, columns] + HIDING)


def _covered(figure: Figure, to_screen: NDArray[np.float64], on_screen: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Which places of the screen a figure covers."""
    in_take = (on_screen - to_screen[:, 2]) @ np.linalg.inv(to_screen[:, :2]).T
    inside = ((in_take >= 0) & (in_take < (WIDTH, HEIGHT))).all(axis=1)
    columns, rows = np.clip(in_take.astype(int), 0, (WIDTH - 1, HEIGHT - 1)).T
    coverage = take(figure.who, figure.take).outline(figure.number).coverage
    return np.asarray(inside & (coverage[rows, columns] > 127))
