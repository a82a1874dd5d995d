"""What publishing makes beside the program: an icon, a clip in two forms, its poster; and the package with them."""

from __future__ import annotations

import io
import tempfile
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.cameras import Camera
from sunglaze.core.effect.compiling import Compiled, compile_effect
from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.listing import Listing
from sunglaze.core.effect.literals import Material
from sunglaze.core.material.files import encode_jpeg
from sunglaze.core.material.filming import Film
from sunglaze.core.moment.moment import RATE
from sunglaze.core.package.archive import write_package
from sunglaze.core.package.icons import icon_png, source_of
from sunglaze.core.prints.clips import frames

CLIP = (288, 512)
"""Columns and rows of clips."""
POSTER_QUALITY = 80
_ICON, _CLIP = 0.05, 0.97
"""How far publishing is with its icon, and with its clip."""
Bytes = NDArray[np.uint8]
Told = Callable[[float], None]


def publish_package(
    effect: Effect,
    material: Material,
    listing: Listing,
    own: Camera | None = None,
    picture: Bytes | None = None,
    told: Told = lambda _: None,
) -> bytes:
    """The package of an effect with its listing; the same from the same, to the byte. `own`: what it is looked at on, where that
    is footage; `picture`: that of the icon (rows, columns, 3 or 4), where the listing names one; `told` now and then which part
    of it is done, 0 to 1, and raises what shall end it. Raises BadEffect."""
    compiled = compile_effect(effect, material)
    shown = {"icon.png": icon_png(effect, compiled, listing.icon, own, picture)}
    told(_ICON)
    if listing.clip is not None:
        shown |= _clip(effect, compiled, listing, own, told)
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


def _clip(effect: Effect, compiled: Compiled, listing: Listing, own: Camera | None, told: Told) -> dict[str, bytes]:
    assert listing.clip is not None
    first = int(listing.clip.begin * RATE + 1e-9)
    numbers = range(first, first + max(1, round(listing.clip.seconds * RATE)))
    source = source_of(effect, listing.clip.seen, CLIP, own)
    poster = io.BytesIO()
    with tempfile.TemporaryDirectory() as folder:
        mp4, webm = Path(folder) / "clip.mp4", Path(folder) / "clip.webm"
        with _Filming(mp4) as one, _Filming(webm) as other:
            for done, picture in enumerate(frames(compiled.program, compiled.inputs, source, iter(numbers))):
                told(_ICON + (_CLIP - _ICON) * done / len(numbers))
                kept = np.ascontiguousarray(picture)
                if not poster.tell():
                    poster.write(encode_jpeg(kept, POSTER_QUALITY))
                for adding in (one.add(kept), other.add(kept)):
                    adding.result()
        return {"clip.mp4": mp4.read_bytes(), "clip.webm": webm.read_bytes(), "poster.jpg": poster.getvalue()}
