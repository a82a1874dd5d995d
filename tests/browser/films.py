"""Films that Chromium plays as its camera: y4m, 4:2:0, which it reads anew whenever a camera is started."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

import cv2
import numpy as np


def play(film: Path, pictures: Iterable[np.ndarray], rate: int) -> None:
    """Let the browser's camera show pictures (height, width, 3), red first, so many a second, again and again."""
    begun = film.with_suffix(".begun")
    with begun.open("wb") as out:
        for number, picture in enumerate(pictures):
            if not number:
                height, width = picture.shape[:2]
                out.write(f"YUV4MPEG2 W{width} H{height} F{rate}:1 Ip A1:1 C420jpeg\n".encode())
            out.write(b"FRAME\n" + cv2.cvtColor(np.ascontiguousarray(picture), cv2.COLOR_RGB2YUV_I420).tobytes())
    begun.replace(film)


def play_grey(film: Path, luma: int) -> None:
    """A still picture of 640 by 480 of this luma (0 to 255), without chroma."""
    begun = film.with_suffix(".begun")
    frame = b"FRAME\n" + bytes([luma]) * (640 * 480) + bytes([128]) * (640 * 480 // 2)
    begun.write_bytes(b"YUV4MPEG2 W640 H480 F30:1 Ip A1:1 C420\n" + frame * 4)
    begun.replace(film)
