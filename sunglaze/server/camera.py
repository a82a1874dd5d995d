"""Cameras for browsers: who may sit before the stand-in, and frames and masks of it or of the artist's own footage as files."""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated, Any, Literal

import cv2
import numpy as np
from fastapi import APIRouter, Depends, Path, Request, Response
from pydantic import BaseModel

from sunglaze.core.camera.cameras import Own, colours, screen_size
from sunglaze.core.camera.cast import KNOWN, SCRIPTS, Sitting, StandIn
from sunglaze.core.camera.lighting import LIGHTS
from sunglaze.core.camera.people import PEOPLE
from sunglaze.core.material.files import encode_jpeg, encode_png
from sunglaze.core.moment.moment import Reads, write_moment
from sunglaze.server.requests import Database
from sunglaze.store.effects import NotThere

routes = APIRouter()
SHORT, RATE = 540, 30
QUALITY = 86
FACE = (slice(165, 615), slice(45, 495))
_DAY = {"Cache-Control": "public, max-age=86400"}


class Choice(BaseModel):
    key: str
    title: str


class Cast(BaseModel):
    """Who, doing what, in which light may be before the stand-in camera."""

    people: list[Choice]
    scripts: list[Choice]
    lights: list[Choice]


class Facts(BaseModel):
    """The loop that a sitting plays."""

    width: int
    height: int
    rate: int = RATE
    frames: int


def camera(
    request: Request,
    session: Database,
    who: str = "",
    script: str = "",
    light: str = "",
    back: bool = False,
    tracked: bool = False,
    own: str = "",
    screen: Literal["9:16", "3:4", "1:1", "16:9"] = "9:16",
) -> StandIn | Own:
    """The camera that a browser asks for, its screen's short side of SHORT pixels; `own`: footage in its place."""
    size = screen_size(screen, SHORT)
    if not own:
        return StandIn(*size, Sitting(who, script, light, back, tracked))
    with session:
        found: Own = request.app.state.own_cameras.get(session, own, size)
        return found


Asked = Annotated[StandIn | Own, Depends(camera)]
Number = Annotated[int, Path(ge=0, le=1_000_000_000)]


@routes.get("/api/cast")
def cast() -> Cast:
    return Cast(
        people=[Choice(key=person.key, title=person.role) for person in PEOPLE.values()],
        scripts=[Choice(key=key, title=title) for key, title in SCRIPTS.items()],
        lights=[Choice(key=key, title=light.title) for key, light in LIGHTS.items()],
    )


@routes.get("/api/camera/facts")
def facts(asked: Asked) -> Facts:
    return Facts(width=asked.width, height=asked.height, frames=asked.length)


@routes.get("/api/cast/faces/{who}.jpg", response_class=Response)
def face(who: str, light: str = "noon") -> Response:
    """A performer's face, still, in a light."""
    if who not in PEOPLE:
        raise NotThere(f"nobody of the cast is called '{who}'")
    if light not in LIGHTS:
        raise NotThere(f"there is no light '{light}'; there are {', '.join(LIGHTS)}")
    return Response(_face(who, light), media_type="image/jpeg", headers=_DAY)


@lru_cache(maxsize=64)
def _face(who: str, light: str) -> bytes:
    size = screen_size("9:16", SHORT)
    picture = colours(StandIn(*size, Sitting(who, "still", light)).frame(0), SHORT)[FACE]
    return encode_jpeg(np.asarray(cv2.resize(picture, (128, 128), interpolation=cv2.INTER_AREA), np.uint8), QUALITY)


@routes.get("/api/camera/frames/{number}.jpg", response_class=Response)
def frame(number: Number, asked: Asked) -> Response:
    data = encode_jpeg(colours(asked.frame(number), asked.width), QUALITY)
    return Response(data, media_type="image/jpeg", headers=_kept(asked))


@routes.get("/api/camera/masks/{region}/{number}.png", response_class=Response)
def mask(region: str, number: Number, asked: Asked) -> Response:
    """A region's mask in a frame: `person` or one of core/camera/cast.py's KNOWN. White inside; black if it is not known."""
    if region == "person":
        pixels = asked.frame(number).view(np.uint8).reshape(asked.height, -1, 4)[:, : asked.width, 3:]
    elif region in KNOWN:
        pixels = asked.regions(number, [region]).get(region, np.zeros((asked.height, asked.width, 1), np.uint8))
    else:
        raise NotThere(f"the camera has no region '{region}'; it has {', '.join(KNOWN)}")
    return Response(encode_png(pixels, 1), media_type="image/png", headers=_kept(asked))


@routes.get("/api/camera/moments/{number}")
def moment(number: Number, asked: Asked, response: Response) -> dict[str, Any]:
    """The moment of a frame without its picture and masks, as core/moment writes it. Faces are the exact truth of the cast's, or
    what was tracked of own footage."""
    response.headers.update(_kept(asked))
    return write_moment(asked.moment(number, Reads(picture=False, faces=True)))


def _kept(asked: StandIn | Own) -> dict[str, str]:
    """Own footage may be tracked any time, so its frames are asked for anew."""
    return _DAY if isinstance(asked, StandIn) else {"Cache-Control": "no-cache"}
