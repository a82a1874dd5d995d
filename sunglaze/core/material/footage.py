"""The artist's own material: a still picture or a clip, as pictures with the seconds at which each of them begins."""

from __future__ import annotations

import bisect
import io
import math
import threading
from typing import Any

import av
import numpy as np
from av.video.reformatter import Colorspace

from sunglaze.core.errors import BadFile
from sunglaze.core.material.files import MOST_PIXELS, Bytes, eight_bits, read_picture
from sunglaze.core.material.matroska import damaged_from

MOST_SECONDS = 120.0
LAST_SECONDS = 1 / 30
"""How long the last picture of a clip is shown, of which a file says nothing."""
_HD_ROWS = 720
NEAR = 24
"""So many pictures ahead are reached by decoding on, which is quicker than beginning at the whole picture before."""
_SPACES = {"bt709": Colorspace.ITU709, "smpte170m": Colorspace.ITU601, "bt470bg": Colorspace.ITU601}


class Footage:
    """Pictures with the seconds from the first one at which each begins. `seconds`: how long it all is, 0 for a still.

    Files are read as they are asked for; threads may share it.
    """

    def __init__(self, data: bytes) -> None:
        """Raises BadFile where it is neither a picture nor a clip."""
        self._lock = threading.Lock()
        self._file = len(data)
        self.damaged: set[int] = set()
        self._clip: _Clip | None = None
        self._still: Bytes | None = None
        try:
            self._still = eight_bits(read_picture(data).pixels)[:, :, :3]
            self.format = "picture"
        except BadFile as no_picture:
            try:
                self._clip = _Clip(data)
            except (av.FFmpegError, StopIteration, IndexError, ValueError, OverflowError):
                raise BadFile(f"{no_picture}; nor is it a clip that can be read (MP4, MOV, WebM, MKV, AVI, MPEG, Ogg)") from None
            self.format = self._clip.format
        self.times = self._clip.times if self._clip else [0.0]
        self.seconds = self._clip.seconds if self._clip else 0.0
        self.height, self.width = self.picture(0).shape[:2]

    def at(self, seconds: float) -> int:
        """The number of the picture that is shown then; a clip begins anew behind its end."""
        if not self.seconds:
            return 0
        return max(0, bisect.bisect_right(self.times, seconds % self.seconds + 1e-6) - 1)

    def picture(self, number: int) -> Bytes:
        """A picture (height, width, 3), red first, turned as its file says; the last good one where it cannot be decoded, which
        `damaged` notes. IndexError where there is none of this number."""
        if self._still is not None:
            return self._still
        assert self._clip is not None
        with self._lock:
            try:
                return self._clip.picture(number)
            except Undecoded:
                self.damaged.add(number)
                return self._clip.last_good()

    @property
    def weight(self) -> int:
        """Bytes of memory that it takes: its file, and a picture or two."""
        return int(self._file + 2 * 3 * self.width * self.height)

    @property
    def words(self) -> str:
        """What is wrong with it as far as it was played, if anything."""
        said = []
        if self._clip and self._clip.lost_from is not None:
            said += [f"the clip's file is damaged behind {self._clip.lost_from:.1f} s, where pictures are missing"]
        if self.damaged:
            count, first = len(self.damaged), self.times[min(self.damaged)]
            pictures = "one picture" if count == 1 else f"{count} pictures"
            said += [f"{pictures} of the clip from {first:.1f} s on cannot be read"]
        return f"{', and '.join(said)}; the last good one is shown in their place" if said else ""


_CODECS = frozenset(
    (
        *("h264", "hevc", "vp8", "vp9", "av1", "libdav1d", "libaom-av1", "libvpx", "libvpx-vp9", "mpeg4", "mpeg1video"),
        *("mpeg2video", "mjpeg", "theora", "prores", "dnxhd", "rawvideo", "ffv1", "huffyuv", "ffvhuff", "qtrle", "h263"),
        *("msmpeg4v3", "wmv2", "dvvideo"),
    )
)
_ALLOWED = {
    "format_whitelist": "mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,avi,mpeg,mpegts,mpegvideo,ogg,yuv4mpegpipe,h264,hevc,ivf,obu,m4v",
    "protocol_whitelist": "",
}
"""What a clip may be: containers that hold pictures, and nothing that points elsewhere: descriptions of streams and play lists
make the library open connections and other files."""


class Undecoded(Exception):
    """A picture of a clip that is not in what its file decodes to."""


