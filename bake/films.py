"""Frames that were traced, kept one by one so that a bake goes on where it stopped; then the films that are made of them."""

from __future__ import annotations

import json
import time
import zipfile
from dataclasses import replace
from fractions import Fraction
from functools import lru_cache
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
from numpy.typing import NDArray

from bake.eyes import Eyes
from bake.figure import Figure, Stood
from bake.landmarks import Landmarks
from bake.motion import TAKES, pose
from bake.people import CAST
from bake.picture import Picture
from bake.shade import C_COLOUR, C_DEPTH, C_GLEAM, C_KEY, C_RIM, C_SHEEN, C_SHINE, C_SKY
from bake.stage import EDGE, KEY, OPEN, RIM, SHOWN, SKY
from sunglaze.core.camera.cast import LENGTHS
from sunglaze.core.camera.takes import COVERS, DEPTH_PART, FULL, HEIGHT, POINT_STEP, RATE, WIDTH, depth_code, write_truth
from sunglaze.core.colour.spaces import encoded

Bytes = NDArray[np.uint8]
LATE, STRAYS = 3, 0.25
"""Frames, as they are played, by which the ends of long hair are late, and how far they stay behind at most, decimetres."""
CHANNELS = {"key": C_KEY, "sky": C_SKY, "rim": C_RIM, "shine": C_SHINE, "sheen": C_SHEEN, "gleam": C_GLEAM}


@lru_cache(maxsize=1)
def figure(who: str) -> Figure:
    """A performer's figure; the last one is kept."""
    return Figure(next(one for one in CAST if one.key == who))


def kept(folder: Path, who: str, take: str, frame: int) -> Path:
    """Where a traced frame is kept."""
    return folder / who / take / f"{frame:03}.npz"


class Tracer:
    """Traces frames of a take in their order. Light changes slowly: it is cast at every LIT frames, every second one while hands
    move, and mixed between; but on a face that is not far away, where lids or jaw move fast."""

    def __init__(self, who: str, take: str) -> None:
        self.figure, self.take = figure(who), take
        self.step = 2 if take == "hands" else LIT
        self._lit: dict[int, tuple[Stood, NDArray[np.float32]]] = {}

    def frame(self, number: int) -> Picture:
        """A frame's picture."""
        before = number // self.step * self.step
        first = self._light(before)
        if number == before:
            return self.figure.look(first[0])
        last, stood = self._light(before + self.step), self._stood(number)
        share = (number - before) / self.step
        if not all(len(lights) == len(stood.stage.carries) for _, lights in (first, last)):
            self.figure.light(stood)
            return self.figure.look(stood)
        stood.stage.carries[:, LIGHTS] = first[1] * (1 - share) + last[1] * share
        if self.take != "near" and self._moves(stood, first, last) > MOST_FACE:
            self.figure.light(stood, face=True)
        return self.figure.look(stood)

    def _stood(self, number: int) -> Stood:
        performer = self.figure.performer
        now, late = (pose(performer, self.take, number - by) for by in (0, LATE * TAKES[self.take] / LENGTHS[self.take]))
        # Hair hangs: a head that walks off does not leave it where it was.
        x, y, z = (here + max(-STRAYS, min(STRAYS, was - here)) for here, was in zip(now.shift, late.shift, strict=True))
        return self.figure.stood(now, replace(late, shift=(x, y, z)))

    def _light(self, number: int) -> tuple[Stood, NDArray[np.float32]]:
        if number not in self._lit:
            stood = self._stood(number)
            self.figure.light(stood)
            self._lit = {n: lit for n, lit in self._lit.items() if n >= number - self.step}
            self._lit[number] = stood, stood.stage.carries[:, LIGHTS].copy()
        return self._lit[number]

    def _moves(self, stood: Stood, first: tuple[Stood, Any], last: tuple[Stood, Any]) -> float:
        """How far parts of the face are from where they are in the frames lit before and after."""
        mine, around = stood.pose.units, [other.pose.units for other, _ in (first, last)]
        names = {*mine, *around[0], *around[1]}
        return max((abs(mine.get(name, 0.0) - other.get(name, 0.0)) for other in around for name in names), default=0.0)


LIT = 4
MOST_FACE = 0.3
"""How far a part of the face may be from where it is lit, of its whole way."""
LIGHTS = [KEY, KEY + 1, KEY + 2, SKY, RIM, SHOWN, OPEN, EDGE]


def trace_some(folder: Path, who: str, take: str, frames: list[int]) -> tuple[int, float]:
    """Trace frames of a take and keep each, whole or not at all; how many, and the seconds it took."""
    began = time.monotonic()
    tracer = Tracer(who, take)
    for frame in frames:
        picture = tracer.frame(frame)
        path = kept(folder, who, take, frame)
        path.parent.mkdir(parents=True, exist_ok=True)
        half = path.with_suffix(".part")
        _save(half, _planes(picture))
        half.rename(path)
    return len(frames), time.monotonic() - began


def _save(path: Path, arrays: dict[str, NDArray[Any]]) -> None:
    """As numpy.savez_compressed, by zlib's quickest level: the usual one takes a sixth of a frame's time."""
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        for name, array in arrays.items():
            with archive.open(f"{name}.npy", "w") as file:
                np.lib.format.write_array(file, np.ascontiguousarray(array), allow_pickle=False)


