"""`sunglaze serve`, and what is made for the application ahead of it."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated

import typer

from sunglaze.cli.options import Data


def serve(
    host: Annotated[
        str, typer.Option(help="Address to bind to; others than this machine's open it to the network.")
    ] = "127.0.0.1",
    port: Annotated[int, typer.Option(min=0, max=65535)] = 8765,
    data: Data = Path(".data"),
) -> None:
    """Start the application and print its address."""
    from sunglaze.core.disk_cache import keep_beside
    from sunglaze.server import processes

    # What it starts later is imported on another processor, while this one imports the application.
    keep_beside(data)
    processes.warm()
    from sunglaze.server.serving import serve_forever

    serve_forever(data, host, port)


def openapi() -> None:
    """Print the OpenAPI description, from which the browser's types are made."""
    import tempfile

    from sunglaze.server.app import create_app

    with tempfile.TemporaryDirectory() as folder:
        typer.echo(json.dumps(create_app(Path(folder)).openapi(), indent=1))
