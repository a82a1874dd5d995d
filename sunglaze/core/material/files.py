"""Read still pictures from bytes, turned by their EXIF, and write PNG. Lossy and palette files are told apart."""

from __future__ import annotations

import contextlib
import io
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageCms, UnidentifiedImageError

from sunglaze.core.errors import BadFile
from sunglaze.core.material.gif import read_gif

MOST_PIXELS = 50_000_000
MOST_DECODED = 200_000_000
"""Bytes that a picture of four channels may take: 50 million pixels of 8 bits, 25 of 16."""
MOST_SIDE = 16384
"""The longest side that GPUs of phones take at most."""
FORMATS = ("PNG", "JPEG", "WEBP", "GIF", "BMP", "TIFF", "AVIF")
"""What is read. By list, since others reach for programs of their own (EPS) or other files."""
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
    with _in_plain_words():
        with _head(data) as head:
            name, mode, alpha, turn = head.format or "", head.mode, "transparency" in head.info, _orientation(head, data)
            _see_whole(head)
        pixels = _decoded(name, data, alpha or mode.endswith("A") or mode.endswith("a"))
        # Both decoders turn TIFFs by themselves.
        if name != "TIFF":
            pixels = _turned(pixels, turn)
    return PictureFile(pixels, 16 if pixels.dtype == np.uint16 else 8, name, _lossy(name, mode, data))


def picture_size(data: bytes) -> tuple[int, int]:
    """Width and height of a picture as it is shown, by what its file says: nothing is decoded. Raises BadFile."""
    with _in_plain_words(), _head(data) as head:
        if head.format == "GIF":
            return read_gif(data).size
        # Of a TIFF Pillow has turned the size already.
        quarters, _ = _TURNS.get(_orientation(head, data) if head.format != "TIFF" else 1, (0, False))
        return head.size if quarters % 2 == 0 else (head.height, head.width)


def check_whole(data: bytes) -> None:
    """Raises BadFile where a picture is cut off or damaged, as far as the quickest way shows that its format has."""
    with _in_plain_words(), _head(data) as head:
        _see_whole(head)


def _see_whole(head: Image.Image) -> None:
    """Raises what Pillow raises of a damaged picture: by a PNG's checksums, a JPEG at an eighth of its size, else by decoding."""
    if head.format == "PNG":
        head.verify()
        return
    if head.format == "JPEG":
        head.draft(None, (1, 1))
    head.load()


@contextlib.contextmanager
def _head(data: bytes) -> Iterator[Image.Image]:
    """What a file says of its picture, whose size is bearable."""
    with Image.open(io.BytesIO(data), formats=FORMATS) as head:
        _check_size(*head.size, 2 if _is_deep(head, data) else 1)
        yield head


@contextlib.contextmanager
def _in_plain_words() -> Iterator[None]:
    """Whatever a decoder raises as BadFile."""
    try:
        yield
    except BadFile:
        raise
    except Image.DecompressionBombError:
        raise BadFile(f"the picture has more than {MOST_PIXELS // 1_000_000} million pixels; make it smaller") from None
    except UnidentifiedImageError:
        raise BadFile(f"this is no picture that is read here ({', '.join(FORMATS)})") from None
    except Exception as error:
        # Decoders meet damage in every way there is.
        raise BadFile(f"this cannot be read as a picture ({_reason(error)}); is the file whole?") from None


def _check_size(width: int, height: int, bytes_a_value: int) -> None:
    if max(width, height) > MOST_SIDE:
        raise BadFile(f"the picture has {width} by {height} pixels; {MOST_SIDE:,} are the most along a side")
    if 4 * width * height * bytes_a_value > MOST_DECODED:
        most = MOST_DECODED // (4_000_000 * bytes_a_value)
        raise BadFile(f"the picture has {width} by {height} pixels of {8 * bytes_a_value} bits; {most} million are the most")


def _is_deep(head: Image.Image, data: bytes) -> bool:
    """Whether a picture has more than 8 bits a channel, from its head."""
    if head.format == "PNG":
        return data[24:25] == b"\x10"
    bits = getattr(head, "tag_v2", {}).get(258, 8)
    return max(bits if isinstance(bits, tuple) else (bits,)) > 8 or head.mode.startswith(("I", "F"))


def _reason(error: Exception) -> str:
    text = str(error).split("<")[0].strip()
    return text or "it is damaged"


def _decoded(name: str, data: bytes, keep_alpha: bool) -> NDArray[Any]:
    """Pixels with red first, not turned. OpenCV keeps 16 bits, which Pillow drops; Pillow knows palettes, and alpha of TIFF."""
    if name == "GIF":
        first = next(read_gif(data).shown())
        return first if keep_alpha or not first[..., 3].all() else first[..., :3]
    flags = cv2.IMREAD_UNCHANGED if keep_alpha else cv2.IMREAD_COLOR | cv2.IMREAD_ANYDEPTH | cv2.IMREAD_IGNORE_ORIENTATION
    raw = cv2.imdecode(np.frombuffer(data, np.uint8), flags)
    if raw is None or raw.dtype not in (np.uint8, np.uint16) or (name == "TIFF" and raw.dtype == np.uint8):
        with Image.open(io.BytesIO(data), formats=FORMATS) as image:
            return np.asarray(image.convert("RGBA" if keep_alpha else "RGB"))
    if raw.ndim == 2:
        return np.repeat(raw[:, :, None], 3, axis=2)
    if raw.shape[2] == 2:
        return np.concatenate([np.repeat(raw[:, :, :1], 3, axis=2), raw[:, :, 1:]], axis=2)
    order = [2, 1, 0] if raw.shape[2] == 3 else [2, 1, 0, 3]
    return np.ascontiguousarray(raw[:, :, order])


