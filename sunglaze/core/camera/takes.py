"""Reading the baked takes of the cast (bake/films.py): frames by their number, with what is true of them."""

from __future__ import annotations

import io
import json
import os
import threading
import zipfile
from collections import OrderedDict
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
from cachetools import FIFOCache
from numpy.typing import NDArray

from sunglaze.core.material.files import Bytes

ASSETS = Path(__file__).parent / "assets" / "cast"
WIDTH, HEIGHT, RATE = 1024, 960, 30
LIGHT_NAMES = ("key", "sky", "rim")
SHINE_NAMES = ("shine", "sheen", "gleam")
"""The shine that each of the lights has on a surface."""
FULL = {"key": 2.0, "sky": 2.0, "rim": 2.0, "shine": 3.0, "sheen": 0.5, "gleam": 2.0}
"""The light that the code 255 stands for; codes are square roots."""
NEAREST, FARTHEST = 1.4, 21.0
"""Decimetres from the lens that the first and the last code of depth stand for; codes between go by one over distance."""
DEPTH_PART = 4
"""Depth is kept at the size divided by this."""
LENS_Z = 4.6
"""Decimetres from the middle of a head at rest to the lens."""
FOCAL = 800.0
"""Pixels: a decimetre at distance d is FOCAL / d wide. 62 degrees along the longer side."""
MIDDLE_ROW = 400
"""The row of a take at which the lens looks straight ahead."""
COVERS = 8
"""Steps of a pixel's coverage."""
POINT_STEP = 0.002
"""Decimetres that a step of the face's points stands for."""
RECENT = 4
"""Frames of takes that are held, of all together: two performers, and the next frame of each."""


_COVERED = np.array([round(255 * (code % COVERS + 1) / COVERS) if code else 0 for code in range(256)], np.uint8)


