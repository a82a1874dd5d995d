"""The application: routes, the rendering process, and the built front end on the same port."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse

from sunglaze.core.effect.literals import LookupRef
from sunglaze.core.errors import GlazeError
from sunglaze.server import camera, network, previews, stream
from sunglaze.server import catalogue as catalogue_routes
from sunglaze.server import effects as effect_routes
from sunglaze.server import files as file_routes
from sunglaze.server import footage as footage_routes
from sunglaze.server.guard import Guard
from sunglaze.server.phones import Phones
from sunglaze.server.rendering.messages import Files
from sunglaze.server.rendering.supervisor import Supervisor
from sunglaze.store.database import open_database
from sunglaze.store.effects import NotThere
from sunglaze.store.files import asset
from sunglaze.store.footage import tracks

DIST = Path(__file__).parents[2] / "web" / "dist"


def create_app(folder: Path, host: str = "127.0.0.1", dist: Path = DIST) -> FastAPI:
    """The application on a data folder. `host` is where it will be bound; `dist` holds the built front end."""
    sessions = open_database(folder)

    def load_files(lookups: set[LookupRef], pictures: set[str]) -> Files:
        with sessions() as session:
            return Files(
                {ref: asset(session, ref.asset).data for ref in lookups},
                {key: asset(session, key).data for key in pictures},
                {key: tracks(session, key) for key in pictures},
            )

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        app.state.supervisor = Supervisor(load_files)
        yield
        await app.state.phones.stop()
        app.state.supervisor.shut()

    app = FastAPI(
        title="Sun Glaze",
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        separate_input_output_schemas=False,
    )
    app.state.sessions = sessions
    app.state.phones = Phones(app, folder)
    app.state.own_cameras = footage_routes.OwnCameras()
    app.add_middleware(Guard, host=host)
    app.include_router(file_routes.routes)
    app.include_router(effect_routes.routes)
    app.include_router(catalogue_routes.routes)
    app.include_router(previews.routes)
    app.include_router(camera.routes)
    app.include_router(footage_routes.routes)
    app.include_router(network.routes)
    app.include_router(stream.routes)

    @app.exception_handler(GlazeError)
    def in_plain_words(_request: Request, error: GlazeError) -> JSONResponse:
        return JSONResponse({"message": str(error)}, status_code=404 if isinstance(error, NotThere) else 422)

    @app.exception_handler(RequestValidationError)
    def invalid(_request: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"] if part not in ("body", "query", "path"))
        return JSONResponse({"message": f"{place}: {first['msg'].removeprefix('Value error, ')}"}, status_code=422)

    @app.get("/api/{path:path}", include_in_schema=False)
    def no_such_route(path: str) -> JSONResponse:
        return JSONResponse({"message": f"there is nothing at /api/{path}"}, status_code=404)

    @app.get("/{path:path}", include_in_schema=False)
    def front_end(path: str) -> Response:
        """Files of the front end; every other address is one of its views."""
        file = (dist / path).resolve()
        if path and file.is_file() and file.is_relative_to(dist.resolve()):
            fresh = {"Cache-Control": "public, max-age=31536000, immutable"} if path.startswith("assets/") else {}
            return FileResponse(file, headers=fresh)
        if not (dist / "index.html").is_file():
            return JSONResponse({"message": "the front end is not built; start with ./run demo"}, status_code=503)
        return FileResponse(dist / "index.html", headers={"Cache-Control": "no-cache"})

    return app
