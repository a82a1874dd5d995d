"""`sunglaze recipe`: recipes are checked, and converted from and to MaterialX."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated

import typer

from sunglaze.core.errors import BadFile

commands = typer.Typer(no_args_is_help=True, help="Recipes: check them, and convert from and to MaterialX.")


@commands.command("check")
def check_file(
    file: Annotated[Path, typer.Argument(metavar="F")],
    as_json: Annotated[bool, typer.Option("--json", help="Machine-readable.")] = False,
) -> None:
    """Say all that is wrong with a recipe, node by node; exit code 1 where something is."""
    from sunglaze.core.effect.recipe import read_recipe
    from sunglaze.core.effect.recording import check_recipe

    faults = check_recipe(read_recipe(file.read_bytes()))
    if as_json:
        typer.echo(json.dumps([fault.model_dump() for fault in faults]))
    else:
        for fault in faults:
            typer.echo(f"{'.'.join([*fault.path, fault.node or 'recipe'])}: {fault.message}")
    if faults:
        raise typer.Exit(1)


@commands.command("convert")
def convert_recipe(
    source: Annotated[Path, typer.Argument(metavar="IN")], out: Annotated[Path, typer.Argument(metavar="OUT")]
) -> None:
    """Turn a recipe (.json) into MaterialX (.mtlx) or back; what has no counterpart is named."""
    from sunglaze.core.effect.materialx import read_materialx, write_materialx
    from sunglaze.core.effect.recipe import read_recipe, write_recipe

    endings = source.suffix.lower(), out.suffix.lower()
    if endings == (".json", ".mtlx"):
        exported = write_materialx(read_recipe(source.read_bytes()))
        text, left_out = exported.text, exported.left_out
    elif endings == (".mtlx", ".json"):
        imported = read_materialx(source.read_bytes())
        text, left_out = write_recipe(imported.recipe), imported.left_out
    else:
        raise BadFile(f"{source} to {out}: one of them should be .json, the other .mtlx")
    out.write_text(text)
    if left_out:
        typer.echo(f"left out, since the other side has no such node: {', '.join(left_out)}")