def _planes(picture: Picture) -> dict[str, Bytes]:
    found = _spread(picture.found, picture.coverage)
    planes = {"colour": np.rint(encoded(np.clip(found[..., C_COLOUR : C_COLOUR + 3], 0, 1)) * 255).astype(np.uint8)}
    for name, channel in CHANNELS.items():
        planes[name] = np.rint(255 * np.sqrt(np.clip(found[..., channel] / FULL[name], 0, 1))).astype(np.uint8)
    known = np.where(
        (picture.label == 0) & (picture.coverage > 0), cv2.dilate(picture.label, np.ones((3, 3), np.uint8)), picture.label
    )
    parts = np.rint(picture.coverage * COVERS).astype(np.uint8)
    planes["label"] = np.where(parts > 0, known * COVERS + parts - 1, 0).astype(np.uint8)
    planes["depth"] = depth_code(found[..., C_DEPTH])
    return planes


def _spread(found: NDArray[np.float32], coverage: NDArray[np.float32]) -> NDArray[np.float32]:
    """Planes with everything outside as at the nearest place inside."""
    outside = np.asarray(coverage < 0.1, np.uint8)
    _, labels = cv2.distanceTransformWithLabels(outside, cv2.DIST_L2, 3, labelType=cv2.DIST_LABEL_PIXEL)
    inside = np.flatnonzero(outside.ravel() == 0)
    nearest = np.zeros(labels.max() + 1, np.int64)
    nearest[labels.ravel()[inside]] = inside
    spread = found.reshape(-1, found.shape[2])[nearest[labels.ravel()]].reshape(found.shape)
    soft = cv2.blur(spread, (31, 31))
    far = cv2.dilate(np.asarray(outside == 0, np.uint8), np.ones((9, 9), np.uint8)) == 0
    return np.asarray(np.where(far[..., None], soft, spread), np.float32)


class _Film:
    """A film that is being written."""

    def __init__(self, path: Path, quality: str) -> None:
        self.container = av.open(str(path), "w", format="webm")
        options = {"g": "12", "b": "0", "crf": quality, "deadline": "good", "cpu-used": "4", "row-mt": "1"}
        self.stream: Any = self.container.add_stream("libvpx-vp9", rate=RATE, options=options)
        self.stream.width, self.stream.height, self.stream.pix_fmt = WIDTH, HEIGHT, "yuv420p"
        self.stream.time_base = Fraction(1, RATE)

    def add(self, frame: av.VideoFrame) -> None:
        self.container.mux(self.stream.encode(frame))

    def close(self) -> None:
        self.container.mux(self.stream.encode())
        self.container.close()


def _smaller(plane: Bytes, by: int) -> Bytes:
    return np.asarray(cv2.resize(plane, (WIDTH // by, HEIGHT // by), interpolation=cv2.INTER_AREA), np.uint8)


def _three(first: Bytes, second: Bytes, third: Bytes) -> av.VideoFrame:
    """A frame of one plane whole and two at half the size."""
    joined = np.concatenate([first.ravel(), _smaller(second, 2).ravel(), _smaller(third, 2).ravel()]).reshape(
        HEIGHT * 3 // 2, WIDTH
    )
    return av.VideoFrame.from_ndarray(joined, format="yuv420p")


QUALITY = {"colour": "27", "light": "38", "shine": "28"}
"""Of VP9, the less the finer. Shine shows the pores: where it is coarse, skin is wax."""


def make(folder: Path, out: Path, who: str, take: str) -> None:
    """Films and truth of a take from its traced frames."""
    out.mkdir(parents=True, exist_ok=True)
    films = {name: _Film(out / f"{name}.webm", quality) for name, quality in QUALITY.items()}
    performer = next(one for one in CAST if one.key == who)
    labels, depths, points, truth = [], [], [], []
    body = figure(who).body
    landmarks, eyes = Landmarks(body), Eyes(body)
    for frame in range(TAKES[take]):
        with np.load(kept(folder, who, take, frame)) as read:
            planes = {name: read[name] for name in read.files}
        colour = av.VideoFrame.from_ndarray(planes["colour"], format="rgb24")
        films["colour"].add(colour.reformat(format="yuv420p", dst_colorspace="ITU709"))
        films["light"].add(_three(planes["key"], planes["sky"], planes["rim"]))
        films["shine"].add(_three(planes["shine"], planes["sheen"], planes["gleam"]))
        labels.append(planes["label"])
        depths.append(_smaller(planes["depth"], DEPTH_PART))
        now = pose(performer, take, frame)
        points.append(np.rint(landmarks.at(body.skin(now), eyes.parts(now)) / POINT_STEP).astype(np.int32))
        truth.append(
            {
                "turn": np.round(now.turn, 6).ravel().tolist(),
                "shift": np.round(body.head_matrix(now)[1], 5).tolist(),
                "gaze": np.round(now.gaze, 3).tolist(),
                "mouth": round(min(1.0, now.units.get("jawOpen", 0.0)), 4),
                "blink": round(now.units.get("eyeBlinkLeft", 0.0), 4),
                "smile": round(min(1.0, now.units.get("mouthSmileLeft", 0.0)), 4),
            }
        )
    write_truth(out / "truth.npz", labels, depths, points)
    for film in films.values():
        film.close()
    (out / "take.json").write_text(json.dumps({"frames": truth}, separators=(",", ":")) + "\n")
