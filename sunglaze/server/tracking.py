"""Routes of the artist's own pictures and clips: given, handed out picture by picture to trackers, and what those saw."""

from __future__ import annotations

import asyncio
import base64
from typing import Annotated

from fastapi import APIRouter, File, Path, Request, Response, UploadFile
from pydantic import BaseModel, Field

from sunglaze.core.camera.tracks import checked
from sunglaze.core.errors import BadFile
from sunglaze.server.asset_schemas import Asset
from sunglaze.server.drawing.drawer import drawer
from sunglaze.server.files import keep
from sunglaze.server.rendering.messages import Forget
from sunglaze.server.requests import Database, Writing, body, describes, off_the_loop
from sunglaze.store import tracking as store

routes = APIRouter(prefix="/api", tags=["footage"])
Number = Annotated[int, Path(ge=0, le=1_000_000)]


class Tracking(BaseModel):
    """How far trackers have come with footage; `next` is the first picture they have not seen, none where all are done. `times`:
    seconds at which the pictures begin."""

    tracked: int
    pictures: int
    next: int | None
    times: list[float]


class TrackRequest(BaseModel):
    """What was seen in a picture. `mask`: PNG as base64, white where the person is; `faces`: of each its 478 points as parts of
    the picture's width and height, with depth; `hands`: of each its 21, none where nobody looked for them."""

    mask: str
    faces: Annotated[list[list[list[float]]], Field(max_length=4)]
    hands: Annotated[list[list[list[float]]], Field(max_length=8)] | None = None


@routes.post("/footage", status_code=201)
async def add_footage(request: Request, session: Writing, file: Annotated[UploadFile, File()]) -> Asset:
    """Keep a picture or a clip for the camera's place."""
    return await keep(request, session, "footage", file)


@routes.get("/footage/{key}/pictures/{number}.jpg", response_class=Response)
async def picture(request: Request, key: str, number: Number) -> Response:
    """One picture as trackers are shown it, its longer side of 960 pixels at most."""
    data = await drawer(request).run(request, "footage picture", key, number)
    return Response(data, media_type="image/jpeg", headers={"Cache-Control": "max-age=3600"})


@routes.get("/footage/{key}/tracking")
async def tracking(request: Request, session: Database, key: str, hands: bool = False) -> Tracking:
    """How far trackers have come; `hands`: also those of hands."""

    def known() -> tuple[int, int, int | None]:
        with session:
            return store.tracked(session, key, hands)

    tracked, pictures, first = await asyncio.to_thread(known)
    times = await drawer(request).run(request, "footage times", key)
    return Tracking(tracked=tracked, pictures=pictures, next=first, times=times)


@routes.put("/footage/{key}/tracks/{number}", status_code=204, openapi_extra=describes(TrackRequest))
async def put_track(
    request: Request, session: Writing, key: str, number: Number, track: Annotated[TrackRequest, body(TrackRequest)]
) -> None:
    """Keep what trackers saw in one picture; the last one is what Python waits for."""
    try:
        mask = base64.b64decode(track.mask, validate=True)
    except ValueError:
        raise BadFile("the mask is no base64") from None

    seen = await off_the_loop(lambda: checked(mask, track.faces, track.hands))

    def put() -> None:
        with session.begin():
            store.put_track(session, key, number, seen)

    await asyncio.to_thread(put)
    drawer(request).renew(key)
    request.app.state.supervisor.send(Forget(key))


@routes.get("/footage/{key}/tracks.zip", response_class=Response)
def tracks_file(session: Database, key: str) -> Response:
    """All that was tracked, for `sunglaze render --tracks`."""
    with session:
        data = store.tracks_file(session, key)
    headers = {"Content-Disposition": f'attachment; filename="{key[:12]}.tracks.zip"'}
    return Response(data, media_type="application/zip", headers=headers)
