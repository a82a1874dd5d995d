"""The application: routes, the rendering process, and the built front end on the same port."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import FastAPI, Response
from fastapi.responses import FileResponse, JSONResponse

from sunglaze.server import camera, clips, network, preflight, previews, prints, proofs, publishing, stream
from sunglaze.server import catalogue as catalogue_routes
from sunglaze.server import effects as effect_routes
from sunglaze.server import files as file_routes
from sunglaze.server import shelf as shelf_routes
from sunglaze.server import tracking as tracking_routes
from sunglaze.server.counting import Counts
from sunglaze.server.cutting import Cutter
from sunglaze.server.drawing.drawer import Drawer
from sunglaze.server.guard import Guard, is_loopback
from sunglaze.server.keys import Keyed, Keys
from sunglaze.server.limits import Limits, Safety
from sunglaze.server.phones import Phones
from sunglaze.server.pictures import Pictures
from sunglaze.server.reading import Reader
from sunglaze.server.refusals import ANSWERS, install
from sunglaze.server.rendering.supervisor import Supervisor
from sunglaze.server.requests import add_bodies
from sunglaze.server.visitors import Visitors
from sunglaze.store.database import open_database, writing
from sunglaze.store.effects import NotThere
from sunglaze.store.shelf import forget_drafts

LONGEST_NAME, LONGEST_PATH = 200, 1000
DIST = Path(__file__).parents[2] / "web" / "dist"


def create_app(folder: Path, host: str = "127.0.0.1", dist: Path = DIST) -> FastAPI:
    """The application on a data folder. `host` is where it will be bound; `dist` holds the built front end."""
    sessions = open_database(folder)

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        app.state.supervisor = Supervisor(folder)
        app.state.drawer = Drawer(folder, dist)
        app.state.proofs, app.state.publishing = proofs.Proofs(), {}
        app.state.reader = Reader()
        starting = asyncio.create_task(app.state.reader.start())
        app.state.cutter = Cutter(folder, app.state.writing)
        with app.state.writing.begin() as session:
            forget_drafts(session)
        yield
        await app.state.counts.shut()
        app.state.cutter.shut()
        app.state.reader.shut()
        await starting
        app.state.drawer.shut()
        app.state.proofs.shut()
        await app.state.phones.stop()
        app.state.supervisor.shut()

    app = FastAPI(
        title="Sun Glaze",
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        separate_input_output_schemas=False,
        responses=ANSWERS,
    )
    app.state.sessions, app.state.writing = sessions, writing(sessions)
    app.state.pictures = Pictures(folder)
    app.state.counts = Counts(app.state.writing)
    visitors = Visitors()
    app.state.phones = Phones(app, folder, visitors)
    app.state.dist = dist
    # The last added is the first that a request meets.
    app.add_middleware(Limits)
    app.state.keys = None
    if not is_loopback(host):
        app.state.keys = Keys(folder)
        app.add_middleware(Keyed, keys=app.state.keys, visitors=visitors)
    app.add_middleware(Guard, host=host)
    app.add_middleware(Safety, page=dist / "index.html")
    install(app)
    app.include_router(file_routes.routes)
    app.include_router(shelf_routes.routes)
    app.include_router(clips.routes)
    app.include_router(prints.routes)
    app.include_router(effect_routes.routes)
    app.include_router(catalogue_routes.routes)
    app.include_router(previews.routes)
    app.include_router(preflight.routes)
    app.include_router(proofs.routes)
    app.include_router(publishing.routes)
    app.include_router(camera.routes)
    app.include_router(tracking_routes.routes)
    app.include_router(network.routes)
    app.include_router(network.keys_routes)
    app.include_router(stream.routes)

    @app.get("/api/{path:path}", include_in_schema=False)
    def no_such_route(path: str) -> JSONResponse:
        raise NotThere(f"there is nothing at /api/{path}")

    @app.get("/{path:path}", include_in_schema=False)
    def front_end(path: str) -> Response:
        """Files of the front end; every other address is one of its views."""
        if "\0" in path or any(len(part) > LONGEST_NAME for part in path.split("/")) or len(path) > LONGEST_PATH:
            raise NotThere("there is nothing at this address")
        file = (dist / path).resolve()
        if path and file.is_file() and file.is_relative_to(dist.resolve()):
            fresh = {"Cache-Control": "public, max-age=31536000, immutable"} if path.startswith("assets/") else {}
            return FileResponse(file, headers=fresh)
        if not (dist / "index.html").is_file():
            return JSONResponse({"message": "the front end is not built; start with ./run demo"}, status_code=503)
        return FileResponse(dist / "index.html", headers={"Cache-Control": "no-cache"})

    described = app.openapi
    app.openapi = lambda: app.openapi_schema or add_bodies(described())  # type: ignore[method-assign]
    return app
