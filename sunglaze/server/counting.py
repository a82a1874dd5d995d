"""How often what is published was opened and tried on: counted in memory and written together, once in a while."""

from __future__ import annotations

import asyncio
import contextlib
import logging
from collections import Counter

from anyio import to_thread
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session, sessionmaker

from sunglaze.store import publishing
from sunglaze.store.effects import NotThere
from sunglaze.store.publishing import Counted

SECONDS = 2.0
"""What was counted is written so long afterwards, with all that was counted meanwhile."""
_log = logging.getLogger("sunglaze")


class Counts:
    """Used on the event loop alone."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions
        self._waiting: Counter[tuple[str, Counted]] = Counter()
        self._task: asyncio.Task[None] | None = None
        self._writing = asyncio.Lock()

    def add(self, code: str, what: Counted) -> None:
        """One more."""
        self._waiting[code, what] += 1
        if self._task is None or self._task.done():
            self._task = asyncio.create_task(self._write_later())

    async def _write_later(self) -> None:
        while self._waiting:
            await asyncio.sleep(SECONDS)
            await self.write()

    async def write(self) -> None:
        """Write what was counted; what cannot be written now waits for the next time."""
        async with self._writing:
            some, self._waiting = self._waiting, Counter()
            try:
                await to_thread.run_sync(self._put, some)
            except SQLAlchemyError as error:
                _log.warning("counts were not written (%s); it is tried again", error)
                self._waiting.update(some)

    def _put(self, some: Counter[tuple[str, Counted]]) -> None:
        with self._sessions.begin() as session:
            for (code, what), times in some.items():
                # It may have been withdrawn meanwhile.
                with contextlib.suppress(NotThere):
                    publishing.count(session, code, what, times)

    async def shut(self) -> None:
        """Write what is left."""
        async with self._writing:
            if self._task is not None:
                self._task.cancel()
        if self._waiting:
            await self.write()
