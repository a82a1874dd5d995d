"""Visitors: whoever asks without a key, or by the phones' listener. What they may ask for, and how much of it at a time: what is
published and what it is worn with, a few pictures of the camera at once, some counts a minute."""

from __future__ import annotations

import asyncio
import re
import time
from collections import deque
from urllib.parse import parse_qsl

from cachetools import LRUCache
from starlette.requests import Request
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Receive, Scope, Send

_OPEN = re.compile(
    r"/(p/[^/]+|showcase(/[^/]+)?|icon\.svg|index\.html|assets/.+|trackers/.+|player/.+"
    r"|api/showcase(/[^/]+)?|api/packages/[^/]+/(files/.+|download)|api/camera/.+|api/cast(/.+)?)"
)
_DRAWN = ("/api/camera/", "/api/cast/faces/")
_COUNTED = re.compile(r"/api/packages/[^/]+/count/(opens|tries)")
"""All that visitors may change: how often something was looked at or tried on."""
_ASKED = {"who", "script", "light", "back", "screen", "setting", "number", "beat", "hold", "tracked"}
"""What may be asked of the stand-in; above all not footage, which is its owner's alone."""
MOST_AT_ONCE, MOST_WAITING = 4, 32
"""Pictures of the camera that are made for visitors at a time, and that wait for it: more would take the processors from who
works here."""
MOST_COUNTS, SECONDS = 30, 60.0
"""So often one address counts something in so many seconds."""
_VISITOR = "visitor"


def open_to_all(method: str, path: str, query: bytes) -> bool:
    """Whether somebody without a key may ask for this: what is published, and what it is worn with."""
    taken = _OPEN.fullmatch(path) if method in ("GET", "HEAD") else method == "POST" and _COUNTED.fullmatch(path)
    return bool(taken) and _harmless(query)


def _harmless(query: bytes) -> bool:
    """Whether a query asks for nothing but what phones ask for, each once. It is read as the application reads it."""
    names = [name for name, _ in parse_qsl(query.decode("latin-1"), keep_blank_values=True)]
    return len(set(names)) == len(names) and set(names) <= _ASKED


def is_visitor(request: Request) -> bool:
    """Whether somebody asks who has no key."""
    return bool(getattr(request.state, _VISITOR, False))


class Visitors:
    """How much all visitors together, and each of them, may ask for."""

    def __init__(self) -> None:
        self._cameras = asyncio.Semaphore(MOST_AT_ONCE)
        self._asking = 0
        self._counts: LRUCache[str, deque[float]] = LRUCache(4096)

    async def admit(self, app: ASGIApp, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass on what a visitor asks for, when its turn has come, or refuse it where too much is asked for."""
        if scope.get("state", {}).get(_VISITOR):
            # It came by the phones' listener, and waited for its turn there.
            await app(scope, receive, send)
            return
        scope = {**scope, "state": {**scope.get("state", {}), _VISITOR: True}}
        client = (scope.get("client") or ("",))[0]
        if scope["method"] == "POST" and self._counts_too_often(client):
            await _refused("this was counted often enough for a minute", 429)(scope, receive, send)
        elif not scope["path"].startswith(_DRAWN):
            await app(scope, receive, send)
        elif self._asking >= MOST_AT_ONCE + MOST_WAITING:
            await _refused("too many pictures of the camera are asked for at the moment", 503)(scope, receive, send)
        else:
            self._asking += 1
            try:
                async with self._cameras:
                    await app(scope, receive, send)
            finally:
                self._asking -= 1

    def _counts_too_often(self, client: str) -> bool:
        recent, now = self._counts.setdefault(client, deque(maxlen=MOST_COUNTS)), time.monotonic()
        if len(recent) == MOST_COUNTS and now - recent[0] < SECONDS:
            return True
        recent.append(now)
        return False


def _refused(words: str, status: int) -> JSONResponse:
    return JSONResponse({"message": f"{words}; try again in a while"}, status, {"Retry-After": "10"})
