"""Routes of clips of effects: filmed by a process of low priority, followed like all long work, then downloaded."""

from __future__ import annotations

import secrets
from typing import Annotated, Literal

from fastapi import APIRouter, Request
from fastapi.responses import FileResponse
from pydantic import BaseModel, Field

from sunglaze.core.camera.cameras import screen_size
from sunglaze.core.camera.cast import Sitting
from sunglaze.core.errors import BadFile
from sunglaze.server.cutting import ClipTask, Cutter
from sunglaze.server.shelf import job_of
from sunglaze.server.shelf_schemas import CutJob
from sunglaze.store import effects
from sunglaze.store.effects import NotThere
from sunglaze.store.shelf import clean_name

routes = APIRouter(prefix="/api", tags=["clips"])
ENDINGS = {"mp4": ".mp4", "webm": ".webm", "gif": ".gif", "frames": ".zip"}
LONGEST = 120.0


class ClipRequest(BaseModel):
    """A clip of an effect as it is saved. `frames`: a zip of lossless PNG files. `rehearsed`: with the rehearsal kept with it."""

    seconds: Annotated[float, Field(gt=0, le=LONGEST)] = 4.0
    fps: Annotated[float, Field(ge=1, le=60)] = 30.0
    form: Literal["mp4", "webm", "gif", "frames"] = "mp4"
    screen: Literal["9:16", "3:4", "1:1", "16:9"] = "9:16"
    short: Literal[270, 360, 540, 720, 1080] = 720
    rehearsed: bool = True
    sitting: Sitting = Sitting()


@routes.post("/effects/{effect_id}/clips", status_code=201)
def film(request: Request, effect_id: str, how: ClipRequest) -> CutJob:
    """Begin to film an effect at its head."""
    with request.app.state.sessions() as session:
        effect = effects.get(session, effect_id).effect
    cutter: Cutter = request.app.state.cutter
    if how.form == "gif" and how.fps > 50:
        raise BadFile("a GIF shows up to 50 pictures a second")
    cutter.clips.mkdir(exist_ok=True)
    out = cutter.clips / f"{secrets.token_hex(6)}{ENDINGS[how.form]}"
    size = screen_size(how.screen, how.short)
    task = ClipTask(effect, how.sitting.known(), size, how.seconds, how.fps, how.rehearsed, out)
    return job_of(cutter.start("", task, effect.name))


@routes.get("/clips/{job}/file", response_class=FileResponse)
def clip_file(request: Request, job: str, name: Annotated[str, Field(max_length=120)] = "clip") -> FileResponse:
    """A clip that is done, under a name."""
    cutter: Cutter = request.app.state.cutter
    found = cutter.look(job).file
    if found is None or not found.is_file():
        raise NotThere("there is no such clip (any more)")
    plain = "".join(letter for letter in clean_name(name) if letter.isascii() and letter not in '"\\') or "clip"
    return FileResponse(found, headers={"Content-Disposition": f'attachment; filename="{plain}{found.suffix}"'})
