"""Eyes: balls with an iris seen through the cornea, and lashes that follow the lids."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from bake.body import Body, Pose
from bake.human import base
from bake.noise import layered, values
from bake.picture import LENS, Shader
from bake.shade import C_COLOUR, C_GLEAM, C_KEY, C_RIM, C_SHEEN, C_SHINE, C_SKY
from bake.stage import CARRIED, COLOUR, EDGE, EYE, GLOSS, HAIR, KEY, NORMAL, OPEN, REST, RIM, SHOWN, SKY, TOWARDS_KEY, Part, Stage
from bake.surface import ribbons, winding
from sunglaze.core.camera import labels

Floats = NDArray[np.float64]
IRIS, CORNEA, PLANE, BULGE = 0.42, 0.66, 0.78, 0.055
"""In radii of the ball: the iris, the cornea's own radius, how far before the middle the iris lies, how far the cornea stands out."""
WHITE = np.array([0.34, 0.31, 0.285])
WINDOW, ACROSS, UPWARDS = np.array([-0.30, 0.40, 0.87]), 0.13, 0.17
"""Where the window stands that glints in eyes, and its half sizes; nearer to the lens than the key."""


class Eyes:
    """Both balls of a body's eyes, and the lashes."""

    def __init__(self, body: Body) -> None:
        self.body = body
        around, down = 72, 40
        angle = np.concatenate([np.linspace(0, 0.55, 14), np.linspace(0.6, 2.2, down - 14)])
        turn = np.arange(around) * 2 * np.pi / around
        unit = np.stack(
            [
                np.outer(np.sin(angle), np.cos(turn)),
                np.outer(np.sin(angle), np.sin(turn)),
                np.outer(np.cos(angle), np.ones(around)),
            ],
            2,
        )
        out = 1 + BULGE * np.clip(1 - (angle / 0.5) ** 2, 0, 1)
        self.unit = unit.reshape(-1, 3)
        self.ball = (unit * out[:, None, None]).reshape(-1, 3)
        self.triangles = winding(down, around)
        self.lashes = [_lashes(body, side, row) for side in "lr" for row in (1, 2)]

    def parts(self, pose: Pose) -> list[Part]:
        """Both balls, the person's left first."""
        turn, shift = self.body.head_matrix(pose)
        made = []
        for n, (middle, radius) in enumerate(self.body.eyes):
            # Eyes look at what is near: inwards by a little.
            inwards = 3.2 * (1 if n else -1)
            look = Rotation.from_euler("yx", [pose.gaze[0] + inwards, -pose.gaze[1]], degrees=True).as_matrix()
            places = (self.ball * radius) @ look.T + middle
            carries = np.zeros((len(places), CARRIED), np.float32)
            carries[:, NORMAL : NORMAL + 3] = self.unit @ look.T @ turn.T
            carries[:, REST : REST + 3] = self.ball
            carries[:, GLOSS] = n
            made.append(Part(places @ turn.T + shift, self.triangles, carries, labels.EYE, EYE))
        return made

    def frames(self, pose: Pose) -> list[Floats]:
        """Of each ball, from its own space to the scene's (3, 3)."""
        turn, _ = self.body.head_matrix(pose)
        found = []
        for n in range(2):
            inwards = 3.2 * (1 if n else -1)
            look = Rotation.from_euler("yx", [pose.gaze[0] + inwards, -pose.gaze[1]], degrees=True).as_matrix()
            found.append(turn @ look)
        return found

    def light(self, stage: Stage, part: int) -> None:
        """Light on a ball."""
        at = stage.slices[part]
        own = stage.carries[at]
        front = np.flatnonzero(own[:, NORMAL + 2] > 0.0)
        found = stage.light(front + at.start, own[front, NORMAL : NORMAL + 3], 0.012, 0.3)
        own[front, KEY] = own[front, KEY + 1] = own[front, KEY + 2] = found[:, 0]
        own[front, SKY], own[front, RIM], own[front, SHOWN], own[front, OPEN], own[front, EDGE] = found[:, 1:].T

    def shader(self, pose: Pose) -> Shader:
        """What picture.look calls to colour the hits of eyes."""
        frames = self.frames(pose)

        def colour(stage: Stage, hit: NDArray[np.int64], us: Floats, vs: Floats, ways: Floats, out: Floats) -> None:
            found = np.flatnonzero((hit >= 0) & (stage.kinds[np.maximum(hit, 0)] == EYE))
            if not len(found):
                return
            corners = stage.triangles[hit[found]]
            u, v = us[found, None], vs[found, None]
            c = stage.carries[corners[:, 0]] * (1 - u - v) + stage.carries[corners[:, 1]] * u + stage.carries[corners[:, 2]] * v
            matrices = np.stack(frames)[np.rint(c[:, GLOSS]).astype(int)]
            self._colour(c, ways[found], matrices, out, found)

        return colour

    def _colour(self, c: Floats, ways: Floats, matrices: Floats, out: Floats, at: NDArray[np.int64]) -> None:
        place = c[:, REST : REST + 3].astype(np.float64)
        own_way = np.einsum("nji,nj->ni", matrices, ways)
        unit = place / np.linalg.norm(place, axis=1, keepdims=True)
        off = np.hypot(unit[:, 0], unit[:, 1])
        cornea = (off < 0.5) & (unit[:, 2] > 0)
        centre = np.array([0, 0, 1 + BULGE - CORNEA])
        normal = np.where(cornea[:, None], _unit(place - centre), unit)
        # Into the cornea (n 1.376) and on to the plane of the iris.
        eta = 1 / 1.376
        cosine = -(own_way * normal).sum(axis=1)
        inside = 1 - eta**2 * (1 - cosine**2)
        bent = eta * own_way + (eta * cosine - np.sqrt(np.maximum(inside, 0)))[:, None] * normal
        steps = (PLANE - place[:, 2]) / np.minimum(bent[:, 2], -1e-3)
        iris = place + bent * np.maximum(steps, 0)[:, None]
        r, angle = np.hypot(iris[:, 0], iris[:, 1]) / IRIS, np.arctan2(iris[:, 1], iris[:, 0])
        seed = self.body.performer.seed
        ring = np.stack([np.cos(angle), np.sin(angle), 0.25 * r], axis=1)
        fibres = 0.5 * values(ring, 0.07, seed) + 0.5 * values(ring, 0.17, seed + 1)
        base_ = np.array(self.body.performer.iris) * 1.6
        colour = base_ * (1 + 0.45 * fibres)[:, None]
        inner = np.exp(-(((r - 0.48) / 0.16) ** 2))[:, None]
        colour = colour * (1 + inner * np.array([0.7, 0.35, 0.05]))
        colour *= (1 - 0.75 * np.clip((r - 0.8) / 0.22, 0, 1))[:, None]
        colour *= np.clip((r - 0.30) / 0.07, 0, 1)[:, None]
        # Light that comes in at one side is gathered at the other.
        key = np.einsum("nji,j->ni", matrices, TOWARDS_KEY)
        gathered = 0.75 - 0.55 * (iris[:, 0] * key[:, 0] + iris[:, 1] * key[:, 1]) / IRIS
        colour *= gathered[:, None]
        corner = np.clip(np.abs(unit[:, 0]) * 1.15, 0, 1) ** 2
        white = WHITE * (1 - np.array([0.3, 0.5, 0.55]) * corner[:, None])
        veins = np.clip(layered(unit, 0.13, seed + 3) - 0.25, 0, 1) * corner
        white = white * (1 - veins[:, None] * np.array([0.15, 0.7, 0.6]))
        edge = np.clip((off - IRIS * 0.94) / 0.05, 0, 1)[:, None]
        edge = np.where((unit[:, 2] > 0)[:, None], edge, 1.0)
        out[at, C_COLOUR : C_COLOUR + 3] = colour * (1 - edge) + white * edge
        out[at, C_KEY], out[at, C_SKY], out[at, C_RIM] = c[:, KEY], c[:, SKY], c[:, RIM] * 0.6
        facing = np.einsum("nij,nj->ni", matrices, normal)
        back = ways - 2 * (ways * facing).sum(axis=1, keepdims=True) * facing
        side = np.cross([0, 1.0, 0], WINDOW)
        side /= np.linalg.norm(side)
        up = np.cross(WINDOW, side)
        ahead = back @ WINDOW
        x, y = back @ side / np.maximum(ahead, 1e-3), back @ up / np.maximum(ahead, 1e-3)
        glint = _soft(ACROSS - np.abs(x)) * _soft(UPWARDS - np.abs(y)) * (1 - 0.7 * _soft(0.012 - np.abs(x))) * (ahead > 0)
        fresnel = 0.025 + 0.975 * (1 - np.clip(-(ways * facing).sum(axis=1), 0, 1)) ** 5
        out[at, C_SHINE] = 2.4 * glint * (0.3 + 0.7 * c[:, OPEN])
        out[at, C_SHEEN] = (0.04 + fresnel) * c[:, OPEN] * np.clip(0.5 + 0.5 * back[:, 1], 0, 1) * 0.9
        out[at, C_GLEAM] = 0.0


