"""Every refusal has one shape, {"message": plain words}, whoever refuses; what is a defect of ours says so and is logged."""

from __future__ import annotations

import logging
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from sqlalchemy.exc import DatabaseError
from starlette.exceptions import HTTPException

from sunglaze.core.errors import GlazeError
from sunglaze.server.drawing.messages import Busy
from sunglaze.server.schemas import Trouble
from sunglaze.store.database import disk_trouble
from sunglaze.store.effects import NotThere

_log = logging.getLogger("sunglaze")
DEFECT = "Sun Glaze itself failed here; this is a defect of the program, not of yours. Nothing was changed"
_WORDS = {404: "there is nothing at this address", 405: "this address does not take that kind of request"}
ANSWERS: dict[int | str, dict[str, Any]] = {
    code: {"model": Trouble, "description": words}
    for code, words in {
        400: "What came cannot be read.",
        403: "It came from another site, or under another name.",
        404: "It is not there.",
        405: "The address does not take that kind of request.",
        413: "It is too large.",
        422: "What came does not fit; the words say where.",
        503: "There is too much to do at the moment.",
        507: "The disk is full.",
    }.items()
}
"""What any route may answer besides what it is for, for OpenAPI."""


def install(app: FastAPI) -> None:
    """Let the application answer all that goes wrong in one shape."""

    @app.exception_handler(GlazeError)
    def in_plain_words(_request: Request, error: GlazeError) -> JSONResponse:
        status = 404 if isinstance(error, NotThere) else 503 if isinstance(error, Busy) else 422
        return _answer(str(error), status)

    @app.exception_handler(RequestValidationError)
    def invalid(_request: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"] if part not in ("body", "query", "path"))
        return _answer(f"{place}: {first['msg'].removeprefix('Value error, ')}", 422)

    @app.exception_handler(HTTPException)
    def refused(_request: Request, error: HTTPException) -> JSONResponse:
        return _answer(_WORDS.get(error.status_code, str(error.detail)), error.status_code)

    @app.exception_handler(OSError)
    @app.exception_handler(DatabaseError)
    def disk(request: Request, error: Exception) -> JSONResponse:
        trouble = disk_trouble(error)
        if trouble is None:
            return failed(request, error)
        words, passes = trouble
        return _answer(f"this cannot be kept: {words}", 503 if passes else 507)

    @app.exception_handler(Exception)
    def failed(request: Request, error: Exception) -> JSONResponse:
        _log.error("%s %s failed", request.method, request.url.path, exc_info=error)
        return _answer(f"{DEFECT} ({type(error).__name__})", 500)


def _answer(words: str, status: int) -> JSONResponse:
    # What came may hold halves of letters, which no answer can carry.
    return JSONResponse({"message": words.encode(errors="replace").decode()}, status)
