"""Sequences as files: a zip of numbered pictures and a word about their rate (docs/formats.md); made of numbered files, of any
zip or of an animated picture."""

from __future__ import annotations

import hashlib
import io
import itertools
import json
import math
import re
import struct
import zipfile
import zlib
from collections.abc import Sequence as Row
from dataclasses import dataclass, replace
from pathlib import PurePosixPath
from typing import Any

import av
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageSequence

from sunglaze.core.errors import BadFile
from sunglaze.core.material.files import MOST_DECODED, MOST_SIDE, check_whole, encode_webp, picture_size
from sunglaze.core.material.gif import SIGNATURES, read_gif
from sunglaze.core.material.sequence import MOST_FRAMES, Sequence

FORMAT = "sun-glaze/sequence"
VERSION = 1
FACTS = "sequence.json"
USUAL_RATE = 12.0
SLOWEST = 0.01
"""Pictures a second: one in a hundred seconds."""
MOST_BYTES = 64 * 1024 * 1024
"""Of a sequence's pictures together, as files."""
MOST_FILES = 2 * MOST_FRAMES
"""In a zip, with those that are left out."""
MOST_ROW_PIXELS, MOST_ANIMATED_PIXELS = 200_000_000, 50_000_000
"""Of all pictures together: of numbered ones, which are kept as they are, and of animated ones, which are written anew."""
MOST_NAMED = 6
SHORTEST_MS, SLOW_MS = 20, 100
"""Animated pictures that ask for less than the first are shown at the second, as browsers do (common practice, no source)."""
_ENDINGS = {"PNG": "png", "JPEG": "jpg", "WEBP": "webp", "GIF": "gif", "BMP": "bmp", "TIFF": "tif", "AVIF": "avif"}
BROKEN_ARCHIVE = (zipfile.BadZipFile, zlib.error, EOFError, OSError, NotImplementedError, RuntimeError, ValueError, KeyError)
"""What the standard library raises of an archive that is damaged or locked."""
Bytes = NDArray[np.uint8]


@dataclass(frozen=True)
class Reel:
    """A sequence that was read, and what is to be said of it: `notes` in plain words."""

    sequence: Sequence
    size: tuple[int, int]
    notes: tuple[str, ...] = ()


def made(files: Row[bytes], rate: float, holds: Row[int] = ()) -> Sequence:
    """A sequence under a key of what it holds. Raises BadFile where that cannot be played."""
    if not files or len(holds) not in (0, len(files)) or not _playable(rate, holds):
        raise BadFile("a sequence has pictures, a rate of 0.01 to 1000 a second and a time for each picture or for none")
    text = hashlib.sha256(repr((rate, tuple(holds))).encode())
    for one in files:
        text.update(hashlib.sha256(one).digest())
    return Sequence(text.hexdigest(), tuple(files), rate, tuple(holds))


def write_sequence(sequence: Sequence) -> bytes:
    """The sequence as a file. Equal sequences give equal files."""
    room = io.BytesIO()
    with zipfile.ZipFile(room, "w") as archive:
        facts = {"format": FORMAT, "version": VERSION, "rate": sequence.rate, "holds": list(sequence.holds)}
        archive.writestr(zipfile.ZipInfo(FACTS), json.dumps(facts))
        for number, data in enumerate(sequence.files, 1):
            archive.writestr(zipfile.ZipInfo(f"{number:04}.{ending(data)}"), data)
    return room.getvalue()


def ending(data: bytes) -> str:
    """What the name of a picture file ends in, by what it holds."""
    try:
        with Image.open(io.BytesIO(data)) as head:
            return _ENDINGS.get(head.format or "", "bin")
    except (OSError, ValueError):
        return "bin"


def read_zip(data: bytes) -> Reel:
    """A zip of numbered pictures, ours or anybody's, in whatever folders they lie. Raises BadFile."""
    try:
        archive = zipfile.ZipFile(io.BytesIO(data))
        entries = [one for one in archive.infolist() if not one.is_dir() and not _is_litter(one.filename)]
        if len(entries) > MOST_FILES:
            raise BadFile(f"the zip holds {len(entries):,} files; {MOST_FILES:,} are the most")
        if any(one.flag_bits & 1 for one in entries):
            raise BadFile("the zip is locked by a password; pack it again without one")
        if sum(one.file_size for one in entries) > MOST_BYTES:
            raise BadFile(f"the zip unpacks to more than {MOST_BYTES // 1024**2} MB; make its pictures fewer or smaller")
        facts = next((archive.read(one) for one in entries if one.filename == FACTS), None)
        inside = [(one.filename, archive.read(one)) for one in entries if one.filename != FACTS]
    except BROKEN_ARCHIVE as error:
        raise BadFile(f"the zip is damaged ({error})") from None
    rate, holds = _facts(facts) if facts is not None else (USUAL_RATE, ())
    found = read_numbered(inside, rate)
    if holds and len(holds) != found.sequence.frames:
        raise BadFile(f"{FACTS} has times for {len(holds)} pictures; there are {found.sequence.frames}")
    return replace(found, sequence=made(found.sequence.files, rate, holds)) if holds else found


