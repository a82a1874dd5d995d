"""Whom the application lets in where it is bound to a network: whoever has the key. Without it, what is published can be seen.

The key is made on first use and kept in the data folder. Given once with the address, or typed, it becomes a session: a cookie
that scripts cannot read and other sites cannot send. Sessions can be ended. Wrong keys are slowed down by where they come from.
"""

from __future__ import annotations

import asyncio
import hashlib
import hmac
import html
import json
import os
import secrets
import time
from collections import deque
from dataclasses import asdict, dataclass
from http.cookies import CookieError, SimpleCookie
from pathlib import Path
from urllib.parse import parse_qs, urlencode

from cachetools import LRUCache
from starlette.requests import Request
from starlette.responses import HTMLResponse, JSONResponse, RedirectResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from sunglaze.server.visitors import Visitors, open_to_all

COOKIE = "glaze"
MOST_WRONG, SECONDS = 5, 60.0
"""So many wrong keys from one address in so many seconds; then it waits."""
DAYS = 30
MOST_SESSIONS, MOST_FORM = 200, 4096
LOOKED_AT_SECONDS = 0.5
"""So often it is looked at whether the session of a stream still holds."""
_PAGE = """<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>Sun Glaze</title>
<style>
  body {{ margin: 0; min-height: 100vh; display: grid; place-items: center; background: #EFECE4; color: #23211D;
          font: 15px/1.5 "Schibsted Grotesk Variable", system-ui, sans-serif; }}
  form {{ width: min(360px, calc(100vw - 48px)); }}
  input {{ font: inherit; width: 100%; box-sizing: border-box; padding: 8px; border: 1px solid #6B6457; background: #FAF8F3; }}
  button {{ font: inherit; margin-top: 12px; padding: 8px 18px; border: 0; background: #23211D; color: #EFECE4; }}
  :focus-visible {{ outline: 2px solid #A8420D; outline-offset: 2px; }}
  p {{ color: #5A554A; }} .wrong {{ color: #7E1F1F; }} a {{ color: inherit; }}
</style>
<main>
<form method="post" action="/key">
  <h1>Sun Glaze</h1>
  <p class="{kind}" role="status">{words}</p>
  <label for="key">Key</label>
  <input id="key" name="key" type="password" autocomplete="current-password" autofocus required>
  <button>Let me in</button>
  <p><a href="/showcase">What is published</a> needs no key.</p>
</form>
</main>
</html>
"""
_ASK = "The key stands where the application was started, with its address."


@dataclass(frozen=True)
class Session:
    """Somebody who was let in: by what a session is named here, since when, and by which program."""

    name: str
    since: float
    agent: str


class Keys:
    """The key of a data folder and its sessions, both kept there for their owner alone."""

    def __init__(self, folder: Path) -> None:
        self._key, self._sessions = folder / "key.txt", folder / "sessions.json"
        self._wrong: LRUCache[str, deque[float]] = LRUCache(4096)
        if not self._key.is_file():
            _keep(self._key, secrets.token_urlsafe(24))
        known = json.loads(self._sessions.read_text()) if self._sessions.is_file() else []
        self._known = {one["name"]: Session(**one) for one in known}

    @property
    def key(self) -> str:
        """What lets somebody in."""
        return self._key.read_text().strip()

    @property
    def sessions(self) -> list[Session]:
        """Who was let in and is still, the newest first."""
        return sorted(self._known.values(), key=lambda one: -one.since)

    def waits(self, client: str) -> float:
        """Seconds for which an address gave too many wrong keys to be heard; 0 where it is heard."""
        wrong = self._wrong.get(client, deque())
        return max(0.0, SECONDS - (time.monotonic() - wrong[0])) if len(wrong) == MOST_WRONG else 0.0

    def enter(self, given: str, client: str, agent: str) -> str | None:
        """A new session for whoever gives the key; none for a wrong one, which is counted."""
        if self.waits(client) or not hmac.compare_digest(given.strip().encode(), self.key.encode()):
            self._wrong.setdefault(client, deque(maxlen=MOST_WRONG)).append(time.monotonic())
            return None
        token = secrets.token_urlsafe(32)
        made = Session(_name(token), time.time(), agent[:160])
        self._known = {one.name: one for one in [made, *self.sessions][:MOST_SESSIONS]}
        self._write()
        return token

    def known(self, token: str) -> str | None:
        """The name of a session that still holds."""
        found = self._known.get(_name(token))
        return found.name if found and time.time() - found.since < DAYS * 86400 else None

    def end(self, name: str | None) -> None:
        """End a session, or all of them."""
        self._known = {} if name is None else {key: one for key, one in self._known.items() if key != name}
        self._write()

    def _write(self) -> None:
        _keep(self._sessions, json.dumps([asdict(one) for one in self._known.values()]))


