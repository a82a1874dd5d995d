"""Routes of cameras for browsers: who may sit before the stand-in, and frames and masks of it or of the artist's own footage."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter, Depends, Path, Request, Response
from pydantic import BaseModel

from sunglaze.core.camera.cast import SCRIPTS, Sitting
from sunglaze.core.camera.lighting import LIGHTS
from sunglaze.core.camera.people import PEOPLE
from sunglaze.server.drawing.drawer import drawer
from sunglaze.server.drawing.messages import Seat
from sunglaze.server.pictures import drawn_once
from sunglaze.store.effects import NotThere

routes = APIRouter()
RATE = 30
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


def seat(
    who: str = "",
    script: str = "",
    light: str = "",
    back: bool = False,
    tracked: bool = False,
    own: str = "",
    screen: Literal["9:16", "3:4", "1:1", "16:9"] = "9:16",
) -> Seat:
    """The camera that a browser asks for; `own`: footage in the stand-in's place."""
    return Seat(Sitting(who, script, light, back, tracked), own, screen)


Asked = Annotated[Seat, Depends(seat)]
Number = Annotated[int, Path(ge=0, le=1_000_000_000)]


@routes.get("/api/cast")
def cast() -> Cast:
    return Cast(
        people=[Choice(key=person.key, title=person.role) for person in PEOPLE.values()],
        scripts=[Choice(key=key, title=title) for key, title in SCRIPTS.items()],
        lights=[Choice(key=key, title=light.title) for key, light in LIGHTS.items()],
    )


@routes.get("/api/camera/facts")
async def facts(request: Request, asked: Asked) -> Facts:
    width, height = asked.size
    return Facts(width=width, height=height, frames=await drawer(request).run(request, "length", asked))


@routes.get("/api/cast/faces/{who}.jpg", response_class=Response)
async def face(request: Request, who: str, light: str = "noon") -> Response:
    """A performer's face, still, in a light."""
    if who not in PEOPLE:
        raise NotThere(f"nobody of the cast is called '{who}'")
    if light not in LIGHTS:
        raise NotThere(f"there is no light '{light}'; there are {', '.join(LIGHTS)}")
    data = await drawn_once(request, "face", who, light)
    return Response(data, media_type="image/jpeg", headers=_DAY)


@routes.get("/api/camera/frames/{number}.jpg", response_class=Response)
async def frame(request: Request, number: Number, asked: Asked) -> Response:
    data = await drawer(request).run(request, "frame", asked, number)
    return Response(data, media_type="image/jpeg", headers=_kept(asked))


@routes.get("/api/camera/masks/{region}/{number}.png", response_class=Response)
async def mask(request: Request, region: str, number: Number, asked: Asked) -> Response:
    """A region's mask in a frame: `person` or one of core/camera/cast.py's KNOWN. White inside; black if it is not known."""
    data = await drawer(request).run(request, "mask", asked, region, number)
    return Response(data, media_type="image/png", headers=_kept(asked))


@routes.get("/api/camera/moments/{number}")
async def moment(request: Request, number: Number, asked: Asked, response: Response) -> dict[str, Any]:
    """The moment of a frame without its picture and masks, as core/moment writes it. Faces are the exact truth of the cast's, or
    what was tracked of own footage."""
    found: dict[str, Any] = await drawer(request).run(request, "moment", asked, number)
    response.headers.update(_kept(asked))
    return found


def _kept(asked: Seat) -> dict[str, str]:
    """Own footage may be tracked any time, so its frames are asked for anew."""
    return {"Cache-Control": "no-cache"} if asked.own else _DAY