class _Clip:
    """A film decoded by the number of its pictures. Going on by one is quick; elsewhere it decodes from the whole one before."""

    def __init__(self, data: bytes) -> None:
        container: Any = av.open(io.BytesIO(data), options=_ALLOWED)
        stream: Any = container.streams.video[0]
        # A codec that FFmpeg does not know has no context.
        codec = stream.codec_context.name if stream.codec_context is not None else "something unknown"
        if codec not in _CODECS:
            raise BadFile(f"the clip is coded as {codec}, which is not read here; export it as H.264 or VP9")
        self._container, self._stream = container, stream
        self._stream.thread_type = "AUTO"
        self.format = self._stream.codec_context.name
        if self._stream.width * self._stream.height > MOST_PIXELS:
            raise BadFile(f"the clip has {self._stream.width} by {self._stream.height} pixels, too many to play")
        shown: list[Any] = [p for p in container.demux(stream) if p.pts is not None and not p.is_discard]
        self._marks = sorted({packet.pts for packet in shown})
        if not self._marks:
            raise IndexError("no pictures")
        base = float(stream.time_base)
        self.times = [(mark - self._marks[0]) * base for mark in self._marks]
        last = max((packet.pts + (packet.duration or 0)) for packet in shown)
        self.seconds = max((last - self._marks[0]) * base, self.times[-1] + LAST_SECONDS / 4)
        self.lost_from = damaged_from(data)
        if self.lost_from is not None:
            self.seconds = max(self.seconds, (container.duration or 0) / av.time_base)
        if self.seconds > MOST_SECONDS:
            raise BadFile(f"the clip is {self.seconds:.0f} s long; {MOST_SECONDS:.0f} s are the most, so cut it first")
        self._frames: Any = None
        self._ahead: Any = None
        self._next = -1
        self._recent: tuple[int, Bytes] | None = None
        self._blank = np.zeros((stream.height, stream.width, 3), np.uint8)

    def last_good(self) -> Bytes:
        """The picture that was decoded last; black where none was."""
        return self._recent[1] if self._recent else self._blank

    def picture(self, number: int) -> Bytes:
        """The picture of this number, upright: (height, width, 3) of bytes. Near ones are decoded on from the last, others are
        sought. Raises Undecoded."""
        if self._recent and self._recent[0] == number:
            return self._recent[1]
        if self._frames is None or not self._next <= number < self._next + NEAR:
            try:
                self._container.seek(self._marks[number], stream=self._stream, backward=True)
            except av.FFmpegError:
                raise Undecoded(f"picture {number} of the clip cannot be reached") from None
            self._frames, self._ahead = self._container.decode(self._stream), None
        self._next = number + 1
        frame = self._decoded(number)
        self._recent = (number, self._upright(frame))
        return self._recent[1]

    def _decoded(self, number: int) -> Any:
        """The frame of a picture, going on over damage. Raises Undecoded where there is none; a later one that came is held."""
        mark, following = self._marks[number], self._marks[number + 1] if number + 1 < len(self._marks) else math.inf
        frame, self._ahead = self._ahead, None
        failures = 0
        while frame is None or frame.pts is None or frame.pts < mark:
            try:
                frame = next(self._frames)
            except (StopIteration, av.EOFError):
                raise Undecoded(f"the clip has no picture {number}") from None
            except av.FFmpegError:
                # Decoding goes on with what follows the damage.
                self._frames, frame = self._container.decode(self._stream), None
                failures += 1
                if failures > len(self._marks):
                    raise Undecoded(f"picture {number} of the clip cannot be decoded") from None
        if frame.is_corrupt or frame.pts >= following:
            self._ahead = None if frame.is_corrupt else frame
            raise Undecoded(f"picture {number} of the clip cannot be decoded")
        return frame

    def _upright(self, frame: Any) -> Bytes:
        """What a file does not say of its colours is as common practice has it: BT.709 from 720 rows on, else BT.601."""
        space = _SPACES.get(str(getattr(frame.colorspace, "name", frame.colorspace)).lower())
        space = space or (Colorspace.ITU709 if min(frame.width, frame.height) >= _HD_ROWS else Colorspace.ITU601)
        pixels = np.asarray(frame.to_ndarray(format="rgb24", src_colorspace=space), np.uint8)
        return np.ascontiguousarray(np.rot90(pixels, round(frame.rotation / 90) % 4))