def _is_litter(name: str) -> bool:
    """What systems put beside files."""
    return name.startswith("__MACOSX/") or PurePosixPath(name).name.startswith((".", "Thumbs.db"))


def _playable(rate: float, holds: Row[int]) -> bool:
    return SLOWEST <= rate <= 1000 and all(0 < one <= 100_000 for one in holds)


def _facts(data: bytes) -> tuple[float, tuple[int, ...]]:
    try:
        plain = json.loads(data)
        if plain["format"] != FORMAT or plain["version"] > VERSION:
            raise BadFile(f"{FACTS} is of another format or a newer version")
        rate, holds = float(plain["rate"]), tuple(int(one) for one in plain.get("holds") or ())
    except (ValueError, KeyError, TypeError):
        raise BadFile(f"{FACTS} cannot be read; it gives 'format', 'version', 'rate' and 'holds'") from None
    if not _playable(rate, holds):
        raise BadFile(f"{FACTS} gives a rate or times that cannot be played")
    return rate, holds


def read_numbered(files: Row[tuple[str, bytes]], rate: float = USUAL_RATE) -> Reel:
    """Pictures in the order of the last number in their names. Gaps, files that are no pictures and those of another size or
    another name are named in the notes. Raises BadFile where nothing is left, or too much."""
    names = [(*_numbered(name), name, data) for name, data in files]
    stems = [stem for stem, number, _, _ in names if number is not None]
    if not stems:
        raise BadFile("none of its files has a number in its name, so that their order is not known")
    stem = max(sorted(set(stems)), key=stems.count)
    odd = [name for other, number, name, _ in names if number is None or other != stem]
    row = sorted(((number, name, data) for other, number, name, data in names if number is not None and other == stem))
    _check_count(len(row))
    seen: list[tuple[int, str, bytes]] = []
    size: tuple[int, int] | None = None
    for number, name, data in row:
        try:
            one = picture_size(data)
        except BadFile:
            odd.append(name)
            continue
        size = size or one
        if one == size:
            seen.append((number, name, data))
        else:
            odd.append(f"{name} ({one[0]} by {one[1]})")
    if size is not None:
        _check(len(seen), *size, MOST_ROW_PIXELS)
    kept: list[tuple[int, bytes]] = []
    for number, name, data in seen:
        try:
            check_whole(data)
        except BadFile:
            odd.append(name)
        else:
            kept.append((number, data))
    if not kept or size is None:
        raise BadFile("none of its files can be read as a picture")
    if sum(len(data) for _, data in kept) > MOST_BYTES:
        raise BadFile(f"its pictures weigh more than {MOST_BYTES // 1024**2} MB together; make them fewer or smaller")
    have = {number for number, _ in kept}
    gaps = [str(n) for n in range(min(have), min(max(have), min(have) + 10 * MOST_FRAMES)) if n not in have]
    notes = [f"{_some(gaps)} {'is' if len(gaps) == 1 else 'are'} missing"] if gaps else []
    notes += [f"left out: {_some(odd)}"] if odd else []
    return Reel(made([data for _, data in kept], rate), size, tuple(notes))


def _numbered(name: str) -> tuple[str, int | None]:
    """What a name is but for its last number, and that number."""
    stem = PurePosixPath(name.replace("\\", "/")).stem
    found = re.search(r"(\d{1,9})(?!.*\d)", stem)
    return (stem, None) if found is None else (stem[: found.start()] + stem[found.end() :], int(found[1]))


def _some(names: Row[str]) -> str:
    more = f" and {len(names) - MOST_NAMED} more" if len(names) > MOST_NAMED else ""
    return ", ".join(names[:MOST_NAMED]) + more


