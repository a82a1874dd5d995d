"""What every request meets first: how large its body may be, by route. And what every answer tells browsers for safety."""

from __future__ import annotations

import base64
import hashlib
import re
from pathlib import Path

from starlette.datastructures import MutableHeaders
from starlette.exceptions import HTTPException
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

MEGABYTE = 1024 * 1024
MOST_FILE_BYTES = 64 * MEGABYTE
MOST_JSON_BYTES = 4 * MEGABYTE
TRACKERS = "/assets/tracking-"
_FORM_BYTES = MEGABYTE
_LIMITS: tuple[tuple[re.Pattern[str], int], ...] = (
    (re.compile(r"/api/(lookups|pictures|footage|shelf|shelf/numbered|effects/import)"), MOST_FILE_BYTES + _FORM_BYTES),
    (re.compile(r"/api/recipes/import"), MOST_JSON_BYTES + _FORM_BYTES),
    (re.compile(r"/api/footage/[^/]+/tracks/[^/]+"), 8 * MEGABYTE),
)


def limit_of(path: str) -> int:
    """Bytes that a request's body may have."""
    return next((most for pattern, most in _LIMITS if pattern.fullmatch(path)), MOST_JSON_BYTES)


class Limits:
    """ASGI middleware: a body that is too large is refused before it is read, or where it says nothing of its length, as soon as
    too much has come."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        most, come = limit_of(scope["path"]), 0
        said = next((value for name, value in scope["headers"] if name == b"content-length"), b"0")
        words = f"this is larger than {most // MEGABYTE} MB, which is the most here; make it smaller"
        if not said.isdigit() or int(said[:20]) > most:
            await JSONResponse({"message": words}, 413, headers={"Connection": "close"})(scope, receive, send)
            return

        async def counted() -> Message:
            nonlocal come
            message = await receive()
            come += len(message.get("body", b""))
            if come > most:
                raise HTTPException(413, words)
            return message

        await self.app(scope, counted, send)


class Safety:
    """ASGI middleware: headers that keep other sites from framing the pages or embedding what the server gives, and pages from
    running or fetching anything that is not the server's own. `page`: the front end's index.html, whose inline scripts are
    allowed by their hashes."""

    def __init__(self, app: ASGIApp, page: Path) -> None:
        self.app = app
        text = page.read_text() if page.is_file() else ""
        self.policy, self.trackers = _policy(text), _policy(text, "'unsafe-eval'")

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                # A worker's script brings its own policy. The trackers' is compiled with names made at run time.
                headers["Content-Security-Policy"] = self.trackers if scope["path"].startswith(TRACKERS) else self.policy
                headers["X-Content-Type-Options"] = "nosniff"
                if scope["path"].startswith(WORN):
                    # What is published may stand on anybody's page.
                    headers["Content-Security-Policy"] = self.policy.replace(ALONE, "frame-ancestors *")
                else:
                    headers["X-Frame-Options"] = "DENY"
                headers["Cross-Origin-Resource-Policy"] = "same-origin"
                headers["Cross-Origin-Opener-Policy"] = "same-origin"
                headers["Referrer-Policy"] = "no-referrer"
            await send(message)

        await self.app(scope, receive, with_headers)


WORN, ALONE = "/p/", "frame-ancestors 'none'"
_INLINE = re.compile(r"<script>(.*?)</script>", re.DOTALL)


def _policy(page: str, *more: str) -> str:
    hashes = [base64.b64encode(hashlib.sha256(script.encode()).digest()).decode() for script in _INLINE.findall(page)]
    scripts = " ".join(["'self'", "'wasm-unsafe-eval'", *more, *(f"'sha256-{one}'" for one in hashes)])
    return "; ".join(
        (
            "default-src 'self'",
            f"script-src {scripts}",
            "style-src 'self' 'unsafe-inline'",
            "img-src 'self' data: blob:",
            "media-src 'self' blob:",
            "font-src 'self' data:",
            "connect-src 'self' data: blob:",
            "worker-src 'self' blob:",
            "object-src 'none'",
            "base-uri 'none'",
            "form-action 'self'",
            ALONE,
        )
    )
