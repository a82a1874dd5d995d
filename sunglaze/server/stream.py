"""The stream: one WebSocket a viewer. JSON from the browser; from here, messages of a JSON header and a picture file.

A binary message is four bytes of the header's length (big-endian), the header, the picture. Docs: docs/architecture.md.
"""

from __future__ import annotations

import asyncio
import json
import logging
from typing import Annotated, Any, Literal

from fastapi import APIRouter, WebSocket, WebSocketDisconnect
from pydantic import BaseModel, Field, TypeAdapter, ValidationError
from sqlalchemy.orm import Session, sessionmaker

from sunglaze.core.camera.cast import Sitting
from sunglaze.core.effect.address import Address
from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.recipe import Plain
from sunglaze.core.errors import GlazeError, in_words
from sunglaze.core.moment.rehearsal import Finger
from sunglaze.server.limits import MEGABYTE, MOST_JSON_BYTES
from sunglaze.server.rendering.messages import Acknowledge, Done, Move, Reply, View
from sunglaze.server.rendering.supervisor import Supervisor
from sunglaze.server.requests import off_the_loop
from sunglaze.store import effects

routes = APIRouter()
_log = logging.getLogger("sunglaze")
MOST_REPLIES = 64
SMALL = 4000
Sessions = sessionmaker[Session]


Unit = Annotated[float, Field(ge=0, le=1)]
Serial = Annotated[int, Field(ge=0, le=2**53)]
Finite = Annotated[float, Field(ge=-10, le=10)]


class ShowMessage(BaseModel):
    """Look at an effect as it is here, saved or not."""

    type: Literal["show"]
    effect: Effect
    serial: Serial = 0


class PrintMessage(BaseModel):
    """Look at a small moving picture of a saved effect, or at nothing."""

    type: Literal["print"]
    id: Annotated[str, Field(max_length=32)] | None


class MoveMessage(BaseModel):
    type: Literal["move"]
    at: Address
    value: Plain
    serial: Serial


class SittingMessage(BaseModel):
    """Who is before the stand-in camera; what is not known here is as it is by default."""

    who: str = Sitting().who
    script: str = Sitting().script
    light: str = Sitting().light
    back: bool = False
    tracked: bool = False


class ViewMessage(BaseModel):
    type: Literal["view"]
    playing: bool | None = None
    frame: Annotated[int, Field(ge=0, le=1_000_000_000)] | None = None
    bare: bool | None = None
    wipe: Annotated[float, Field(ge=0, le=1)] | None = None
    speed: Annotated[float, Field(ge=0.01, le=4)] | None = None
    muted: Annotated[list[Annotated[str, Field(max_length=40)]], Field(max_length=100)] | None = None
    screen: Literal["9:16", "3:4", "1:1", "16:9"] | None = None
    short: Literal[270, 360, 540, 720, 1080] | None = None
    scope: Literal["none", "histogram", "waveform", "parade", "vectorscope"] | None = None
    region: tuple[Unit, Unit, Unit, Unit] | None = None
    clipping: bool | None = None
    probe: tuple[Finite, Finite] | None = None
    sitting: SittingMessage | None = None
    look: Serial | None = None
    watched: Annotated[str, Field(max_length=40)] | None = None
    scored: bool | None = None
    rehearsing: bool | None = None


class DoneMessage(BaseModel):
    """What a hand does at the workbench, as if it wore the effect."""

    type: Literal["done"]
    touch: Finger | None = None
    cue: Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,40}$")] | None = None
    dials: Annotated[dict[Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,40}$")], Unit], Field(max_length=64)] = {}
    anew: bool = False
    asks: bool = False


class AckMessage(BaseModel):
    type: Literal["ack"]
    kind: Literal["frame", "tiles", "scope"]


Message = ShowMessage | PrintMessage | MoveMessage | ViewMessage | DoneMessage | AckMessage
_message: TypeAdapter[Message] = TypeAdapter(Annotated[Message, Field(discriminator="type")])


@routes.websocket("/api/stream")
async def stream(socket: WebSocket) -> None:
    await socket.accept()
    supervisor: Supervisor = socket.app.state.supervisor
    viewer, replies = supervisor.open()
    sender = asyncio.create_task(_send(socket, replies))
    try:
        while (message := await socket.receive())["type"] != "websocket.disconnect":
            # A browser that sends without a pause is answered in turn with all others.
            await asyncio.sleep(0)
            words = await _take(message.get("text"), viewer, supervisor, socket.app.state.sessions)
            if words is not None:
                replies.put_nowait(Reply(viewer, {"type": "trouble", "layer": None, "message": words, "faults": []}))
            while replies.qsize() > MOST_REPLIES and not sender.done():
                # Whoever asks faster than answers are taken waits, and nobody else.
                await asyncio.sleep(0.05)
    except (WebSocketDisconnect, RuntimeError):
        pass
    finally:
        sender.cancel()
        supervisor.close(viewer)


async def _send(socket: WebSocket, replies: asyncio.Queue[Reply]) -> None:
    try:
        while True:
            reply = await replies.get()
            header = json.dumps(reply.header).encode()
            await socket.send_bytes(len(header).to_bytes(4, "big") + header + reply.payload)
    except (WebSocketDisconnect, RuntimeError):
        return


async def _take(text: str | None, viewer: int, supervisor: Supervisor, sessions: Sessions) -> str | None:
    """Follow one message. Words where it cannot be followed; the stream goes on in any case."""
    if text is None:
        return "the stream takes text; this was binary"
    if len(text) > MOST_JSON_BYTES:
        return f"this is larger than {MOST_JSON_BYTES // MEGABYTE} MB, which is the most here"
    try:
        # A small one is read sooner than it is handed to a thread.
        message = _message.validate_json(text) if len(text) < SMALL else await off_the_loop(lambda: _message.validate_json(text))
        if isinstance(message, ShowMessage):
            supervisor.show(viewer, {"effect": message.effect}, False, message.serial)
        elif isinstance(message, PrintMessage):
            shown = await off_the_loop(lambda: _saved(message.id, sessions))
            supervisor.show(viewer, shown, small=True)
        elif isinstance(message, MoveMessage):
            supervisor.send(Move(viewer, message.at, message.value, message.serial))
        elif isinstance(message, DoneMessage):
            given_now = {name: getattr(message, name) for name in ("touch", "cue", "dials", "anew", "asks")}
            supervisor.send(Done(viewer, **given_now))
        elif isinstance(message, ViewMessage):
            given: dict[str, Any] = message.model_dump(exclude={"type"}, exclude_none=True)
            if message.muted is not None:
                given["muted"] = tuple(message.muted)
            if message.sitting is not None:
                given["sitting"] = Sitting(**message.sitting.model_dump()).known()
            supervisor.send(View(viewer, **given))
        else:
            supervisor.send(Acknowledge(viewer, message.kind))
    except ValidationError as error:
        return in_words(error)
    except GlazeError as error:
        return str(error)
    except Exception as error:
        _log.error("a message of the stream failed", exc_info=error)
        return f"Sun Glaze itself failed at this message ({type(error).__name__}); this is a defect of the program"
    return None


def _saved(effect_id: str | None, sessions: Sessions) -> dict[str, Effect]:
    """An effect by its id. Raises NotThere."""
    if effect_id is None:
        return {}
    with sessions() as session:
        return {effect_id: effects.get(session, effect_id).effect}
