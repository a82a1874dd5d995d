"""Cells of proof sheets: a package before somebody, and what it does to skin, eyes and edges there."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from threading import Lock

import numpy as np
from cachetools import LRUCache, cached
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

from sunglaze.core.camera.cameras import Camera, Own, colours, screen_size
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.camera.people import PEOPLE
from sunglaze.core.camera.tracks import read_tracks
from sunglaze.core.effect.compiling import Compiled, compile_effect
from sunglaze.core.engine.playback import Playback, played_to
from sunglaze.core.errors import BadFile
from sunglaze.core.material.files import encode_jpeg
from sunglaze.core.material.footage import Footage
from sunglaze.core.moment.moment import RATE, Moment, Reads, Source
from sunglaze.core.moment.rehearsal import Rehearsal, Rehearsed
from sunglaze.core.package.archive import read_package
from sunglaze.core.proof.sheet import Place, instant
from sunglaze.core.review.flashing import Flashing, flashing
from sunglaze.core.review.measures import bordered, clipped, contrast, covered, moved_skin_shift
from sunglaze.core.targets.memory import parts_of

SHORT, SMALL = 270, 90
"""Pixels of the short side of a print, and of the pictures that are looked at for flashing."""
QUALITY = 90
RECENT = 4
"""So many packages stay compiled."""
NONE = Flashing(0, 0.0, 0.0)
"""Of an effect that has no time of its own."""
SKIN, EYES = "face skin", "eyes"
Bytes = NDArray[np.uint8]


class Figures(BaseModel):
    """What an effect does in one cell, against the bare camera. None: no skin or no eyes are seen there.

    `shift`: of the skin's mean colour, CIEDE2000; `lightness`: by how much its L* goes up. `clipped`: share of the picture that
    was driven to black or to a full channel. `contrast`: standard deviation of L*, in the bare camera `bare_contrast`. `eyes`:
    share of them that is covered. `border`: edges along which a line shows. `flashes`: the most in one second of any place, over
    `flash_share` of ten degrees of the field where there are more than three (WCAG 2.3.1)."""

    model_config = ConfigDict(frozen=True)
    shift: float | None
    lightness: float | None
    clipped: float
    contrast: float
    bare_contrast: float
    eyes: float | None
    border: tuple[str, ...]
    flashes: int
    flash_share: float
    flashes_harm: bool


@dataclass(frozen=True)
class Footing:
    """A photo or clip of one's own as a row, as bytes; `tracks`: what was tracked in it, as an archive of tracks."""

    data: bytes
    tracks: bytes | None = None


@dataclass(frozen=True)
class Cell:
    """A cell as it was made. `print`: a JPEG, SHORT pixels along its short side."""

    place: Place
    print: bytes
    figures: Figures


def key_of(data: bytes) -> str:
    """By what a package or footage is known to whoever works at it."""
    return hashlib.sha256(data).hexdigest()[:24]


class _Ready:
    """A package that was read and compiled once."""

    def __init__(self, package: bytes) -> None:
        effect, material = read_package(package)
        self.rehearsal: Rehearsal | None = effect.rehearsal
        self.compiled: Compiled = compile_effect(effect, material)


@cached(LRUCache(RECENT), key=key_of, lock=Lock())
def _ready(package: bytes) -> _Ready:
    return _Ready(package)


@cached(LRUCache(RECENT), key=key_of, lock=Lock())
def _footage(data: bytes) -> Footage:
    return Footage(data)


def made(package: bytes, place: Place, footing: Footing | None = None) -> Cell:
    """A cell. `footing`: what stands at `own:NAME`. Raises BadFile, BadEffect."""
    ready = _ready(package)
    script, frame = instant(place.moment).script, int(instant(place.moment).seconds * RATE + 1e-9)
    camera = _camera(place, script, screen_size(place.screen, SHORT), footing)
    source: Source = Rehearsed(camera, ready.rehearsal) if ready.rehearsal else camera
    program, inputs = ready.compiled.program.final, ready.compiled.inputs
    playback = played_to(program, inputs, source, frame)
    moment = source.moment(frame, Reads(True, tuple(dict.fromkeys((*program.reads.regions, SKIN, EYES))), True))

    def shown(other: Moment) -> Bytes:
        return parts_of(playback.at(program, inputs, source, other), camera.width)[:, :, 2::-1].copy()

    after, before = shown(moment), np.ascontiguousarray(colours(camera.frame(frame), camera.width))
    shift = moved_skin_shift(before, after, moment, moment.regions[SKIN][..., 0], shown) if SKIN in moment.regions else None
    eyes = covered(after, moment, moment.regions[EYES][..., 0] > 127, shown) if EYES in moment.regions else None
    flashes, red = NONE, NONE
    if not program.is_still:
        flashes, red = flashing(_second(ready, camera.sized(*screen_size(place.screen, SMALL)), frame), RATE)
    worst = max(flashes, red, key=lambda one: (one.share, one.flashes))
    figures = Figures(
        shift=shift[0] if shift else None,
        lightness=shift[1] if shift else None,
        clipped=clipped(before, after),
        contrast=contrast(after),
        bare_contrast=contrast(before),
        eyes=eyes,
        border=bordered(before, after),
        flashes=worst.flashes,
        flash_share=worst.share,
        flashes_harm=not (flashes.passes and red.passes),
    )
    return Cell(place, encode_jpeg(after, QUALITY), figures)


def _camera(place: Place, script: str, size: tuple[int, int], footing: Footing | None) -> Camera:
    if place.who in PEOPLE:
        return StandIn(*size, Sitting(place.who, script, place.light))
    if footing is None:
        raise BadFile(f"there is no photo or clip for '{place.who}'")
    key = key_of(footing.data)
    tracks = read_tracks(footing.tracks) if footing.tracks else None
    return Own(_footage(footing.data), *size, tracks, (key, len(tracks or ())))


def _second(ready: _Ready, camera: Camera, frame: int) -> list[Bytes]:
    """The second that ends at a frame, or the first one, small: (rows, columns, 3) each."""
    source: Source = Rehearsed(camera, ready.rehearsal) if ready.rehearsal else camera
    program, inputs = ready.compiled.program.final, ready.compiled.inputs
    first = max(0, frame - RATE + 1)
    playback: Playback = played_to(program, inputs, source, first)
    pictures = []
    for number in range(first, first + RATE):
        drawn = playback.at(program, inputs, source, source.moment(number, program.reads))
        pictures.append(parts_of(drawn, camera.width)[:, :, 2::-1].copy())
    return pictures