def _soft(inside: Floats) -> Floats:
    return np.asarray(np.clip(inside / 0.03 + 0.5, 0, 1))


def _unit(ways: Floats) -> Floats:
    return np.asarray(ways / np.linalg.norm(ways, axis=1, keepdims=True))


def _lashes(body: Body, side: str, row: int) -> tuple[NDArray[np.int64], NDArray[np.int64], Floats, Floats]:
    """Lashes of a lid (row 2 the upper): for each the columns of the data's strip that it lies between (points of both, root
    first), its share, and how long it is."""
    quads = base()[1][f"helper-{side}-eyelashes-{row}"]
    plain = base()[0]
    grid = _grid(quads)
    # Roots lie on the lid: the side of the strip that is nearer to the eye's middle.
    middle = np.array([0.308 if side == "l" else -0.308, 7.284, 1.245])
    if np.linalg.norm(plain[grid[:, 0]] - middle, axis=1).mean() > np.linalg.norm(plain[grid[:, -1]] - middle, axis=1).mean():
        grid = grid[:, ::-1]
    chance = np.random.default_rng(body.performer.seed + row)
    count = 130 if row == 2 else 46
    at = np.sort(chance.random(count)) * (len(grid) - 1.001)
    low = at.astype(int)
    return (
        grid[low],
        grid[low + 1],
        at - low,
        np.exp(chance.normal(0, 0.18, count)) * ((0.85 if row == 2 else 0.45) - 0.25 * body.performer.male),
    )


