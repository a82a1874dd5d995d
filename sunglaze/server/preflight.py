"""Routes of pre-flight: what may keep an effect from being taken or worn."""

from __future__ import annotations

import base64
from typing import Literal

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel

from sunglaze.core.review.preflight import Check
from sunglaze.core.review.profiles import Profile, profiles
from sunglaze.server.drawing.drawer import LONG_SECONDS, drawer
from sunglaze.server.requests import Database
from sunglaze.store import shelf

routes = APIRouter(prefix="/api", tags=["preflight"])


class ProfileKind(BaseModel):
    """Limits of where an effect goes. `name`: what it is asked for by; of one on the shelf its hash."""

    name: str
    title: str
    help: str


class CheckFound(BaseModel):
    """What was found. `layer`: where to look; `weighs`: whether making it lighter mends it; `strip`: pictures that show it, as a
    data address."""

    id: str
    title: str
    state: Literal["passed", "look", "stops"]
    words: str
    layer: str | None
    weighs: bool
    mend: str | None
    strip: str | None

    @classmethod
    def of(cls, one: Check) -> CheckFound:
        strip = f"data:image/png;base64,{base64.b64encode(one.strip).decode()}" if one.strip else None
        return cls(**{**vars(one), "strip": strip})


@routes.get("/profiles")
def list_profiles(session: Database) -> list[ProfileKind]:
    """Limits that effects are checked against: those that ship, then those on the shelf."""
    shipped = [ProfileKind(name=one.name, title=one.title, help=one.help) for one in profiles().values()]
    with session:
        own = [(row.hash, row.facts["profile"]) for row in shelf.own_profiles(session)]
    return [*shipped, *[ProfileKind(name=key, title=facts["title"], help=facts["help"]) for key, facts in own]]


@routes.get("/profiles/{name}", response_class=Response, responses={200: {"model": Profile}})
def get_profile(session: Database, name: str) -> Response:
    """The limits themselves, as a file to make one's own of."""
    with session:
        limits = shelf.profile_named(session, name)
    return Response(limits.model_dump_json(indent=2), media_type="application/json")


@routes.get("/effects/{effect_id}/preflight")
async def check_effect(request: Request, effect_id: str, profile: str = "camera-app") -> list[CheckFound]:
    """What may keep the effect, as it stands, from being taken or worn."""
    found: list[Check] = await drawer(request).run(request, "check", effect_id, profile, most=LONG_SECONDS)
    return [CheckFound.of(one) for one in found]
