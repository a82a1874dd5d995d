"""Sets the tracker's points on the base mesh by what the tracker sees: `python -m bake.fit`, once; writes landmarks.json.

Begins with the anchors of landmarks.py, looks at every performer from before and from either side through the application's own
tracker, moves each point as fits all views best, evenly left and right, and lets it down onto the skin again; a few times over.
"""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np

from bake.body import Pose
from bake.eyes import Eyes
from bake.figure import Figure
from bake.landmarks import PLACES, Landmarks, first_guess, let_down, lips_apart
from bake.motion import sided
from bake.people import CAST
from bake.picture import Picture
from bake.shade import C_COLOUR, C_GLEAM, C_KEY, C_RIM, C_SHEEN, C_SHINE, C_SKY
from sunglaze.core.camera.lighting import LIGHTS
from sunglaze.core.camera.takes import FOCAL, LENS_Z, MIDDLE_ROW, WIDTH
from sunglaze.core.colour.spaces import encoded
from sunglaze.core.face.model import RINGS, SKIN_POINTS, turned_over
from sunglaze.realism import trackers

POSES = (Pose(), Pose({"jawOpen": 0.15}, yaw=-4.0, pitch=3.0), Pose(sided(mouthSmile=0.2), yaw=22.0), Pose(yaw=-22.0))
ROUNDS = 4
LEFT, RIGHT = WIDTH // 2 - 270, WIDTH // 2 + 270


def shown(picture: Picture) -> np.ndarray:
    """A picture at noon before grey, bytes (960, 540, 3)."""
    found, light = picture.found, LIGHTS["noon"]
    key, sky, rim = (np.array(one) for one in (light.key, light.sky, light.rim))
    amount = found[..., C_KEY, None] * key + found[..., C_SKY, None] * sky + found[..., C_RIM, None] * rim
    thrown = found[..., C_SHINE, None] * key + found[..., C_SHEEN, None] * sky + found[..., C_GLEAM, None] * rim
    lit = (found[..., C_COLOUR : C_COLOUR + 3] * amount + thrown) * 0.8
    over = picture.coverage[..., None]
    return np.rint(encoded(np.clip(lit * over + 0.25 * (1 - over), 0, 1)) * 255).astype(np.uint8)[:, LEFT:RIGHT]


def _moves(seen: np.ndarray, turns: np.ndarray) -> np.ndarray:
    """How far points are to be moved in the head's space (478, 3) for what views see them off by (views, 478, 2) with their turns
    (views, 3, 3): least squares, those that are off by more than most counting less (Huber's weights, twice over), held lightly."""
    rows = turns[:, :2].reshape(-1, 3)
    moves = np.zeros((seen.shape[1], 3))
    for point in range(seen.shape[1]):
        wanted, weight = seen[:, point].ravel(), np.ones(len(rows))
        for _ in range(3):
            weighed = rows * weight[:, None]
            moves[point] = np.linalg.solve(weighed.T @ rows + 0.3 * np.eye(3), weighed.T @ wanted)
            off = np.abs(rows @ moves[point] - wanted)
            weight = 1 / np.maximum(1, off / max(1e-6, 1.5 * float(np.median(off))))
    return moves


def main() -> None:
    """Fit and write."""
    views = []
    with trackers() as tracker:
        for performer in CAST:
            figure = Figure(performer)
            eyes = Eyes(figure.body)
            for pose in POSES:
                faces = tracker.faces(np.ascontiguousarray(shown(figure.frame(pose))))
                if faces:
                    views.append((figure.body, pose, eyes.parts(pose), faces[0][:, :2] * (RIGHT - LEFT, 960) + (LEFT, 0)))
            print(f"{performer.key}: seen {len(views)}", flush=True)
    body = views[0][0]
    places = let_down(body, first_guess(body))[0]
    for _ in range(ROUNDS):
        found = []
        for one, pose, balls, seen in views:
            points = Landmarks(one, places).at(one.skin(pose), balls)
            scale = FOCAL / (LENS_Z - points[:, 2])
            at = np.stack([WIDTH / 2 + points[:, 0] * scale, MIDDLE_ROW - points[:, 1] * scale], axis=1)
            found.append((seen - at) / scale[:, None] * (1, -1))
        off = _moves(np.array(found), np.array([pose.turn for _, pose, *_ in views]))
        other = turned_over()
        even = (off + off[other] * (-1, 1, 1)) / 2
        eyes_apart = np.linalg.norm(
            np.mean([seen[list(RINGS["right eye"])] - seen[list(RINGS["left eye"])] for *_, seen in views], axis=(0, 1))
        )
        each = np.median([np.linalg.norm(one * (FOCAL / LENS_Z), axis=1).mean() for one in found]) / eyes_apart
        print(f"off by {100 * each:.1f} % of the distance of the eyes", flush=True)
        places += 0.9 * even[:SKIN_POINTS]
        places = let_down(body, lips_apart(body, places))[0]
    Path(PLACES).write_text(json.dumps(np.round(places, 4).tolist(), separators=(",", ":")) + "\n")


if __name__ == "__main__":
    main()
