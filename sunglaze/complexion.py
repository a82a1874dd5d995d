"""How much there is on the cast's skin for a retouch to smooth, beside a photograph: scikit-image's of an astronaut. The cast's
faces are brought to the size of hers. Part of `sunglaze realism`."""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.camera.people import PEOPLE
from sunglaze.core.camera.truth import heads
from sunglaze.core.errors import GlazeError
from sunglaze.core.nodes.colour import LUMA

EYES = ((203.0, 101.0), (246.0, 103.0))
"""The middles of her eyes in the photograph, columns and rows (by sight)."""
PATCHES = ((-0.86, -0.42, 0.20, 0.64), (0.38, 0.82, 0.22, 0.66), (-0.52, 0.48, -0.47, -0.32))
"""Cheeks and forehead: left, right, top and bottom from between the eyes, in distances of the eyes; hers are skin alone there."""
BAND = 1 / 16, 1 / 4
"""Of the sampling rate."""
LEAST = 60
"""Pixels of skin that a patch has to have."""
LOOKED_AT = tuple(range(0, 75, 15))
WIDTH, HEIGHT = 540, 960


@dataclass(frozen=True)
class Energy:
    """Mean square of the band on skin: `levels` of 255, squared, and in parts of the skin's own brightness, squared."""

    levels: float
    share: float


def band(grey: NDArray[np.float32], skin: NDArray[np.bool_]) -> NDArray[np.float32]:
    """What lies within the band in a picture (rows, columns), by two Gaussians that let half the power through at its ends; what
    is no skin counts for nothing."""
    known = skin.astype(np.float32)

    def soft(end: float) -> NDArray[np.float32]:
        deviation = math.sqrt(math.log(2)) / (2 * math.pi * end)
        over, of = (cv2.GaussianBlur(one, (0, 0), deviation) for one in (grey * known, known))
        return np.asarray(over / np.maximum(of, 1e-3), np.float32)

    return soft(BAND[1]) - soft(BAND[0])


def energy(pixels: NDArray[np.uint8], eyes: NDArray[np.float64], skin: NDArray[np.uint8]) -> Energy:
    """Of cheeks and forehead in a picture (rows, columns, 3), red first, with the middles of its eyes (2, 2) and a mask of its
    skin (rows, columns), 255 inside. Raises ValueError where no skin is seen there."""
    scale = float(np.linalg.norm(np.subtract(*EYES)) / np.linalg.norm(eyes[1] - eyes[0]))
    colour, mask = (cv2.resize(one, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA) for one in (pixels, skin))
    inside = cv2.erode((mask > 247).astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    grey = np.asarray(colour.astype(np.float32) @ np.array(LUMA, np.float32), np.float32)
    squares = band(grey, inside) ** 2
    found = []
    for rows, columns in _patches(eyes * scale):
        here = inside[rows, columns]
        if here.sum() >= LEAST:
            light = float(grey[rows, columns][here].mean())
            found.append((float(squares[rows, columns][here].mean()), light))
    if not found:
        raise ValueError("no skin is seen on cheeks and forehead")
    return Energy(float(np.mean([one for one, _ in found])), float(np.mean([one / light**2 for one, light in found])))


def _patches(eyes: NDArray[np.float64], grown: int = 0) -> list[tuple[slice, slice]]:
    """Rows and columns of cheeks and forehead, larger by so many pixels on each side."""
    middle, unit = eyes.mean(axis=0), float(np.linalg.norm(eyes[1] - eyes[0]))

    def span(axis: int, low: float, high: float) -> slice:
        return slice(round(middle[axis] + unit * low) - grown, round(middle[axis] + unit * high) + grown)

    return [(span(1, top, bottom), span(0, left, right)) for left, right, top, bottom in PATCHES]


def photograph() -> Energy:
    """The astronaut's; a little round the patches is skin, too. Raises GlazeError where scikit-image is not installed."""
    try:
        from skimage import data
    except ImportError:
        raise GlazeError(
            "the photograph comes with scikit-image, which is among the tests' packages: ./run test installs it"
        ) from None

    pixels, eyes = np.asarray(data.astronaut(), np.uint8), np.array(EYES)  # type: ignore[no-untyped-call]
    skin = np.zeros(pixels.shape[:2], np.uint8)
    for place in _patches(eyes, 2):
        skin[place] = 255
    return energy(pixels, eyes, skin)


def complexions() -> dict[str, Energy]:
    """By performer, at noon, the mean of some frames of *talks and turns*."""
    found = {}
    for who in PEOPLE:
        camera, seen = StandIn(WIDTH, HEIGHT, Sitting(who, "talk", "noon")), []
        for number in LOOKED_AT:
            skin = camera.regions(number, ["face skin"])["face skin"][..., 0]
            seen.append(energy(np.ascontiguousarray(colours(camera.frame(number), WIDTH)), heads(camera, number)[-1].eyes, skin))
        found[who] = Energy(float(np.mean([one.levels for one in seen])), float(np.mean([one.share for one in seen])))
    return found


def in_words(found: dict[str, Energy], hers: Energy) -> str:
    """As a table in Markdown, in parts of hers."""
    lines = [
        "| skin between 1/16 and 1/4 of the sampling rate, in parts of a photograph's | levels | parts of its brightness |",
        "|---|---|---|",
    ]
    for who, one in found.items():
        lines.append(f"| {PEOPLE[who].role} | {one.levels / hers.levels:.2f} | {one.share / hers.share:.2f} |")
    return "\n".join(lines)
