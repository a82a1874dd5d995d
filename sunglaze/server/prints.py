"""Prints of effects, for the list: each is drawn once for a state, and the last one is shown until the next is there."""

from __future__ import annotations

import asyncio
import hashlib

from fastapi import APIRouter, Request, Response
from sqlalchemy.orm import Session

from sunglaze.core.edition import edition
from sunglaze.server.drawing.drawer import LONG_SECONDS, drawer
from sunglaze.server.pictures import Pictures, pictures
from sunglaze.server.requests import Database
from sunglaze.server.schemas import EffectState, ListedEffect
from sunglaze.store import effects, tracking
from sunglaze.store.effects import NotThere

routes = APIRouter(prefix="/api/effects", tags=["effects"])


def name_of(session: Session, state: effects.State) -> str:
    """What the print of a state is kept as."""
    still = state.effect.still
    seen = tracking.count(session, still) if still is not None else 0
    return f"print|{edition()}|{hashlib.sha256(state.document.encode()).hexdigest()}|{seen}"


@routes.get("")
def list_effects(request: Request, session: Database) -> list[ListedEffect]:
    """All effects that are not deleted, the last changed first."""
    kept = pictures(request)
    with session:
        every = [(one, name_of(session, effects.state(session, one.id, one.revision))) for one in effects.every(session)]
        return [ListedEffect(**vars(EffectState.of(one)), printed=kept.has(name)) for one, name in every]


@routes.get("/{effect_id}/print", response_class=Response)
async def print_of_effect(request: Request, session: Database, effect_id: str, revision: int | None = None) -> Response:
    """A small picture of an effect at a revision; without one the last that was drawn of it, of whatever state."""
    kept = pictures(request)

    def known() -> tuple[bytes | None, str, effects.State | None]:
        with session:
            if revision is None:
                effects.head(session, effect_id)
                return kept.find(kept.latest(effect_id)), "", None
            state = effects.state(session, effect_id, revision)
            name = name_of(session, state)
        return kept.find(name), name, state

    data, name, state = await asyncio.to_thread(known)
    if data is None and state is not None:
        data = await drawer(request).run(request, "effect print", state.effect, most=LONG_SECONDS)
        await asyncio.to_thread(_keep, kept, name, kept.latest(effect_id), data)
    if data is None:
        raise NotThere("this effect was not drawn yet")
    lasts = "no-cache" if revision is None else "private, max-age=3600"
    return Response(data, media_type="image/jpeg", headers={"Cache-Control": lasts})


def _keep(kept: Pictures, name: str, latest: str, data: bytes) -> None:
    kept.keep(name, data)
    kept.keep(latest, data)
