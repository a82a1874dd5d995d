"""Reading the baked takes of the cast (performer/bake.py): frames by their number, with what is true of them."""

from __future__ import annotations

import json
import threading
from collections import OrderedDict
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
from numpy.typing import NDArray

ASSETS = Path(__file__).parent / "assets" / "cast"
WIDTH, HEIGHT, RATE = 720, 960, 30
LIGHT_NAMES = ("key", "sky", "rim")
FULL = {"key": 5.0, "sky": 2.0, "rim": 2.0}
"""The light that the code 255 stands for; codes are square roots."""
NEAREST, FARTHEST = 3.0, 12.0
"""Decimetres from the lens that the first and the last code of depth stand for."""
LENS_Z = 8.6
"""Decimetres from the middle of a head at rest to the lens."""
FOCAL = 4.75 * 270
"""Pixels: a decimetre at distance d is FOCAL / d wide."""
MIDDLE_ROW = 408
"""The row of a take at which the lens looks straight ahead."""
MOUTHS = 5
"""Steps of the mouth, shut to wide open, at which the face's points are known."""
RECENT = 4
Bytes = NDArray[np.uint8]


@dataclass(frozen=True)
class TakeFrame:
    """A performer alone, all of HEIGHT by WIDTH. `colour`: surface colour, sRGB-encoded, red first, with coverage as the fourth.
    `lights`: codes of key, sky and rim. `material`: of performer/labels.py. `depth_codes`: half the size."""

    colour: Bytes
    lights: Bytes
    material: Bytes
    depth_codes: Bytes

    @property
    def depth(self) -> NDArray[np.float32]:
        """Decimetres from the lens, half the size."""
        return np.asarray(NEAREST + self.depth_codes * np.float32((FARTHEST - NEAREST) / 255), np.float32)


class Film:
    """A film read by frame number. Going on by one is quick; going elsewhere decodes from the last whole frame before it."""

    def __init__(self, path: Path) -> None:
        self._container = av.open(str(path))
        self._stream = self._container.streams.video[0]
        self._stream.thread_type = "AUTO"
        self._frames: Iterator[av.VideoFrame] | None = None
        self._next = -1

    def frame(self, number: int) -> av.VideoFrame:
        if self._frames is None or number != self._next:
            base = self._stream.time_base
            assert base is not None
            self._container.seek(int(number / RATE / base), stream=self._stream)
            self._frames = self._container.decode(self._stream)
        for frame in self._frames:
            assert frame.time is not None
            at = round(frame.time * RATE)
            if at == number:
                self._next = number + 1
                return frame
        raise IndexError(f"{self._container.name} has no frame {number}")


def _planes(frame: av.VideoFrame) -> tuple[Bytes, Bytes, Bytes]:
    """Luma and the two colour planes of 4:2:0, as they are."""
    flat = np.asarray(frame.to_ndarray(format="yuv420p"), np.uint8).ravel()
    size, half = WIDTH * HEIGHT, WIDTH * HEIGHT // 4
    first = flat[size : size + half].reshape(HEIGHT // 2, WIDTH // 2)
    second = flat[size + half :].reshape(HEIGHT // 2, WIDTH // 2)
    return flat[:size].reshape(HEIGHT, WIDTH), first, second


class Take:
    """One performer in one take. Threads may share it."""

    def __init__(self, folder: Path) -> None:
        self._films = {name: Film(folder / f"{name}.webm") for name in ("colour", "light", "truth")}
        self.truth: list[dict[str, Any]] = json.loads((folder / "take.json").read_text())["frames"]
        self._lock = threading.Lock()
        self._recent: OrderedDict[int, TakeFrame] = OrderedDict()

    @property
    def length(self) -> int:
        return len(self.truth)

    def frame(self, number: int) -> TakeFrame:
        """Raises IndexError beyond `length`."""
        with self._lock:
            if number not in self._recent:
                self._recent[number] = self._read(number)
                if len(self._recent) > RECENT:
                    self._recent.popitem(last=False)
            return self._recent[number]

    def _read(self, number: int) -> TakeFrame:
        colour, light, truth = (self._films[name].frame(number) for name in ("colour", "light", "truth"))
        rgb = np.asarray(colour.to_ndarray(format="rgb24", src_colorspace="ITU709"), np.uint8)
        luma, sky, rim = _planes(light)
        label, depth, _ = _planes(truth)
        full = (WIDTH, HEIGHT)
        return TakeFrame(
            _merged(*cv2.split(rgb), cv2.LUT(label, _COVERAGE)),
            _merged(luma, cv2.resize(sky, full), cv2.resize(rim, full)),
            np.asarray(cv2.LUT(label, _MATERIAL), np.uint8),
            depth,
        )


_COVERAGE = np.array([(code & 15) * 17 for code in range(256)], np.uint8)
_MATERIAL = np.array([code >> 4 for code in range(256)], np.uint8)


def _merged(*parts: Any) -> Bytes:
    return np.asarray(cv2.merge(parts), np.uint8)


@cache
def take(who: str, name: str) -> Take:
    """A performer's take; FileNotFoundError where there is none."""
    folder = ASSETS / who / name
    if not (folder / "take.json").is_file():
        raise FileNotFoundError(folder)
    return Take(folder)


@cache
def points(who: str) -> NDArray[np.float32]:
    """Points of a performer's face in head space, decimetres, (MOUTHS + 1, 478, 3): for every step of the mouth, and last how
    they move as the lids shut."""
    return np.asarray(np.load(ASSETS / who / "landmarks.npy"), np.float32)


@cache
def place(name: str) -> tuple[Bytes, Bytes]:
    """A place behind the performers: sRGB bytes (n, n, 3), red first, and its labels (n, n)."""
    colours = cv2.imread(str(ASSETS / "places" / f"{name}.jpg"), cv2.IMREAD_COLOR_RGB)
    labels = cv2.imread(str(ASSETS / "places" / f"{name}.png"), cv2.IMREAD_GRAYSCALE)
    assert colours is not None
    assert labels is not None
    return np.asarray(colours, np.uint8), np.asarray(labels, np.uint8)
