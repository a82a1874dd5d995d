"""What is worn on the head: shells draped over it (cap, scarf) and glasses."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter
from scipy.spatial import cKDTree

from bake.body import Body, Pose
from bake.noise import layered, values
from bake.stage import CARRIED, CLOTH, COLOUR, GLOSS, NORMAL, PLAIN, REST, ROUGH, SKIN, Part, Stage
from bake.surface import averaging, normals, outward, winding
from sunglaze.core.camera import labels

Floats = NDArray[np.float64]
MIDDLE = np.array([0.0, 0.25, -0.38])
"""From where a shell's directions go out, head space."""
ROWS, COLUMNS = 150, 240


class Shell:
    """Cloth over a head. `kind`: a knitted "cap" with a turned-up brim, or a "scarf" that leaves the face free."""

    def __init__(self, body: Body, kind: str, colour: tuple[float, float, float]) -> None:
        self.body, self.kind = body, kind
        # From the edge (1) to the pole (0): a cap's is its crown, a scarf's the back of the head.
        down, round_ = np.meshgrid(np.linspace(0.01, 1, ROWS), np.arange(COLUMNS) * 2 * np.pi / COLUMNS, indexing="ij")
        polar = down * self._reach(round_)
        way = np.stack([np.sin(polar) * np.sin(round_), np.cos(polar), np.sin(polar) * np.cos(round_)], axis=2)
        tilt = -0.26 if kind == "cap" else -np.pi / 2 - 0.12
        c, s = np.cos(tilt), np.sin(tilt)
        way = way @ np.array([[1, 0, 0], [0, c, s], [0, -s, c]])
        far = self._skull(way)
        soft = gaussian_filter(np.concatenate([far[:, -40:], far, far[:, :40]], axis=1), (7, 9), mode="nearest")[:, 40:-40]
        seed = body.performer.seed
        spots = way.reshape(-1, 3)
        folds = values(spots * [1.0, 3.2, 1.0] + 0.4 * layered(spots, 0.8, seed)[:, None], 0.5, seed + 1).reshape(far.shape)
        depth = 0.03 if kind == "cap" else 0.07
        out = np.maximum(soft, far - 0.09) + 0.04 + depth * (1 - np.abs(folds)) * np.clip(down * 2, 0, 1)
        if kind == "cap":
            out += 0.06 * np.clip((down - 0.66) / 0.04, 0, 1) + 0.05 * np.clip(0.4 - down, 0, 1)
        else:
            out += 0.04 * np.exp(-(((down - 0.97) / 0.03) ** 2))
        # The edge is turned in to the skin.
        out = np.where(down > 0.985, np.maximum(far, soft) + 0.01, out)
        self.places = (MIDDLE + way * out[..., None]).reshape(-1, 3)
        self.triangles = winding(ROWS, COLUMNS)
        self.soft = averaging(len(self.places), self.triangles)
        self.carries = np.zeros((len(self.places), CARRIED), np.float32)
        shade = 1 - 0.12 * np.abs(folds).ravel()
        self.carries[:, COLOUR : COLOUR + 3] = np.array(colour) * shade[:, None]
        self.carries[:, REST] = (round_ * (1.0 if kind == "cap" else 0.9)).ravel()
        self.carries[:, REST + 1] = (down * 2.2).ravel()
        self.carries[:, GLOSS], self.carries[:, ROUGH] = 0.25, 0.6
        low = self.places[:, 1] - body.neck[1]
        self.share = np.clip(0.3 + low / 0.9, 0.3, 1) if kind == "scarf" else np.ones(len(self.places))

    def _reach(self, round_: Floats) -> Floats:
        """How far down cloth reaches, radians from the crown, by direction."""
        if self.kind == "cap":
            return np.asarray(1.52 + 0.06 * np.cos(round_))
        # Round the face: by the angle from straight up, how far from the face's own axis its edge lies.
        up = np.abs(np.angle(np.exp(1j * round_)))
        return np.asarray(np.pi - np.interp(up, np.array([0, 1, 2, 3, 4]) * np.pi / 4, [0.43, 0.6, 0.80, 0.92, 0.98]))

    def _skull(self, way: Floats) -> Floats:
        """How far the skin lies along directions (rows, columns), from outside."""
        body = self.body
        stage = Stage(
            [Part(body.surface.at(body.cage), body.triangles, np.zeros((len(body.rest), CARRIED), np.float32), 0, SKIN)]
        )
        flat = way.reshape(-1, 3)
        from_ = (MIDDLE + 2.2 * flat).astype(np.float32)
        met = stage.scene.run(from_, -flat.astype(np.float32), output=1)
        far = np.where(met["primID"] >= 0, 2.2 - met["tfar"], 1.0)
        most = 1.72 if self.kind == "scarf" else 1.4
        return np.minimum(far, most).reshape(way.shape[:2])

    def covers(self, places: Floats) -> NDArray[np.bool_]:
        """Which places of the skin lie under the shell (n)."""
        tree = cKDTree(self.places[: int(0.94 * ROWS) * COLUMNS])
        away = places - MIDDLE
        far, near = tree.query(places)
        shell = np.linalg.norm(self.places[near] - MIDDLE, axis=1)
        return np.asarray((far < 0.3) & (np.linalg.norm(away, axis=1) < shell))

    def part(self, pose: Pose) -> Part:
        """As it stands before the lens."""
        places = self.body.moved(self.places, self.share, pose)
        self.carries[:, NORMAL : NORMAL + 3] = normals(places, self.triangles)
        return Part(places, self.triangles, self.carries, labels.HEADWEAR, CLOTH)


