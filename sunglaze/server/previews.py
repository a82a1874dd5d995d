"""Routes of what helps to judge: what nodes of a recipe or mask give of who sits before the camera; a layer on plain colours."""

from __future__ import annotations

import base64
import threading

import numpy as np
from fastapi import APIRouter, Request
from sqlalchemy.orm import Session

from sunglaze.core.camera.cameras import Camera, screen_size, shrunk
from sunglaze.core.camera.cast import StandIn
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.previews import Previews, numbers_of
from sunglaze.core.picture.files import encode_png
from sunglaze.core.render.frames import regions_for
from sunglaze.core.review.judging import judge
from sunglaze.server.effects import Database
from sunglaze.server.schemas import ColourReading, NodePreview, PreviewRequest, RecipePreviews, ToneShift
from sunglaze.store.files import material_of

routes = APIRouter(prefix="/api", tags=["previews"])
_KEPT = 4
_SHORT = 270
"""Cameras are asked for frames of this size, which are then made smaller: so one frame serves tiles of every size."""
_kept: list[tuple[Previews, tuple[int, int]]] = []
"""The latest, with the size of their pictures: nodes that keep pictures go on from those that they kept."""
_looking = threading.Lock()


@routes.post("/recipes/preview")
def preview(request: Request, session: Database, asked: PreviewRequest) -> RecipePreviews:
    """What nodes of a recipe give at a frame of the camera, and all that is wrong with it."""
    wanted = tuple(asked.path), asked.mask, tuple(asked.only)
    size = screen_size(asked.screen, asked.short)
    with _looking:
        with session:
            known = next((one for one, its in _kept if its == size and one.fits(asked.effect, asked.layer, *wanted)), None)
            if known is None:
                known = Previews(asked.effect, material_of(session, asked.effect), asked.layer, *wanted)
            _kept[:] = [(known, size), *[one for one in _kept if one[0] is not known]][:_KEPT]
            camera = _camera(request, session, asked)
        words = shrunk(camera.frame(asked.frame), camera.width, size)
        pixels = words.view(np.uint8).reshape(size[1], -1, 4)[:, : size[0]].astype(np.float32) / np.float32(255)
        shown = known.at(pixels, asked.frame, asked.effect, regions_for(known.program, camera, asked.frame))
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
    return RecipePreviews(nodes=nodes, faults=known.faults, sheet=sheet, width=size[0], height=size[1])


def _camera(request: Request, session: Session, asked: PreviewRequest) -> Camera:
    size = screen_size(asked.screen, _SHORT)
    if asked.effect.still is None:
        return StandIn(*size, asked.sitting)
    own: Camera = request.app.state.own_cameras.get(session, asked.effect.still, size)
    return own


@routes.post("/layers/judging")
def judge_layer(session: Database, layer: Layer) -> ColourReading | None:
    """What a layer does to skin tones, greys and colours; nothing where it is not about colours alone."""
    with session:
        material = material_of(session, Effect(name="judged", layers=[layer.model_copy(update={"group": None})]))
    judged = judge(layer, material)
    if judged is None:
        return None
    return ColourReading(grey=judged.grey, cloud=judged.cloud, tones=[ToneShift(**vars(tone)) for tone in judged.tones])
