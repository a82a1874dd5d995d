"""What pictures weigh in the forms in which they may travel, and what each costs to the eye."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from collections.abc import Sequence as Row
from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.material.files import encode_png, encode_webp, material_pixels, with_alpha
from sunglaze.core.material.reels import made
from sunglaze.core.material.sequence import Sequence

Bytes = NDArray[np.uint8]
Form = Literal["png", "lossless", "webp", "half", "fewer"]
FORMS: tuple[Form, ...] = ("png", "lossless", "webp", "half", "fewer")
FEWER = 2 / 3
"""Of the rate, what is left where there are fewer pictures."""
KILO = 1024
_GREY = 128.0
_WINDOW = 7


@dataclass(frozen=True)
class Weighed:
    """A form: what it weighs in bytes, and how alike it is to what it was made of (SSIM of the worst picture, 1 is the same);
    `worst`: that picture's number."""

    form: Form
    bytes: int
    alike: float
    worst: int


def weigh(pictures: Mapping[int, Bytes], frames: int, quality: int) -> list[Weighed]:
    """All forms of a sequence of so many frames, from some of its pictures by number (height, width, 3 or 4). `quality`: of WebP.
    Raises ValueError where there is no picture."""
    if not pictures:
        raise ValueError("there is nothing to weigh")
    found = []
    for form in FORMS:
        count = frames if form != "fewer" else max(1, round(frames * FEWER))
        files = {number: encoded(one, form, quality) for number, one in pictures.items()}
        mean = sum(map(len, files.values())) / len(files)
        likeness, worst = min((alike(one, material_pixels(files[number])), number) for number, one in pictures.items())
        found.append(Weighed(form, round(mean * count), round(likeness, 4), worst))
    return found


def encoded(picture: Bytes, form: Form, quality: int) -> bytes:
    """One picture (height, width, 3 or 4) in a form."""
    if form == "png":
        return encode_png(picture, 6)
    if form == "lossless":
        return encode_webp(picture, None)
    return encode_webp(picture if form == "webp" else halved(picture), quality)


def halved(picture: Bytes) -> Bytes:
    """A picture (height, width, channels) at half its size."""
    size = max(1, picture.shape[1] // 2), max(1, picture.shape[0] // 2)
    return np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA), np.uint8)


def alike(one: Bytes, other: Bytes) -> float:
    """The structural similarity of two pictures (height, width, 3 or 4) over grey, the second at whatever size; 1 where they are
    the same, or too small to compare."""
    first, second = over_grey(one), over_grey(other)
    if first.shape != second.shape:
        second = np.asarray(cv2.resize(second, first.shape[1::-1], interpolation=cv2.INTER_LINEAR))
    if min(first.shape[:2]) < _WINDOW:
        return 1.0
    return _similarity(first.astype(np.float64), second.astype(np.float64))


def _similarity(one: NDArray[np.float64], other: NDArray[np.float64]) -> float:
    """Structural similarity after Wang, Bovik, Sheikh and Simoncelli (2004), in square windows of equal weight: the mean over
    channels and all windows that lie within. Pictures (height, width, 3), 0 to 255."""
    count, edge = _WINDOW**2, _WINDOW // 2

    def mean(values: NDArray[np.float64]) -> NDArray[np.float64]:
        return np.asarray(cv2.blur(values, (_WINDOW, _WINDOW))[edge:-edge, edge:-edge], np.float64)

    first, second = mean(one), mean(other)
    # Of a sample, as the paper has them.
    spread, shared = (
        (mean(one * one) + mean(other * other) - first * first - second * second) * (count / (count - 1)),
        (mean(one * other) - first * second) * (count / (count - 1)),
    )
    low, high = (0.01 * 255) ** 2, (0.03 * 255) ** 2
    alike = (2 * first * second + low) * (2 * shared + high) / ((first * first + second * second + low) * (spread + high))
    return float(alike.mean())


def over_grey(picture: Bytes) -> NDArray[np.float32]:
    """A picture (height, width, 3 or 4) as it is seen over grey, (height, width, 3)."""
    full = with_alpha(picture).astype(np.float32)
    share = full[..., 3:] / 255
    return np.asarray(full[..., :3] * share + _GREY * (1 - share), np.float32)


def saved(sequence: Sequence, form: Form, quality: int, progress: Callable[[int, int, int], None]) -> Sequence:
    """A sequence in a form; its times stay, but where there are fewer pictures. `progress` is told how many are done, of how
    many, and their bytes. Raises BadFile."""
    numbers = list(range(sequence.frames))
    rate, holds = sequence.rate, sequence.holds
    if form == "fewer":
        count = max(1, round(sequence.frames * FEWER))
        numbers = [min(round(n * sequence.frames / count), sequence.frames - 1) for n in range(count)]
        rate, holds = count / sequence.seconds, ()
    files: list[bytes] = []
    for number in numbers:
        files.append(encoded(sequence.each.frame(number), form, quality))
        progress(len(files), len(numbers), sum(map(len, files)))
    return made(files, rate, holds)


def sampled(sequence: Sequence, count: int) -> dict[int, Bytes]:
    """Some pictures of a sequence by number, evenly spread, (height, width, 4). Raises BadFile."""
    last = sequence.frames - 1
    return {n: sequence.each.frame(n) for n in sorted({round(k * last / max(1, count - 1)) for k in range(count)})}


@dataclass(frozen=True)
class Choice:
    """What a piece may weigh, in bytes, and how alike it then is."""

    bytes: int
    alike: float


def fit(pieces: Row[Row[Choice]], room: int) -> tuple[int, ...] | None:
    """Which choice of each piece makes all fit into `room` bytes at the least loss to the eye (the sum of what is missing
    to being alike): by number, none where nothing fits. Exact to KILO bytes a piece, which are counted full."""
    best: dict[int, tuple[float, tuple[int, ...]]] = {0: (0.0, ())}
    most = room // KILO
    for choices in pieces:
        after: dict[int, tuple[float, tuple[int, ...]]] = {}
        for weight, (loss, taken) in best.items():
            for number, choice in enumerate(choices):
                heavier = weight - (-choice.bytes // KILO)
                found = loss + 1 - choice.alike, (*taken, number)
                if heavier <= most and (heavier not in after or found < after[heavier]):
                    after[heavier] = found
        best = after
    # Of two that look the same the lighter one.
    return min(((loss, weight, taken) for weight, (loss, taken) in best.items()), default=(0.0, 0, None))[2]