class Glasses:
    """Thin round rims, a bridge and temples."""

    def __init__(self, body: Body) -> None:
        self.body = body
        front = max(body.eyes[0][0][2], body.eyes[1][0][2]) + 0.3
        lines = []
        turn = np.linspace(0, 2 * np.pi, 61)
        for middle, _ in body.eyes:
            x, y = middle[0] * 1.06, middle[1] - 0.03
            wide = np.abs(np.cos(turn)) ** 0.8 * np.sign(np.cos(turn)) * 0.255
            tall = np.abs(np.sin(turn)) ** 0.8 * np.sign(np.sin(turn)) * 0.215
            lines.append(np.stack([x + wide, y + tall, front - 0.18 * (np.abs(x + wide) / 0.6) ** 2], axis=1))
            side = np.sign(x)
            out = abs(x) + 0.255
            t = np.linspace(0, 1, 24)
            lines.append(np.stack([side * (out + 0.2 * np.sin(t * 1.5)), y + 0.1 - 0.04 * t, front - 0.2 - t * 1.15], axis=1))
        t = np.linspace(-1, 1, 17)
        inner = 0.31 * 1.06 - 0.255
        lines.append(np.stack([t * inner, body.eyes[0][0][1] + 0.03 + 0.035 * (1 - t**2), np.full(17, front + 0.005)], axis=1))
        places, faces, total = [], [], 0
        for line in lines:
            tube, own = _tube(line, 0.02)
            places.append(tube)
            faces.append(own + total)
            total += len(tube)
        self.places, self.triangles = np.concatenate(places), np.concatenate(faces)
        self.carries = np.zeros((len(self.places), CARRIED), np.float32)
        self.carries[:, COLOUR : COLOUR + 3] = (0.05, 0.018, 0.01)
        self.carries[:, GLOSS], self.carries[:, ROUGH] = 2.0, 0.25

    def part(self, pose: Pose) -> Part:
        """As they stand before the lens."""
        turn, shift = self.body.head_matrix(pose)
        places = self.places @ turn.T + shift
        self.carries[:, NORMAL : NORMAL + 3] = normals(places, self.triangles)
        return Part(places, self.triangles, self.carries, labels.GLASSES, PLAIN)


def _tube(line: Floats, radius: float) -> tuple[Floats, NDArray[np.int64]]:
    about = 10
    way = np.gradient(line, axis=0)
    way /= np.linalg.norm(way, axis=1, keepdims=True)
    across = np.cross(way, [0.1, 0.2, 1.0])
    across /= np.linalg.norm(across, axis=1, keepdims=True)
    along = np.cross(way, across)
    turn = np.arange(about) * 2 * np.pi / about
    made = line[:, None] + radius * (across[:, None] * np.cos(turn)[None, :, None] + along[:, None] * np.sin(turn)[None, :, None])
    places = made.reshape(-1, 3)
    return places, outward(winding(len(line), about), places, np.repeat(line, about, axis=0))
