"""Three graded lookups of the festival, made from colour rules, as an artist's picture editor would have graded neutral ones."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.colour.lut import cube, neutral
from sunglaze.core.colour.lut_picture import write_lut_picture

Grade = Callable[[NDArray[np.float64]], NDArray[np.float64]]
LUMA = np.array([0.2126, 0.7152, 0.0722])  # ITU-R BT.709


def _saturate(rgb: NDArray[np.float64], amount: float) -> NDArray[np.float64]:
    luma = (rgb @ LUMA)[..., None]
    return luma + (rgb - luma) * amount


def _split(rgb: NDArray[np.float64], shadows: tuple[float, ...], lights: tuple[float, ...]) -> NDArray[np.float64]:
    """Tint shadows and lights, each by an offset that fades towards the other end."""
    luma = np.clip(rgb @ LUMA, 0, 1)[..., None]
    return rgb + np.array(shadows) * (1 - luma) ** 2 + np.array(lights) * luma**2


def warm_evening(rgb: NDArray[np.float64]) -> NDArray[np.float64]:
    """Low sun: amber lights, plum shadows, a gentle S."""
    curved = rgb + 0.12 * np.sin(2 * np.pi * (rgb - 0.5)) / (2 * np.pi) * 2
    warm = np.clip(curved, 0, 1) ** np.array([0.86, 0.97, 1.16])
    return _saturate(_split(warm, (0.035, -0.005, 0.03), (0.05, 0.015, -0.09)), 1.08)


def cold_fog(rgb: NDArray[np.float64]) -> NDArray[np.float64]:
    """Fog off the sea: low contrast, lifted blue blacks, colour drained."""
    flat = 0.13 + 0.76 * rgb ** np.array([1.12, 1.0, 0.92])
    return _split(_saturate(flat, 0.52), (-0.03, 0.01, 0.05), (-0.05, 0.0, 0.03))


def faded_print(rgb: NDArray[np.float64]) -> NDArray[np.float64]:
    """A poster left in the window: milky blacks, creamy whites, greens gone towards yellow."""
    matrix = np.array([[0.90, 0.10, 0.0], [0.04, 0.92, 0.04], [0.02, 0.12, 0.80]])
    faded = (rgb @ matrix.T) ** 0.94 * 0.84 + np.array([0.10, 0.085, 0.075])
    return _split(_saturate(faded, 0.82), (0.02, -0.005, 0.02), (0.04, 0.025, -0.055))


def graded_picture(grade: Grade, size: int, layout: str, bits: int = 16) -> bytes:
    """A neutral lookup picture after the grade, as PNG."""
    table = np.clip(grade(neutral(size).table.astype(np.float64)), 0, 1)
    return write_lut_picture(cube(table), layout, bits)  # type: ignore[arg-type]


def lookups() -> dict[str, bytes]:
    """The three graded lookup pictures by file name."""
    return {
        "amber-shore.png": graded_picture(warm_evening, 33, "strip"),
        "sea-fog.png": graded_picture(cold_fog, 25, "grid"),
        "window-poster.png": graded_picture(faded_print, 36, "hald", bits=8),
    }
