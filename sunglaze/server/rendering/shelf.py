"""What effects refer to, as the rendering process reads it from the database: lookups and pictures, decoded once, and footage as
cameras. All is held by the cache of the process."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy.orm import Session, sessionmaker

from sunglaze.core.cache import CACHE
from sunglaze.core.camera.cameras import Own
from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.literals import Material
from sunglaze.core.material.sequence import Sequence
from sunglaze.core.material.still import Still
from sunglaze.store import files
from sunglaze.store.cameras import OwnCameras
from sunglaze.store.database import engine_for


class Shelf:
    """Threads share it. What an effect that is shown holds is not bounded by the cache: that is in use."""

    def __init__(self, folder: Path) -> None:
        self._sessions = sessionmaker(engine_for(folder))
        self._own = OwnCameras()

    @contextmanager
    def reading(self) -> Iterator[Reading]:
        """For what one effect needs. What is asked of it raises NotThere or BadFile."""
        with self._sessions() as session:
            yield Reading(session, self._own)

    def renew(self, key: str) -> None:
        """What was tracked in footage has changed."""
        self._own.renew(key)


class Reading:
    """The shelf with a session on the database."""

    def __init__(self, session: Session, own: OwnCameras) -> None:
        self._session, self._own = session, own

    def material(self, effect: Effect) -> Material:
        """The lookups, pictures, sequences and meshes of an effect's layers."""
        luts = {ref: files.read_lut(self._session, ref) for ref in effect.lookups()}
        pictures = {key: self._picture(key) for key in effect.pictures()}
        moving = {key: self._sequence(key) for key in effect.sequences()}
        return Material(luts, pictures, moving, meshes=files.meshes_of(self._session, effect))

    def own(self, effect: Effect, size: tuple[int, int]) -> Own | None:
        """The artist's own footage in the camera's place, if there is some."""
        return self._own.get(self._session, effect.still, size) if effect.still else None

    def _picture(self, key: str) -> Still:
        return CACHE.get(("still", key), lambda: Still.read(files.asset(self._session, key).data), lambda one: one.weight)

    def _sequence(self, key: str) -> Sequence:
        return files.read_sequence(self._session, key)
