"""Made-up smooth grades and pictures for tests and benchmarks, by seed."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.colour.lut import Lut, cube, neutral


def random_cube(seed: int, size: int) -> Lut:
    """A cube of white noise: the hardest case for interpolation."""
    return cube(np.random.default_rng(seed).random((size, size, size, 3)))


def smooth_grade(rng: np.random.Generator, size: int) -> Lut:
    """What an artist might do: a matrix, a gamma a channel, an S curve, an offset, saturation; clipped to 0 to 1."""
    colours = neutral(size).table.astype(np.float64) @ (np.eye(3) + rng.normal(0, 0.08, (3, 3))).T
    colours = np.clip(colours, 0, None) ** np.exp(rng.normal(0, 0.35, 3))
    share = rng.uniform(0, 0.9)
    colours = colours * (1 - share) + share * colours * colours * (3 - 2 * colours)
    colours = colours * rng.uniform(0.8, 1.15) + rng.normal(0, 0.05, 3)
    luma = (colours @ [0.2126, 0.7152, 0.0722])[..., None]
    return cube(np.clip(luma + (colours - luma) * rng.uniform(0.2, 1.5), 0, 1))


def through_jpeg(pixels: NDArray[np.uint8], quality: int, full_chroma: bool) -> NDArray[np.uint8]:
    """A picture (red first) after a JPEG of a quality."""
    sampling = cv2.IMWRITE_JPEG_SAMPLING_FACTOR_444 if full_chroma else cv2.IMWRITE_JPEG_SAMPLING_FACTOR_420
    options = [cv2.IMWRITE_JPEG_QUALITY, quality, cv2.IMWRITE_JPEG_SAMPLING_FACTOR, sampling]
    _, data = cv2.imencode(".jpg", pixels[:, :, ::-1], options)
    return np.ascontiguousarray(cv2.imdecode(data, cv2.IMREAD_COLOR)[:, :, ::-1])


def sample_picture(height: int, width: int, seed: int = 0) -> NDArray[np.uint8]:
    """A picture with smooth parts, edges and every strong colour; (height, width, 3)."""
    rng = np.random.default_rng(seed)
    coarse = rng.random((9, 7, 3)).astype(np.float32)
    picture = np.clip(cv2.resize(coarse, (width, height), interpolation=cv2.INTER_CUBIC), 0, 1)
    picture[: height // 8] = rng.integers(0, 2, (1, width, 3))
    return np.rint(picture * 255).astype(np.uint8)
