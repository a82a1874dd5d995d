"""Bake the cast: `python -m sunglaze.core.camera.performer.bake [FOLDER] [ROLE ...]` writes what core/camera/takes.py plays.

A take is a performer alone, cut out, 720 by 960 pixels, at which a unit (a decimetre) at the lens's distance is as wide as on a
screen of 540 by 960. It is two films (VP9 in WebM) and what is true of them:

- colour.webm: the surface's colour, sRGB-encoded, without light; beyond the outline it goes on as at its nearest point.
- light.webm: luma is the key light, the colour planes (half size) are sky and rim; codes are square roots (takes.py's FULL).
- truth.npz: of every pixel its material, coverage in fifteenths, and (half size) depth, 3 to 12 decimetres in 255 steps of 3.5 mm;
  takes.py's `write_truth` says how. It is without loss and read in a tenth of the time that a lossless film takes.
- take.json: pose of head, gaze, mouth and lids of every frame.

Beside the takes lies landmarks.npy, the face tracker's points on the performer's head (landmarks.py); it needs SciPy.

Nothing is random but hashes of places, so the same code gives the same takes. A film that is there already is not made again.
"""

import json
import sys
import time
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.performer.fields import sample_fields
from sunglaze.core.camera.performer.landmarks import landmarks
from sunglaze.core.camera.performer.motion import TAKES, pose
from sunglaze.core.camera.performer.people import CAST, Person
from sunglaze.core.camera.performer.trace import (
    ALBEDO,
    DEPTH,
    LIT,
    M_BLINK,
    M_GAZE,
    M_MOUTH,
    M_SHIFT,
    RIM,
    SKY,
    trace,
)  # fmt: skip
from sunglaze.core.camera.takes import ASSETS, FARTHEST, FULL, HEIGHT, MOUTHS, NEAREST, RATE, WIDTH, write_truth
from sunglaze.core.colour.spaces import encoded


def encode(light: NDArray[np.float32]) -> NDArray[np.uint8]:
    """Linear light to sRGB bytes."""
    return np.asarray(np.rint(encoded(np.clip(light, 0.0, 1.0)) * 255), np.uint8)


def _code(light: NDArray[np.float32], name: str) -> NDArray[np.uint8]:
    return np.asarray(np.rint(255 * np.sqrt(np.clip(light / FULL[name], 0, 1))), np.uint8)


