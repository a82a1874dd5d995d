"""Options that several commands share. Nothing heavy is imported here: each command imports what it needs when it runs."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

In = Annotated[Path, typer.Option("--image", help="The picture to work on; the stand-in camera where not given.")]
Out = Annotated[Path, typer.Option("--out", help="Where to write; .png or .jpg.")]
Data = Annotated[Path, typer.Option(envvar="SUNGLAZE_DATA", help="Folder of the database.")]
Which = Annotated[str, typer.Argument(help="An id, or a JSON or package file.")]
"""An effect."""
