"""Whom the guard lets in, on this machine alone and when bound to a network."""

from __future__ import annotations

import httpx
import pytest
from starlette.applications import Starlette
from starlette.responses import PlainTextResponse
from starlette.routing import Route

from sunglaze.server.guard import Guard
from tests.coroutines import finished

INNER = Starlette(routes=[Route("/", lambda request: PlainTextResponse("in"), methods=["GET", "POST"])])


@pytest.mark.parametrize(
    ("bound", "host", "origin", "status"),
    [
        ("127.0.0.1", "localhost:8765", None, 200),
        ("127.0.0.1", "127.0.0.1:8765", "http://127.0.0.1:8765", 200),
        ("127.0.0.1", "[::1]:8765", None, 200),
        ("127.0.0.1", "192.168.1.4:8765", None, 403),
        ("127.0.0.1", "rebound.example:8765", None, 403),
        ("127.0.0.1", "localhost:8765", "http://localhost:9999", 403),
        ("127.0.0.1", "localhost:8765", "null", 403),
        ("127.0.0.1", "", None, 403),
        ("0.0.0.0", "192.168.1.4:8765", "http://192.168.1.4:8765", 200),
        ("0.0.0.0", "rebound.example", None, 403),
        ("studio.local", "studio.local:8765", None, 200),
    ],
)
def test_hosts_and_origins(bound: str, host: str, origin: str | None, status: int) -> None:
    headers = {"Host": host, **({"Origin": origin} if origin else {})}

    async def ask() -> httpx.Response:
        transport = httpx.ASGITransport(Guard(INNER, bound))
        async with httpx.AsyncClient(transport=transport, base_url="http://any") as client:
            return await client.post("/", headers=headers)

    assert finished(ask()).status_code == status
