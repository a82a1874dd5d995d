"""What publishing makes beside the program: an icon, a clip in two forms, its poster; and the package with them."""

from __future__ import annotations

import io
import tempfile
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from fractions import Fraction
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.cameras import Camera
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.effect.compiling import Compiled, compile_effect
from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.listing import IconAt, Listing, Seen
from sunglaze.core.effect.literals import Material
from sunglaze.core.engine.playback import play_to
from sunglaze.core.material.files import encode_jpeg, encode_png
from sunglaze.core.material.filming import Film
from sunglaze.core.moment.moment import RATE, Source
from sunglaze.core.moment.rehearsal import Rehearsed
from sunglaze.core.package.archive import ICON, write_package
from sunglaze.core.prints.clips import frames
from sunglaze.core.targets.memory import parts_of

FRAME, CLIP = (540, 960), (288, 512)
"""Columns and rows that icons are cut from, and of clips."""
POSTER_QUALITY = 80
Bytes = NDArray[np.uint8]
Patience = Callable[[], None]


def publish_package(
    effect: Effect, material: Material, listing: Listing, own: Camera | None = None, patience: Patience = lambda: None
) -> bytes:
    """The package of an effect with its listing; the same from the same, to the byte. `own`: what it is looked at on, where that
    is footage; `patience` is called now and then and raises what shall end it. Raises BadEffect."""
    compiled = compile_effect(effect, material)
    shown = {"icon.png": icon_png(effect, compiled, material, listing.icon, own)}
    patience()
    if listing.clip is not None:
        shown |= _clip(effect, compiled, listing, own, patience)
    return write_package(effect, material, own, listing, shown)


class _Filming:
    """A film on a thread of its own: what one encoder leaves in a thread's floating-point state changes what another makes."""

    def __init__(self, path: Path) -> None:
        self._thread = ThreadPoolExecutor(1, thread_name_prefix="film")
        self._film = self._thread.submit(Film, path, CLIP, Fraction(RATE), True).result()

    def add(self, picture: Bytes) -> Future[None]:
        """One more picture (rows, columns, 3); it is not to be changed before this is done."""
        return self._thread.submit(self._film.add, picture)

    def __enter__(self) -> _Filming:
        self._thread.submit(self._film.__enter__).result()
        return self

    def __exit__(self, *error: Any) -> None:
        with self._thread:
            self._thread.submit(self._film.__exit__, *error).result()


def _source(effect: Effect, seen: Seen, size: tuple[int, int], own: Camera | None) -> Source:
    camera = own.sized(*size) if seen.own and own is not None else StandIn(*size, Sitting(seen.who, seen.script, seen.light))
    return Rehearsed(camera, effect.rehearsal) if effect.rehearsal is not None else camera


def icon_png(effect: Effect, compiled: Compiled, material: Material, at: IconAt, own: Camera | None = None) -> bytes:
    """A square PNG of ICON pixels, as a listing says."""
    picture = material.pictures.get(at.picture) if at.picture else None
    if picture is None:
        source = _source(effect, at.seen, FRAME, own)
        drawn = play_to(compiled.program.final, compiled.inputs, source, int(at.seconds * RATE + 1e-9))
        picture = parts_of(drawn, FRAME[0])[:, :, 2::-1]
    return encode_png(cv2.resize(_square(np.asarray(picture)[:, :, :3], at), (ICON, ICON), interpolation=cv2.INTER_AREA), 9)


def _square(picture: Bytes, at: IconAt) -> Bytes:
    """The part of a picture (rows, columns, 3) that an icon shows; it never reaches outside."""
    rows, columns = picture.shape[:2]
    side = max(1, min(rows, columns, round(at.side * columns)))
    left = min(max(0, round(at.u * columns - side / 2)), columns - side)
    top = min(max(0, round(at.v * rows - side / 2)), rows - side)
    return np.ascontiguousarray(picture[top : top + side, left : left + side])


def _clip(effect: Effect, compiled: Compiled, listing: Listing, own: Camera | None, patience: Patience) -> dict[str, bytes]:
    assert listing.clip is not None
    first = int(listing.clip.begin * RATE + 1e-9)
    numbers = range(first, first + max(1, round(listing.clip.seconds * RATE)))
    source = _source(effect, listing.clip.seen, CLIP, own)
    poster = io.BytesIO()
    with tempfile.TemporaryDirectory() as folder:
        mp4, webm = Path(folder) / "clip.mp4", Path(folder) / "clip.webm"
        with _Filming(mp4) as one, _Filming(webm) as other:
            for picture in frames(compiled.program, compiled.inputs, source, iter(numbers)):
                patience()
                kept = np.ascontiguousarray(picture)
                if not poster.tell():
                    poster.write(encode_jpeg(kept, POSTER_QUALITY))
                for adding in (one.add(kept), other.add(kept)):
                    adding.result()
        return {"clip.mp4": mp4.read_bytes(), "clip.webm": webm.read_bytes(), "poster.jpg": poster.getvalue()}
