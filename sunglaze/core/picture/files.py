"""Read still pictures from bytes, turned by their EXIF, and write PNG. Lossy and palette files are told apart."""

from __future__ import annotations

import io
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from sunglaze.core.errors import BadFile

MOST_PIXELS = 50_000_000
Bytes = NDArray[np.uint8]


@dataclass(frozen=True, eq=False)
class PictureFile:
    """`pixels`: (height, width, 3 or 4), red first, uint8 or uint16, straight alpha. `lossy`: how it was stored, or ''."""

    pixels: NDArray[Any]
    bits: int
    format: str
    lossy: str


def read_picture(data: bytes) -> PictureFile:
    """A PNG, JPEG, WebP, GIF, BMP or TIFF picture. Raises BadFile where it cannot be read."""
    try:
        with Image.open(io.BytesIO(data)) as head:
            name, mode, size, alpha = head.format or "", head.mode, head.size, "transparency" in head.info
            if size[0] * size[1] > MOST_PIXELS:
                raise BadFile(f"the picture has {size[0]} by {size[1]} pixels; {MOST_PIXELS // 1_000_000} million are the most")
            head.load()
    except BadFile:
        raise
    except Image.DecompressionBombError:
        raise BadFile(f"the picture has more than {MOST_PIXELS // 1_000_000} million pixels") from None
    except (OSError, ValueError, SyntaxError, EOFError, OverflowError) as error:
        raise BadFile(f"this cannot be read as a picture ({_reason(error)}); is the file whole?") from None
    pixels = _decoded(data, keep_alpha=alpha or mode.endswith("A") or mode.endswith("a"))
    return PictureFile(pixels, 16 if pixels.dtype == np.uint16 else 8, name, _lossy(name, mode, data))


def _reason(error: Exception) -> str:
    text = str(error).split("<")[0].strip()
    return text or type(error).__name__


def _decoded(data: bytes, keep_alpha: bool) -> NDArray[Any]:
    """Pixels with red first. OpenCV keeps 16 bits, which Pillow drops; Pillow knows what OpenCV does not (GIF, palettes)."""
    flags = cv2.IMREAD_UNCHANGED if keep_alpha else cv2.IMREAD_COLOR | cv2.IMREAD_ANYDEPTH
    raw = cv2.imdecode(np.frombuffer(data, np.uint8), flags)
    if raw is None or raw.dtype not in (np.uint8, np.uint16):
        with Image.open(io.BytesIO(data)) as image:
            return np.asarray(image.convert("RGBA" if keep_alpha else "RGB"))
    if raw.ndim == 2:
        return np.repeat(raw[:, :, None], 3, axis=2)
    if raw.shape[2] == 2:
        return np.concatenate([np.repeat(raw[:, :, :1], 3, axis=2), raw[:, :, 1:]], axis=2)
    order = [2, 1, 0] if raw.shape[2] == 3 else [2, 1, 0, 3]
    # IMREAD_UNCHANGED leaves EXIF alone; files with alpha carry none in practice.
    return np.ascontiguousarray(raw[:, :, order])


def _lossy(name: str, mode: str, data: bytes) -> str:
    if name in ("JPEG", "MPO"):
        return "JPEG"
    if name == "GIF" or mode == "P":
        return "a palette"
    if name == "WEBP" and b"VP8 " in data[:64]:
        return "lossy WebP"
    return ""


def encode_png(pixels: NDArray[Any], effort: int = 6) -> bytes:
    """A PNG of (height, width, 1, 3 or 4) with red first, 8 or 16 bits."""
    order = {1: [0], 3: [2, 1, 0], 4: [2, 1, 0, 3]}[pixels.shape[2]]
    ok, data = cv2.imencode(".png", pixels[:, :, order], [cv2.IMWRITE_PNG_COMPRESSION, effort])
    assert ok
    return bytes(data)


def encode_jpeg(pixels: Bytes, quality: int = 90) -> bytes:
    """A JPEG with full chroma of (height, width, 3), red first."""
    return encode_jpeg_bgra(pixels[:, :, ::-1], quality)


def encode_jpeg_bgra(pixels: Bytes, quality: int, full_chroma: bool = True) -> bytes:
    """A JPEG of (height, width, 3 or 4), blue first, as kernels write it; `full_chroma` False halves it, for speed."""
    options = [
        cv2.IMWRITE_JPEG_QUALITY,
        quality,
        cv2.IMWRITE_JPEG_SAMPLING_FACTOR,
        cv2.IMWRITE_JPEG_SAMPLING_FACTOR_444 if full_chroma else cv2.IMWRITE_JPEG_SAMPLING_FACTOR_420,
    ]
    ok, data = cv2.imencode(".jpg", pixels, options)
    assert ok
    return bytes(data)


def cover(pixels: NDArray[Any], width: int, height: int) -> NDArray[Any]:
    """The picture scaled to fill width by height without stretching, its middle kept, the rest cut off."""
    have_height, have_width = pixels.shape[:2]
    if (have_width, have_height) == (width, height):
        return pixels
    scale = max(width / have_width, height / have_height)
    keep_width, keep_height = max(1, round(width / scale)), max(1, round(height / scale))
    left, top = (have_width - keep_width) // 2, (have_height - keep_height) // 2
    cut = pixels[top : top + keep_height, left : left + keep_width]
    method = cv2.INTER_AREA if scale < 1 else cv2.INTER_LINEAR
    return np.asarray(cv2.resize(np.ascontiguousarray(cut), (width, height), interpolation=method))


def eight_bits(file: PictureFile) -> NDArray[np.uint8]:
    """A picture's pixels at 8 bits a channel."""
    return file.pixels.astype(np.uint8) if file.bits == 8 else (file.pixels // 257).astype(np.uint8)