def _name(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()[:16]


def _keep(path: Path, text: str) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    beside = path.with_suffix(".new")
    with os.fdopen(os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as file:
        file.write(text)
    beside.replace(path)


class Keyed:
    """ASGI middleware: lets requests and WebSockets through that have a session, or ask for what everybody may see."""

    def __init__(self, app: ASGIApp, keys: Keys, visitors: Visitors) -> None:
        self._app, self._keys, self._visitors = app, keys, visitors

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] not in ("http", "websocket"):
            await self._app(scope, receive, send)
            return
        token = _cookie(scope)
        if session := self._keys.known(token) if token else None:
            if scope["type"] == "http" and scope["method"] == "GET" and "key" in Request(scope).query_params:
                await RedirectResponse(_without_key(Request(scope)), 303)(scope, receive, send)
                return
            scope = {**scope, "state": {**scope.get("state", {}), "session": session}}
            await self._app(scope, receive if scope["type"] == "http" else self._while_let_in(token, receive, send), send)
        elif scope["type"] == "websocket":
            await receive()
            await send({"type": "websocket.close", "code": 1008, "reason": "the key is needed"})
        elif answer := await self._entered(Request(scope, receive)):
            await answer(scope, receive, send)
        elif open_to_all(scope["method"], scope["path"], scope["query_string"]):
            await self._visitors.admit(self._app, scope, receive, send)
        elif scope["path"].startswith("/api/"):
            await JSONResponse({"message": "the key is needed; open the address with it once"}, 401)(scope, receive, send)
        else:
            await _asking(_ASK, 401)(scope, receive, send)

    def _while_let_in(self, token: str, receive: Receive, send: Send) -> Receive:
        """What comes through a WebSocket as long as its session holds; then it is closed, whatever it waits for."""
        coming: asyncio.Future[Message] | None = None

        async def received() -> Message:
            nonlocal coming
            while True:
                coming = coming or asyncio.ensure_future(receive())
                await asyncio.wait({coming}, timeout=LOOKED_AT_SECONDS)
                if not self._keys.known(token):
                    coming.cancel()
                    await send({"type": "websocket.close", "code": 1008, "reason": "the session was ended"})
                    return {"type": "websocket.disconnect", "code": 1008}
                if coming.done():
                    found, coming = coming.result(), None
                    return found

        return received

    async def _entered(self, request: Request) -> Response | None:
        """The answer to somebody who gives a key, in the address or typed; none to those who give none."""
        client, agent = (request.client.host if request.client else ""), request.headers.get("user-agent", "")
        if request.method == "POST" and request.url.path == "/key":
            body = b""
            async for part in request.stream():
                body += part
                if len(body) > MOST_FORM:
                    return _asking("That is no key.", 413)
            given, further = parse_qs(body.decode("latin-1")).get("key", [""])[0], "/"
        elif request.method == "GET" and "key" in request.query_params:
            given, further = request.query_params["key"], _without_key(request)
        else:
            return None
        if wait := self._keys.waits(client):
            return _asking(f"Too many wrong keys came from here. Try again in {wait:.0f} seconds.", 429, True)
        token = self._keys.enter(given, client, agent)
        if token is None:
            return _asking(f"This is not the key. {_ASK}", 401, True)
        answer = RedirectResponse(further, 303)
        secure = request.url.scheme == "https"
        answer.set_cookie(COOKIE, token, max_age=DAYS * 86400, httponly=True, samesite="strict", secure=secure, path="/")
        return answer


def _without_key(request: Request) -> str:
    """The address that was asked for, without the key, which is not to stay in a browser's history."""
    rest = urlencode([(name, value) for name, value in request.query_params.multi_items() if name != "key"])
    # A path that begins with two slashes would lead to another host.
    return f"/{request.url.path.lstrip('/')}" + (f"?{rest}" if rest else "")


def _asking(words: str, status: int, wrong: bool = False) -> Response:
    page = _PAGE.format(words=html.escape(words), kind="wrong" if wrong else "")
    return HTMLResponse(page, status, {"Cache-Control": "no-store"})


def _cookie(scope: Scope) -> str:
    raw = next((value.decode("latin-1") for name, value in scope["headers"] if name == b"cookie"), "")
    try:
        found = SimpleCookie(raw).get(COOKIE)
    except CookieError:
        return ""
    return found.value if found else ""
