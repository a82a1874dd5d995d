"""Bake the stand-in camera: `python -m sunglaze.core.camera.performer.bake FOLDER` writes what core/camera/cameras.py plays.

The folder holds loop.json, frames as JPEG (4:4:4, so that every decoder gives the same chroma) and masks as PNG.
"""

import json
import math
import sys
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.performer.trace import trace

WIDTH, HEIGHT = 540, 960
RATE = 30
FRAMES = 150
QUALITY = 86


def rotation(yaw: float, pitch: float, roll: float) -> NDArray[np.float64]:
    """Head turn as a 3x3 matrix; angles in degrees, yaw about y first, then pitch about x, then roll about z."""
    a, b, c = (math.radians(v) for v in (yaw, pitch, roll))
    about_y = np.array([[math.cos(a), 0, math.sin(a)], [0, 1, 0], [-math.sin(a), 0, math.cos(a)]])
    about_x = np.array([[1, 0, 0], [0, math.cos(b), -math.sin(b)], [0, math.sin(b), math.cos(b)]])
    about_z = np.array([[math.cos(c), -math.sin(c), 0], [math.sin(c), math.cos(c), 0], [0, 0, 1]])
    return np.asarray(about_z @ about_x @ about_y)


def pose(frame: int) -> NDArray[np.float64]:
    """Everything that moves at a frame of the loop; the first frame follows the last without a jump."""
    w = 2 * math.pi * frame / FRAMES
    yaw = 21 * math.sin(w) + 5 * math.sin(2 * w + 0.4)
    pitch = 3 + 4 * math.sin(2 * w + 0.7)
    roll = 3.5 * math.sin(w + 0.9)
    lean = 0.10 * math.sin(w + 0.4)
    shift = (lean + 0.10 * math.sin(w + 0.2), 0.02 * math.sin(3 * w), 0.10 * math.sin(w + 2.0))
    blink = max(math.exp(-(((frame - at) / 2.2) ** 2)) for at in (34, 96))
    mouth = 0.035 * max(0.0, math.sin(6 * w)) ** 2 * max(0.0, math.sin(w + 2.6))
    gaze = (-0.055 * math.sin(math.radians(yaw)) / 0.38, 0.03 * math.sin(math.radians(pitch)) / 0.2)
    # The matrix turns head space into scene space; scene() applies its transpose column by column.
    return np.concatenate([rotation(yaw, pitch, roll).ravel(), shift, [blink, mouth, lean], gaze])


def develop(linear: NDArray[np.float32]) -> NDArray[np.uint8]:
    """Linear light to sRGB bytes with a soft shoulder above 0.8, as phones do."""
    x = np.maximum(linear, 0.0)
    x = np.where(x > 0.8, 0.8 + 0.2 * (1 - np.exp(-(x - 0.8) / 0.2)), x)
    encoded = np.where(x <= 0.0031308, 12.92 * x, 1.055 * x ** (1 / 2.4) - 0.055)
    return np.asarray(np.clip(np.rint(encoded * 255), 0, 255), np.uint8)


def bake(out: Path, step: int = 1) -> None:
    """Trace every `step`th frame of the loop into the folder `out`."""
    for part in ("frames", "masks"):
        (out / part).mkdir(parents=True, exist_ok=True)
    options = [
        cv2.IMWRITE_JPEG_QUALITY, QUALITY,
        cv2.IMWRITE_JPEG_SAMPLING_FACTOR, cv2.IMWRITE_JPEG_SAMPLING_FACTOR_444,
        cv2.IMWRITE_JPEG_OPTIMIZE, 1,
    ]  # fmt: skip
    for frame in range(0, FRAMES, step):
        linear, coverage = trace(WIDTH, HEIGHT, pose(frame), 2 * math.pi * frame / FRAMES)
        cv2.imwrite(str(out / f"frames/{frame:03d}.jpg"), develop(linear)[:, :, ::-1], options)
        mask = np.asarray(np.rint(coverage * 255), np.uint8)
        cv2.imwrite(str(out / f"masks/{frame:03d}.png"), mask, [cv2.IMWRITE_PNG_COMPRESSION, 9])
        print(f"frame {frame + 1} of {FRAMES}", flush=True)
    loop = {"width": WIDTH, "height": HEIGHT, "rate": RATE, "frames": FRAMES, "who": "Lamp tender", "place": "Harbour"}
    (out / "loop.json").write_text(json.dumps(loop))


if __name__ == "__main__":
    bake(Path(sys.argv[1]))
