"""Routes that open published effects to phones of the network, and close them again; see phones.py."""

from __future__ import annotations

import io
from typing import Annotated

import segno
from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel

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