@dataclass(frozen=True)
class TakeFrame:
    """A performer alone, of HEIGHT by WIDTH. `colour`: surface colour, sRGB-encoded, red first. `label`: COVERS times the
    material of labels.py plus coverage in steps less one, 0 for nobody. `key`, `sky`, `rim`: codes of the lights; `shine`,
    `sheen`, `gleam`: of what surfaces throw back of them as they are; the last two of each three of half the size."""

    colour: Bytes
    label: Bytes
    key: Bytes
    sky: Bytes
    rim: Bytes
    shine: Bytes
    sheen: Bytes
    gleam: Bytes

    @property
    def coverage(self) -> Bytes:
        """Of the pixel, 255 for all."""
        return _COVERED[self.label]

    @property
    def material(self) -> Bytes:
        """What each pixel shows (height, width), by labels.py; 0 for nobody."""
        return np.asarray(self.label // COVERS, np.uint8)


NO_COLOUR, NO_PLANE = np.zeros((1, 1, 3), np.uint8), np.zeros((1, 1), np.uint8)


class Film:
    """A film read by frame number. Going on by one is quick; going elsewhere decodes from the last whole frame before it."""

    def __init__(self, path: Path) -> None:
        self._container = av.open(str(path))
        self._stream = self._container.streams.video[0]
        # A take reads its films beside each other; that costs less than a film on several threads.
        self._stream.codec_context.thread_count = 1
        self._frames: Iterator[av.VideoFrame] | None = None
        self._next = -1

    def close(self) -> None:
        """Let go of the file and the decoder, which holds some 20 MB."""
        self._frames = None
        self._container.close()

    def frame(self, number: int) -> av.VideoFrame:
        """A frame of the film, decoded. Going on by one is quick; elsewhere it decodes from the whole one before. Raises
        IndexError beyond its end."""
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


_DEPTHS = (1 / (1 / FARTHEST + np.arange(256) / 255 * (1 / NEAREST - 1 / FARTHEST))).astype(np.float32)


def depth_code(depth: NDArray[np.float32]) -> Bytes:
    """Codes of distances from the lens, decimetres, of any shape."""
    share = (1 / np.clip(depth, NEAREST, FARTHEST) - 1 / FARTHEST) / (1 / NEAREST - 1 / FARTHEST)
    return np.asarray(np.rint(share * 255), np.uint8)


def write_truth(path: Path, labels: list[Bytes], depths: list[Bytes], points: list[NDArray[np.int32]]) -> None:
    """What is known of every frame, as a compressed NumPy archive, without loss. Of frame N `label-N` (2, n): the labels (HEIGHT,
    WIDTH) row by row in runs that end with the row, and how long each is; `depth-N`: codes of depth (a quarter of the size) as
    differences from the row above. `points` (frames, 478, 3): the face's in the scene, POINT_STEP decimetres, as differences
    from the frame before."""
    planes = {f"label-{n}": _runs(label) for n, label in enumerate(labels)}
    planes |= {f"depth-{n}": np.diff(depth, axis=0, prepend=np.uint8(0)) for n, depth in enumerate(depths)}
    moves = np.diff(np.array(points), axis=0, prepend=np.zeros((1, *points[0].shape), np.int32))
    # By LZMA, which NumPy reads, too: two thirds of what its own compression takes.
    with zipfile.ZipFile(path, "w", zipfile.ZIP_LZMA) as archive:
        for name, array in {"points": moves, **planes}.items():
            with archive.open(f"{name}.npy", "w") as file:
                np.lib.format.write_array(file, np.ascontiguousarray(array), allow_pickle=False)


def _runs(label: Bytes) -> NDArray[np.uint16]:
    begins = np.ones(label.shape, np.bool_)
    begins[:, 1:] = label[:, 1:] != label[:, :-1]
    at = np.flatnonzero(begins)
    return np.array([label.ravel()[at], np.diff(at, append=label.size)], np.uint16)


class Take:
    """One performer in one take. Threads may share it. Its films are open while it is one of MOST_OPEN that were read last."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._films: list[Film] = []
        self._archive = zipfile.ZipFile(folder / "truth.npz")
        self._points = np.cumsum(self._known("points"), axis=0)
        self.truth: list[dict[str, Any]] = json.loads((folder / "take.json").read_text())["frames"]
        self._lock = threading.Lock()
        self._last = -1

    @property
    def length(self) -> int:
        """How many frames it has."""
        return len(self.truth)

    def frame(self, number: int) -> TakeFrame:
        """Raises IndexError beyond `length`. Where frames are asked for in their order, the next one is read meanwhile."""
        if not 0 <= number < self.length:
            raise IndexError(f"the take has no frame {number}: it has {self.length}")
        frame = self._held(number)
        goes_on, self._last = number == self._last + 1, number
        if goes_on and number + 1 < self.length:
            _ahead.submit(self._held, number + 1)
        return frame

    def outline(self, number: int) -> TakeFrame:
        """A frame with its labels alone, for which no film is read. Raises IndexError beyond `length`."""
        if not 0 <= number < self.length:
            raise IndexError(f"the take has no frame {number}: it has {self.length}")
        with self._lock:
            found: TakeFrame | None = _recent.get((self, number)) or _outlines.get((self, number))
            if found is None:
                found = TakeFrame(NO_COLOUR, self._label(number), *[NO_PLANE] * 6)
                with _keeping:
                    _outlines[self, number] = found
            return found

    def _held(self, number: int) -> TakeFrame:
        with self._lock:
            found: TakeFrame | None = _recent.get((self, number))
            if found is None:
                found = self._read(number)
                with _keeping:
                    _recent[self, number] = found
            return found

    def depth(self, number: int) -> NDArray[np.float32]:
        """Decimetres from the lens, (HEIGHT, WIDTH) divided by DEPTH_PART."""
        with self._lock:
            codes = np.cumsum(self._known(f"depth-{number}"), axis=0, dtype=np.uint8)
        return _DEPTHS[codes]

    def _known(self, name: str) -> NDArray[Any]:
        """An array of the archive. NumPy has Python parse how each begins, which Python 3.11 does not bear on several threads."""
        held = io.BytesIO(self._archive.read(f"{name}.npy"))
        with _parsing:
            return np.asarray(np.load(held))

    def points(self, number: int) -> NDArray[np.float64]:
        """The face's points in the scene (478, 3), decimetres."""
        return np.asarray(self._points[number] * POINT_STEP, np.float64)

    def _opened(self) -> list[Film]:
        """Its films, opened where they are not; those of the take that was read longest ago are closed."""
        if not self._films:
            self._films = [Film(self._folder / f"{name}.webm") for name in ("colour", "light", "shine")]
        with _opening:
            _open[self] = None
            _open.move_to_end(self)
            spare = list(_open)[: max(0, len(_open) - MOST_OPEN)]
        for one in spare:
            # One that is just being read stays, and is closed by whoever reads next.
            if one._lock.acquire(blocking=False):
                try:
                    with _opening:
                        _open.pop(one, None)
                    for film in one._films:
                        film.close()
                    one._films = []
                finally:
                    one._lock.release()
        return self._films

    def _read(self, number: int) -> TakeFrame:
        colour, light, shine = self._opened()
        lights = _reading.submit(lambda: _planes(light.frame(number)))
        shines = _reading.submit(lambda: _planes(shine.frame(number)))
        rgb = np.asarray(colour.frame(number).to_ndarray(format="rgb24", src_colorspace="ITU709"), np.uint8)
        return TakeFrame(rgb, self._label(number), *lights.result(), *shines.result())

    def _label(self, number: int) -> Bytes:
        labels, counts = self._known(f"label-{number}")
        return np.repeat(labels.astype(np.uint8), counts).reshape(HEIGHT, WIDTH)


_recent: FIFOCache[tuple[Take, int], TakeFrame] = FIFOCache(RECENT)
_outlines: FIFOCache[tuple[Take, int], TakeFrame] = FIFOCache(RECENT)
_keeping, _parsing, _opening, _taking = (threading.Lock() for _ in range(4))
MOST_OPEN = 2
"""Takes whose films are open in a process: each has three, and each of those a decoder."""
_open: OrderedDict[Take, None] = OrderedDict()
THREADS = os.cpu_count() or 1
_reading, _ahead = (ThreadPoolExecutor(THREADS, thread_name_prefix=name) for name in ("reading", "ahead"))
POOLS = _reading, _ahead
"""What reads takes, each with so many threads."""


def take(who: str, name: str) -> Take:
    """A performer's take; FileNotFoundError where there is none. Who asks at once with others gets the same one."""
    with _taking:
        return _take(who, name)


@cache
def _take(who: str, name: str) -> Take:
    folder = ASSETS / who / name
    if not (folder / "take.json").is_file():
        raise FileNotFoundError(folder)
    return Take(folder)


@cache
def place(name: str) -> tuple[Bytes, Bytes]:
    """A place behind the performers: sRGB bytes (n, n, 3), red first, and its labels (n, n)."""
    colours = cv2.imread(str(ASSETS / "places" / f"{name}.jpg"), cv2.IMREAD_COLOR_RGB)
    labels = cv2.imread(str(ASSETS / "places" / f"{name}.png"), cv2.IMREAD_GRAYSCALE)
    assert colours is not None
    assert labels is not None
    return np.asarray(colours, np.uint8), np.asarray(labels, np.uint8)
