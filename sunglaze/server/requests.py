"""What routes are given: sessions on the database, and bodies. These are read on a thread, since a large one takes a moment, in
which the streams must not wait."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any, TypeVar

from anyio import CapacityLimiter, to_thread
from fastapi import Depends, Path, Request
from pydantic import BaseModel, ValidationError
from sqlalchemy.orm import Session

from sunglaze.core.errors import GlazeError, in_words

M = TypeVar("M", bound=BaseModel)
T = TypeVar("T")
MOST_AT_ONCE = 2
_reading = CapacityLimiter(MOST_AT_ONCE)
"""Bodies and files are read so many at a time: more would only take the processors from the streams."""
LARGEST_NUMBER = 2**63 - 1
RowNumber = Annotated[int, Path(ge=0, le=LARGEST_NUMBER)]


class Unreadable(GlazeError):
    """A request's body that is not what the route takes."""


def _session(request: Request) -> Session:
    made: Session = request.app.state.sessions()
    return made


def _writing(request: Request) -> Session:
    made: Session = request.app.state.writing()
    return made


Database = Annotated[Session, Depends(_session)]
"""A session for reading."""
Writing = Annotated[Session, Depends(_writing)]
"""A session that has the write lock while it is open; the route commits, before its answer leaves."""

_bodies: dict[str, type[BaseModel]] = {}


def body(model: type[BaseModel]) -> Any:
    """A dependency: the request's JSON as a model. A fault is told by its place; the route names its schema by `describes`."""
    _bodies[model.__name__] = model

    async def read(request: Request) -> BaseModel:
        data = await request.body()
        return await off_the_loop(lambda: parsed(model, data))

    return Depends(read)


def parsed(model: type[M], data: bytes | str) -> M:
    """Raises Unreadable with the place of the fault."""
    try:
        return model.model_validate_json(data)
    except ValidationError as error:
        raise Unreadable(in_words(error)) from None
    except RecursionError:
        raise Unreadable("the document is nested too deeply") from None


async def off_the_loop(work: Callable[[], T]) -> T:
    """Run reading of bodies and files on a thread, a few at a time."""
    return await to_thread.run_sync(work, limiter=_reading)


def describes(model: type[BaseModel]) -> dict[str, Any]:
    """What OpenAPI says of a route whose body is read by `body`."""
    schema = {"$ref": f"#/components/schemas/{model.__name__}"}
    return {"requestBody": {"required": True, "content": {"application/json": {"schema": schema}}}}


def add_bodies(openapi: dict[str, Any]) -> dict[str, Any]:
    """The OpenAPI description with the schemas of all bodies that `body` reads."""
    schemas = openapi["components"]["schemas"]
    for name, model in sorted(_bodies.items()):
        made = model.model_json_schema(ref_template="#/components/schemas/{model}")
        for inner, schema in made.pop("$defs", {}).items():
            schemas.setdefault(inner, schema)
        schemas.setdefault(name, made)
    return openapi
