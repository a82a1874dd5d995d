"""Bind, say where, and serve until Ctrl+C."""

from __future__ import annotations

import io
import socket
import sys
from pathlib import Path

import segno
import uvicorn
from fastapi import FastAPI

from sunglaze.core.cache import CACHE
from sunglaze.core.errors import GlazeError
from sunglaze.server.app import create_app
from sunglaze.server.guard import is_loopback
from sunglaze.server.limits import MOST_JSON_BYTES
from sunglaze.server.phones import addresses, certificate
from sunglaze.server.processes import give_memory_back

MOST_CACHED = 48 * 1024 * 1024
"""Bytes of what was decoded and drawn that the server itself keeps."""


def bound(host: str, port: int) -> socket.socket:
    """A listening socket. Raises GlazeError where the address is taken or not this machine's."""
    try:
        family = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)[0][0]
        listening = socket.socket(family, socket.SOCK_STREAM)
        listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        listening.bind((host, port))
    except OSError as error:
        raise GlazeError(f"cannot listen at {host} port {port} ({error.strerror}); try another with --port") from None
    return listening


class _Announcing(uvicorn.Server):
    """Prints the address once requests are answered."""

    def __init__(self, config: uvicorn.Config, address: str) -> None:
        super().__init__(config)
        self.address = address

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        await super().startup(sockets)
        print(f"Sun Glaze is at {self.address}", flush=True)


def serve_forever(data: Path, host: str, port: int) -> None:
    # Frames go through the loop and a thread, which would wait 5 ms each time behind a request that computes.
    sys.setswitchinterval(0.001)
    # Other processes draw.
    CACHE.room = min(CACHE.room, MOST_CACHED)
    give_memory_back()
    listening = bound(host, port)
    port = listening.getsockname()[1]
    shown = f"[{host}]" if ":" in host else ("localhost" if host == "127.0.0.1" else host)
    if is_loopback(host):
        app = create_app(data, host)
        _Announcing(configured(app), f"http://{shown}:{port}/").run(sockets=[listening])
        return
    everywhere = host in ("0.0.0.0", "::")
    reached = addresses()[0] if everywhere else shown
    app = create_app(data, host)
    # Keys and pictures of somebody's room are not sent in the clear.
    known = certificate(data, addresses() if everywhere else (*numbers_of(host), "127.0.0.1"))
    address = f"https://{reached}:{port}/?key={app.state.keys.key}"
    code = io.StringIO()
    segno.make(address, error="m").terminal(code, compact=True)
    print(f"{code.getvalue()}== Whoever has this address can see and change all effects here.", flush=True)
    print("== Browsers do not know this machine's certificate, and ask once whether to trust it. Its SHA-256 fingerprint:")
    print(f"   {known.fingerprint}", flush=True)
    _Announcing(configured(app, known.path), address).run(sockets=[listening])


def configured(app: FastAPI, secret: Path | None = None) -> uvicorn.Config:
    """How the application is served: by HTTPS where there is a file with a key and its certificate."""
    return uvicorn.Config(
        app,
        log_level="warning",
        ws_max_size=2 * MOST_JSON_BYTES,
        ws_per_message_deflate=False,  # pictures are compressed already; doing it again costs 5 ms a frame
        timeout_graceful_shutdown=2,
        ssl_certfile=str(secret) if secret else None,
    )


def numbers_of(host: str) -> tuple[str, ...]:
    """The numeric addresses of a name. Raises GlazeError where it has none."""
    try:
        return tuple(dict.fromkeys(str(one[4][0]) for one in socket.getaddrinfo(host, None, type=socket.SOCK_STREAM)))
    except OSError as error:
        raise GlazeError(f"'{host}' is no address of this machine ({error.strerror})") from None
