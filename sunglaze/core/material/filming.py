"""Clips written: MP4 (H.264), WebM (VP9), animated GIF, or a folder of lossless PNG files. Nothing half-written is left
behind."""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from types import TracebackType
from typing import Any, Protocol, cast

import av
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from sunglaze.core.errors import BadFile
from sunglaze.core.material.files import encode_png

Pixels = NDArray[np.uint8]
ENDINGS = {".mp4": "libx264", ".webm": "libvpx-vp9", ".gif": "gif"}
"""Of files that hold a clip, and what encodes them; anything else is a folder."""
_QUICK = {
    "libx264": {"crf": "18", "preset": "veryfast", "tune": "zerolatency"},
    "libvpx-vp9": {"crf": "24", "b": "0", "deadline": "realtime", "cpu-used": "7", "row-mt": "1"},
}
SMALL = {
    # One quantiser for all: what a rate control makes hangs on floating-point state that others leave behind.
    "libx264": {"qp": "30", "preset": "faster"},
    "libvpx-vp9": {"crf": "38", "b": "0", "deadline": "realtime", "cpu-used": "6"},
}
"""For clips that travel with a package."""
MPEG_RANGE = BT709 = 1
"""As FFmpeg numbers them."""
GIF_FASTEST = 50
"""Pictures a second: what comes faster is shown at a tenth of a second by most programs (GIF counts hundredths)."""


class _Encoder(Protocol):
    def add(self, pixels: Pixels) -> None:
        """One more picture (height, width, 3), red first."""

    def end(self) -> None:
        """All is there."""


class _Video:
    def __init__(self, path: Path, codec: str, size: tuple[int, int], fps: Fraction, small: bool) -> None:
        # Without the writer's version, a date or a random number: equal pictures give equal files.
        self._room: Any = av.open(str(path), "w", container_options={"fflags": "+bitexact"})
        self._stream = stream = cast(Any, self._room.add_stream(codec, rate=fps, options=(SMALL if small else _QUICK)[codec]))
        # Chroma is halved, so sides are even.
        stream.width, stream.height = (side - side % 2 for side in size)
        stream.pix_fmt = "yuv420p"
        # Several threads share the bits out as they happen to come.
        stream.codec_context.thread_count = 1 if small else os.cpu_count() or 1
        stream.codec_context.color_range, stream.codec_context.colorspace = MPEG_RANGE, BT709
        self._count = 0

    def add(self, pixels: Pixels) -> None:
        """Encode one more picture (height, width, 3), red first; an odd last row or column is left out."""
        width, height = self._stream.width, self._stream.height
        frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(pixels[:height, :width]), "rgb24")
        frame = frame.reformat(format="yuv420p", dst_colorspace="ITU709", dst_color_range="MPEG")
        frame.pts = self._count
        self._count += 1
        self._room.mux(self._stream.encode(frame))

    def end(self) -> None:
        """Encode what is still held back and close the file."""
        self._room.mux(self._stream.encode(None))
        self._room.close()


class _Gif:
    """Every picture has the 255 colours that suit it best, without dither, so that what stands still stays small."""

    def __init__(self, path: Path, fps: Fraction) -> None:
        self._path, self._fps = path, fps
        self._pictures: list[Image.Image] = []

    def add(self, pixels: Pixels) -> None:
        """One more picture (height, width, 3), by 255 colours of its own."""
        self._pictures.append(Image.fromarray(pixels).quantize(255, method=Image.Quantize.FASTOCTREE, dither=Image.Dither.NONE))

    def end(self) -> None:
        """Write the file; times are whole hundredths of a second, spread so that the whole lasts as long as it should."""
        times = [round(100 * (n + 1) / self._fps) - round(100 * n / self._fps) for n in range(len(self._pictures))]
        first, *rest = self._pictures
        hundredths = [10 * max(1, time) for time in times]
        first.save(self._path, format="GIF", save_all=True, append_images=rest, duration=hundredths, loop=0)


class _Folder:
    def __init__(self, path: Path) -> None:
        path.mkdir(parents=True)
        self._path, self._count = path, 0

    def add(self, pixels: Pixels) -> None:
        """Write one more picture (height, width, 3) as a numbered PNG."""
        self._count += 1
        (self._path / f"{self._count:05}.png").write_bytes(encode_png(np.ascontiguousarray(pixels), 1))

    def end(self) -> None:
        """Nothing: every picture is written when it comes."""
        pass


class Film:
    """A clip that is being written beside its place, and put there when it ends well: `with Film(...) as film: film.add(...)`."""

    def __init__(self, out: Path, size: tuple[int, int], fps: Fraction, small: bool = False) -> None:
        """`size`: columns and rows; `small`: for few bytes, and the same from the same. Raises BadFile where the
        place is taken by a folder that holds something."""
        self._out, ending = out, out.suffix.lower()
        if ending not in ENDINGS and ending:
            raise BadFile(f"{out}: a clip is written as {', '.join(ENDINGS)}, or, with no ending, as a folder of PNG files")
        if not ending and out.exists() and (not out.is_dir() or any(out.iterdir())):
            raise BadFile(f"{out} holds files already; choose a new folder")
        if ending == ".gif" and fps > GIF_FASTEST:
            raise BadFile(f"{out}: a GIF shows up to {GIF_FASTEST} pictures a second; choose --fps {GIF_FASTEST} or fewer")
        self._beside = out.with_name(f".{out.stem}.{os.getpid()}.part{ending}")
        self._clear()
        self._encoder: _Encoder
        if not ending:
            self._encoder = _Folder(self._beside)
        elif ending == ".gif":
            self._encoder = _Gif(self._beside, fps)
        else:
            self._encoder = _Video(self._beside, ENDINGS[ending], size, fps, small)

    def add(self, pixels: Pixels) -> None:
        """One more picture (height, width, 3), red first."""
        self._encoder.add(pixels)

    def _clear(self) -> None:
        if self._beside.is_dir():
            shutil.rmtree(self._beside)
        else:
            self._beside.unlink(missing_ok=True)

    def __enter__(self) -> Film:
        return self

    def __exit__(self, kind: type[BaseException] | None, _: BaseException | None, __: TracebackType | None) -> None:
        try:
            if kind is None:
                self._encoder.end()
                if self._out.is_dir():
                    self._out.rmdir()
                self._beside.replace(self._out)
        finally:
            self._clear()


def shown_at(fps: Fraction, rate: int, first: int, count: int) -> Iterator[int]:
    """Frames of a clock that `count` pictures of a clip show, from the clock's frame `first`: each the last that has begun."""
    for n in range(count):
        yield first + int(Fraction(n) / fps * rate)
