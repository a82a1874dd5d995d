"""The stream: one WebSocket a viewer. JSON from the browser; from here, messages of a JSON header and a picture file.

A binary message is four bytes of the header's length (big-endian), the header, the picture. Docs: docs/architecture.md.
"""

from __future__ import annotations

import asyncio
import json
from typing import Annotated, Any, Literal

from fastapi import APIRouter, WebSocket, WebSocketDisconnect
from pydantic import BaseModel, Field, TypeAdapter, ValidationError

from sunglaze.core.camera.cast import Sitting
from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.recipe import Plain, in_words
from sunglaze.core.errors import GlazeError
from sunglaze.server.rendering.messages import Acknowledge, Move, Reply, View
from sunglaze.server.rendering.supervisor import Supervisor
from sunglaze.store import effects

routes = APIRouter()


Unit = Annotated[float, Field(ge=0, le=1)]
Finite = Annotated[float, Field(ge=-10, le=10)]


class ShowMessage(BaseModel):
    """Look at an effect as it is here, saved or not."""

    type: Literal["show"]
    effect: Effect
    serial: int = 0


class GalleryMessage(BaseModel):
    """Look at small pictures of saved effects."""

    type: Literal["gallery"]
    ids: Annotated[list[str], Field(max_length=200)]


class MoveMessage(BaseModel):
    type: Literal["move"]
    layer: str
    control: str
    value: Plain
    serial: int


class SittingMessage(BaseModel):
    """Who is before the stand-in camera; what is not known here is as it is by default."""

    who: str = Sitting().who
    script: str = Sitting().script
    light: str = Sitting().light
    back: bool = False


class ViewMessage(BaseModel):
    type: Literal["view"]
    playing: bool | None = None
    frame: Annotated[int, Field(ge=0, le=1_000_000_000)] | None = None
    bare: bool | None = None
    wipe: Annotated[float, Field(ge=0, le=1)] | None = None
    speed: Annotated[float, Field(gt=0, le=4)] | None = None
    muted: Annotated[list[str], Field(max_length=100)] | None = None
    screen: Literal["9:16", "3:4", "1:1", "16:9"] | None = None
    short: Literal[540, 720, 1080] | None = None
    scope: Literal["none", "histogram", "waveform", "parade", "vectorscope"] | None = None
    region: tuple[Unit, Unit, Unit, Unit] | None = None
    clipping: bool | None = None
    probe: tuple[Finite, Finite] | None = None
    sitting: SittingMessage | None = None
    look: Annotated[int, Field(ge=0)] | None = None


class AckMessage(BaseModel):
    type: Literal["ack"]
    kind: Literal["frame", "tiles", "scope"]


_message: TypeAdapter[ShowMessage | GalleryMessage | MoveMessage | ViewMessage | AckMessage] = TypeAdapter(
    Annotated[ShowMessage | GalleryMessage | MoveMessage | ViewMessage | AckMessage, Field(discriminator="type")]
)


@routes.websocket("/api/stream")
async def stream(socket: WebSocket) -> None:
    await socket.accept()
    supervisor: Supervisor = socket.app.state.supervisor
    viewer, replies = supervisor.open()
    sender = asyncio.create_task(_send(socket, replies))
    try:
        while True:
            await _take(await socket.receive_text(), viewer, supervisor, replies, socket.app.state.sessions)
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


async def _take(text: str, viewer: int, supervisor: Supervisor, replies: asyncio.Queue[Reply], sessions: Any) -> None:
    """One message. What cannot be followed is answered with words; the stream goes on."""
    try:
        message = _message.validate_json(text)
        if isinstance(message, ShowMessage):
            shown = {"effect": message.effect}
            if supervisor.has_files_of(shown):
                supervisor.show(viewer, shown, False, message.serial)
            else:
                await asyncio.to_thread(supervisor.show, viewer, shown, False, message.serial)
        elif isinstance(message, GalleryMessage):
            await asyncio.to_thread(_show_gallery, viewer, supervisor, message.ids, sessions)
        elif isinstance(message, MoveMessage):
            supervisor.send(Move(viewer, message.layer, message.control, message.value, message.serial))
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
        replies.put_nowait(Reply(viewer, {"type": "trouble", "layer": None, "message": in_words(error)}))
    except GlazeError as error:
        layer = getattr(error, "layer", None)
        replies.put_nowait(Reply(viewer, {"type": "trouble", "layer": layer, "message": str(error)}))


def _show_gallery(viewer: int, supervisor: Supervisor, ids: list[str], sessions: Any) -> None:
    with sessions() as session:
        shown = {kept.id: kept.effect for kept in effects.every(session) if kept.id in ids}
    supervisor.show(viewer, shown, gallery=True)
