"""The stand-in camera for browsers: who may sit before it, and its frames and masks as files."""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated

import cv2
import numpy as np
from fastapi import APIRouter, Depends, Path, Response
from numpy.typing import NDArray
from pydantic import BaseModel

from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import LENGTHS, PEOPLE, REGIONS, SCRIPTS, Sitting, StandIn
from sunglaze.core.camera.lighting import LIGHTS
from sunglaze.store.effects import NotThere

routes = APIRouter()
WIDTH, HEIGHT, RATE = 540, 960, 30
QUALITY = 86
FACE_FRAME = 37
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

    width: int = WIDTH
    height: int = HEIGHT
    rate: int = RATE
    frames: int


def sitting(who: str = "", script: str = "", light: str = "", back: bool = False) -> Sitting:
    return Sitting(who, script, light, back).known()


Sat = Annotated[Sitting, Depends(sitting)]
Number = Annotated[int, Path(ge=0, le=1_000_000_000)]


@routes.get("/api/cast")
def cast() -> Cast:
    return Cast(
        people=[Choice(key=person.key, title=person.role) for person in PEOPLE.values()],
        scripts=[Choice(key=key, title=title) for key, title in SCRIPTS.items()],
        lights=[Choice(key=key, title=light.title) for key, light in LIGHTS.items()],
    )


@routes.get("/api/cast/facts")
def facts(sat: Sat) -> Facts:
    return Facts(frames=LENGTHS[sat.script])


@routes.get("/api/cast/faces/{who}.jpg", response_class=Response)
def face(who: str, light: str = "noon") -> Response:
    """A performer's face, still, in a light."""
    if who not in PEOPLE:
        raise NotThere(f"nobody of the cast is called '{who}'")
    return Response(_face(who, light), media_type="image/jpeg", headers=_DAY)


@lru_cache(maxsize=64)
def _face(who: str, light: str) -> bytes:
    picture = colours(StandIn(WIDTH, HEIGHT, Sitting(who, "talk", light)).frame(FACE_FRAME), WIDTH)[FACE]
    return _jpeg(np.asarray(cv2.resize(picture, (128, 128), interpolation=cv2.INTER_AREA), np.uint8))


@routes.get("/api/cast/frames/{number}.jpg", response_class=Response)
def frame(number: Number, sat: Sat) -> Response:
    return Response(_jpeg(colours(StandIn(WIDTH, HEIGHT, sat).frame(number), WIDTH)), media_type="image/jpeg", headers=_DAY)


@routes.get("/api/cast/masks/{region}/{number}.png", response_class=Response)
def mask(region: str, number: Number, sat: Sat) -> Response:
    """A region's mask in a frame: white inside. `person` or one of core/camera/cast.py's REGIONS."""
    camera = StandIn(WIDTH, HEIGHT, sat)
    if region == "person":
        pixels = camera.frame(number).view(np.uint8).reshape(HEIGHT, -1, 4)[:, :WIDTH, 3]
    elif region in REGIONS:
        pixels = camera.regions(number, [region])[region][..., 0]
    else:
        raise NotThere(f"the camera has no region '{region}'; it has person, {', '.join(REGIONS)}")
    return Response(_png(pixels), media_type="image/png", headers=_DAY)


def _png(mask: NDArray[np.uint8]) -> bytes:
    return bytes(cv2.imencode(".png", np.ascontiguousarray(mask), [cv2.IMWRITE_PNG_COMPRESSION, 1])[1].tobytes())


def _jpeg(pixels: NDArray[np.uint8]) -> bytes:
    """Whole chroma, so that every decoder gives the same."""
    options = [cv2.IMWRITE_JPEG_QUALITY, QUALITY, cv2.IMWRITE_JPEG_SAMPLING_FACTOR, cv2.IMWRITE_JPEG_SAMPLING_FACTOR_444]
    return bytes(cv2.imencode(".jpg", np.ascontiguousarray(pixels[:, :, ::-1]), options)[1].tobytes())
