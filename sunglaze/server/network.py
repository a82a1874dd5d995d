"""Routes that open published effects to phones of the network, and close them again; see phones.py."""

from __future__ import annotations

import io
from datetime import UTC, datetime
from typing import Annotated

import segno
from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel

from sunglaze.server.keys import Keys
from sunglaze.server.phones import Phones
from sunglaze.store.effects import NotThere

routes = APIRouter(prefix="/api/phones", tags=["phones"])
CODE_SCALE, CODE_BORDER = 6, 4


class PhonesState(BaseModel):
    """`address` is where phones find it, without a slash at the end, while it is open; `fingerprint` that of its certificate."""

    address: str | None
    fingerprint: str | None


class PhonesWish(BaseModel):
    open: bool


def _state(phones: Phones) -> PhonesState:
    known = phones.certificate
    return PhonesState(address=phones.address, fingerprint=known.fingerprint if known else None)


@routes.get("")
def state(request: Request) -> PhonesState:
    return _state(request.app.state.phones)


@routes.post("")
async def wish(request: Request, wanted: PhonesWish) -> PhonesState:
    """Open to phones, or close."""
    phones: Phones = request.app.state.phones
    await (phones.start() if wanted.open else phones.stop())
    return _state(phones)


@routes.get("/code.png", response_class=Response)
def code(request: Request, path: Annotated[str, Query(max_length=200)] = "/") -> Response:
    """An address for phones as a QR code (ISO/IEC 18004)."""
    address = request.app.state.phones.address
    if address is None:
        raise NotThere("it is not open to phones")
    room = io.BytesIO()
    segno.make(f"{address}{path if path.startswith('/') else '/' + path}", error="m").save(
        room, kind="png", scale=CODE_SCALE, border=CODE_BORDER
    )
    return Response(room.getvalue(), media_type="image/png", headers={"Cache-Control": "no-store"})


keys_routes = APIRouter(prefix="/api/sessions", tags=["phones"])


class SessionState(BaseModel):
    """Somebody who was let in with the key; `own`: who asks."""

    name: str
    since: datetime
    agent: str
    own: bool


class Sessions(BaseModel):
    """`keyed`: whether a key is needed at all, which it is where the application is bound to a network."""

    keyed: bool
    sessions: list[SessionState]


@keys_routes.get("")
def list_sessions(request: Request) -> Sessions:
    """Who was let in with the key."""
    keys: Keys | None = request.app.state.keys
    own = getattr(request.state, "session", None)
    return Sessions(
        keyed=keys is not None,
        sessions=[
            SessionState(name=one.name, since=datetime.fromtimestamp(one.since, UTC), agent=one.agent, own=one.name == own)
            for one in (keys.sessions if keys else [])
        ],
    )


@keys_routes.delete("/{name}", status_code=204)
def end_session(request: Request, name: str) -> None:
    """End a session; `all` ends every one."""
    keys: Keys | None = request.app.state.keys
    if keys is None:
        raise NotThere("there are no sessions: this machine asks for no key")
    keys.end(None if name == "all" else name)
