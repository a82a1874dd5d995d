"""Routes of pre-flight: what may keep an effect from being taken or worn."""

from __future__ import annotations

import asyncio
import base64
from collections.abc import AsyncIterator
from typing import Any, Literal

from fastapi import APIRouter, Request, Response
from fastapi.responses import StreamingResponse
from pydantic import BaseModel

from sunglaze.core.errors import GlazeError
from sunglaze.core.review.preflight import Check
from sunglaze.core.review.profiles import Profile, profiles
from sunglaze.server.drawing.drawer import LONG_SECONDS, drawer
from sunglaze.server.drawing.messages import Task
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


class CheckLine(BaseModel):
    """A line of an answer: a check, or why there are no more. Where a check of the same `id` comes again, it is in place of the
    first."""

    check: CheckFound | None = None
    message: str | None = None


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


LINES: dict[int | str, dict[str, Any]] = {
    200: {"model": CheckLine, "content": {"application/x-ndjson": {"schema": {"$ref": "#/components/schemas/CheckLine"}}}}
}
"""What a route says of itself whose checks come as JSON, one a line."""


async def line_by_line(request: Request, task: Task, *asked: Any) -> Response:
    """Checks as they are made, a line of JSON each. Raises what looking at the first raises."""
    loop, come = asyncio.get_running_loop(), asyncio.Queue[Check | None]()

    def part(one: Check) -> None:
        loop.call_soon_threadsafe(come.put_nowait, one)

    work = asyncio.create_task(drawer(request).run(request, task, *asked, most=LONG_SECONDS, part=part))
    work.add_done_callback(lambda _: come.put_nowait(None))
    first = await come.get()
    if first is None:
        work.result()

    async def lines() -> AsyncIterator[str]:
        one = first
        try:
            while one is not None:
                yield CheckLine(check=CheckFound.of(one)).model_dump_json() + "\n"
                one = await come.get()
            try:
                work.result()
            except GlazeError as error:
                yield CheckLine(message=str(error)).model_dump_json() + "\n"
        finally:
            work.cancel()

    return StreamingResponse(lines(), media_type="application/x-ndjson", headers={"Cache-Control": "no-store"})


@routes.get("/effects/{effect_id}/preflight", response_class=Response, responses=LINES)
async def check_effect(request: Request, effect_id: str, profile: str = "camera-app") -> Response:
    """What may keep the effect, as it stands, from being taken or worn: a line of JSON for each check, as soon as it is made."""
    return await line_by_line(request, "check", effect_id, profile)
