"""`sunglaze export` and `sunglaze template`: what leaves as files."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from sunglaze.cli.options import Data, Which
from sunglaze.core.errors import BadFile


def export(
    effect: Which,
    out: Annotated[Path, typer.Option(help="A new folder, for any static file server.")],
    data: Data = Path(".data"),
) -> None:
    """Write an effect as a page that needs nothing of ours behind it: it runs on the GPU of whoever opens it."""
    from sunglaze.cli.inputs import DIST, effect_of
    from sunglaze.core.package.export import export_folder

    found, material = effect_of(effect, data)
    files = export_folder(found, material, out, DIST)
    typer.echo(f"{out}: {len(files)} files, {sum((out / name).stat().st_size for name in files) / 1e6:.2f} MB")


def template(out: Annotated[Path, typer.Argument(help="A .png or .svg of guides, or a .tiff with layers.")]) -> None:
    """Write the flat picture of a face, on which face paint is painted."""
    from sunglaze.core.face.template import TEMPLATES

    ending = {"tif": "tiff"}.get(found := out.suffix.lower().removeprefix("."), found)
    if ending not in TEMPLATES:
        raise BadFile(f"{out.name} should end in {', '.join(f'.{one}' for one in TEMPLATES)}")
    out.write_bytes(TEMPLATES[ending]())
