"""Routes of pre-flight: what may keep an effect from being taken or worn."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

from fastapi import APIRouter, Request
from pydantic import BaseModel

from sunglaze.core.package.checked import checked
from sunglaze.core.review.preflight import Check, Profile, profiles
from sunglaze.server.pool import Pool
from sunglaze.store import effects, publishing
from sunglaze.store.files import material_of

MOST_SECONDS = 90.0
routes = APIRouter(prefix="/api", tags=["preflight"])


class ProfileKind(BaseModel):
    """Limits of where an effect goes."""

    name: str
    title: str
    help: str


class CheckFound(BaseModel):
    """What was found. `layer`: where to look; `weighs`: whether making it lighter mends it."""

    id: str
    title: str
    state: Literal["passed", "look", "stops"]
    words: str
    layer: str | None
    weighs: bool
    mend: str | None

    @classmethod
    def of(cls, one: Check) -> CheckFound:
        return cls(**vars(one))


def profile_named(name: str) -> Profile:
    """Raises NotThere."""
    if name not in profiles():
        raise effects.NotThere(f"there is no profile '{name}'; there are {', '.join(profiles())}")
    return profiles()[name]


@routes.get("/profiles")
def list_profiles() -> list[ProfileKind]:
    """Limits that effects are checked against."""
    return [ProfileKind(name=one.name, title=one.title, help=one.help) for one in profiles().values()]


@routes.get("/effects/{effect_id}/preflight")
async def check_effect(request: Request, effect_id: str, profile: str = "camera-app") -> list[CheckFound]:
    """What may keep the effect, as it stands, from being taken or worn."""
    limits = profile_named(profile)
    pool: Pool = request.app.state.pool
    return await pool.run(request, lambda patience: _checked(request, effect_id, limits, patience), MOST_SECONDS)


def _checked(request: Request, effect_id: str, limits: Profile, patience: Callable[[], None]) -> list[CheckFound]:
    with request.app.state.sessions() as session:
        effect = effects.get(session, effect_id).effect
        material = material_of(session, effect)
        said = publishing.listing(session, effect_id)
    return [CheckFound.of(one) for one in checked(effect, material, limits, patience, said)]