def _half(plane: NDArray[np.uint8]) -> NDArray[np.uint8]:
    return np.asarray(cv2.resize(plane, (WIDTH // 2, HEIGHT // 2), interpolation=cv2.INTER_AREA), np.uint8)


def _spread(frame: NDArray[np.float32], coverage: NDArray[np.float32]) -> NDArray[np.float32]:
    """The frame with everything outside as at the nearest place inside."""
    outside = np.asarray(coverage < 0.05, np.uint8)
    if outside.all():
        return frame
    _, labels = cv2.distanceTransformWithLabels(outside, cv2.DIST_L2, 3, labelType=cv2.DIST_LABEL_PIXEL)
    inside = np.flatnonzero(outside.ravel() == 0)
    nearest = np.zeros(labels.max() + 1, np.int64)
    nearest[labels.ravel()[inside]] = inside
    spread = frame.reshape(-1, frame.shape[2])[nearest[labels.ravel()]].reshape(frame.shape)
    soft = cv2.blur(spread, (31, 31))
    far = cv2.dilate(np.asarray(outside == 0, np.uint8), np.ones((9, 9), np.uint8)) == 0
    return np.asarray(np.where(far[..., None], soft, spread), np.float32)


class Film:
    """A film that is being written."""

    def __init__(self, path: Path, options: dict[str, str]) -> None:
        self.container = av.open(str(path), "w", format="webm")
        self.stream = self.container.add_stream("libvpx-vp9", rate=RATE, options={"g": "12", "b": "0", **options})
        self.stream.width, self.stream.height, self.stream.pix_fmt = WIDTH, HEIGHT, "yuv420p"
        self.stream.time_base = Fraction(1, RATE)

    def add(self, frame: av.VideoFrame) -> None:
        self.container.mux(self.stream.encode(frame))

    def close(self) -> None:
        self.container.mux(self.stream.encode())
        self.container.close()


def planes(luma: NDArray[np.uint8], first: NDArray[np.uint8], second: NDArray[np.uint8]) -> av.VideoFrame:
    joined = np.concatenate([luma.ravel(), first.ravel(), second.ravel()]).reshape(HEIGHT * 3 // 2, WIDTH)
    return av.VideoFrame.from_ndarray(joined, format="yuv420p")


def bake_take(person: Person, take: str, fields: tuple[NDArray[np.float32], NDArray[np.float32]], out: Path) -> None:
    out.mkdir(parents=True, exist_ok=True)
    numbers = person.numbers()
    lossy = {"crf": "22", "deadline": "good", "cpu-used": "4", "row-mt": "1"}
    films = {
        "colour": Film(out / "colour.webm", lossy),
        "light": Film(out / "light.webm", lossy),
    }
    labels, depths = [], []
    for number in range(TAKES[take]):
        now = pose(take, number)
        frame, coverage, material = trace(WIDTH, HEIGHT, now, numbers, *fields)
        full = _spread(frame, coverage)
        colour = av.VideoFrame.from_ndarray(encode(full[..., ALBEDO : ALBEDO + 3]), format="rgb24")
        films["colour"].add(colour.reformat(format="yuv420p", dst_colorspace="ITU709"))
        light = [_code(full[..., part], name) for name, part in (("key", LIT), ("sky", SKY), ("rim", RIM))]
        films["light"].add(planes(light[0], _half(light[1]), _half(light[2])))
        alpha = np.asarray(np.rint(coverage * 15), np.uint8)
        # A pixel that is partly covered counts to what lies nearest in it.
        known = np.where((material == 0) & (alpha > 0), cv2.dilate(material, np.ones((3, 3), np.uint8)), material)
        depth = np.clip((full[..., DEPTH] - NEAREST) / (FARTHEST - NEAREST), 0, 1)
        labels.append(np.asarray(known * 16 + alpha, np.uint8))
        depths.append(_half(np.asarray(np.rint(depth * 255), np.uint8)))
    write_truth(out / "truth.npz", labels, depths)
    for film in films.values():
        film.close()
    truth = [_truth(pose(take, number)) for number in range(TAKES[take])]
    (out / "take.json").write_text(json.dumps({"frames": truth}, separators=(",", ":")) + "\n")


def _truth(now: NDArray[np.float64]) -> dict[str, float | list[float]]:
    parts = {"turn": now[:9], "shift": now[M_SHIFT : M_SHIFT + 3], "gaze": now[M_GAZE : M_GAZE + 2]}
    return {name: np.round(part, 6).tolist() for name, part in parts.items()} | {
        "mouth": round(float(now[M_MOUTH]), 4),
        "blink": round(float(now[M_BLINK]), 4),
    }


def bake_landmarks(person: Person, out: Path) -> None:
    """The points of the face for every step of the mouth, and how they move as the lids shut; see takes.py's `points`."""
    steps = [landmarks(person, mouth, 0.0) for mouth in np.linspace(0, 1, MOUTHS)]
    np.save(out / "landmarks.npy", np.array([*steps, landmarks(person, 0.0, 1.0) - steps[0]], np.float32))


def bake(out: Path, roles: list[str]) -> None:
    """Bake every take of the roles, by default of all, that is not there yet."""
    # Numba keeps compiled functions by their own file alone: a shape that was changed in another file would not be seen.
    for kept in Path(__file__).parent.glob("__pycache__/*.nb[ci]"):
        kept.unlink()
    for person in CAST:
        if (not roles or person.key in roles) and not (out / person.key / "landmarks.npy").exists():
            (out / person.key).mkdir(parents=True, exist_ok=True)
            bake_landmarks(person, out / person.key)
        missing = [take for take in TAKES if not (out / person.key / take / "take.json").exists()]
        if (roles and person.key not in roles) or not missing:
            continue
        began = time.monotonic()
        fields = sample_fields(person.numbers())
        for take in missing:
            bake_take(person, take, fields, out / person.key / take)
            print(f"{person.key} {take}: {time.monotonic() - began:.0f} s", flush=True)


if __name__ == "__main__":
    bake(Path(sys.argv[1]) if len(sys.argv) > 1 else ASSETS, sys.argv[2:])
