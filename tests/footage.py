"""Clips for tests, written by PyAV."""

from __future__ import annotations

import io
import struct
from collections.abc import Sequence
from fractions import Fraction
from typing import Any

import av
import numpy as np

TICKS = 12_000


def clip(
    pictures: Sequence[np.ndarray], seconds: Sequence[float] | None = None, codec: str = "libx264", form: str = "mp4"
) -> bytes:
    """A clip of pictures (height, width, 3), the n-th beginning at `seconds[n]`, by default 30 a second."""
    room = io.BytesIO()
    with av.open(room, "w", format=form) as container:
        stream: Any = container.add_stream(codec, rate=30, options={"crf": "4"})
        stream.height, stream.width = pictures[0].shape[:2]
        stream.pix_fmt = "yuv420p"
        stream.codec_context.time_base = Fraction(1, TICKS)
        for n, pixels in enumerate(pictures):
            frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(pixels), format="rgb24")
            frame = frame.reformat(format="yuv420p", dst_colorspace="ITU601")
            frame.time_base = Fraction(1, TICKS)
            frame.pts = round((seconds[n] if seconds else n / 30) * TICKS)
            container.mux(stream.encode(frame))
        container.mux(stream.encode())
    return room.getvalue()


def turned(mp4: bytes) -> bytes:
    """The same clip marked to be shown turned by a quarter to the right, as phones do: the matrix of the track header (ISO/IEC
    14496-12, 8.3.2: a, b, u, c, d, v, x, y, w in 16.16 and 2.30 fixed point)."""
    at = mp4.index(b"tkhd") + 4 + 4 + 20 + 8 + 8
    one = 1 << 16
    assert struct.unpack(">9i", mp4[at : at + 36])[0] == one
    return mp4[:at] + struct.pack(">9i", 0, one, 0, -one, 0, 0, 0, 0, 1 << 30) + mp4[at + 36 :]