def _grid(quads: NDArray[np.int64]) -> NDArray[np.int64]:
    """The vertices of a strip of quads as rows and columns: along the strip first (n, m)."""
    neighbours: dict[int, set[int]] = {}
    for quad in quads:
        for a, b in zip(quad, np.roll(quad, -1), strict=True):
            neighbours.setdefault(int(a), set()).add(int(b))
            neighbours.setdefault(int(b), set()).add(int(a))
    counts = {one: int((quads == one).sum()) for one in neighbours}
    corner = next(one for one, count in counts.items() if count == 1)

    def walk(start: int, toward: int) -> list[int]:
        line = [start, toward]
        while counts[line[-1]] != 1:
            line.append(next(n for n in neighbours[line[-1]] if counts[n] <= 2 and n not in line))
        return line

    lines = sorted((walk(corner, n) for n in neighbours[corner]), key=len)
    short, along = lines
    rows = [short]
    used = set(short)
    for first in along[1:]:
        line = [first]
        used.add(first)
        for above in rows[-1][1:]:
            line.append(next(n for n in neighbours[above] if n in neighbours[line[-1]] and n not in used))
            used.add(line[-1])
        rows.append(line)
    return np.array(rows, np.int64)


def lash_part(body: Body, eyes: Eyes, cage: Floats, pose: Pose) -> Part:
    """All lashes as ribbons. `cage`: with face units, before the head turns."""
    turn, shift = body.head_matrix(pose)
    strands = []
    for one, other, share, long in eyes.lashes:
        path = cage[one] * (1 - share)[:, None, None] + cage[other] * share[:, None, None]
        root = path[:, :1]
        strands.append(root + (path - root) * long[:, None, None] * np.linspace(0.9, 1.05, path.shape[1])[None, :, None])
    points = np.concatenate(strands) @ turn.T + shift
    half = np.broadcast_to(np.linspace(0.0019, 0.0006, points.shape[1]), points.shape[:2])
    made, way, triangles = ribbons(points, half, LENS)
    carries = np.zeros((len(made), CARRIED), np.float32)
    carries[:, NORMAL : NORMAL + 3] = way
    carries[:, COLOUR : COLOUR + 3] = np.minimum(np.array(body.performer.brows.colour) * 0.5, 0.03)
    carries[:, KEY : KEY + 3], carries[:, SKY], carries[:, OPEN] = 0.5, 0.4, 0.5
    carries[:, GLOSS] = 0.2
    return Part(made, triangles, carries, labels.EYE, HAIR)
