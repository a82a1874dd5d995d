"""Small pictures that were drawn once and are kept beside the data: icons, faces, prints of effects."""

from __future__ import annotations

import asyncio
import logging
import os
from pathlib import Path
from typing import Any

from fastapi import Request

from sunglaze.core.disk_cache import PICTURES, DiskCache
from sunglaze.core.edition import edition
from sunglaze.server.drawing.drawer import drawer
from sunglaze.server.drawing.messages import Task

MOST_BYTES = 128_000_000
_log = logging.getLogger("sunglaze")


class Pictures:
    """By what they show. Where the folder cannot be had, nothing is kept."""

    def __init__(self, folder: Path) -> None:
        self._of = str(folder.resolve())
        self._disk: DiskCache | None = None
        try:
            self._disk = DiskCache(Path(os.environ.get(PICTURES) or folder / "pictures"), MOST_BYTES)
        except OSError as error:
            _log.warning("pictures are not kept: %s", error)

    def has(self, name: str) -> bool:
        """Whether this picture is there; it may be lost by the time that it is wanted."""
        return self._disk is not None and self._disk.path(name).exists()

    def find(self, name: str) -> bytes | None:
        """A picture, or nothing where it was not drawn yet."""
        found = self._disk.read(name) if self._disk is not None else None
        return bytes(found) if found is not None else None

    def keep(self, name: str, data: bytes) -> None:
        """Keep a picture."""
        if self._disk is not None:
            self._disk.write(name, data)

    def latest(self, effect_id: str) -> str:
        """What the print of an effect is kept as that was drawn last, of whatever state."""
        return f"latest print|{self._of}|{effect_id}"


async def drawn_once(request: Request, task: Task, *asked: Any) -> bytes:
    """A picture that hangs on nothing but the edition of the core, drawn where it was not before."""
    kept, name = pictures(request), f"{task}|{edition()}|{asked}"
    data = await asyncio.to_thread(kept.find, name)
    if data is None:
        data = await drawer(request).run(request, task, *asked)
        await asyncio.to_thread(kept.keep, name, data)
    return data


def pictures(request: Request) -> Pictures:
    """What was drawn before, for a route."""
    found: Pictures = request.app.state.pictures
    return found