def _check_count(count: int) -> None:
    if count > MOST_FRAMES:
        raise BadFile(f"it has {count} pictures; {MOST_FRAMES} are the most. Take a part of it, or fewer a second")


def _check(count: int, width: int, height: int, most: int) -> None:
    _check_count(count)
    if max(width, height) > MOST_SIDE or 4 * width * height > MOST_DECODED:
        raise BadFile(f"its pictures have {width} by {height} pixels, which is too many; make them smaller")
    if count * width * height > most:
        together = f"its {count} pictures of {width} by {height} are {count * width * height / 1e6:,.0f} million pixels together"
        raise BadFile(f"{together}; {most // 1_000_000} million are the most. Make them smaller or fewer, or bring it as a clip")


def is_animated(data: bytes) -> bool:
    """Whether this is a picture that moves by itself: GIF, APNG or WebP of several pictures."""
    try:
        if data[:6] in SIGNATURES:
            return len(read_gif(data).parts) > 1
        with Image.open(io.BytesIO(data), formats=("PNG", "WEBP")) as image:
            return getattr(image, "n_frames", 1) > 1
    except Exception:
        return False


def read_animated(data: bytes) -> Reel:
    """An animated GIF, APNG or WebP with its own times, whole pictures as they are seen one after the other. Raises BadFile."""
    try:
        size, shown, times = _gif(data) if data[:6] in SIGNATURES else _png_or_webp(data)
    except BadFile:
        raise
    except Exception:
        # Decoders meet damage in every way there is.
        raise BadFile("this cannot be read as an animated picture; is the file whole?") from None
    step = math.gcd(*times)
    holds = tuple(one // step for one in times)
    return Reel(made(shown, 1000 / step, holds if set(holds) != {1} else ()), size)


_Moving = tuple[tuple[int, int], list[bytes], list[int]]
"""Width and height, the pictures as files, and the milliseconds of each."""


def _gif(data: bytes) -> _Moving:
    gif = read_gif(data)
    _check(len(gif.parts), *gif.size, MOST_ANIMATED_PIXELS)
    return gif.size, [_written(one) for one in gif.shown()], [_milliseconds(one) for one in gif.milliseconds]


def _png_or_webp(data: bytes) -> _Moving:
    with Image.open(io.BytesIO(data), formats=("PNG", "WEBP")) as image:
        _check(getattr(image, "n_frames", 1), *image.size, MOST_ANIMATED_PIXELS)
        if image.format == "PNG":
            return image.size, *_apng(data)
        shown, times = [], []
        for frame in ImageSequence.Iterator(image):
            shown.append(_written(np.asarray(frame.convert("RGBA"))))
            times.append(_milliseconds(frame.info.get("duration", 0)))
        return image.size, shown, times


def _apng(data: bytes) -> tuple[list[bytes], list[int]]:
    """The pictures of an APNG by FFmpeg, and their milliseconds by its chunks: Pillow keeps what a first picture with
    the disposal "previous" leaves, which the specification has cleared."""
    times, at = [], 8
    while at + 8 <= len(data):
        length, name = struct.unpack(">I4s", data[at : at + 8])
        if name == b"fcTL":
            over, under = struct.unpack(">HH", data[at + 28 : at + 32])
            times.append(_milliseconds(1000 * over / (under or 100)))
        at += 12 + length
    container: Any = av.open(io.BytesIO(data), format="apng")
    with container:
        # One more than there should be is enough to see that there are too many.
        some = itertools.islice(container.decode(video=0), len(times) + 1)
        shown = [_written(np.asarray(one.to_ndarray(format="rgba"), np.uint8)) for one in some]
    if not shown or len(shown) != len(times):
        raise BadFile(f"the animated picture says that it has {len(times)} pictures, and has {len(shown)}; is the file whole?")
    return shown, times


def _written(pixels: Bytes) -> bytes:
    """A picture of an animated one as a file of its own, in the least time: half a minute became seven seconds."""
    return encode_webp(pixels, None, effort=0)


def _milliseconds(said: Any) -> int:
    whole = round(said) if isinstance(said, int | float) and math.isfinite(said) else 0
    return SLOW_MS if whole < SHORTEST_MS else min(whole, 60_000)


def of_pictures(pictures: Row[Bytes], rate: float, quality: int | None = None) -> Sequence:
    """A sequence of pictures (height, width, 3 or 4), as WebP of a quality, lossless where none is given."""
    return made([encode_webp(one, quality) for one in pictures], rate)