_ORIENTATION = 0x0112
_TURNS: dict[int, tuple[int, bool]] = {
    2: (0, True),
    3: (2, False),
    4: (2, True),
    5: (3, True),
    6: (3, False),
    7: (1, True),
    8: (1, False),
}
"""Of EXIF's orientations (CIPA DC-008, 4.6.5.1): quarters to turn to the left, and whether its sides change places then."""


def _orientation(head: Image.Image, data: bytes) -> int:
    """As EXIF has it; as it is, where that is damaged: the picture is not."""
    if head.format == "PNG" and not any(one in data for one in _EXIF_OF_PNG):
        # Pillow decodes all of a PNG to see whether some stands behind its pixels.
        return 1
    try:
        with Image.open(io.BytesIO(data), formats=FORMATS) as again:
            return int(again.getexif().get(_ORIENTATION, 1))
    except Exception:
        return 1


_EXIF_OF_PNG = (b"eXIf", b"Raw profile type exif")
"""Its chunk (PNG, third edition, 11.3.4.5), and what programs wrote before there was one."""


def _turned(pixels: NDArray[Any], orientation: int) -> NDArray[Any]:
    """A picture the right way up."""
    quarters, mirrored = _TURNS.get(orientation, (0, False))
    turned = np.rot90(pixels, quarters)
    return np.ascontiguousarray(turned[:, ::-1] if mirrored else turned)


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


def encode_webp(pixels: Bytes, quality: int | None, effort: int = 2) -> bytes:
    """A WebP of (height, width, 3 or 4), red first: of a quality from 1 to 100 with its alpha kept whole, lossless without
    one (also what is clear keeps its colour). `effort`: 0 to 6, for time."""
    room = io.BytesIO()
    opaque = pixels.shape[2] == 4 and bool((pixels[..., 3] == 255).all())
    image = Image.fromarray(pixels[..., :3] if opaque else pixels)
    image.save(room, "WEBP", lossless=quality is None, quality=quality or 60, method=effort, exact=quality is None)
    return room.getvalue()


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
    """The picture scaled to fill width by height without stretching, its middle kept, the rest cut off. `pixels`: (rows,
    columns) or (rows, columns, channels)."""
    have_height, have_width = pixels.shape[:2]
    if (have_width, have_height) == (width, height):
        return pixels
    scale = max(width / have_width, height / have_height)
    keep_width, keep_height = max(1, round(width / scale)), max(1, round(height / scale))
    left, top = (have_width - keep_width) // 2, (have_height - keep_height) // 2
    cut = pixels[top : top + keep_height, left : left + keep_width]
    method = cv2.INTER_AREA if scale < 1 else cv2.INTER_LINEAR
    return np.asarray(cv2.resize(np.ascontiguousarray(cut), (width, height), interpolation=method))


def eight_bits(pixels: NDArray[Any]) -> NDArray[np.uint8]:
    """Pixels at 8 bits a channel, the nearest code. `pixels`: (rows, columns, channels) of 8 or 16 bits."""
    return pixels if pixels.dtype == np.uint8 else ((pixels.astype(np.uint32) + 128) // 257).astype(np.uint8)


def material_pixels(data: bytes) -> NDArray[np.uint8]:
    """A picture file as layers read it: (height, width, 4), sRGB, whatever channels and profile the file has. Raises BadFile."""
    return in_srgb(with_alpha(eight_bits(read_picture(data).pixels)), data)


def in_srgb(pixels: NDArray[np.uint8], data: bytes) -> NDArray[np.uint8]:
    """Pixels (height, width, 4) of a file, from the colour space that its embedded profile names to sRGB (relative colorimetric);
    as they are where it has none that can be used. Lookup pictures are never converted: their numbers are what counts."""
    try:
        with Image.open(io.BytesIO(data), formats=FORMATS) as head:
            profile = head.info.get("icc_profile")
        if not profile:
            return pixels
        given = ImageCms.getOpenProfile(io.BytesIO(profile))
        if (given.profile.xcolor_space or "").strip() != "RGB":
            return pixels
        intent = ImageCms.Intent.RELATIVE_COLORIMETRIC
        colours = Image.fromarray(np.ascontiguousarray(pixels[..., :3]))
        made = ImageCms.profileToProfile(colours, given, ImageCms.createProfile("sRGB"), intent, outputMode="RGB")
    except (OSError, ValueError, ImageCms.PyCMSError):
        return pixels
    return np.dstack([np.asarray(made, np.uint8), pixels[..., 3]])


def with_alpha(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(height, width, 4) of bytes, opaque where there were three channels."""
    if pixels.shape[2] == 4:
        return pixels
    return np.concatenate([pixels, np.full((*pixels.shape[:2], 1), 255, np.uint8)], axis=2)


def compact(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """A picture without its alpha where that is full everywhere. `pixels`: (rows, columns, 4) of bytes."""
    return pixels[..., :3] if pixels.shape[2] == 4 and (pixels[..., 3] == 255).all() else pixels
