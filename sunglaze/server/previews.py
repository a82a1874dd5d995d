"""Routes of what helps to judge: what nodes of a recipe or mask give of who sits before the camera; a layer on plain colours."""

from __future__ import annotations

import base64
import threading
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Request
from sqlalchemy.orm import Session

from sunglaze.core.camera.cameras import Camera, Shrunk, screen_size
from sunglaze.core.camera.cast import StandIn
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.material.files import Bytes, encode_jpeg, encode_png
from sunglaze.core.material.still import Still
from sunglaze.core.prints.previews import Previews, numbers_of
from sunglaze.core.review.everybody import everybody
from sunglaze.core.review.judging import judge
from sunglaze.core.review.savings import Saving, compared
from sunglaze.server.pool import Pool
from sunglaze.server.requests import body, describes
from sunglaze.server.schemas import ColourReading, NodePreview, PreviewRequest, RecipePreviews, ToneShift, WornBy
from sunglaze.server.shelf_schemas import CompareRequest, SavingShown
from sunglaze.store import files, shelf
from sunglaze.store.files import material_of

routes = APIRouter(prefix="/api", tags=["previews"])
_KEPT = 4
BESIDE = 540
"""Pixels of the shorter side of what is laid side by side."""
_SHORT = 270
"""Cameras are asked for frames of this size, which are then made smaller: so one frame serves tiles of every size."""


@dataclass
class _Known:
    """Previews with the size of their pictures; nodes that keep pictures go on from those that they kept, one at a time."""

    previews: Previews
    size: tuple[int, int]
    busy: threading.Lock = field(default_factory=threading.Lock)


class Recent:
    """The latest previews."""

    def __init__(self) -> None:
        self._kept: list[_Known] = []
        self._lock = threading.Lock()

    def find(self, size: tuple[int, int], fits: Callable[[Previews], bool]) -> _Known | None:
        with self._lock:
            return next((one for one in self._kept if one.size == size and fits(one.previews)), None)

    def keep(self, known: _Known) -> None:
        with self._lock:
            self._kept[:] = [known, *[one for one in self._kept if one is not known]][:_KEPT]


@routes.post("/recipes/preview", openapi_extra=describes(PreviewRequest))
async def preview(request: Request, asked: Annotated[PreviewRequest, body(PreviewRequest)]) -> RecipePreviews:
    """What nodes of a recipe give at a frame of the camera, and all that is wrong with it."""
    pool: Pool = request.app.state.pool
    return await pool.run(request, lambda patience: _preview(request, asked, patience))


def _preview(request: Request, asked: PreviewRequest, patience: Callable[[], None]) -> RecipePreviews:
    wanted = tuple(asked.path), asked.mask, tuple(asked.only), asked.drive
    size = screen_size(asked.screen, asked.short)
    recent: Recent = request.app.state.recent_previews
    with request.app.state.sessions() as session:
        known = recent.find(size, lambda one: one.fits(asked.effect, asked.layer, *wanted))
        if known is None:
            known = _Known(Previews(asked.effect, material_of(session, asked.effect), asked.layer, *wanted), size)
        recent.keep(known)
        camera = _camera(request, session, asked)
    patience()
    previews = known.previews
    source = Shrunk(camera, *size)
    moment = source.moment(asked.frame, previews.program.reads)
    with known.busy:
        previews.step_to(source, asked.frame, asked.effect)
        shown = previews.at(moment, asked.effect, patience)
    tiles = [view.picture for view in shown.values() if view.picture is not None]
    places = iter(range(len(tiles)))
    nodes = {
        identity: NodePreview(
            type=view.kind,
            words=None if view.picture is not None else numbers_of(view),
            tile=None if view.picture is None else next(places),
        )
        for identity, view in shown.items()
    }
    sheet = base64.b64encode(encode_png(np.ascontiguousarray(np.vstack(tiles)), 1)).decode() if tiles else ""
    return RecipePreviews(nodes=nodes, faults=previews.faults, sheet=sheet, width=size[0], height=size[1])


def _camera(request: Request, session: Session, asked: PreviewRequest | CompareRequest, short: int = _SHORT) -> Camera:
    size = screen_size(asked.screen, short)
    if asked.effect.still is None:
        return StandIn(*size, asked.sitting.known())
    own: Camera = request.app.state.own_cameras.get(session, asked.effect.still, size)
    return own


def _address(pixels: Bytes) -> str:
    """A picture (height, width, 3) as a data address."""
    return f"data:image/jpeg;base64,{base64.b64encode(encode_jpeg(np.ascontiguousarray(pixels), 92)).decode()}"


@routes.post("/layers/everybody", openapi_extra=describes(Layer))
async def worn_by_everybody(request: Request, layer: Annotated[Layer, body(Layer)], light: str = "noon") -> list[WornBy]:
    """What a layer alone does to the face of everybody of the cast."""
    pool: Pool = request.app.state.pool
    return await pool.run(request, lambda patience: _worn(request, layer, light, patience))


def _worn(request: Request, layer: Layer, light: str, patience: Callable[[], None]) -> list[WornBy]:
    with request.app.state.sessions() as session:
        material = material_of(session, Effect(name="worn", layers=[layer.model_copy(update={"group": None})]))

    return [
        WornBy(who=one.who, name=one.name, before=_address(one.before), after=_address(one.after), shift=round(one.shift, 2))
        for one in everybody(layer, material, light, patience)
    ]


@routes.post("/assets/{key}/beside", openapi_extra=describes(CompareRequest))
async def saving_beside(request: Request, key: str, asked: Annotated[CompareRequest, body(CompareRequest)]) -> SavingShown:
    """An effect over who sits there, with one picture of a file as it was, and saved in a form."""
    pool: Pool = request.app.state.pool
    return await pool.run(request, lambda patience: _beside(request, key, asked, patience))


def _beside(request: Request, key: str, asked: CompareRequest, patience: Callable[[], None]) -> SavingShown:
    with request.app.state.sessions() as session:
        row = files.asset(session, key)
        shelf.check_weighs(row)
        piece = files.read_sequence(session, key) if "sequence" in row.facts else Still.read(row.data)
        material = material_of(session, asked.effect)
        camera = _camera(request, session, asked, BESIDE)
    saving = Saving(piece, asked.used, asked.form, asked.quality, asked.number)
    was, saved = compared(asked.effect, material, saving, camera, asked.frame, patience)
    return SavingShown(was=_address(was), saved=_address(saved))


@routes.post("/layers/judging", openapi_extra=describes(Layer))
async def judge_layer(request: Request, layer: Annotated[Layer, body(Layer)]) -> ColourReading | None:
    """What a layer does to skin tones, greys and colours; nothing where it is not about colours alone."""
    pool: Pool = request.app.state.pool
    return await pool.run(request, lambda _patience: _judged(request, layer))


def _judged(request: Request, layer: Layer) -> ColourReading | None:
    with request.app.state.sessions() as session:
        material = material_of(session, Effect(name="judged", layers=[layer.model_copy(update={"group": None})]))
    judged = judge(layer, material)
    if judged is None:
        return None
    return ColourReading(grey=judged.grey, cloud=judged.cloud, tones=[ToneShift(**vars(tone)) for tone in judged.tones])
