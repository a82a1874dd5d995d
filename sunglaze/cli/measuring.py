"""`sunglaze parity` and `sunglaze realism`: whether engines agree, and whether trackers take the cast for people."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer


def parity(
    nodes: Annotated[str, typer.Option(help="all, none, or kinds parted by commas.")] = "all",
    graphs: Annotated[int, typer.Option(min=0, help="How many random graphs.")] = 200,
    meshes: Annotated[int, typer.Option(min=0, help="How many random meshes.")] = 60,
    seed: Annotated[int, typer.Option(min=0, help="Decides all that is random.")] = 1,
    on_gpu: Annotated[bool, typer.Option("--gpu/--no-gpu", help="Also in the player, in headless Chromium.")] = True,
    as_json: Annotated[bool, typer.Option("--json", help="Machine-readable.")] = False,
) -> None:
    """Compare NumPy, steps, machine code and the GPU player on nodes, random graphs and meshes; exit code 1 where one is off."""
    from sunglaze.parity.command import run as compare_all

    words, good = compare_all(nodes, graphs, meshes, seed, on_gpu, as_json)
    typer.echo(words)
    if not good:
        raise typer.Exit(1)


def realism(
    step: Annotated[int, typer.Option(min=1, help="Only every so many frames of the sample.")] = 1,
    out: Annotated[Path | None, typer.Option(help="Also write the table to this Markdown file.")] = None,
) -> None:
    """Whether the real trackers take the stand-in's cast for people: faces found, eyes, person masks, in headless Chromium."""
    from sunglaze.realism import measure

    table = measure(step, lambda words: typer.echo(words, err=True))
    typer.echo(table)
    if out:
        out.write_text(f"# The cast, as real trackers see it\n\nMade by `sunglaze realism`.\n\n{table}\n")
