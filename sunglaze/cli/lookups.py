"""`sunglaze lut`: lookup tables are made, converted, inspected, applied, baked."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Literal

import typer

from sunglaze.cli.options import Data, In, Out, Which
from sunglaze.core.colour.layouts import LARGEST_CUBE, LAYOUTS, SMALLEST, Interpolation, Layout
from sunglaze.core.errors import BadFile

if TYPE_CHECKING:
    from sunglaze.core.colour.open_lut import OpenedLut

commands = typer.Typer(no_args_is_help=True, help="Lookup tables: make, convert, inspect, apply.")


def _open(path: Path, layout: Layout | None = None) -> OpenedLut:
    from sunglaze.core.colour.open_lut import open_lut

    try:
        return open_lut(path.read_bytes(), layout)
    except BadFile as error:
        raise BadFile(f"{path}: {error}") from None


@commands.command()
def identity(
    size: Annotated[int, typer.Option(min=SMALLEST, max=LARGEST_CUBE, help="Steps along an edge of the cube.")],
    out: Annotated[Path, typer.Option(help="A .png, or a .cube (which needs no layout).")],
    layout: Annotated[Layout | None, typer.Option(help="How the picture is laid out.")] = None,
    bits: Annotated[Literal["8", "16"], typer.Option(help="Bits a channel of the picture.")] = "16",
) -> None:
    """Write a neutral lookup, to grade in any picture editor."""
    from sunglaze.core.colour.lut import neutral
    from sunglaze.core.colour.open_lut import lut_bytes

    out.write_bytes(lut_bytes(neutral(size), out.name, layout, int(bits)))


@commands.command()
def convert(
    source: Annotated[Path, typer.Argument(metavar="IN")],
    out: Annotated[Path, typer.Argument(metavar="OUT")],
    layout: Annotated[Layout | None, typer.Option(help="Layout of the picture written.")] = None,
    read_as: Annotated[Layout | None, typer.Option(help="Layout of the picture read, where what is found is wrong.")] = None,
    size: Annotated[int | None, typer.Option(min=SMALLEST, max=LARGEST_CUBE, help="Steps to resample to.")] = None,
    bits: Annotated[Literal["8", "16"], typer.Option(help="Bits a channel of the picture.")] = "16",
) -> None:
    """Turn a lookup into another form; CLF and CDL files are read, too. Pictures hold cubes over 0 to 1, into which others are
    resampled (33 steps for curves)."""
    from sunglaze.core.colour.open_lut import lut_bytes
    from sunglaze.core.engine.grade import resampled

    table = _open(source, read_as).lut
    if size is not None:
        table = resampled(table, size)
    elif out.suffix.lower() == ".png" and not (table.is_cube and table.has_unit_domain):
        table = resampled(table, table.size if table.is_cube else 33)
    if out.suffix.lower() == ".png" and layout is None:
        layout = "strip"
    out.write_bytes(lut_bytes(table, out.name, layout, int(bits)))


@commands.command()
def inspect(
    file: Annotated[Path, typer.Argument(metavar="F")],
    as_json: Annotated[bool, typer.Option("--json", help="Machine-readable.")] = False,
    read_as: Annotated[Layout | None, typer.Option(help=f"One of {', '.join(LAYOUTS)}.")] = None,
) -> None:
    """Say what a lookup is, how far from neutral, and whether it was damaged."""
    opened = _open(file, read_as)
    facts = {"found": opened.found, "sure": opened.sure, "like": opened.like, "bits": opened.bits, **opened.inspection.as_dict()}
    if as_json:
        typer.echo(json.dumps(facts))
        return
    found = opened.inspection
    typer.echo(f"{opened.found}, {found.kind} of {found.size} steps" + ("" if opened.sure else "; layout uncertain"))
    if opened.like != "lookup":
        words = "is rather some other picture" if opened.like == "picture" else "may be some other picture"
        typer.echo(f"{words} than a lookup: {opened.likeness:.2f} of it hangs on the colour that is looked up")
    typer.echo(f"range {found.lowest:.4f} to {found.highest:.4f}")
    typer.echo(f"shift from neutral {found.mean_shift:.4f} in the mean, {found.largest_shift:.4f} at most")
    typer.echo("monotonic along grey" if found.monotonic else "not monotonic along grey")
    noise = "not measured (too few steps)" if found.noise is None else f"{found.noise:.5f}"
    stored = f", stored as {found.stored_as}" if found.stored_as else ""
    typer.echo(f"noise {noise}{stored}: " + ("damaged" if found.damaged else "lossless"))


@commands.command("apply")
def apply_command(
    table: Annotated[Path, typer.Argument(metavar="LUT")],
    image: In,
    out: Out,
    strength: Annotated[float, typer.Option(min=0, max=1, help="0 leaves the picture, 1 is the lookup.")] = 1.0,
    interpolation: Annotated[Interpolation, typer.Option(help="Between the table's entries.")] = "tetrahedral",
    read_as: Annotated[Layout | None, typer.Option(help="Layout of a lookup picture.")] = None,
) -> None:
    """Grade a picture by a lookup. 16-bit pictures stay so."""
    import numpy as np

    from sunglaze.cli.inputs import write_picture
    from sunglaze.core.engine.grade import apply_lut
    from sunglaze.core.material.files import eight_bits, read_picture

    file = read_picture(image.read_bytes())
    most = 255 if file.bits == 8 else 65535
    colour = file.pixels[:, :, :3].astype(np.float32) / np.float32(most)
    graded = apply_lut(_open(table, read_as).lut, colour, strength, interpolation)
    pixels = np.rint(np.clip(graded.astype(np.float64), 0, 1) * most).astype(file.pixels.dtype)
    if file.pixels.shape[2] == 4:
        pixels = np.concatenate([pixels, file.pixels[:, :, 3:]], axis=2)
    if file.bits == 16 and out.suffix.lower() in (".jpg", ".jpeg"):
        pixels = eight_bits(pixels)
    write_picture(pixels[:, :, :3] if out.suffix.lower() != ".png" else pixels, out)


@commands.command("bake")
def bake_command(
    effect: Which,
    out: Annotated[Path, typer.Option(help="A .cube, .clf, .png (with a layout) or .cdl.")],
    to: Annotated[str | None, typer.Option(help="Up to this layer: its id, name, or place from 1.")] = None,
    size: Annotated[int, typer.Option(min=SMALLEST, max=LARGEST_CUBE, help="Steps along an edge of the cube.")] = 33,
    layout: Annotated[Layout | None, typer.Option(help="Layout of a picture.")] = None,
    data: Data = Path(".data"),
) -> None:
    """Write the grade that an effect's layers make as one lookup; what is not about colours alone is named and left out."""
    from sunglaze.cli.inputs import effect_of
    from sunglaze.core.review.baking import FORMS, bake, written

    ending = out.suffix.lower()
    form: str | None = layout or ("strip" if ending == ".png" else next((one for one in FORMS if FORMS[one] == ending), None))
    if form is None or FORMS[form] != ending:
        raise BadFile(f"'{out.name}': a grade is written as .cube, .clf, .cdl, or as .png with a layout")
    found, material = effect_of(effect, data)
    wanted = to
    if to is not None:
        wanted = next((one.id for n, one in enumerate(found.layers, 1) if to in (one.id, one.name, str(n))), to)
    baked = bake(found, material, size, wanted)
    out.write_bytes(written(baked, form, found.name))
    typer.echo(f"{out}: {', '.join(baked.layers)}")
    for one in baked.left:
        typer.echo(f"left out: {one.name}, which {one.why}")
    loss = baked.loss
    typer.echo(
        f"lost (CIEDE2000): {loss.mean} in the mean, {loss.largest} at most; on skin {loss.skin_mean}, {loss.skin_largest}"
    )
