"""Refuses requests and WebSockets that come from other sites, and foreign Host headers (DNS rebinding)."""

from __future__ import annotations

import ipaddress
import socket
from urllib.parse import urlsplit

from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Receive, Scope, Send


class Guard:
    """ASGI middleware. `host` is the address that the server binds to; where that is not this machine alone, addresses
    given as numbers and this machine's own name are taken as Host too, since no other site can borrow those."""

    def __init__(self, app: ASGIApp, host: str = "127.0.0.1") -> None:
        self.app = app
        self.names = {"localhost", "127.0.0.1", "::1", host.lower()}
        self.open = not is_loopback(host)
        if self.open:
            self.names |= {socket.gethostname().lower(), f"{socket.gethostname().lower()}.local"}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] in ("http", "websocket"):
            headers = {name.decode("latin-1"): value.decode("latin-1") for name, value in scope["headers"]}
            reason = self._refusal(headers.get("host", ""), headers.get("origin"))
            if reason:
                await self._refuse(scope, receive, send, reason)
                return
        await self.app(scope, receive, send)

    def _refusal(self, host: str, origin: str | None) -> str | None:
        name = _hostname(f"//{host}")
        if name is None or not (name in self.names or (self.open and _is_address(name))):
            return f"this server does not answer to the name '{host}'"
        if origin is not None and _netloc(origin) != host.lower():
            return f"requests from {origin} are not taken"
        return None

    @staticmethod
    async def _refuse(scope: Scope, receive: Receive, send: Send, reason: str) -> None:
        if scope["type"] == "websocket":
            await receive()
            await send({"type": "websocket.close", "code": 1008, "reason": reason[:120]})
            return
        await JSONResponse({"message": reason}, status_code=403)(scope, receive, send)


def _hostname(url: str) -> str | None:
    try:
        return urlsplit(url).hostname
    except ValueError:
        return None


def _netloc(url: str) -> str | None:
    try:
        return urlsplit(url).netloc.lower()
    except ValueError:
        return None


def _is_address(name: str) -> bool:
    try:
        ipaddress.ip_address(name)
    except ValueError:
        return False
    return True


def is_loopback(host: str) -> bool:
    """Whether an address that is bound to reaches this machine alone."""
    return host == "localhost" or (_is_address(host) and ipaddress.ip_address(host).is_loopback)
